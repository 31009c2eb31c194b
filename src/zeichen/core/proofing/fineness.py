"""What is finer than it need be or than a tool can follow: nodes, inside corners, small letters."""

import math

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.proofing.kinds import Bench, Kind
from zeichen.core.values import AnyArray, FloatArray

# Nodes closer together than this on average, and that many of them, are more than curves need (our own rule).
_NODES_PER_MM = 3.0
_MANY_NODES = 100
_SHARP_DEG = 20.0
# Letters: so many small pieces of about one height in a row, no higher than this.
_LETTERS = 4
_LETTER_MM = 4.0


def check_nodes(bench: Bench, drawing: Drawing) -> None:
    """Report shapes with far more nodes than their outline is long."""
    for shape in drawing.shapes:
        count = shape.node_count
        if count < _MANY_NODES:
            continue
        length_mm = bench.scale.to_mm(
            float(sum(bezier.arc_lengths(path.segments).sum() for path in shape.paths))
        )
        if count > _NODES_PER_MM * length_mm:
            x, y = shape.paths[0].segments[0, 0]
            bench.add(
                Kind.NODES, x, y, measured=count, limit=math.floor(_NODES_PER_MM * length_mm), unit="nodes",
                shape=shape.id,
            )  # fmt: skip


def check_corners(bench: Bench, drawing: Drawing, radius_mm: float) -> None:
    """Report corners inside an area that a round tool of some radius cannot reach."""
    for shape in drawing.shapes:
        if shape.stroke_width is not None:
            continue
        for path in shape.paths:
            if not path.closed or len(path.segments) < 2:
                continue
            for k in sharp_corners(path, inside=True):
                x, y = path.segments[k, 0]
                bench.add(
                    Kind.TIGHT_CORNER, x, y, measured=0.0, limit=radius_mm, unit="mm", shape=shape.id
                )  # fmt: skip


def sharp_corners(path: Path, *, inside: bool) -> AnyArray:
    """Return the segments that start at a sharp corner which a tool inside (or outside) the area cannot reach.

    Outer paths run clockwise on screen and holes the other way, so the area lies on one side of both.
    """
    segments = path.segments
    going, end = bezier.end_directions(segments)
    coming = np.roll(end, 1, axis=0)
    turn = np.degrees(
        np.arctan2(coming[:, 0] * going[:, 1] - coming[:, 1] * going[:, 0], (coming * going).sum(axis=1))
    )
    return np.nonzero(turn > _SHARP_DEG if inside else turn < -_SHARP_DEG)[0]


def check_lettering(bench: Bench, drawing: Drawing) -> None:
    """Report rows of small pieces of one height, which are likely letters."""
    boxes: list[tuple[float, float, float, float]] = []
    owner: list[Shape] = []
    most = _LETTER_MM / bench.scale.mm_per_px
    for shape in drawing.shapes:
        for path in shape.paths:
            if not path.closed or path.area <= 0 or len(path.segments) < 2:
                continue
            box = bezier.bounds(path.segments)
            if max(box[2] - box[0], box[3] - box[1]) <= most:
                boxes.append(box)
                owner.append(shape)
    if len(boxes) < _LETTERS:
        return
    table = np.array(boxes)
    for row in _rows(table):
        held = table[row]
        height_mm = bench.scale.to_mm(float(np.median(held[:, 3] - held[:, 1])))
        x, y = (float(v) for v in (held[:, :2].mean(axis=0) + held[:, 2:].mean(axis=0)) / 2)
        bench.add(
            Kind.LETTERING, x, y, measured=height_mm, limit=_LETTER_MM, unit="mm", shape=owner[row[0]].id,
            sure=False,
        )  # fmt: skip


def _rows(boxes: FloatArray) -> list[list[int]]:
    """Return runs of boxes side by side: of one height, on one line, no further apart than they are high."""
    height = boxes[:, 3] - boxes[:, 1]
    width = boxes[:, 2] - boxes[:, 0]
    order = np.argsort(boxes[:, 0]).tolist()
    free = set(order)
    rows = []
    for start in order:
        if start not in free:
            continue
        row = [start]
        for k in order:
            last = row[-1]
            if k not in free or k == start or boxes[k, 0] <= boxes[last, 0]:
                continue
            level = min(abs(boxes[k, 3] - boxes[last, 3]), abs(boxes[k, 1] - boxes[last, 1]))
            tall = max(height[k], height[last])
            alike = 0.55 <= height[k] / max(height[last], 1e-9) <= 1.8
            gap = boxes[k, 0] - boxes[last, 2]
            if alike and level < 0.25 * tall and -0.1 * tall < gap < 0.9 * tall:
                row.append(k)
        # Dots in a row are an ornament: letters differ in their widths.
        if len(row) >= _LETTERS and float(np.std(width[row])) > 0.08 * float(np.mean(width[row])):
            free -= set(row)
            rows.append(row)
    return rows
