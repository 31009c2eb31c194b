"""Making shapes of shapes: joined, subtracted, intersected, split, grown, outlined, patched; and new ones."""

import math
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from zeichen.core.editing.arranging import chosen, fresh_id, with_shapes
from zeichen.core.errors import ConflictError, InvalidInputError
from zeichen.core.fitting.simplify import simplified_path
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.offsetting import offset, pen_area
from zeichen.core.geometry.overlay import Overlay, Region, intersected, subtracted, united, untangled
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.values import FloatArray, require_number, require_palette

COMBINATIONS = ("join", "subtract", "intersect", "split")
PATCHES = ("join", "cut", "recolour")
FORMS = ("box", "ellipse", "polygon", "star")
_LEAST_SHARE = 1e-5


def combined(drawing: Drawing, ids: Iterable[str], how: str) -> Drawing:
    """Return the drawing with shapes joined, the upper ones subtracted from the lowest, intersected, or split
    along each other's borders. The result takes the place and colour of the lowest (split: each part those of
    the uppermost shape that holds it).

    Raises
    ------
    InvalidInputError
        If there are fewer than two, or one is a drawn line.
    ConflictError
        If nothing would be left.
    """
    if how not in COMBINATIONS:
        raise InvalidInputError(f"Shapes can be put together by {', '.join(COMBINATIONS)}; got {how}.")
    shapes = chosen(drawing, ids)
    if len(shapes) < 2:
        raise InvalidInputError("Choose at least two shapes to put together.")
    if any(shape.stroke_width is not None for shape in shapes):
        raise InvalidInputError("A drawn line has no area. Outline its stroke first.")
    regions = [Region.of(shape) for shape in shapes]
    if how == "split":
        return _split(drawing, shapes, regions)
    if how == "join":
        paths = united(regions)
    elif how == "subtract":
        paths = subtracted(regions[0], *regions[1:])
    else:
        paths = intersected(regions)
    if not paths:
        raise ConflictError("Nothing would be left of these shapes.")
    gone = {shape.id for shape in shapes[1:]}
    left = replace(drawing, shapes=tuple(shape for shape in drawing.shapes if shape.id not in gone))
    return with_shapes(left, [_made(shapes[0], paths)])


def _split(drawing: Drawing, shapes: list[Shape], regions: list[Region]) -> Drawing:
    overlay = Overlay(regions)
    powers = 1 << np.arange(len(regions))
    kinds = overlay.inside @ powers
    out: list[Shape] = []
    taken = {shape.id for shape in drawing.shapes}
    for kind in np.unique(kinds[kinds > 0]).tolist():
        paths = overlay.outline(kinds == kind)
        if not paths:
            continue
        top = shapes[max(k for k in range(len(shapes)) if kind >> k & 1)]
        name, number = top.id, 1
        while name in taken and any(shape.id == name for shape in out):
            number += 1
            name = f"{top.id[:40]}-{number}"
        out.append(replace(_made(top, paths), id=name))
    at = next(k for k, shape in enumerate(drawing.shapes) if shape.id == shapes[0].id)
    gone = {shape.id for shape in shapes}
    below = [shape for shape in drawing.shapes[:at] if shape.id not in gone]
    above = [shape for shape in drawing.shapes[at:] if shape.id not in gone]
    return replace(drawing, shapes=(*below, *out, *above))


def outlined(drawing: Drawing, ids: Iterable[str], *, tolerance: float) -> Drawing:
    """Return the drawing with drawn lines turned into the areas their pen covers."""
    shapes = chosen(drawing, ids)
    lines = [shape for shape in shapes if shape.stroke_width is not None]
    if not lines:
        raise InvalidInputError("None of these shapes is a drawn line.")
    out = []
    for shape in lines:
        paths = pen_area(shape, tolerance=tolerance)
        out.append(replace(_made(shape, paths), stroke_width=None))
    return with_shapes(drawing, out)


def grown(drawing: Drawing, ids: Iterable[str], distance: float, *, join: str, tolerance: float) -> Drawing:
    """Return the drawing with shapes grown (below 0: shrunk) by a distance; ConflictError if one would vanish."""
    out = []
    for shape in chosen(drawing, ids):
        if shape.stroke_width is not None:
            out.append(replace(shape, stroke_width=max(1e-6, shape.stroke_width + 2 * distance)))
            continue
        paths = offset(Region.of(shape), distance, join=join, tolerance=tolerance)
        if not paths:
            raise ConflictError(f"Nothing would be left of {shape.id}. Shrink it by less.")
        out.append(_made(shape, paths))
    return with_shapes(drawing, out)


def patched(
    drawing: Drawing, points: FloatArray, how: str, *, fill: str, ids: Iterable[str] = (), tolerance: float
) -> Drawing:
    """Return the drawing with a freehand area joined to a shape, cut out of what it covers, or given a colour.

    Parameters
    ----------
    points : (n, 2) float array, n >= 3
        The closed line as it was drawn; it is smoothed.
    how : "join", "cut" or "recolour"
    fill : colour
        Of what is joined or recoloured.
    ids : str
        Only these shapes; all that are not locked if there are none.

    Raises
    ------
    InvalidInputError
        If the line encloses nothing, or the colour is none.
    ConflictError
        If everything would be cut away.
    """
    if how not in PATCHES:
        raise InvalidInputError(f"A patch can {', '.join(PATCHES)}; got {how}.")
    require_palette([fill], most=1)
    area = Region(_freehand(points, tolerance), "evenodd")
    if not area.paths:
        raise InvalidInputError("The line encloses nothing. Draw around an area.")
    only = set(ids)
    touched = [
        shape
        for shape in drawing.shapes
        if not shape.locked
        and not shape.hidden
        and shape.stroke_width is None
        and (not only or shape.id in only)
    ]
    if how == "join":
        alike = [
            shape
            for shape in touched
            if shape.fill.lower() == fill.lower() and _touches(shape, area, tolerance)
        ]
        if not alike:
            made = Shape(fresh_id(drawing, "patch"), area.paths, fill.lower())
            return replace(drawing, shapes=(*drawing.shapes, made))
        top = alike[-1]
        return with_shapes(drawing, [_made(top, united([Region.of(top), area]))])
    under = [shape for shape in touched if _meets(shape, area)]
    if not under:
        raise InvalidInputError("The patch covers no shape that can be changed.")
    cut = {shape.id: _made(shape, subtracted(Region.of(shape), area)) for shape in under}
    if how == "cut":
        return with_shapes(drawing, cut.values())
    covered = intersected([Region(united([Region.of(shape) for shape in under])), area])
    top_id = under[-1].id
    made = Shape(fresh_id(drawing, "patch"), covered, fill.lower())
    shapes: list[Shape] = []
    for shape in drawing.shapes:
        kept = cut.get(shape.id, shape)
        if kept.paths:
            shapes.append(kept)
        if shape.id == top_id:
            shapes.append(made)
    return replace(drawing, shapes=tuple(shapes))


def _freehand(points: FloatArray, tolerance: float) -> tuple[Path, ...]:
    points = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if not np.isfinite(points).all():
        raise InvalidInputError("The line holds a place that is not a finite number.")
    keep = np.concatenate([[True], np.abs(np.diff(points, axis=0)).max(axis=1, initial=0) > 1e-9])
    points = points[keep]
    if len(points) < 3:
        return ()
    line = bezier.line_segments(np.vstack([points, points[:1]]))
    smooth = simplified_path(Path(line), tolerance=4.0 * tolerance)
    return untangled(Region((smooth,), "nonzero"))


def _meets(shape: Shape, area: Region) -> bool:
    a, b = shape.bounds(), Shape("area", area.paths).bounds()
    if a[0] > b[2] or b[0] > a[2] or a[1] > b[3] or b[1] > a[3]:
        return False
    shared = sum(path.area for path in intersected([Region.of(shape), area]))
    return shared > _LEAST_SHARE * sum(path.area for path in area.paths)


def _touches(shape: Shape, area: Region, tolerance: float) -> bool:
    one = shape_area(shape, tolerance=tolerance)
    other = shape_area(Shape("area", area.paths), tolerance=tolerance)
    return bool(one.distance(other) <= 4.0 * tolerance)


def new_form(
    drawing: Drawing, form: str, box: tuple[float, float, float, float], *, sides: int, fill: str
) -> Drawing:
    """Return the drawing with a box, an ellipse, a regular polygon or a star on top.

    Parameters
    ----------
    box : x, y, width, height
    sides : int
        Of a polygon, or points of a star, 3 to 60.
    """
    if form not in FORMS:
        raise InvalidInputError(f"There is no form {form}. Known are: {', '.join(FORMS)}.")
    x, y, width, height = box
    require_number(width, "Width", above=0)
    require_number(height, "Height", above=0)
    require_number(x + y, "Place")
    require_palette([fill], most=1)
    middle, half = np.array([x + width / 2, y + height / 2]), np.array([width / 2, height / 2])
    if form == "ellipse":
        segments = bezier.ellipse_segments(
            (float(middle[0]), float(middle[1])), radius_x=width / 2, radius_y=height / 2
        )
    else:
        segments = bezier.line_segments(_corners(form, sides) * half + middle)
    made = Shape(fresh_id(drawing, form), (Path(segments),), fill.lower())
    return replace(drawing, shapes=(*drawing.shapes, made))


def _corners(form: str, sides: int) -> FloatArray:
    if form == "box":
        return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1], [-1, -1]], dtype=np.float64)
    require_number(sides, "Number of sides", least=3, most=60)
    count = sides if form == "polygon" else 2 * sides
    angle = -math.pi / 2 + 2 * math.pi * np.arange(count + 1) / count
    radius = np.ones(count + 1)
    if form == "star":
        radius[1::2] = 0.5
    points = radius[:, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    points[-1] = points[0]
    return np.asarray(points)


def _made(shape: Shape, paths: tuple[Path, ...]) -> Shape:
    return replace(shape, paths=paths, fill_rule="evenodd", letters="")
