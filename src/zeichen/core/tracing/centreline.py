"""Centreline tracing: drawn lines become single strokes along their middle, with their width."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from shapely.geometry import LineString

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.raster.enlarged import own_pixels
from zeichen.core.raster.levels import ink_and_paper
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.curve_fit import FitSettings
from zeichen.core.tracing.follow import follow
from zeichen.core.tracing.knots import sound_runs
from zeichen.core.tracing.meetings import End, Stroke, Track, joined_strokes, tracks_into_knots
from zeichen.core.tracing.pen_room import within_ink
from zeichen.core.tracing.settings import Trace, TraceSettings, lit_grey
from zeichen.core.tracing.skeleton import Skeleton, half_widths, skeleton_of
from zeichen.core.tracing.solid import INK, trace_solid
from zeichen.core.tracing.stroke_fit import fitted_stroke
from zeichen.core.tracing.stroke_middle import ink_across, rim_along
from zeichen.core.values import AnyArray, FloatArray

# Areas thicker than this many line widths are not lines.
_THICK = 1.7
_MOST_BRANCHES = 5_000


def trace_centreline(picture: Picture, settings: TraceSettings, report: Callable[[float], None]) -> Trace:
    """Return the drawing of a picture's lines as strokes; see trace."""
    grey = lit_grey(picture, settings)
    ink_level, paper_level = ink_and_paper(grey)
    middle = (ink_level + paper_level) / 2
    level = int(middle) if settings.level is None else settings.level
    values, factor = _own_pixels(grey)
    # The chosen level is half-way between ink and paper: where it is not the middle, lines get fatter or thinner.
    ink = np.clip(0.5 + (level + 0.5 - values) / max(1.0, float(paper_level - ink_level)), 0.0, 1.0)
    if settings.invert:
        ink = 1.0 - ink
    mask = ink > 0.5
    mask = _without_spots(mask, settings.min_spot_px2 / factor**2)
    report(0.1)
    skeleton = skeleton_of(mask)
    thick = _thick(mask, skeleton.width_px)
    if len(skeleton.branches) > _MOST_BRANCHES:
        raise InvalidInputError(
            f"The picture has {len(skeleton.branches)} line pieces, more than the {_MOST_BRANCHES} Zeichen draws: it "
            "is texture rather than line art. Raise the smallest spot, or trace it as solid."
        )
    report(0.3)
    strokes = _strokes(ink, skeleton)
    if thick.any():
        thick = _unexplained(thick, strokes, skeleton.width_px)
        if thick.any():
            skeleton = skeleton_of(mask & ~thick, width_px=skeleton.width_px)
            strokes = _strokes(np.where(thick, 0.0, ink), skeleton)
    report(0.5)
    fit = FitSettings(
        tolerance_px=max(1.25 * settings.tolerance_px / factor, 0.05),
        corner_deg=settings.corner_deg,
        stroke_px=skeleton.width_px,
        noise_px=0.02,
    )
    half = half_widths(mask)
    shapes: list[Shape] = []
    paths: list[Path] = []
    for number, stroke in enumerate(strokes):
        if number % 32 == 0:
            report(0.5 + 0.4 * number / len(strokes))
        path = within_ink(fitted_stroke(stroke, fit), half, stroke.width)
        paths.append(path)
        shapes.append(Shape(f"s{number + 1}", (path,), INK, stroke_width=stroke.width))
    shapes = _short_way(shapes)
    scale = float(factor)
    shapes = [
        replace(
            shape,
            id=f"s{k}",
            paths=tuple(path.moved(lambda points: points * scale) for path in shape.paths),
            stroke_width=(shape.stroke_width or 0.0) * scale,
        )
        for k, shape in enumerate(shapes, 1)
    ]
    shapes += _filled(picture, thick, factor, settings, len(shapes))
    if not shapes:
        raise InvalidInputError(
            f"No lines are left at level {level}. Raise the level or lower the smallest spot, or trace it as solid."
        )
    curves = [path.moved(lambda points: points * scale) for path in paths]
    middles_px = [stroke.points * scale for stroke in strokes]
    drawing = Drawing(float(picture.width_px), float(picture.height_px), tuple(shapes))
    return Trace(drawing, level, 0, 0, 0.0, tuple(curves), tuple(middles_px))


def _own_pixels(grey: AnyArray) -> tuple[FloatArray, int]:
    for factor in (2, 3, 4):
        own = own_pixels(grey, factor)
        if own is not None:
            return own, factor
    return grey.astype(np.float64), 1


def _without_spots(mask: AnyArray, least_px2: float) -> AnyArray:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    keep = stats[:, cv2.CC_STAT_AREA] >= least_px2
    keep[0] = False
    if count == 1 or not keep.any():
        raise InvalidInputError(
            "No lines are left at this level. Raise the level or lower the smallest spot."
        )
    return np.asarray(keep[labels])


def _thick(mask: AnyArray, width: float) -> AnyArray:
    """Return the parts of a mask that are too thick to be a line, and spots no longer than wide."""
    half = half_widths(mask)
    seeds = half > 0.5 * _THICK * width + 0.5
    thick = np.zeros_like(mask)
    if seeds.any():
        # Every pixel within a seed's own disc, and the rim that thinning would take for a line.
        far = cv2.distanceTransform((~seeds).astype(np.uint8), cv2.DIST_L2, 5)
        thick = mask & (far <= 0.5 * _THICK * width + 1.5)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    spots = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1) < 1.6 * width
    spots[0] = False
    return np.asarray(thick | spots[labels])


def _unexplained(thick: AnyArray, strokes: list[Stroke], width: float) -> AnyArray:
    """Return the thick parts of a mask that are not just lines lying across each other."""
    drawn = np.zeros(thick.shape, np.uint8)
    for stroke in strokes:
        points = np.round((stroke.points - 0.5) * 8).astype(np.int32)
        cv2.polylines(
            drawn, [points.reshape(-1, 1, 2)], stroke.closed, 1, max(1, round(stroke.width + 1.5)), shift=3
        )
    left = half_widths(thick & (drawn == 0))
    _, labels = cv2.connectedComponents(thick.astype(np.uint8), connectivity=8)
    wide = np.unique(labels[(left > 0.4 * width + 0.5) & thick])
    return np.asarray(np.isin(labels, wide[wide > 0]))


@dataclass(frozen=True, slots=True)
class _Drawn:
    """Strokes before their ends are found, their lines, and the tracks of all loose ends."""

    strokes: list[Stroke]
    lines: list[LineString]
    tree: shapely.STRtree
    tracks: dict[End, Track]
    loose: list[End]
    loose_tree: shapely.STRtree


def _strokes(ink: FloatArray, skeleton: Skeleton) -> list[Stroke]:
    """Return the strokes along the true middle of the lines, ends included."""
    runs, knots = sound_runs(ink, skeleton)
    tracks = tracks_into_knots(ink, runs, knots)
    strokes = joined_strokes(ink, runs, knots, tracks)
    lines = [_line(s.points, s.closed) for s in strokes]
    loose = [e for s in strokes for e in s.ends if e is not None and len(tracks[e].points) > 1]
    loose_tree = shapely.STRtree([LineString(tracks[e].points) for e in loose])
    drawn = _Drawn(strokes, lines, shapely.STRtree(lines), tracks, loose, loose_tree)
    return _without_echoes([_ended(k, drawn, ink) for k in range(len(strokes))], skeleton.width_px)


def _line(points: FloatArray, closed: bool) -> LineString:
    if len(points) < 2:
        return LineString(np.vstack([points, points]))
    return LineString(np.vstack([points, points[:1]]) if closed else points)


def _ended(number: int, drawn: _Drawn, ink: FloatArray) -> Stroke:
    """Return a stroke with its true ends: on the stroke it runs into, or where the pen was lifted."""
    stroke = drawn.strokes[number]
    points = stroke.points
    if stroke.closed:
        return stroke
    for end in (0, 1):
        run = points if end == 0 else points[::-1]
        tail = _tail(run, number, end, drawn)
        run = np.vstack([tail[::-1], run]) if tail is not None else _free_end(run, ink, stroke.width)
        points = run if end == 0 else run[::-1]
    return replace(stroke, points=points)


def _tail(run: FloatArray, number: int, end: int, drawn: _Drawn) -> FloatArray | None:
    """Return the points from a stroke's end along its track to the stroke it meets first, or None."""
    stroke = drawn.strokes[number]
    own = stroke.ends[end]
    if own is None or len(drawn.tracks[own].points) == 0:
        return None
    track = drawn.tracks[own]
    way = np.vstack([run[:1], track.points])
    path = LineString(way)
    # Its own beginning is no place to end on.
    far = (
        np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(run, axis=0), axis=1))]) > 5.0 * stroke.width
    )
    lines = [
        _line(run[far], stroke.closed) if int(k) == number else drawn.lines[int(k)]
        for k in drawn.tree.query(path, predicate="dwithin", distance=max(0.6, 0.05 * stroke.width))
        if int(k) != number or far.sum() > 1
    ]
    found = _first_touch(way, lines, stroke.width)
    if found is None:
        # What ends here meets another that ends here.
        near = drawn.loose_tree.query(path, predicate="dwithin", distance=max(0.6, 0.05 * stroke.width))
        others = [drawn.loose[int(k)] for k in near]
        found = _first_touch(
            way, [LineString(drawn.tracks[e].points) for e in others if e != own], stroke.width
        )
    if found is None:
        return track.leading if len(track.leading) else None
    # Where no rim was seen, the fit finds its own way to the end.
    at, place = found
    return np.vstack([track.leading[: max(0, int(at) - 1)], place])


def _first_touch(way: FloatArray, lines: list[LineString], width: float) -> tuple[float, FloatArray] | None:
    """Return how far along a way, and where, it first touches one of some lines."""
    path = LineString(way)
    shapely.prepare(path)
    best: tuple[float, FloatArray] | None = None
    for line in lines:
        if path.distance(line) > max(0.6, 0.05 * width):
            continue
        # Lines that merge gently come near long before they cross.
        along = shapely.distance(shapely.points(way), line)
        touching = np.nonzero(along < max(0.6, 0.05 * width))[0]
        if len(touching) and (best is None or touching[0] < best[0]):
            place = line.interpolate(line.project(shapely.Point(way[touching[0]])))
            best = float(touching[0]), np.asarray(place.coords[0])
        for hit in shapely.get_coordinates(path.intersection(line)):
            at = path.project(shapely.Point(hit))
            if best is None or at < best[0]:
                best = at, hit
    return best


def _without_echoes(strokes: list[Stroke], width: float) -> list[Stroke]:
    """Leave out short strokes that lie within others: what thinning makes of a merging."""
    lines = [LineString(s.points if len(s.points) > 1 else np.vstack([s.points, s.points])) for s in strokes]
    tree = shapely.STRtree(lines)
    gone: set[int] = set()
    for number in sorted(range(len(strokes)), key=lambda k: lines[k].length):
        stroke = strokes[number]
        if stroke.closed or lines[number].length > 2.5 * width:
            continue
        near = tree.query(lines[number], predicate="dwithin", distance=0.4 * width)
        others = [lines[int(k)] for k in near if int(k) != number and int(k) not in gone]
        if others:
            away = shapely.distance(shapely.points(stroke.points), shapely.union_all(others))
            if away.max() < 0.4 * width:
                gone.add(number)
    return [stroke for number, stroke in enumerate(strokes) if number not in gone]


def _end_way(points: FloatArray, width: float) -> tuple[FloatArray, FloatArray]:
    """Return the first point of a run and the unit direction in which the run leaves beyond it."""
    away = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    near = points[away <= max(0.8 * width, 4.0)]
    if len(near) < 2:
        near = points[:2]
    if len(near) < 2:
        return points[0], np.array([1.0, 0.0])
    centre = near.mean(axis=0)
    direction = np.linalg.svd(near - centre)[2][0]
    if direction @ (near[0] - near[-1]) < 0:
        direction = -direction
    foot = centre + direction * float(direction @ (points[0] - centre))
    return foot, direction


def _free_end(run: FloatArray, ink: FloatArray, width: float) -> FloatArray:
    """Return a run whose first point is where the pen was set down: half a width inside a round end."""
    away = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(run, axis=0), axis=1))])
    if away[-1] < 0.6 * width or len(run) < 3:
        return run
    gap = int(np.argmax(np.diff(away) > 0.3 * width))
    if away[gap + 1] - away[gap] > 0.3 * width and away[gap] < 0.9 * width:
        return _stub_end(run, gap, ink, width)
    # From a place where the line still has its full width, on to where the ink ends.
    base = max(0, min(int(np.searchsorted(away, 0.6 * width, side="right")) - 1, len(run) - 3))
    lead = np.ascontiguousarray(run[base : base + int(2.5 * width) + 4][::-1])
    track, _ = follow(ink, lead, width, 2.0 * width, 1.0 * width)
    way = _end_way(np.vstack([track[::-1], run[base:]]), width)[1]
    place = track[-1] if len(track) else run[base]
    # The last points are in the end's own roundness.
    solid = len(track) - int(0.5 * width)
    if solid > 0:
        place = track[solid]
        way = _end_way(np.vstack([track[: solid + 1][::-1], run[base:]]), 0.6 * width)[1]
    rim = rim_along(ink, float(place[0]), float(place[1]), float(way[0]), float(way[1]), 3.0 * width)
    if rim < 0:
        return run
    # Just inside the rim a round end is narrower than the line, a square one is not.
    inside = place + way * (rim - 0.12 * width)
    across = ink_across(ink, float(inside[0]), float(inside[1]), float(-way[1]), float(way[0]), 0.8 * width)
    back = 0.0 if across > 0.85 * width else 0.5 * width
    tip = place + way * (rim - back)
    kept = np.vstack([track[: max(solid, 0)][::-1], run[base:]])
    behind = (kept - tip) @ way < -0.5
    return np.vstack([tip, kept[int(np.argmax(behind)) :] if behind.any() else kept[-2:]])


def _stub_end(run: FloatArray, gap: int, ink: FloatArray, width: float) -> FloatArray:
    """Return a run whose first points, too few to tell a direction, are replaced by where the pen was set down."""
    way = run[0] - run[gap]
    if float(np.linalg.norm(way)) < 0.35 * width:
        way = run[0] - run[gap + 1]
    way = way / float(np.linalg.norm(way))
    place = run[0]
    rim = rim_along(ink, float(place[0]), float(place[1]), float(way[0]), float(way[1]), 3.0 * width)
    tip = place + way * (rim - 0.5 * width) if rim >= 0 else place
    return np.vstack([tip, run[gap + 1 :]])


def _short_way(shapes: list[Shape]) -> list[Shape]:
    """Return strokes in an order that travels little between them, turned round where that helps."""
    left = list(range(len(shapes)))
    ends = np.array([[s.paths[0].segments[0, 0], s.paths[0].segments[-1, 3]] for s in shapes]).reshape(
        -1, 2, 2
    )
    at = np.zeros(2)
    out: list[Shape] = []
    while left:
        gaps = np.linalg.norm(ends[left] - at, axis=2)
        k, side = np.unravel_index(int(gaps.argmin()), gaps.shape)
        number = left.pop(int(k))
        shape = shapes[number]
        path = shape.paths[0]
        if side == 1 and not path.closed:
            shape = replace(shape, paths=(Path(bezier.reverse(path.segments), closed=False),))
        out.append(shape)
        at = shape.paths[0].segments[-1, 3]
    return out


def _filled(
    picture: Picture, thick: AnyArray, factor: int, settings: TraceSettings, taken: int
) -> list[Shape]:
    """Return the outlines of areas too thick to be lines."""
    if not thick.any():
        return []
    large = np.kron(thick.astype(np.uint8), np.ones((factor, factor), np.uint8))
    large = cv2.dilate(large, np.ones((2 * factor + 1, 2 * factor + 1), np.uint8))
    rgb = picture.rgb.copy()
    rgb[large == 0] = 0 if settings.invert else 255
    try:
        solid = trace_solid(Picture(rgb), settings, lambda share: None)
    except InvalidInputError:
        return []
    return [replace(shape, id=f"f{taken + k}") for k, shape in enumerate(solid.drawing.shapes, 1)]
