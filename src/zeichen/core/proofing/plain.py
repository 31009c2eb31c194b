"""The proof of a drawing that is too much to be measured: what can be said at a glance, and that the rest cannot.

Widths, gaps and overlaps are found by cutting all outlines at each other. Where there are tens of thousands of them
that would take minutes and gigabytes, and nobody could look at what is found. Such a drawing is never called cut-ready.
"""

from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.placement import Scale
from zeichen.core.geometry.tangle import MOST_CROSSINGS, is_tangled
from zeichen.core.proofing.kinds import Bench, Kind, Proof, Readings
from zeichen.core.proofing.layers import check_colours
from zeichen.core.proofing.yardstick import Yardstick

# Measured: as many squares side by side take the full proof seven seconds, of the twenty there are.
MOST_SHAPES = 4_000
MOST_PATHS = 4_000
# More findings of such a drawing than anyone would walk through.
MOST_LISTED = 500


def is_too_much(drawing: Drawing, *, tolerance: float) -> bool:
    """Return whether a drawing has too many shapes, outlines or crossings to be measured."""
    return (
        len(drawing.shapes) > MOST_SHAPES
        or len(drawing.paths) > MOST_PATHS
        or is_tangled(drawing.paths, tolerance=tolerance)
    )


def plain_proof(drawing: Drawing, yardstick: Yardstick, scale: Scale) -> Proof:
    """Return what can be said of a drawing without measuring it."""
    bench = Bench(scale)
    x_min, y_min, x_max, y_max = drawing.bounds()
    middle = (x_min + x_max) / 2, (y_min + y_max) / 2
    wide, tall = scale.to_mm(x_max - x_min), scale.to_mm(y_max - y_min)
    measured, limit, unit = len(drawing.shapes), MOST_SHAPES, "shapes"
    if measured <= limit:
        measured, limit, unit = len(drawing.paths), MOST_PATHS, "outlines"
    if measured <= limit:
        # Counting ends where it is too much: there are this many or more.
        measured, limit, unit = MOST_CROSSINGS, MOST_CROSSINGS, "crossings"
    bench.add(Kind.UNMEASURED, *middle, measured=measured, limit=limit, unit=unit, shape="")
    for size, blank in ((wide, yardstick.blank_width_mm), (tall, yardstick.blank_height_mm)):
        if size > blank * (1 + 1e-9):
            bench.add(Kind.TOO_LARGE, *middle, measured=size, limit=blank, unit="mm", shape="")
            break
    check_colours(bench, drawing, yardstick.limits.colours)
    _check_plainly(bench, drawing)
    return Proof(tuple(bench.found), _readings(drawing, wide, tall))


def _check_plainly(bench: Bench, drawing: Drawing) -> None:
    """Report open outlines of areas, and outlines that are the very same as another, the first 500."""
    seen: set[bytes] = set()
    most = len(bench.found) + MOST_LISTED
    for shape in drawing.shapes:
        for path in shape.paths:
            if not len(path.segments) or len(bench.found) >= most:
                continue
            start, end = path.segments[0, 0], path.segments[-1, 3]
            if not path.closed and shape.stroke_width is None:
                gap = bench.scale.to_mm(path.end_gap)
                bench.add(
                    Kind.OPEN_PATH, *((start + end) / 2), measured=gap, limit=0.0, unit="mm", shape=shape.id
                )
            content = path.segments.tobytes()
            if content in seen:
                bench.add(
                    Kind.DUPLICATE_OUTLINE, *start, measured=0.0, limit=0.0, unit="mm", shape=shape.id
                )  # fmt: skip
            seen.add(content)


def _readings(drawing: Drawing, wide: float, tall: float) -> Readings:
    paths = drawing.paths
    return Readings(
        width_mm=wide,
        height_mm=tall,
        shapes=len(drawing.shapes),
        paths=len(paths),
        closed_paths=sum(path.closed for path in paths),
        nodes=drawing.node_count,
        pieces=0,
        thinnest_mm=None,
        smallest_gap_mm=None,
        area_mm2=0.0,
    )
