"""Moving, turning, copying, ordering and lining up shapes."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from zeichen.core.errors import ConflictError, InvalidInputError
from zeichen.core.geometry.drawing import Drawing, Shape
from zeichen.core.values import FloatArray

ALIGNMENTS = ("left", "centre", "right", "top", "middle", "bottom")
PLACES = ("front", "up", "down", "back")


def chosen(drawing: Drawing, ids: Iterable[str]) -> list[Shape]:
    """Return the shapes of some ids in painting order.

    Raises
    ------
    NotFoundError
        If an id is unknown.
    ConflictError
        If one of them is locked.
    InvalidInputError
        If there is none.
    """
    wanted = set(ids)
    found = [drawing.shape(name) for name in sorted(wanted)]
    if not found:
        raise InvalidInputError("Choose at least one shape first.")
    locked = [shape.id for shape in found if shape.locked]
    if locked:
        raise ConflictError(f"{locked[0]} is locked. Unlock it first.")
    return [shape for shape in drawing.shapes if shape.id in wanted]


def fresh_id(drawing: Drawing, stem: str) -> str:
    """Return an id that no shape has yet."""
    taken = {shape.id for shape in drawing.shapes}
    number = 1
    while f"{stem}{number}" in taken:
        number += 1
    return f"{stem}{number}"


def with_shapes(drawing: Drawing, changed: Iterable[Shape]) -> Drawing:
    """Return the drawing with shapes replaced by those of the same id; ones without paths are gone."""
    new = {shape.id: shape for shape in changed}
    shapes = tuple(new.get(shape.id, shape) for shape in drawing.shapes)
    left = tuple(shape for shape in shapes if shape.paths)
    if not left:
        raise ConflictError("That would leave nothing of the drawing. Keep at least one shape.")
    return replace(drawing, shapes=left)


def transformed(drawing: Drawing, ids: Iterable[str], matrix: tuple[float, ...]) -> Drawing:
    """Return the drawing with shapes changed by an affine matrix (a, b, c, d, e, f), as SVG writes it.

    Outlines that a mirroring turned over are turned back, so that areas stay positive; pens scale by the
    root of the area's change.

    Raises
    ------
    InvalidInputError
        If the matrix is not six finite numbers or leaves no area.
    """
    values = np.asarray(matrix, dtype=np.float64)
    if values.shape != (6,) or not np.isfinite(values).all():
        raise InvalidInputError("A change of place needs six finite numbers.")
    a, b, c, d, e, f = values.tolist()
    turn = a * d - b * c
    if abs(turn) < 1e-9:
        raise InvalidInputError("That would squash the shapes flat. Scale by more than 0 %.")
    linear, shift = np.array([[a, b], [c, d]]), np.array([e, f])

    def change(points: FloatArray) -> FloatArray:
        return np.asarray(points @ linear + shift)

    out = []
    for shape in chosen(drawing, ids):
        paths = tuple(path.moved(change) for path in shape.paths)
        if turn < 0:
            paths = tuple(replace(path, segments=path.segments[::-1, ::-1]) for path in paths)
        pen = None if shape.stroke_width is None else shape.stroke_width * abs(turn) ** 0.5
        out.append(replace(shape, paths=paths, stroke_width=pen, letters=""))
    return with_shapes(drawing, out)


def duplicated(drawing: Drawing, ids: Iterable[str], *, dx: float, dy: float) -> Drawing:
    """Return the drawing with copies of shapes on top, moved by some units."""
    out = drawing
    names = []
    for shape in chosen(drawing, ids):
        name = fresh_id(out, f"{shape.id[:40]}-")
        names.append(name)
        out = replace(out, shapes=(*out.shapes, replace(shape, id=name)))
    return transformed(out, names, (1.0, 0.0, 0.0, 1.0, dx, dy))


def ordered(drawing: Drawing, ids: Iterable[str], place: str) -> Drawing:
    """Return the drawing with shapes painted later ("front", "up") or earlier ("back", "down")."""
    if place not in PLACES:
        raise InvalidInputError(f"Shapes go to the {', '.join(PLACES)}; got {place}.")
    moving = {shape.id for shape in chosen(drawing, ids)}
    shapes = list(drawing.shapes)
    if place in ("front", "back"):
        still = [shape for shape in shapes if shape.id not in moving]
        gone = [shape for shape in shapes if shape.id in moving]
        return replace(drawing, shapes=tuple(still + gone if place == "front" else gone + still))
    indexes = range(len(shapes) - 2, -1, -1) if place == "up" else range(1, len(shapes))
    step = 1 if place == "up" else -1
    for k in indexes:
        if shapes[k].id in moving and shapes[k + step].id not in moving:
            shapes[k], shapes[k + step] = shapes[k + step], shapes[k]
    return replace(drawing, shapes=tuple(shapes))


def aligned(drawing: Drawing, ids: Iterable[str], to: str) -> Drawing:
    """Return the drawing with shapes lined up with each other; one alone with the whole figure."""
    if to not in ALIGNMENTS:
        raise InvalidInputError(f"Shapes are aligned {', '.join(ALIGNMENTS)}; got {to}.")
    shapes = chosen(drawing, ids)
    boxes = np.array([shape.bounds() for shape in shapes])
    frame = np.array(drawing.bounds()) if len(shapes) == 1 else _hull(boxes)
    axis = 0 if to in ("left", "centre", "right") else 1
    share = {"left": 0.0, "centre": 0.5, "right": 1.0, "top": 0.0, "middle": 0.5, "bottom": 1.0}[to]
    goal = frame[axis] + share * (frame[axis + 2] - frame[axis])
    out = drawing
    for shape, box in zip(shapes, boxes, strict=True):
        way = goal - (box[axis] + share * (box[axis + 2] - box[axis]))
        shift = (way, 0.0) if axis == 0 else (0.0, way)
        out = transformed(out, [shape.id], (1.0, 0.0, 0.0, 1.0, *shift))
    return out


def distributed(drawing: Drawing, ids: Iterable[str], along: str) -> Drawing:
    """Return the drawing with equal gaps between shapes "across" or "down"; the outermost stay."""
    if along not in ("across", "down"):
        raise InvalidInputError(f"Shapes are distributed across or down; got {along}.")
    axis = 0 if along == "across" else 1
    shapes = sorted(chosen(drawing, ids), key=lambda shape: shape.bounds()[axis])
    if len(shapes) < 3:
        raise InvalidInputError("Choose at least three shapes to distribute.")
    boxes = np.array([shape.bounds() for shape in shapes])
    sizes = boxes[:, axis + 2] - boxes[:, axis]
    room = boxes[:, axis + 2].max() - boxes[0, axis] - sizes.sum()
    gap = room / (len(shapes) - 1)
    out, at = drawing, boxes[0, axis]
    for shape, box, size in zip(shapes, boxes, sizes, strict=True):
        way = float(at - box[axis])
        shift = (way, 0.0) if axis == 0 else (0.0, way)
        out = transformed(out, [shape.id], (1.0, 0.0, 0.0, 1.0, *shift))
        at += size + gap
    return out


def marked(
    drawing: Drawing,
    ids: Iterable[str],
    *,
    group: str | None = None,
    locked: bool | None = None,
    hidden: bool | None = None,
) -> Drawing:
    """Return the drawing with shapes grouped ('' takes them apart), locked or hidden, or not."""
    out = []
    for name in sorted(set(ids)):
        shape = drawing.shape(name)
        out.append(
            replace(
                shape,
                group=shape.group if group is None else group,
                locked=shape.locked if locked is None else locked,
                hidden=shape.hidden if hidden is None else hidden,
            )
        )
    changed = with_shapes(drawing, out)
    if all(shape.hidden for shape in changed.shapes):
        raise ConflictError("That would hide everything. Keep at least one shape in sight.")
    return changed


def _hull(boxes: FloatArray) -> FloatArray:
    return np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])
