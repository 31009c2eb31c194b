"""Mends: operations that repair a drawing and leave everything else as it was."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from zeichen.core.colour.merging import merged_colours
from zeichen.core.editing.corners import rounded_corners
from zeichen.core.editing.simplify_together import simplified_together
from zeichen.core.errors import ConflictError, InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.overlay import Region, subtracted, united, untangled
from zeichen.core.geometry.polygons import drawing_area, is_light, is_simple, path_from_ring
from zeichen.core.proofing.bridges import Bar, bar_outlines, bridge_bars
from zeichen.core.proofing.kinds import Finding, How, Kind
from zeichen.core.proofing.places import sliver_between, swollen, tip_cut
from zeichen.core.proofing.work import Work
from zeichen.core.proofing.yardstick import Yardstick, finished_scale

# How much more than the limit a mended place is given, so that it passes whoever measures it.
SLACK = 1.02
# Simplifying may move an outline by this share of the thinnest part.
_SIMPLIFY_SHARE = 0.1
# Two measurements of one outline differ by no more than this.
_SAME_SIZE_MM2 = 1e-3


def mend(drawing: Drawing, yardstick: Yardstick, findings: Sequence[Finding], how: How) -> Drawing:
    """Return the drawing with findings of one kind mended in one way.

    Raises
    ------
    InvalidInputError
        If a finding has no such mend, or names a shape that the drawing does not have.
    ConflictError
        If nothing would be left.
    """
    return mend_noting(drawing, yardstick, findings, how)[0]


def mend_noting(
    drawing: Drawing, yardstick: Yardstick, findings: Sequence[Finding], how: How
) -> tuple[Drawing, list[tuple[Bar, ...]]]:
    """Return the drawing with findings mended, and the bridges that each of them took; raises as mend does."""
    scale = finished_scale(drawing, yardstick)
    work = Work(drawing, yardstick, scale)
    for finding in findings:
        if how not in finding.mends:
            words = ", ".join(each.value for each in finding.mends) or "none: it is for the maker to decide"
            raise InvalidInputError(
                f"{how.value} does not mend a {finding.kind.value.replace('_', ' ')}. Its mends: {words}."
            )
    if how is How.DROP:
        for finding in findings:
            _drop(work, finding)
    else:
        for finding in findings:
            work.bars.append(())
            _MENDS[how](work, finding)
    if not work.shapes:
        raise ConflictError("That would delete the last shape of the drawing. Keep at least one.")
    return work.drawing(), work.bars or [()] * len(findings)


def _close(work: Work, finding: Finding) -> None:
    shape = work.shapes[finding.shape]
    paths = []
    for path in shape.paths:
        middle = (path.segments[0, 0] + path.segments[-1, 3]) / 2
        here = not path.closed and np.hypot(*(middle - (finding.x_px, finding.y_px))) < 1e-6
        if here and path.end_gap > 1e-9:
            line = bezier.line_segments(np.stack([path.segments[-1, 3], path.segments[0, 0]]))
            paths.append(Path(np.concatenate([path.segments, line])))
        else:
            paths.append(Path(path.segments, path.closed or here))
    work.shapes[shape.id] = replace(shape, paths=tuple(paths))


def _untangle(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is not None:
        work.put(shape, untangled(Region.of(shape)))


def _keep_one(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    place = np.array([finding.x_px, finding.y_px])
    away = [np.hypot(*(path.segments[:, 0] - place).T).min(initial=np.inf) for path in shape.paths]
    # Of two in one shape the later one goes.
    gone = len(away) - 1 - int(np.argmin(away[::-1]))
    work.put(shape, tuple(path for k, path in enumerate(shape.paths) if k != gone))


def _drop(work: Work, finding: Finding) -> None:
    if finding.kind is Kind.SIGNATURE:
        _drop_within(work, finding)
        return
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    if finding.kind in (Kind.SPECK, Kind.PIN_HOLE):
        _drop_path(work, shape, finding)
    elif finding.kind is Kind.LOOSE_PIECE:
        _drop_piece(work, finding)
    else:
        work.shapes.pop(shape.id)


def _drop_within(work: Work, finding: Finding) -> None:
    """Drop every outline that lies whole in a finding's box."""
    low, high = finding.trail_px
    x0, y0, x1, y1 = low.x, low.y, high.x, high.y
    for shape in list(work.shapes.values()):
        left = []
        for path in shape.paths:
            box = bezier.bounds(path.segments) if len(path.segments) else (x0, y0, x0, y0)
            if not (box[0] >= x0 and box[1] >= y0 and box[2] <= x1 and box[3] <= y1):
                left.append(path)
        if len(left) < len(shape.paths):
            work.put(shape, tuple(left))


def _drop_path(work: Work, shape: Shape, finding: Finding) -> None:
    """Drop the outline that was judged; one of another size is another one, whatever is nearest now."""
    place = np.array([finding.x_px, finding.y_px])
    away = [
        np.hypot(*(path.segments[:, 0].mean(axis=0) - place)) if len(path.segments) else np.inf
        for path in shape.paths
    ]
    # Of outlines about one middle the size tells.
    near = [k for k, distance in enumerate(away) if distance <= min(away) + work.tolerance_px]
    off = {k: abs(work.scale.to_mm2(abs(shape.paths[k].area)) - finding.measured) for k in near}
    gone = min(near, key=off.__getitem__)
    if off[gone] > 0.1 * finding.measured + _SAME_SIZE_MM2:
        return
    largest = max(shape.paths, key=lambda path: abs(path.area))
    if shape.paths[gone] is largest:
        work.shapes.pop(shape.id)
    else:
        work.put(shape, tuple(path for k, path in enumerate(shape.paths) if k != gone))


def _drop_piece(work: Work, finding: Finding) -> None:
    """Drop the piece at a place: every outline that lies whole within it, whichever shapes they belong to.

    Of a stencil the piece is an island of the sheet: the outlines in it go, and it becomes opening.
    """
    area = drawing_area(work.drawing(), tolerance=work.tolerance_px)
    place = Point(finding.x_px, finding.y_px)
    if work.yardstick.limits.cut_away:
        around = [Polygon(hole) for opening in area.geoms for hole in opening.interiors]
    else:
        around = [Polygon(piece.exterior) for piece in area.geoms]
    near = [piece for piece in around if piece.distance(place) < work.tolerance_px]
    if not near:
        return
    bare = min(near, key=lambda each: each.area)
    piece = bare.buffer(4.0 * work.tolerance_px)
    shapely.prepare(piece)
    dropped = False
    for shape in list(work.shapes.values()):
        left = tuple(path for path in shape.paths if not _within(path, piece))
        if len(left) < len(shape.paths):
            work.put(shape, left)
            dropped = True
    if not dropped and work.yardstick.limits.cut_away and finding.shape in work.shapes:
        # An island that several shapes leave between them has no outline of its own: one of them takes it.
        ring = path_from_ring(shapely.get_coordinates(piece.exterior))
        work.add_area(work.shapes[finding.shape], Region((ring,)))


def _within(path: Path, piece: Polygon) -> bool:
    if not len(path.segments):
        return False
    points = bezier.evaluate(path.segments, np.linspace(0.0, 1.0, 5)).reshape(-1, 2)
    return bool(shapely.contains_xy(piece, points[:, 0], points[:, 1]).all())


def _subtract(work: Work, finding: Finding) -> None:
    lower, upper = work.shapes.get(finding.shape), work.shapes.get(finding.other)
    if lower is not None and upper is not None:
        work.put_area(lower, _clean(work, subtracted(work.region(lower), work.region(upper))))


def _clean(work: Work, paths: tuple[Path, ...]) -> tuple[Path, ...]:
    """Return outlines cut along another shape's border without what would only be specks or hair there."""
    if not all(is_simple(path, tolerance=work.tolerance_px) for path in paths):
        paths = untangled(Region(paths, "nonzero"))
    crumb_px2 = work.scale.to_px(1.0) ** 2 * work.yardstick.limits.speck_mm2
    return tuple(path for path in paths if path.area < 0 or path.area >= crumb_px2)


def _join(work: Work, finding: Finding) -> None:
    lower, upper = work.shapes.get(finding.shape), work.shapes.get(finding.other)
    if lower is None or upper is None:
        return
    # The upper one keeps its place, so that nothing between them is covered anew.
    work.put_area(upper, united([work.region(lower), work.region(upper)]))
    work.shapes.pop(lower.id)


def _absorb(work: Work, finding: Finding) -> None:
    speck, around = work.shapes.get(finding.shape), work.shapes.get(finding.other)
    if speck is None or around is None:
        return
    work.put_area(around, united([work.region(around), work.region(speck)]))
    work.shapes.pop(speck.id)


def _fill(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    if finding.kind is Kind.PIN_HOLE:
        _drop_path(work, shape, finding)
    else:
        work.add_area(
            shape, Region(swollen(finding.trail_px, SLACK * work.gap_px, work.tolerance_px), "nonzero")
        )


def _share_border(work: Work, finding: Finding) -> None:
    one, other = work.shapes.get(finding.shape), work.shapes.get(finding.other)
    if one is None or other is None:
        return
    sliver = sliver_between(one, other, width=4.0 * work.gap_px, tolerance=work.tolerance_px)
    if sliver is not None:
        joined = Region(united([work.region(one), sliver]))
        work.put_area(one, _clean(work, subtracted(joined, work.region(other))))


def _merge_colours(work: Work, finding: Finding) -> None:
    areas: dict[str, float] = {}
    for shape in work.shapes.values():
        if not is_light(shape.fill):
            areas[shape.fill] = areas.get(shape.fill, 0.0) + shape.area
    into = merged_colours(areas, most=int(finding.limit))
    for shape in list(work.shapes.values()):
        work.shapes[shape.id] = replace(shape, fill=into.get(shape.fill, shape.fill))


def _simplify(work: Work, finding: Finding) -> None:
    shapes = list(work.shapes.values())
    less = simplified_together(shapes, tolerance=_SIMPLIFY_SHARE * work.thin_px, ids=[finding.shape])
    work.shapes = {shape.id: shape for shape in less}


def _relieve(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    place = np.array([finding.x_px, finding.y_px])
    radius = work.scale.to_px(SLACK * finding.limit)
    paths = []
    for path in shape.paths:
        here = np.nonzero(np.hypot(*(path.segments[:, 0] - place).T) < 1e-6)[0].tolist()
        paths.append(rounded_corners(path, here, radius) if here else path)
    work.shapes[shape.id] = replace(shape, paths=tuple(paths))


def _blunt(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None or shape.stroke_width is not None:
        return
    cut, cap = tip_cut(finding.trail_px, work.thin_px * SLACK)
    work.put(shape, united([Region(subtracted(Region.of(shape), cut)), cap]))


def _thicken(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    if shape.stroke_width is not None:
        work.shapes[shape.id] = replace(shape, stroke_width=max(shape.stroke_width, SLACK * work.thin_px))
        return
    area = Region(swollen(finding.trail_px, SLACK * work.thin_px, work.tolerance_px), "nonzero")
    if work.yardstick.limits.cut_away:
        # The material is what is light: it grows where the opening shrinks.
        work.take_area(area)
    else:
        work.add_area(shape, area)


def _open(work: Work, finding: Finding) -> None:
    area = Region(swollen(finding.trail_px, SLACK * work.gap_px, work.tolerance_px), "nonzero")
    shape = work.shapes.get(finding.shape)
    if work.yardstick.limits.cut_away and shape is not None:
        work.add_area(shape, area)
    else:
        work.take_area(area)


def _bridge(work: Work, finding: Finding) -> None:
    limits = work.yardstick.limits
    bars = bridge_bars(
        work.drawing(),
        (finding.x_px, finding.y_px),
        width=1.1 * work.thin_px,
        islands=limits.cut_away,
        tolerance=work.tolerance_px,
    )
    shape = work.shapes.get(finding.shape)
    if shape is None or not bars:
        return
    work.bars[-1] = bars
    area = Region(bar_outlines(bars, tolerance=work.tolerance_px), "nonzero")
    if limits.cut_away:
        work.take_area(area)
        return
    # The piece, the bar and what the bar reaches become one shape where they have one colour; others make room.
    for other in list(work.shapes.values()):
        if other.id == shape.id or not work.meets(other, area):
            continue
        if other.fill == shape.fill:
            work.shapes.pop(other.id)
            work.put_area(shape, united([work.region(other), work.region(work.shapes[shape.id])]))
        else:
            work.put_area(other, subtracted(work.region(other), area))
    work.put_area(shape, united([work.region(work.shapes[shape.id]), area]))


def _move_in(work: Work, finding: Finding) -> None:
    shape = work.shapes.get(finding.shape)
    if shape is None:
        return
    x0, y0, x1, y1 = shape.bounds()
    width, height = work.source.width, work.source.height
    way = np.array([max(0.0, -x0) or min(0.0, width - x1), max(0.0, -y0) or min(0.0, height - y1)])
    paths = tuple(path.moved(lambda points: points + way) for path in shape.paths)
    work.shapes[shape.id] = replace(shape, paths=paths)


_MENDS: dict[How, Callable[[Work, Finding], None]] = {
    How.CLOSE: _close,
    How.UNTANGLE: _untangle,
    How.KEEP_ONE: _keep_one,
    How.SUBTRACT: _subtract,
    How.JOIN: _join,
    How.SHARE_BORDER: _share_border,
    How.ABSORB: _absorb,
    How.FILL: _fill,
    How.MERGE_COLOURS: _merge_colours,
    How.SIMPLIFY: _simplify,
    How.RELIEVE: _relieve,
    How.BLUNT: _blunt,
    How.THICKEN: _thicken,
    How.OPEN: _open,
    How.BRIDGE: _bridge,
    How.MOVE_IN: _move_in,
}
