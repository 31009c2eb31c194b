"""DXF (through ezdxf): closed splines or polylines in mm, y up."""

import io
from enum import StrEnum
from typing import Any

import ezdxf
import numpy as np
from ezdxf import units

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.values import rgb_colours

# No dates and no random identifiers in the file: the same drawing always gives the same bytes.
# Segments whose points agree to this are one, mm.
_SAME_MM = 1e-4
# Polylines stay this near to their curves unless told otherwise, mm.
_NEAR_MM = 0.01
ezdxf.options.write_fixed_meta_data_for_testing = True


class Entity(StrEnum):
    """How a path is written: as an exact spline, or as a polyline within a tolerance."""

    SPLINE = "spline"
    POLYLINE = "polyline"


def write_dxf(
    layers: dict[str, Drawing], *, entity: Entity = Entity.SPLINE, tolerance_mm: float = _NEAR_MM
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
    document = _new_document()
    for name, drawing in layers.items():
        document.layers.add(name)
        for path in drawing.paths:
            _add_path(document, path, drawing.height, name, entity, tolerance_mm)
    return _bytes_of(document)


def write_coloured_dxf(drawing: Drawing) -> bytes:
    """Return a DXF R2010 file with a layer for each colour, in that colour, of exact splines.

    A border that two areas share is written once, with the area that is painted first: a machine does not follow it
    twice. What is left of the other outline is an open spline from end to end of it.

    Parameters
    ----------
    drawing : Drawing in mm (y down)
    """
    document = _new_document()
    written: set[tuple[int, ...]] = set()
    for shape in drawing.shapes:
        layer = f"colour-{shape.fill.lstrip('#').lower()}"
        if layer not in document.layers:
            red, green, blue = (round(float(value)) for value in rgb_colours((shape.fill,))[0])
            document.layers.add(layer, true_color=ezdxf.colors.rgb2int((red, green, blue)))
        for path in shape.paths:
            for part in _not_yet(path, written):
                _add_path(document, part, drawing.height, layer, Entity.SPLINE, _NEAR_MM)
    return _bytes_of(document)


def _not_yet(path: Path, written: set[tuple[int, ...]]) -> list[Path]:
    """Return what of a path is not written yet, either way round, and note it as written."""
    segments = _closed_up(path)
    if not len(segments):
        return []
    there = np.round(segments.reshape(-1, 8) / _SAME_MM).astype(np.int64)
    back = np.round(segments[:, ::-1].reshape(-1, 8) / _SAME_MM).astype(np.int64)
    keys = [min(tuple(a), tuple(b)) for a, b in zip(there.tolist(), back.tolist(), strict=True)]
    fresh = np.array([key not in written for key in keys])
    written.update(keys)
    if fresh.all():
        return [path]
    if not fresh.any():
        return []
    # From a place where a run begins; of a closed path, once around.
    first = int(np.nonzero(fresh & ~np.roll(fresh, 1))[0][0]) if path.closed else 0
    order = np.roll(np.arange(len(segments)), -first)
    runs: list[list[int]] = []
    for at, k in enumerate(order.tolist()):
        if fresh[k]:
            if at == 0 or not fresh[order[at - 1]]:
                runs.append([])
            runs[-1].append(k)
    return [Path(segments[run], closed=False) for run in runs]


def _new_document() -> Any:
    document = ezdxf.new("R2010", setup=False)
    document.units = units.MM
    document.header["$MEASUREMENT"] = 1
    return document


def _bytes_of(document: Any) -> bytes:
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _add_path(
    document: Any, path: Path, height_mm: float, layer: str, entity: Entity, tolerance_mm: float
) -> None:
    if not len(path.segments):
        return
    space = document.modelspace()
    if entity is Entity.POLYLINE or bezier.is_straight(path.segments, tolerance=1e-6).all():
        points = _turned(bezier.flatten(path.segments, tolerance=tolerance_mm), height_mm)
        if path.closed and len(points) > 1 and np.allclose(points[0], points[-1], atol=1e-9):
            points = points[:-1]
        space.add_lwpolyline(points.tolist(), close=path.closed, dxfattribs={"layer": layer})
    else:
        _add_spline(space, path, height_mm, layer)


def _turned(points: np.ndarray, height_mm: float) -> np.ndarray:
    return np.stack([points[:, 0], height_mm - points[:, 1]], axis=1)


def _closed_up(path: Path) -> np.ndarray:
    """Return a path's segments with the line back to its start, if it is closed by one."""
    if not (path.closed and path.end_gap > 1e-9):
        return path.segments
    back = bezier.line_segments(np.array([path.segments[-1, 3], path.segments[0, 0]]))
    return np.concatenate([path.segments, back])


def _add_spline(space: Any, path: Path, height_mm: float, layer: str) -> None:
    segments = _closed_up(path)
    control = np.concatenate([segments[:1, 0], segments[:, 1:].reshape(-1, 2)])
    if path.closed:
        control[-1] = control[0]
    knots = np.concatenate([[0.0], np.repeat(np.arange(len(segments) + 1.0), 3), [len(segments)]])
    spline = space.add_spline(dxfattribs={"layer": layer})
    spline.dxf.degree = 3
    turned = _turned(control, height_mm)
    spline.control_points = [(x, y, 0.0) for x, y in turned.tolist()]
    spline.knots = knots.tolist()
    spline.closed = path.closed
