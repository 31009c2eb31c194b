"""Where strokes begin and end: on the stroke they run into, or where the pen was lifted."""

import math
from dataclasses import replace

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.fitting.local import end_way
from zeichen.core.geometry import bezier
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.caps import ended_before
from zeichen.core.tracing.strokes.follow import follow
from zeichen.core.tracing.strokes.hidden_ends import MetAt, ended_where_met
from zeichen.core.tracing.strokes.lines_met import Lines
from zeichen.core.tracing.strokes.meetings import End, Stroke, Track
from zeichen.core.tracing.strokes.pen_turn import Side
from zeichen.core.tracing.strokes.stroke_middle import ink_across, rim_along
from zeichen.core.tracing.strokes.way_in import bends_less
from zeichen.core.values import FloatArray

# Points this near to an end (widths, px) tell which way it goes.
_END, _END_PX = 0.8, 4.0
# Of a run so much tells how it goes on, at least so much must; widths.
_KNOWN, _LEAST_KNOWN = 2.0, 0.8
# So far beyond what was followed, and beyond the run alone, widths.
_ONWARDS, _FURTHEST = 1.2, 3.0
# The last of them do not turn aside by more than this (cosine).
_STRAIGHT_ON = math.cos(math.radians(20.0))
# A straight run's points, at least over so much, are no further off a line; widths, px, widths.
_STRAIGHT_OVER, _STRAIGHT_PX, _STRAIGHT = 1.5, 0.2, 0.015
# So much of other lines is looked at where one runs into them, widths.
_BESIDE_END = 2.5
# So far aside of a square end there is no ink, widths.
_BESIDE = 0.7


def ended_strokes(strokes: list[Stroke], tracks: dict[End, Track], ink: FloatArray) -> list[Stroke]:
    """Return strokes with their true ends, given how the lines go on into the knots where they end."""
    loose = [
        end for stroke in strokes for end in stroke.ends if end is not None and len(tracks[end].points) > 1
    ]
    drawn = Lines.of([(stroke.points, stroke.closed) for stroke in strokes])
    onwards = Lines.of([(tracks[end].points, False) for end in loose])
    out = []
    met = []
    for number, stroke in enumerate(strokes):
        points = stroke.points
        for side, end in enumerate(() if stroke.closed else stroke.ends):
            run = points if side == 0 else points[::-1]
            track = None if end is None else tracks[end]
            if track is None or len(track.points) == 0:
                last = _to_first_corner(run, stroke)
                run = np.concatenate([_free_end(run[:last], ink, stroke.width), run[last:]])
            else:
                own = loose.index(end) if end in loose else -1
                run, beyond = _ended_on_another(run, track, ink, number, side, stroke, drawn, onwards, own)
                if beyond:
                    met.append(MetAt(number, side, run[: beyond + 1][::-1]))
            points = run if side == 0 else run[::-1]
        out.append(replace(stroke, points=points))
    return ended_where_met(out, met, ink)


def _ended_on_another(
    run: FloatArray,
    track: Track,
    ink: FloatArray,
    number: int,
    side: int,
    stroke: Stroke,
    drawn: Lines,
    onwards: Lines,
    own: int,
) -> tuple[FloatArray, int]:
    """Return a run of a stroke, whose first point is where its line came into a knot, up to the stroke it meets there.

    And how many points are new; 0 if it meets none.

    onwards: how all those go on that end at knots; own: which of them is its own, -1 if none is.
    """
    # It goes on as it was bending: a straight one at once, if it meets a line then, others where no rim is seen any
    # more.
    width = stroke.width
    plain = _onwards(run, run[:0], width, ink, _FURTHEST)
    its_at, its_place = drawn.met_by(np.concatenate([run[:1], plain]), width, number, side)
    gone_on, at, place = plain, its_at, its_place
    straight = _is_straight(run, width)
    if not straight or at < 0.0:
        gone_on = _without_jump(run, track.leading)
        way = np.concatenate([run[:1], gone_on, _onwards(run, gone_on, width, ink, _ONWARDS)])
        at, place = drawn.met_by(way, width, number, side)
        if at < 0.0:
            way = np.concatenate([run[:1], track.points])
            at, place = drawn.met_by(way, width, number, side)
        if at < 0.0:
            # What ends here meets another that ends here.
            at, place = onwards.touched_by(way, width, without=own)
    if at < 0.0:
        ended = np.concatenate([gone_on[::-1], run]) if len(gone_on) else _free_end(run, ink, width)
        return ended, 0
    # Where no rim was seen, the fit finds its own way to the end.
    gone_on = _up_to(gone_on, at, place)
    near = drawn.beside(place, _BESIDE_END * width, without=[number])
    if not straight and its_at >= 0.0:
        plain = _up_to(plain, its_at, its_place)
        if bends_less(run, gone_on, plain, near, ink, width):
            gone_on = plain
    whole = np.concatenate([gone_on[::-1], run])
    ended = ended_before(whole, near, ink, width)
    return ended, len(gone_on) if ended is whole else 0


def _up_to(way: FloatArray, at: float, place: FloatArray) -> FloatArray:
    """Return the points of a way, which begin a pixel beyond its start, up to a place so far along it."""
    return np.concatenate([way[: max(0, int(at) - 1)], place[None]])


def _is_straight(run: FloatArray, width: float) -> bool:
    """Return whether a run is straight near its first point."""
    near = run[: math.ceil(_KNOWN * width)]
    x, y, dx, dy = end_way(np.ascontiguousarray(near[::-1]), _KNOWN * width)
    off = np.abs((near[:, 0] - x) * dy - (near[:, 1] - y) * dx)
    return len(near) >= _STRAIGHT_OVER * width and bool(off.max() < max(_STRAIGHT_PX, _STRAIGHT * width))


def _without_jump(run: FloatArray, gone_on: FloatArray) -> FloatArray:
    """Return points beyond a run's first without the last ones if they turn aside: they saw another line's rim."""
    every = np.concatenate([run[:2][::-1], gone_on])
    while len(every) > 2:
        before, last = every[-2] - every[-3], every[-1] - every[-2]
        if float(before @ last) > _STRAIGHT_ON * math.hypot(*before) * math.hypot(*last):
            break
        every = every[:-1]
    return every[2:]


def _onwards(
    run: FloatArray, gone_on: FloatArray, width: float, ink: FloatArray, furthest: float
) -> FloatArray:
    """Return how a run, whose first point is its end, goes on within the ink beyond where its rims were seen."""
    known = np.concatenate([run[: math.ceil(_KNOWN * width)][::-1], gone_on])
    if len(known) < _LEAST_KNOWN * width:
        return known[:0]
    points = Side(known, width).onwards[: math.ceil(furthest * width)]
    return np.asarray(points[: _within(points, ink)])


@uncounted(cache=True)
def _within(points: FloatArray, ink: FloatArray) -> int:
    """Return how many points come before the first outside the ink."""
    for k in range(len(points)):
        if ink_at(ink, points[k, 0], points[k, 1]) < 0.5:
            return k
    return len(points)


def _leaving(points: FloatArray, reach: float) -> FloatArray:
    """Return the unit direction in which a run leaves beyond its last point."""
    return np.array(end_way(points, reach)[2:])


def _to_first_corner(run: FloatArray, stroke: Stroke) -> int:
    """Return how many points of a run there are up to its first corner: what lies beyond tells nothing of its end."""
    return min(stroke.corners_at(run), default=len(run) - 1) + 1


def _free_end(run: FloatArray, ink: FloatArray, width: float) -> FloatArray:
    """Return a run whose first point is where the pen was set down: half a width inside a round end."""
    away = bezier.lengths_along(run)
    if away[-1] < 0.6 * width or len(run) < 3:
        return run
    gap = int(np.argmax(np.diff(away) > 0.3 * width))
    if away[gap + 1] - away[gap] > 0.3 * width and away[gap] < 0.9 * width:
        return _stub_end(run, gap, ink, width)
    # From a place where the line still has its full width, on to where the ink ends.
    base = max(0, min(int(np.searchsorted(away, 0.6 * width, side="right")) - 1, len(run) - 3))
    lead = np.ascontiguousarray(run[base : base + int(2.5 * width) + 4][::-1])
    track, _ = follow(ink, lead, width, 2.0 * width, 1.0 * width)
    way = _leaving(np.concatenate([run[base:][::-1], track]), max(_END * width, _END_PX))
    place = track[-1] if len(track) else run[base]
    # The last points are in the end's own roundness.
    solid = len(track) - int(0.5 * width)
    if solid > 0:
        place = track[solid]
        way = _leaving(
            np.concatenate([run[base:][::-1], track[: solid + 1]]), max(0.6 * _END * width, _END_PX)
        )
    rim = rim_along(ink, float(place[0]), float(place[1]), float(way[0]), float(way[1]), 3.0 * width)
    if rim < 0:
        return run
    # Just inside the rim a round end is narrower than the line, a square one is not.
    inside = place + way * (rim - 0.12 * width)
    across = ink_across(ink, float(inside[0]), float(inside[1]), float(-way[1]), float(way[0]), 0.8 * width)
    # Where there is ink beside the line, too, it is no end but a corner, at which the pen turned within its ink.
    beside = [
        ink_at(ink, *(inside + side * _BESIDE * width * np.array([-way[1], way[0]]))) for side in (-1, 1)
    ]
    back = 0.0 if across > 0.85 * width and max(beside) < 0.5 else 0.5 * width
    tip = place + way * (rim - back)
    kept = np.concatenate([track[: max(solid, 0)][::-1], run[base:]])
    behind = (kept - tip) @ way < -0.5
    return np.concatenate([tip[None], kept[int(np.argmax(behind)) :] if behind.any() else kept[-2:]])


def _stub_end(run: FloatArray, gap: int, ink: FloatArray, width: float) -> FloatArray:
    """Return a run whose first points, too few to tell a direction, are replaced by where the pen was set down."""
    way = run[0] - run[gap]
    if math.hypot(*way) < 0.35 * width:
        way = run[0] - run[gap + 1]
    way = way / math.hypot(*way)
    place = run[0]
    rim = rim_along(ink, float(place[0]), float(place[1]), float(way[0]), float(way[1]), 3.0 * width)
    tip = place + way * (rim - 0.5 * width) if rim >= 0 else place
    return np.concatenate([tip[None], run[gap + 1 :]])
