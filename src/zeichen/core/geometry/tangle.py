"""Whether outlines cross so often that nobody could make them, and no machine of ours could take them apart.

Cutting n lines at all their crossings takes time and memory for each crossing, and there may be n² / 2 of them: a
scribble of 20,000 lines in a file of 300 kB has 46 million. So crossings are counted before anything is cut, and the
count ends where it is too much.
"""

from collections.abc import Iterable

import numpy as np
import shapely

from zeichen.core.errors import TooMuchError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import AnyArray, FloatArray

# So many crossings of drawn lines are taken apart in five seconds and 500 MB, three times as many in sixteen and
# 1.2 GB (measured on scribbles of 300 and 500 lines).
MOST_CROSSINGS = 10_000
# So many are asked for what meets them at first, and twice as many each time nothing is wrong with those before.
_FIRST = 8


def is_tangled(paths: Iterable[Path], *, tolerance: float) -> bool:
    """Return whether some paths together cross themselves and each other more than 10,000 times.

    Curves are first judged by the boxes of their control points, which is enough for most drawings.
    """
    parts = [path.segments for path in paths if len(path.segments)]
    if not parts:
        return False
    segments = np.concatenate(parts)
    if len(segments) ** 2 < 2 * MOST_CROSSINGS:
        return False
    low, high = segments.min(axis=1), segments.max(axis=1)
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    if not _meet_too_often(boxes, joints=len(boxes)):
        return False
    return _cross_too_often([bezier.flatten(part, tolerance=tolerance) for part in parts])


def require_untangled(lines: Iterable[FloatArray]) -> None:
    """Raise TooMuchError if some polylines (m, 2) cross themselves and each other more than 10,000 times."""
    if _cross_too_often([points for points in lines if len(points) > 1]):
        raise TooMuchError(
            f"The lines of this shape cross more than {MOST_CROSSINGS:,} times, too often to be taken apart. Make it "
            "plainer, or draw it as fewer lines."
        )


def _cross_too_often(polylines: list[FloatArray]) -> bool:
    count = sum(len(points) - 1 for points in polylines)
    if count**2 < 2 * MOST_CROSSINGS:
        return False
    lines = np.concatenate([np.stack([points[:-1], points[1:]], axis=1) for points in polylines])
    joints = sum(len(p) - 2 + bool(len(p) > 2 and (p[0] == p[-1]).all()) for p in polylines)
    return _meet_too_often(shapely.linestrings(lines), joints=joints)


def _meet_too_often(shapes: AnyArray, *, joints: int) -> bool:
    """Return whether more than 10,000 pairs of shapes meet, besides those that follow on each other."""
    tree = shapely.STRtree(shapes)
    # Each pair is found from both sides, and each shape meets itself.
    count, limit = 0, 2 * (MOST_CROSSINGS + joints) + len(shapes)
    # In an order that sees all parts early: what is tangled anywhere is soon told.
    order = np.random.default_rng(0).permutation(len(shapes))
    start, chunk = 0, _FIRST
    while start < len(shapes) and count <= limit:
        asked = shapes[order[start : start + chunk]]
        count += len(tree.query(asked, predicate="intersects")[0])
        start, chunk = start + chunk, 2 * chunk
    return count > limit
