"""Binary STL: a solid as triangles, mm."""

import numpy as np

from zeichen.core.geometry.mesh import Mesh

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(mesh: Mesh, *, title: str) -> bytes:
    """Return a binary STL file. The format keeps 32-bit floats: about 0.00001 mm at 100 mm."""
    corners = mesh.vertices_mm[mesh.triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normal, axis=1, keepdims=True)
    records = np.zeros(len(corners), dtype=_RECORD)
    records["normal"] = normal / np.where(size > 0, size, 1)
    records["corners"] = corners
    # A header that starts with "solid" would be taken for the text form of the format.
    header = f"Zeichen {title}".encode("ascii", "replace")[:80].ljust(80)
    return header + np.uint32(len(records)).tobytes() + records.tobytes()
