"""Mends: operations that repair a drawing and leave everything else as it was."""

from dataclasses import replace

from zeichen.core.errors import ConflictError
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.placement import Scale
from zeichen.core.proofing.yardstick import Yardstick


def delete_shapes(drawing: Drawing, shape_ids: list[str]) -> Drawing:
    """Return the drawing less some shapes; ConflictError if none would be left."""
    left = drawing.without(shape_ids)
    if not left.shapes:
        raise ConflictError("That would delete the last shape of the drawing. Keep at least one.")
    return left


def drop_specks(drawing: Drawing, yardstick: Yardstick) -> Drawing:
    """Return the drawing less every shape and every pin hole smaller than the yardstick's speck area."""
    scale = Scale.from_width(drawing, width_mm=yardstick.finished_width_mm(drawing))
    least_px2 = yardstick.limits.speck_mm2 / scale.mm_per_px**2
    kept = []
    for shape in drawing.shapes:
        if shape.stroke_width is not None or any(not path.closed for path in shape.paths):
            kept.append(shape)
            continue
        paths = tuple(path for path in shape.paths if abs(path.area) >= least_px2)
        if paths:
            kept.append(replace(shape, paths=paths))
    if not kept:
        raise ConflictError(
            "Every shape of the drawing is smaller than a speck at this size. Make the finished "
            "width larger, or the speck area smaller."
        )
    return replace(drawing, shapes=tuple(kept))
