"""What lies over and under what: ground that was left in, hidden shapes, overlaps, too many colours."""

from functools import partial

import cv2
import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import MultiPolygon

from zeichen.core.geometry.drawing import Drawing, Shape
from zeichen.core.geometry.polygons import is_light
from zeichen.core.proofing.facts import Memory, ShapeFacts
from zeichen.core.proofing.kinds import Bench, How, Kind
from zeichen.core.proofing.narrow import TrailPoint
from zeichen.core.proofing.yardstick import Process, Yardstick
from zeichen.core.raster.clean.ground import find_signature

# A light shape that fills this share of the figure's box, and of its own, behind everything, is ground.
_GROUND_WIDE = 0.97
_GROUND_FULL = 0.6
# A shape with less than this share left to see is hidden.
_HIDDEN = 0.002
# Signatures are looked for in a picture of the drawing this large.
_LOOKED_AT_PX = 512
# What is printed in layers may lie on top of each other; what is cut or carved is worked twice there.
_LAYERED = (Process.RELIEF, Process.APPAREL)


def check_layers(
    bench: Bench,
    drawing: Drawing,
    facts: list[ShapeFacts],
    yardstick: Yardstick,
    tolerance_px: float,
    memory: Memory,
) -> None:
    """Report ground that was left in, shapes nobody can see, and shapes that lie on each other.

    facts: of the shapes that count, in painting order.
    """
    areas = {each.shape.id: each.area for each in facts}
    keys = {each.shape.id: each.key for each in facts}
    shapes = [each.shape for each in facts if not areas[each.shape.id].is_empty]
    ground = _ground(drawing, shapes, areas)
    if ground is not None:
        x, y, *_ = ground_box = areas[ground.id].bounds
        share = shapely.box(*ground_box).area / shapely.box(*drawing.bounds()).area
        bench.add(
            Kind.GROUND, x, y, measured=share, limit=0.0, unit="of the figure's box", shape=ground.id,
            sure=len(areas[ground.id].geoms) == 1,
        )  # fmt: skip
        shapes = [shape for shape in shapes if shape is not ground]
    polygons = [areas[shape.id] for shape in shapes]
    if len(polygons) < 2:
        return
    order = {shape.id: k for k, shape in enumerate(shapes)}
    tree = STRtree(polygons)
    lower, upper = tree.query(polygons, predicate="intersects")
    above: dict[int, list[int]] = {}
    for a, b in zip(lower.tolist(), upper.tolist(), strict=True):
        if order[shapes[a].id] < order[shapes[b].id]:
            above.setdefault(a, []).append(b)
    layered = yardstick.process in _LAYERED
    for a, over in sorted(above.items()):
        mine = polygons[a]
        key, keys_over = keys[shapes[a].id], [keys[shapes[b].id] for b in over]
        shared = [
            memory.recall(
                ("shared", tolerance_px, key, other),
                partial(shapely.intersection, mine, polygons[b]),
            )
            for b, other in zip(over, keys_over, strict=True)
        ]
        sizes = [part.area for part in shared]
        least = 4.0 * tolerance_px * mine.length
        if sum(sizes) <= least:
            continue
        left = memory.recall(
            ("left", tolerance_px, key, *keys_over), partial(_left, mine, [polygons[b] for b in over])
        )
        if left <= max(_HIDDEN * mine.area, tolerance_px * mine.length):
            place = mine.representative_point()
            top = shapes[over[int(np.argmax(sizes))]].id
            bench.add(
                Kind.HIDDEN_SHAPE, place.x, place.y, measured=bench.scale.to_mm2(mine.area), limit=0.0,
                unit="mm²", shape=shapes[a].id, other=top,
            )  # fmt: skip
            continue
        if layered:
            continue
        for b, part, size in zip(over, shared, sizes, strict=True):
            if size <= 4.0 * tolerance_px * part.length:
                continue
            place = part.representative_point()
            under, on_top = shapes[a], shapes[b]
            if yardstick.draws_lines and under.stroke_width is not None and on_top.stroke_width is not None:
                # Strokes cross.
                continue
            usual = (How.JOIN, How.SUBTRACT) if under.fill == on_top.fill else (How.SUBTRACT,)
            bench.add(
                Kind.OVERLAP, place.x, place.y, measured=bench.scale.to_mm2(size), limit=0.0, unit="mm²",
                shape=under.id, other=on_top.id, mends=usual,
            )  # fmt: skip


def _left(lower: MultiPolygon, upper: list[MultiPolygon]) -> float:
    """Return how much of an area others leave to be seen."""
    return float(shapely.difference(lower, shapely.union_all(upper)).area)


def check_signature(bench: Bench, drawing: Drawing, shapes: list[ShapeFacts]) -> None:
    """Report a small mark in a lower corner of the sheet, away from the figure, wider than high."""
    scale = _LOOKED_AT_PX / max(drawing.width, drawing.height)
    size = max(8, round(drawing.height * scale)), max(8, round(drawing.width * scale))
    mask = np.zeros(size, np.uint8)
    # Its dots count too, however small.
    for each in shapes:
        if each.shape.stroke_width is not None or is_light(each.shape.fill):
            continue
        rings = [
            np.round(facts.ring * (scale * 16)).astype(np.int32)
            for facts in each.paths
            if len(facts.path.segments)
        ]
        cv2.fillPoly(mask, rings, 1, shift=4)
    found = find_signature(mask > 0)
    if found is None:
        return
    slack = 2.0 / scale
    x0, y0 = found[0] * drawing.width - slack, found[1] * drawing.height - slack
    x1, y1 = found[2] * drawing.width + slack, found[3] * drawing.height + slack
    owner = [
        shape.id
        for shape in drawing.shapes
        for path in shape.paths
        if len(path.segments) and x0 <= path.segments[0, 0, 0] <= x1 and y0 <= path.segments[0, 0, 1] <= y1
    ]
    if owner:
        bench.add(
            Kind.SIGNATURE, (x0 + x1) / 2, (y0 + y1) / 2, measured=bench.scale.to_mm(x1 - x0), limit=0.0,
            unit="mm", shape=owner[0], trail_px=(TrailPoint(x0, y0, 0.0), TrailPoint(x1, y1, 0.0)),
        )  # fmt: skip


def check_colours(bench: Bench, drawing: Drawing, most: int) -> None:
    """Report more colours than the machine makes."""
    first: dict[str, Shape] = {}
    for shape in drawing.shapes:
        if shape.node_count and not is_light(shape.fill):
            first.setdefault(shape.fill.lower(), shape)
    if len(first) > most:
        smallest = min(first.values(), key=lambda shape: shape.area)
        x, y = smallest.paths[0].segments[0, 0]
        bench.add(
            Kind.COLOURS, x, y, measured=len(first), limit=most, unit="colours", shape=smallest.id
        )  # fmt: skip


def _ground(drawing: Drawing, shapes: list[Shape], areas: dict[str, MultiPolygon]) -> Shape | None:
    """Return the light shape behind everything, if there is one."""
    if len(shapes) < 2 or not is_light(shapes[0].fill):
        return None
    x_min, y_min, x_max, y_max = drawing.bounds()
    x0, y0, x1, y1 = areas[shapes[0].id].bounds
    wide = (x1 - x0) / max(x_max - x_min, 1e-9), (y1 - y0) / max(y_max - y_min, 1e-9)
    filled = areas[shapes[0].id].area / max((x1 - x0) * (y1 - y0), 1e-9)
    return shapes[0] if min(wide) >= _GROUND_WIDE and filled >= _GROUND_FULL else None
