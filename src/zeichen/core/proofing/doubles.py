"""Outlines that are there twice, which a machine would follow twice."""

import math
from functools import partial

import numpy as np
from scipy.spatial import cKDTree
from shapely.geometry import LineString, Polygon

from zeichen.core.geometry.drawing import Shape
from zeichen.core.proofing.facts import Memory, ShapeFacts
from zeichen.core.proofing.kinds import Bench, Kind
from zeichen.core.values import FloatArray


def check_duplicates(bench: Bench, shapes: list[ShapeFacts], tolerance_px: float, memory: Memory) -> set[str]:
    """Report outlines that are there twice; returns the ids of the shapes with the second ones."""
    doubled: set[str] = set()
    rings: list[tuple[str, FloatArray, ShapeFacts]] = [
        (each.shape.id, facts.ring, each) for each in shapes for facts in each.paths if len(facts.ring) >= 4
    ]
    slack = 4 * tolerance_px
    boxes = np.array([[*points.min(axis=0), *points.max(axis=0)] for _, points, _ in rings]).reshape(-1, 4)
    # As many as are there again and again, each is the double of one.
    known: set[int] = set()
    if len(boxes) > 1:
        pairs = cKDTree(boxes).query_pairs(slack, p=math.inf, output_type="ndarray")
        for a, b in pairs[np.lexsort(pairs.T[::-1])].tolist():
            if a in known or b in known or not _same_kind(rings[a][2].shape, rings[b][2].shape):
                continue
            key = (rings[a][2].key, rings[b][2].key, rings[a][1].tobytes(), rings[b][1].tobytes(), slack)
            off, neighbours = memory.recall(("double", *key), partial(_compared, rings[a], rings[b], slack))
            alike = rings[a][2].shape.fill == rings[b][2].shape.fill
            if off <= slack and (alike or not neighbours):
                # What shows stays: of two colours the one below goes.
                gone = b if rings[a][2].shape.fill == rings[b][2].shape.fill else a
                x, y = rings[gone][1][0]
                known.add(gone)
                doubled.add(rings[gone][0])
                bench.add(
                    Kind.DUPLICATE_OUTLINE,
                    float(x),
                    float(y),
                    measured=bench.scale.to_mm(off),
                    limit=bench.scale.to_mm(slack),
                    unit="mm",
                    shape=rings[gone][0],
                )
    return doubled


def _same_kind(one: Shape, other: Shape) -> bool:
    """Return whether both are areas, or lines as wide as each other: an area and its outline are two things."""
    if one.stroke_width is None or other.stroke_width is None:
        return one.stroke_width is other.stroke_width
    return math.isclose(one.stroke_width, other.stroke_width, rel_tol=0.05)


def _compared(
    one: tuple[str, FloatArray, ShapeFacts], other: tuple[str, FloatArray, ShapeFacts], slack: float
) -> tuple[float, bool]:
    """Return how far two rings are apart, and whether their shapes only meet along them, one set into a hole of the
    other: of two colours that is as it should be."""
    (_, points, first), (_, again, second) = one, other
    off = LineString(points).hausdorff_distance(LineString(again))
    if off > slack or first is second:
        return off, False
    shared = first.area.intersection(second.area).intersection(Polygon(points).buffer(slack))
    return off, bool(shared.area <= 2.0 * slack * LineString(points).length)
