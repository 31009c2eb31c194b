"""How strokes go on where lines meet: as the pen would have gone."""

import math
from dataclasses import dataclass, field

import numpy as np

from zeichen.core.fitting.local import end_way
from zeichen.core.tracing.strokes.follow import follow
from zeichen.core.tracing.strokes.knots import Run
from zeichen.core.tracing.strokes.landing import LANDING, landing, leading, nearest
from zeichen.core.tracing.strokes.pen_turn import Corner, Turn, turn_between
from zeichen.core.tracing.strokes.stroke_middle import rim_along
from zeichen.core.tracing.strokes.three_ends import pair_of_three
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# What a pair may cost at most: see landing.
_DEAREST = 3.5
# A dearer one is doubted where ink can tell of another.
_DOUBTFUL = 1.5
# At an end-to-end joint a pen turns by any angle; elsewhere by no more than this.
_BENT_DEG = 80.0
# Turning sharper than this where two tracks meet is a corner.
_CORNER_DEG = 25.0
# So much of a run tells how it leaves, widths.
_OUT_OF_RUN = 0.6
# A run with a free end that is shorter is a stub, widths.
_STUB = 0.8
# And what thinning makes of two lines that run together into a tip is shorter than this, or than the second
# if it is wider than either line by the third.
_TIP = 0.5
_WIDE_TIP = 0.9
_TIP_WIDER = 1.06
# How far to follow a line into a knot beside the knot's own size, and without seeing its rim, widths.
_FURTHEST = 4.0
_COAST = 2.6

End = tuple[int, bool]


@dataclass(slots=True, eq=False)
class Track:
    """Where a run goes on beyond one of its ends: points a pixel apart, and for which a rim was seen."""

    points: FloatArray
    seen: BoolArray

    @property
    def leading(self) -> FloatArray:
        """The points up to where no rim was seen for the first time."""
        return self.points[: leading(self.seen)]


@dataclass(slots=True, eq=False)
class Stroke:
    """Points along one pen stroke, whether it closes, its runs' loose ends at knots, and where it has corners."""

    points: FloatArray
    closed: bool
    width: float
    ends: tuple[End | None, End | None] = (None, None)
    corners: list[Corner] = field(default_factory=list)

    def corners_at(self, points: FloatArray) -> list[int]:
        """Return which of some points along the stroke are at its corners."""
        return [int(np.hypot(*(points - corner.place).T).argmin()) for corner in self.corners]


@dataclass(slots=True, eq=False)
class _Joint:
    """Two ends that are one stroke, and the turn from one to the other."""

    one: End
    other: End
    turn: Turn


def tracks_into_knots(ink: FloatArray, runs: list[Run], knots: FloatArray) -> dict[End, Track]:
    """Return, for each end of a run at a knot, where the line goes on."""
    spread = np.zeros(len(knots))
    for run in runs:
        for at_start, knot in ((True, run.start), (False, run.end)):
            if knot >= 0:
                tip = run.towards(at_start)[-1]
                spread[knot] = max(spread[knot], math.hypot(*(tip - knots[knot])))
    tracks = {}
    for number, run in enumerate(runs):
        for at_start, knot in ((True, run.start), (False, run.end)):
            if knot < 0:
                continue
            lead = _lead(run, at_start, knots[knot])
            furthest = 2.0 * spread[knot] + _FURTHEST * run.width
            points, seen = (
                follow(ink, lead, run.width, furthest, _COAST * run.width)
                if len(lead) > 1
                else (np.zeros((0, 2)), np.zeros(0, bool))
            )
            tracks[number, at_start] = Track(points, seen)
    return tracks


def _lead(run: Run, at_start: bool, knot: FloatArray) -> FloatArray:
    """Return the points that lead to one end of a run; a stub, too short to tell, points at its knot."""
    points = run.towards(at_start)
    if _is_stub(run):
        away = points[0] - knot
        steps = np.linspace(0.0, 1.0, max(3, len(points)))[:, None]
        reach = math.hypot(*(points[-1] - points[0])) / max(math.hypot(*away), 1e-9)
        points = points[0] - steps * away * max(reach, 1e-3)
    return np.ascontiguousarray(points[-int(4 * run.width + 12) :])


def _is_stub(run: Run) -> bool:
    """Return whether a run is a line's end too short to tell where the line comes from."""
    return run.length < _STUB * run.width and (run.start < 0 or run.end < 0)


def joined_strokes(
    ink: FloatArray, runs: list[Run], knots: FloatArray, tracks: dict[End, Track]
) -> list[Stroke]:
    """Return the strokes that runs make together, straight through their knots where the pen went on."""
    partner: dict[End, _Joint] = {}
    at_knot: dict[int, list[End]] = {}
    for number, run in enumerate(runs):
        for at_start, knot in ((True, run.start), (False, run.end)):
            if knot >= 0:
                at_knot.setdefault(knot, []).append((number, at_start))
    tips = {end for knot, ends in at_knot.items() for end in _tips_of_wedges(ends, runs, tracks)}
    for knot, listed in at_knot.items():
        ends = [end for end in listed if end not in tips]
        for joint in _pairs(ends, runs, tracks, knots[knot], ink):
            partner[joint.one] = joint
            back = Turn(joint.turn.points[::-1], joint.turn.corners)
            partner[joint.other] = _Joint(joint.other, joint.one, back)
    strokes = []
    used = {number for number, _ in tips}
    every = [(k, start) for k in range(len(runs)) for start in (True, False)]
    # Strokes with an end first; what is left over goes round.
    for round_about in (False, True):
        for end in every:
            if end[0] in used or (not round_about and end in partner):
                continue
            if runs[end[0]].loop:
                used.add(end[0])
                strokes.append(Stroke(runs[end[0]].points, True, runs[end[0]].width))
                continue
            strokes.append(_walk(end, runs, partner, used))
    return strokes


def _tips_of_wedges(ends: list[End], runs: list[Run], tracks: dict[End, Track]) -> list[End]:
    """Return the stubs that thinning makes where two lines run together into a tip: both are followed to it."""
    if len(ends) != 3:
        return []
    found = []
    for end in ends:
        run = runs[end[0]]
        others = [other for other in ends if other[0] != end[0]]
        # What is longer belongs to one of the lines, which goes on into it; only two side by side are wider.
        wide = run.width > _TIP_WIDER * max((runs[other[0]].width for other in others), default=run.width)
        loose = run.start < 0 or run.end < 0
        if not loose or run.length > (_WIDE_TIP if wide else _TIP) * run.width:
            continue
        tip = run.towards(end[1])[0]
        if len(others) == 2 and all(_reaches(tip, tracks[o], runs[o[0]], run.width) for o in others):
            found.append(end)
    return found


def _reaches(tip: FloatArray, track: Track, run: Run, width: float) -> bool:
    """Return whether a line is followed to a tip, its rim in sight."""
    if _is_stub(run) or len(track.points) == 0:
        return False
    near, gap = nearest(track.points, tip[0], tip[1])
    return bool(track.seen[near] and gap < LANDING * width)


def _walk(first: End, runs: list[Run], partner: dict[End, _Joint], used: set[int]) -> Stroke:
    """Return the stroke that starts at one end of a run and goes on through its partners."""
    pieces: list[FloatArray] = []
    widths: list[tuple[float, float]] = []
    corners: list[Corner] = []
    end = first
    closed = False
    while True:
        number, at_start = end
        used.add(number)
        pieces.append(runs[number].towards(not at_start))
        widths.append((runs[number].length + 1.0, runs[number].width))
        end = (number, not at_start)
        if end not in partner:
            break
        joint = partner[end]
        if joint.other != first and joint.other[0] in used:
            break
        pieces.append(joint.turn.points)
        corners += joint.turn.corners
        if joint.other == first:
            closed = True
            break
        end = joint.other
    share, width = np.array(widths).T
    loose = (None, None) if closed else (_loose(first, runs), _loose(end, runs))
    return Stroke(np.vstack(pieces), closed, float((share * width).sum() / share.sum()), loose, corners)


def _loose(end: End, runs: list[Run]) -> End | None:
    run = runs[end[0]]
    return end if (run.start if end[1] else run.end) >= 0 else None


def _pairs(
    ends: list[End], runs: list[Run], tracks: dict[End, Track], knot: FloatArray, ink: FloatArray
) -> list[_Joint]:
    """Return which ends at one knot are one stroke, and the points between them."""
    options = []
    for i, one in enumerate(ends):
        for other in ends[:i]:
            if one[0] == other[0] and len(ends) > 2 and runs[one[0]].length < 3 * runs[one[0]].width:
                continue
            there, back = _landing(one, other, runs, tracks), _landing(other, one, runs, tracks)
            cost = min(there[0], back[0]) + 0.5 * (math.isinf(there[0]) + math.isinf(back[0]))
            if cost < _DEAREST:
                options.append((cost, one, other, there[1] if there[0] <= back[0] else back[1][::-1]))
    options.sort(key=lambda option: option[0])
    taken: set[End] = set()
    pairs = []
    cheapest = options[0][0] if options else math.inf
    for _, one, other, middle in options:
        if one not in taken and other not in taken:
            taken |= {one, other}
            pairs.append(_Joint(one, other, Turn(middle)))
    left = [end for end in ends if end not in taken]
    if len(left) == 2 and len(ends) == 2:
        pairs.append(_corner(left[0], left[1], runs, tracks, knot, ink))
    if len(ends) == 2 and len(pairs) == 1:
        # All the ink there is theirs.
        _turn_as_ink_tells(pairs[0], runs, ink)
    elif not pairs and len(left) > 2:
        ways = [_way(end, runs, tracks) for end in left]
        bends = [(_angle(way, -ways[j]), k, j) for k, way in enumerate(ways) for j in range(k)]
        bend, k, j = min(bends)
        if bend < _BENT_DEG:
            pairs.append(_corner(left[k], left[j], runs, tracks, knot, ink))
    elif len(ends) > 3 and 2 * len(pairs) == len(ends):
        _turn_at_corners(pairs, runs, ink)
    if len(ends) == 3 and cheapest > _DOUBTFUL:
        pairs = _as_ink_tells(ends, pairs, runs, ink)
    return pairs


def _turn_as_ink_tells(
    joint: _Joint, runs: list[Run], ink: FloatArray, others: list[FloatArray] | None = None
) -> None:
    """Make a joint's turn the one that leaves the picture's ink; others: the lines that hide some of it."""
    sides = [np.ascontiguousarray(runs[end[0]].towards(end[1])) for end in (joint.one, joint.other)]
    width = min(runs[joint.one[0]].width, runs[joint.other[0]].width)
    joint.turn = turn_between(ink, sides[0], sides[1], width, joint.turn, others)


def _turn_at_corners(pairs: list[_Joint], runs: list[Run], ink: FloatArray) -> None:
    """Make the turns of joints that bend corners where the ink, partly other lines', is not against it."""
    for joint in pairs:
        comes, goes = (
            np.array(end_way(np.ascontiguousarray(run.towards(at_start)), _OUT_OF_RUN * run.width)[2:])
            for run, at_start in ((runs[number], side) for number, side in (joint.one, joint.other))
        )
        if _angle(comes, -goes) > _CORNER_DEG:
            others = [
                np.concatenate(
                    [
                        runs[other.one[0]].towards(other.one[1]),
                        other.turn.points,
                        runs[other.other[0]].towards(not other.other[1]),
                    ]
                )
                for other in pairs
                if other is not joint
            ]
            _turn_as_ink_tells(joint, runs, ink, others)


def _as_ink_tells(ends: list[End], pairs: list[_Joint], runs: list[Run], ink: FloatArray) -> list[_Joint]:
    """Return which two of three ends are one stroke: the drafted pair unless the ink tells of another."""
    leads = [np.ascontiguousarray(runs[end[0]].towards(end[1])) for end in ends]
    width = min(runs[end[0]].width for end in ends)
    drafted = [(ends.index(joint.one), ends.index(joint.other), joint.turn) for joint in pairs]
    found = pair_of_three(ink, leads, width, drafted[0] if drafted else None)
    return [] if found is None else [_Joint(ends[found[0]], ends[found[1]], found[2])]


def _landing(one: End, other: End, runs: list[Run], tracks: dict[End, Track]) -> tuple[float, FloatArray]:
    """Return how well the track of one end arrives at another, and the points between; see landing."""
    run, goal, track, back = runs[one[0]], runs[other[0]], tracks[one], tracks[other]
    found: tuple[float, FloatArray] = landing(
        run.points,
        one[1],
        run.width,
        track.points,
        track.seen,
        goal.points,
        other[1],
        goal.width,
        back.leading,
        _is_stub(goal),
    )
    return found


def _corner(
    one: End, other: End, runs: list[Run], tracks: dict[End, Track], knot: FloatArray, ink: FloatArray
) -> _Joint:
    """Return the joint of two ends that make a corner: both tracks up to where they meet."""
    a, b = (np.vstack([runs[end[0]].towards(end[1])[-1:], tracks[end].points]) for end in (one, other))
    gaps = np.linalg.norm(a[:, None] - b[None], axis=2)
    width = min(runs[one[0]].width, runs[other[0]].width)
    ways = _way(one, runs, tracks), _way(other, runs, tracks)
    i, j = len(tracks[one].leading), len(tracks[other].leading)
    if len(a) > 1 and len(b) > 1 and gaps.min() < 0.3 * width + 1.0:
        near = np.argwhere(gaps < max(1.0, gaps.min()) + 1e-9)
        i, j = (int(v) for v in near[near.sum(axis=1).argmin()])
        place = (a[i] + b[j]) / 2
        if i > 2 and j > 2:
            ways = tuple(way / max(math.hypot(*way), 1e-9) for way in (a[i] - a[i - 2], b[j] - b[j - 2]))
    else:
        place = _nearest_to_lines([(a[-1], ways[0]), (b[-1], ways[1])], knot, 1.5 * width)
    place = _inside(place, ways[0] + ways[1], width, ink)
    # What lies beyond the corner was followed in vain.
    sides = [run[1:k][(place - run[1:k]) @ way > 0.5] for run, k, way in ((a, i, ways[0]), (b, j, ways[1]))]
    bend = _angle(ways[0], -ways[1])
    corners = [Corner(place)] if bend > _CORNER_DEG else []
    return _Joint(one, other, Turn(np.vstack([sides[0], place[None], sides[1][::-1]]), corners))


def _inside(place: FloatArray, outwards: FloatArray, width: float, ink: FloatArray) -> FloatArray:
    """Return a corner's place, drawn back to where a round pen would have turned if it is nearer to the rim."""
    size = math.hypot(*outwards)
    if size < 1e-6:
        return place
    way = outwards / size
    back = place - 1.5 * width * way
    rim = rim_along(ink, float(back[0]), float(back[1]), float(way[0]), float(way[1]), 4.0 * width)
    too_far = 0.5 * width - (rim - 1.5 * width)
    return place - way * too_far if rim > 0.5 * width and too_far > 0.0 else place


def _nearest_to_lines(
    lines: list[tuple[FloatArray, FloatArray]], fallback: FloatArray, furthest: float
) -> FloatArray:
    """Return the place nearest to straight lines given by a point and a direction."""
    a = 1e-3 * np.eye(2)
    b = a @ fallback
    for point, way in lines:
        n = np.array([-way[1], way[0]])
        a += np.outer(n, n)
        b += n * (n @ point)
    place = np.linalg.solve(a, b)
    return np.asarray(place if math.hypot(*(place - fallback)) <= furthest else fallback)


def _way(end: End, runs: list[Run], tracks: dict[End, Track]) -> FloatArray:
    """Return the unit direction in which a line leaves its run, or its track's seen part."""
    points = np.vstack([runs[end[0]].towards(end[1]), tracks[end].leading])
    near = points[-max(3, int(0.6 * runs[end[0]].width)) :]
    way = near[-1] - near[0]
    size = math.hypot(*way)
    return way / size if size > 1e-9 else np.array([1.0, 0.0])


def _angle(a: AnyArray, b: AnyArray) -> float:
    size = math.hypot(*a) * math.hypot(*b)
    return math.degrees(math.acos(max(-1.0, min(1.0, float(a @ b) / max(size, 1e-12)))))
