"""DXF (through ezdxf): closed splines or polylines in mm, y up."""

import io
from enum import StrEnum

import ezdxf
import numpy as np
from ezdxf import units

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path

# No dates and no random identifiers in the file: the same drawing always gives the same bytes.
ezdxf.options.write_fixed_meta_data_for_testing = True


class Entity(StrEnum):
    """How a path is written: as an exact spline, or as a polyline within a tolerance."""

    SPLINE = "spline"
    POLYLINE = "polyline"


def write_dxf(
    layers: dict[str, Drawing], *, entity: Entity = Entity.SPLINE, tolerance_mm: float = 0.01
) -> bytes:
    """Return a DXF R2010 file.

    Parameters
    ----------
    layers : name to Drawing in mm (y down)
        All on the same frame; the file's y runs up from the frame's lower edge.
    entity : Entity
        A cubic Bézier run is a B-spline of degree 3 with triple inner knots, so splines are exact.
    tolerance_mm : float, mm
        For polylines: largest distance from the curve.
    """
    document = ezdxf.new("R2010", setup=False)
    document.units = units.MM
    document.header["$MEASUREMENT"] = 1
    space = document.modelspace()
    for name, drawing in layers.items():
        document.layers.add(name)
        for path in drawing.paths:
            if not len(path.segments):
                continue
            if entity is Entity.POLYLINE or bezier.is_straight(path.segments, tolerance=1e-6).all():
                points = _turned(bezier.flatten(path.segments, tolerance=tolerance_mm), drawing.height)
                if path.closed and len(points) > 1 and np.allclose(points[0], points[-1], atol=1e-9):
                    points = points[:-1]
                space.add_lwpolyline(points.tolist(), close=path.closed, dxfattribs={"layer": name})
            else:
                _add_spline(space, path, drawing.height, name)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _turned(points: np.ndarray, height_mm: float) -> np.ndarray:
    return np.stack([points[:, 0], height_mm - points[:, 1]], axis=1)


def _add_spline(space: object, path: Path, height_mm: float, layer: str) -> None:
    segments = path.segments
    if path.closed and path.end_gap > 1e-9:
        back = bezier.line_segments(np.array([segments[-1, 3], segments[0, 0]]))
        segments = np.concatenate([segments, back])
    control = np.concatenate([segments[:1, 0], segments[:, 1:].reshape(-1, 2)])
    if path.closed:
        control[-1] = control[0]
    knots = np.concatenate([[0.0], np.repeat(np.arange(len(segments) + 1.0), 3), [len(segments)]])
    spline = space.add_spline(dxfattribs={"layer": layer})  # type: ignore[attr-defined]
    spline.dxf.degree = 3
    turned = _turned(control, height_mm)
    spline.control_points = [(x, y, 0.0) for x, y in turned.tolist()]
    spline.knots = knots.tolist()
    spline.closed = path.closed
