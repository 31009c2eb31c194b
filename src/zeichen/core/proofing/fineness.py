"""What is finer than it need be or than a tool can follow: nodes, inside corners, small letters."""

import math

import numpy as np

from zeichen.core.geometry.drawing import Shape
from zeichen.core.proofing.facts import ShapeFacts
from zeichen.core.proofing.kinds import Bench, Kind
from zeichen.core.proofing.narrow import TrailPoint
from zeichen.core.values import FloatArray

# Nodes closer together than this on average, and that many of them, are more than curves need (our own rule).
_NODES_PER_MM = 3.0
_MANY_NODES = 100
# Letters: so many small pieces of about one height in a row, no higher than this.
_LETTERS = 4
_LETTER_MM = 4.0


def check_nodes(bench: Bench, shapes: list[ShapeFacts]) -> None:
    """Report shapes with far more nodes than their outline is long."""
    for each in shapes:
        count = each.shape.node_count
        if count < _MANY_NODES:
            continue
        length_mm = bench.scale.to_mm(sum(facts.length for facts in each.paths))
        if count > _NODES_PER_MM * length_mm:
            x, y = each.shape.paths[0].segments[0, 0]
            bench.add(
                Kind.NODES, x, y, measured=count, limit=math.floor(_NODES_PER_MM * length_mm), unit="nodes",
                shape=each.shape.id,
            )  # fmt: skip


def check_corners(bench: Bench, shapes: list[ShapeFacts], radius_mm: float) -> None:
    """Report corners inside an area that a round tool of some radius cannot reach."""
    for each in shapes:
        if each.shape.stroke_width is not None:
            continue
        for facts in each.paths:
            if not facts.path.closed or len(facts.path.segments) < 2:
                continue
            for k in facts.inside_corners:
                x, y = facts.path.segments[k, 0]
                bench.add(
                    Kind.TIGHT_CORNER, x, y, measured=0.0, limit=radius_mm, unit="mm", shape=each.shape.id
                )  # fmt: skip


def check_lettering(bench: Bench, shapes: list[ShapeFacts]) -> None:
    """Report rows of small pieces of one height, which are likely letters."""
    boxes: list[tuple[float, float, float, float]] = []
    owner: list[Shape] = []
    most = _LETTER_MM / bench.scale.mm_per_px
    for each in shapes:
        for facts in each.paths:
            if not facts.path.closed or len(facts.path.segments) < 2 or facts.area <= 0:
                continue
            box = facts.box
            if max(box[2] - box[0], box[3] - box[1]) <= most:
                boxes.append(box)
                owner.append(each.shape)
    if len(boxes) < _LETTERS:
        return
    table = np.array(boxes)
    for row in _rows(table):
        held = table[row]
        height_mm = bench.scale.to_mm(float(np.median(held[:, 3] - held[:, 1])))
        low, high = held[:, :2].min(axis=0), held[:, 2:].max(axis=0)
        x, y = (float(v) for v in (low + high) / 2)
        corners = tuple(TrailPoint(float(at[0]), float(at[1]), 0.0) for at in (low, high))
        bench.add(
            Kind.LETTERING, x, y, measured=height_mm, limit=_LETTER_MM, unit="mm", shape=owner[row[0]].id,
            sure=False, trail_px=corners,
        )  # fmt: skip


def _rows(boxes: FloatArray) -> list[list[int]]:
    """Return runs of boxes side by side: of one height, on one line, no further apart than they are high."""
    height = boxes[:, 3] - boxes[:, 1]
    width = boxes[:, 2] - boxes[:, 0]
    order = np.argsort(boxes[:, 0]).tolist()
    free = set(order)
    # Whatever follows in a row that was none is none, either.
    tried: set[int] = set()
    rows = []
    for place, start in enumerate(order):
        if start not in free or start in tried:
            continue
        row = [start]
        for k in order[place + 1 :]:
            last = row[-1]
            if boxes[k, 0] - boxes[last, 2] > 0.9 * 1.8 * max(height[last], 1e-9):
                break
            if k not in free or boxes[k, 0] <= boxes[last, 0]:
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
        elif len(row) >= _LETTERS:
            tried |= set(row)
    return rows
