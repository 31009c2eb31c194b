"""Solids as triangle meshes. Machine frame: x right, y up, z away from the bed, mm."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zeichen.core.values import FloatArray


@dataclass(frozen=True, slots=True)
class Mesh:
    """Vertices (n, 3) in mm and triangles (m, 3) wound counter-clockwise seen from outside."""

    vertices_mm: FloatArray
    triangles: NDArray[np.int64]

    @property
    def volume_mm3(self) -> float:
        """Enclosed volume by the divergence theorem."""
        a, b, c = (self.vertices_mm[self.triangles[:, k]] for k in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


@dataclass(frozen=True, slots=True)
class Part:
    """One solid of one colour."""

    name: str
    colour: str
    mesh: Mesh
