"""Borders that run on through junctions.

Where one area's rim meets the border between two others, the rim itself does not stop: it is one curve,
on which the border ends. It is fitted as one, smooth past the junction, and then cut there exactly.
"""

import math
from dataclasses import dataclass

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry import bezier
from zeichen.core.tracing.regions.planar_map import PlanarMap
from zeichen.core.values import AnyArray, FloatArray

# Two borders that leave a junction within this of opposite ways, their lines this near, are one rim.
_STRAIGHT_DEG = 24.0
_OFFSET_PX = 0.45
# A piece that would end this near to a node ends at the node, px.
_AT_NODE_PX = 0.02
# How far from where it is expected along a course a junction is looked for.
_SLACK_PX = 24.0
_SLACK_SHARE = 0.04
# An end that moves by more than the first takes about so many pixels to do it, px.
_SLIGHT_PX = 0.05
_BENT_PX = 2.0

ArcEnd = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Leaving:
    """How an arc leaves a junction: a place on its line there and the unit direction away from it."""

    place: FloatArray
    direction: FloatArray


@dataclass(slots=True)
class Course:
    """Arcs one after the other, each forwards or not; closed if the last goes on into the first.

    curves: (n, 4, 2) control points along the whole course, breaks: where each arc starts and the last
    ends, as segment number plus parameter; both are set by the fit. spline: what the curves are drawn from, if
    they are, and allowed_px: how far its points may be off it.
    """

    arcs: list[tuple[int, bool]]
    closed: bool
    curves: FloatArray
    breaks: FloatArray
    spline: Spline | None = None
    allowed_px: float = 0.0


def courses_of(planar: PlanarMap, leaving: dict[ArcEnd, Leaving]) -> list[Course]:
    """Return every arc in exactly one course.

    Parameters
    ----------
    planar : PlanarMap
    leaving : dict
        For each end (arc, 0 for its start or 1) at a junction between three areas, or four, how the arc leaves it;
        ends that are left out are where a course ends.
    """
    at: dict[int, list[ArcEnd]] = {}
    for (arc, end), _ in leaving.items():
        at.setdefault(int(planar.start[arc] if end == 0 else planar.end[arc]), []).append((arc, end))
    partner: dict[ArcEnd, ArcEnd] = {}
    for ends in at.values():
        if len(ends) in (3, 4) and (pair := _one_rim(ends, leaving)) is not None:
            partner[pair[0]], partner[pair[1]] = pair[1], pair[0]
    courses: list[Course] = []
    used: set[int] = set()
    # Courses with an end first; what is left over goes round.
    for round_about in (False, True):
        for arc in range(len(planar)):
            for end in (0, 1):
                if arc in used or (not round_about and (arc, end) in partner):
                    continue
                courses.append(_walk((arc, end), planar, partner, used))
    return courses


def _one_rim(ends: list[ArcEnd], leaving: dict[ArcEnd, Leaving]) -> tuple[ArcEnd, ArcEnd] | None:
    best: tuple[float, ArcEnd, ArcEnd] | None = None
    for k, one in enumerate(ends):
        for other in ends[:k]:
            a, b = leaving[one], leaving[other]
            bend = float(np.degrees(np.arccos(np.clip(-(a.direction @ b.direction), -1.0, 1.0))))
            apart = b.place - a.place
            offset = max(abs(float(apart[0] * c.direction[1] - apart[1] * c.direction[0])) for c in (a, b))
            if bend < _STRAIGHT_DEG and offset < _OFFSET_PX and (best is None or bend < best[0]):
                best = bend, one, other
    return None if best is None else (best[1], best[2])


def _walk(first: ArcEnd, planar: PlanarMap, partner: dict[ArcEnd, ArcEnd], used: set[int]) -> Course:
    """Return the course that begins at one end of an arc."""
    arcs: list[tuple[int, bool]] = []
    end = first
    closed = bool(planar.start[first[0]] < 0)
    while end[0] not in used:
        arc, side = end
        used.add(arc)
        arcs.append((arc, side == 0))
        following = partner.get((arc, 1 - side))
        if following is None:
            break
        if following == first:
            closed = True
            break
        end = following
    return Course(arcs, closed, np.zeros((0, 4, 2)), np.zeros(0))


def nearest_places(
    curves: FloatArray, places: FloatArray, lengths: FloatArray, *, closed: bool
) -> FloatArray:
    """Return where along a run of curves each place is nearest: segment number plus parameter, ascending.

    Parameters
    ----------
    curves : (n, 4, 2) float array
    places : (m, 2) float array
        In the order in which the run passes them.
    lengths : (m,) float array
        How far along the run each is expected, from its start; in a loop, from the first place.
    """
    t = np.linspace(0.0, 1.0, 33)
    count = len(curves)
    dense = bezier.evaluate(curves, t).reshape(-1, 2)
    run = bezier.lengths_along(dense)
    slack = _SLACK_PX + _SLACK_SHARE * float(run[-1])
    found: list[float] = []
    origin = 0.0
    for number, place in enumerate(places):
        away = np.linalg.norm(dense - place, axis=1)
        if not closed or number:
            # A run may come by the same place twice: where it is expected decides.
            along_run = (run - origin) % float(run[-1]) if closed else run
            off = np.abs(along_run - lengths[number])
            off = np.minimum(off, float(run[-1]) - off) if closed else off
            if (off <= slack).any():
                away = np.where(off <= slack, away, np.inf)
        k = int(away.argmin())
        if number == 0:
            origin = float(run[k])
        segment, sample = divmod(k, len(t))
        near = [_refined(curves, place, segment, float(t[sample]))]
        # A sample at a node is the end of one segment and the start of the next: the place may be on either.
        if sample == 0 and (closed or segment):
            near.append(_refined(curves, place, (segment - 1) % count, 1.0))
        if sample == len(t) - 1 and (closed or segment < count - 1):
            near.append(_refined(curves, place, (segment + 1) % count, 0.0))
        found.append(min(near)[1])
    out = np.array(found)
    if closed and len(out):
        # A loop's first arc may start anywhere on it.
        out = np.where(out < out[0] - 1e-9, out + count, out)
    return out


def _refined(curves: FloatArray, place: FloatArray, k: int, t: float) -> tuple[float, float]:
    """Return how near a segment comes to a place, from a guess near by, and where: segment number plus parameter."""
    off, u = _nearest_on_segment(curves[k], float(place[0]), float(place[1]), t)
    return float(off), k + float(u)


@uncounted(cache=True)
def _nearest_on_segment(p: FloatArray, x: float, y: float, t: float) -> tuple[float, float]:
    """Return the distance and the parameter, 0 or 1 where a node is as near as can be told."""
    fx = fy = 0.0
    for step in range(7):
        s = 1.0 - t
        w0, w1, w2, w3 = s * s * s, 3.0 * s * s * t, 3.0 * s * t * t, t * t * t
        fx = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0] - x
        fy = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1] - y
        if step == 6:
            break
        gx = gy = 0.0
        for k, w in ((0, s * s), (1, 2.0 * s * t), (2, t * t)):
            gx += 3.0 * w * (p[k + 1, 0] - p[k, 0])
            gy += 3.0 * w * (p[k + 1, 1] - p[k, 1])
        t = min(1.0, max(0.0, t - (fx * gx + fy * gy) / max(gx * gx + gy * gy, 1e-12)))
    px, py = x + fx, y + fy
    if math.hypot(p[0, 0] - px, p[0, 1] - py) < _AT_NODE_PX:
        t = 0.0
    elif math.hypot(p[3, 0] - px, p[3, 1] - py) < _AT_NODE_PX:
        t = 1.0
    return math.hypot(fx, fy), t


def along(courses: list[Course]) -> dict[int, tuple[int, int, bool]]:
    """Return, for each arc, its course, its place in it, and whether it runs along it."""
    return {
        arc: (c, k, forward)
        for c, course in enumerate(courses)
        for k, (arc, forward) in enumerate(course.arcs)
    }


def ring(
    arcs: list[tuple[int, bool]], courses: list[Course], where: dict[int, tuple[int, int, bool]]
) -> FloatArray:
    """Return the closed run of curves along arcs.

    Parameters
    ----------
    arcs : list of (arc, forwards)
        In order round the ring.
    """
    # Neighbours must have the very same curves along their border, or whoever flattens the two sees gaps: so a rim
    # gets a node where a border ends on it. A straight line needs none.
    rows: list[FloatArray] = []
    cuts: list[tuple[int, float, float]] = []
    for arc, forward in arcs:
        c, k, along_it = where[arc]
        course = courses[c]
        first, last = float(course.breaks[k]), float(course.breaks[k + 1])
        curves = bezier.piece(course.curves, first, last)
        same_way = forward == along_it
        rows.append(curves if same_way else bezier.reverse(curves))
        cuts.append((c, first, last) if same_way else (c, last, first))
    for k in range(len(rows)):
        (c, _, cut), (d, again, _) = cuts[k - 1], cuts[k]
        before, after = rows[k - 1], rows[k]
        same_place = c == d and (cut - again) % len(courses[c].curves) == 0.0 and cut % 1.0
        if same_place and len(rows) > 1 and _one_line(before, after):
            rows[k - 1] = before[:-1]
            rows[k] = np.concatenate(
                [bezier.line_segments(np.stack([before[-1, 0], after[0, 3]])), after[1:]]
            )
    curves = np.concatenate(rows)
    # What lies between junctions that are one place.
    some = np.ptp(curves, axis=1).max(axis=1) > 0.0
    curves = curves[some] if some.any() else curves
    # Two ways to one junction may differ in the last digit; a ring with such a gap would touch itself.
    curves[:, 3] = np.roll(curves[:, 0], -1, axis=0)
    return curves


def _one_line(before: FloatArray, after: FloatArray) -> bool:
    """Return whether the last of some curves and the first of others, pieces of one, are a straight line."""
    if not len(before) or not len(after):
        return False
    both: AnyArray = bezier.is_straight(np.stack([before[-1], after[0]]), tolerance=1e-6)
    return bool(both.all())


def ends_of(course: Course, planar: PlanarMap) -> tuple[int, int]:
    """Return the junctions at which an open course starts and ends."""
    (first, forward), (last, onward) = course.arcs[0], course.arcs[-1]
    return (
        int(planar.start[first] if forward else planar.end[first]),
        int(planar.end[last] if onward else planar.start[last]),
    )


def inner_junctions(course: Course, planar: PlanarMap) -> list[int]:
    """Return the junctions where each arc starts (all arcs of a loop, all but the first of an open course)."""
    starts = [int(planar.start[arc] if forward else planar.end[arc]) for arc, forward in course.arcs]
    return starts if course.closed else starts[1:]


def with_end_at(curves: FloatArray, end: int, place: FloatArray) -> FloatArray:
    """Return curves (m, 4, 2) that end at a place (2,) near by; what would show bends the last few pixels only."""
    node = curves[0, 0] if end == 0 else curves[-1, 3]
    move = float(np.linalg.norm(place - node))
    k = 0 if end == 0 else len(curves) - 1
    size = float(bezier.arc_lengths(curves[k : k + 1]).sum())
    bent = _BENT_PX + 4.0 * move
    if move > _SLIGHT_PX and size > 2.0 * bent:
        share = bent / size
        curves = bezier.split(curves, k, share if end == 0 else 1.0 - share)
    return bezier.shifted_end(curves, end, place)
