"""Where lines share ink: the runs that are plainly one line, and the knots between them."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.skeleton import Branch, Skeleton, length_of, middles_of
from zeichen.core.tracing.strokes.stroke_middle import middles
from zeichen.core.values import AnyArray, BoolArray, FloatArray, value_below

_LEAST_POINTS = 3
# Before ink is plainly shared, it already weighs a little: this much more is cut off a run, widths.
_SAFETY = 0.15
# A stretch this long that cannot be measured parts a branch in two, widths.
_GAP = 0.3
# A run this much wider than all it meets is two lines side by side.
_WIDER = 1.15
# A run that is shorter than this between two bends does not tell which way the line went, longer ones do; widths.
_SHORT, _LONG = 0.5, 1.0


_value_below = counted(cache=True)(value_below)


@dataclass(slots=True, eq=False)
class Run:
    """Points along the middle of one line, and the knots it ends in (-1: a free end)."""

    points: FloatArray
    width: float
    start: int
    end: int
    loop: bool = False
    length: float = field(init=False)

    def __post_init__(self) -> None:
        """Measure the length along the points, px."""
        self.length = length_of(self.points)

    def towards(self, at_start: bool) -> FloatArray:
        """Return the points in the order that leads to one of the ends."""
        return self.points[::-1] if at_start else self.points


def sound_runs(ink: FloatArray, skeleton: Skeleton) -> tuple[list[Run], FloatArray]:
    """Return the runs of a skeleton on which a line has its own width, and the middle of each knot.

    Branches that have no such place, and the meetings at their ends, are part of one knot; a place
    inside a branch where the line bends too tightly to be measured is a knot of its own.
    """
    width = skeleton.width_px
    places = [np.asarray(place) for place in skeleton.meetings]
    owner = list(range(len(places)))

    def root(k: int) -> int:
        while owner[k] != k:
            k = owner[k]
        return k

    runs: list[Run] = []
    for branch in skeleton.branches:
        pieces, gaps = _measured(ink, branch, width)
        if pieces:
            first = len(places)
            places += gaps
            owner += range(first, len(places))
            for k, (points, own) in enumerate(pieces):
                start = first + k - 1 if k else branch.start
                end = first + k if k < len(pieces) - 1 else branch.end
                if branch.loop and gaps:
                    start, end = first + (k - 1) % len(pieces), first + k
                runs.append(Run(points, own, start, end, branch.loop and not gaps))
        elif branch.start >= 0 and branch.end >= 0:
            owner[root(branch.start)] = root(branch.end)
        elif branch.start < 0 and branch.end < 0 and len(branch.points) > 1:
            runs.append(Run(branch.points, width, -1, -1, branch.loop))
        elif len(branch.points) >= _LEAST_POINTS and _thick_tip(ink, branch, width):
            hook = branch.points[:_LEAST_POINTS] if branch.start < 0 else branch.points[-_LEAST_POINTS:]
            runs.append(Run(hook, width, branch.start, branch.end))
    for run in _between_bends(runs, [root(k) for k in range(len(owner))]):
        owner[root(run.start)] = root(run.end)
        runs.remove(run)
    for run in _side_by_side(runs):
        owner[root(run.start)] = root(run.end)
        runs.remove(run)
    roots = [root(k) for k in range(len(owner))]
    numbers = {r: n for n, r in enumerate(dict.fromkeys(roots))}
    knots = middles_of(np.reshape(places, (-1, 2)), [numbers[r] for r in roots], len(numbers))
    for run in runs:
        run.start = numbers[roots[run.start]] if run.start >= 0 else -1
        run.end = numbers[roots[run.end]] if run.end >= 0 else -1
    return runs, knots


def _thick_tip(ink: FloatArray, branch: Branch, width: float) -> bool:
    """Return whether a branch's free end lies within the line's full width of ink all around."""
    x, y = branch.points[0 if branch.start < 0 else -1]
    turns = np.linspace(0.0, 2.0 * np.pi, 8, endpoint=False)
    return all(
        ink_at(ink, x + 0.36 * width * c, y + 0.36 * width * s) > 0.5
        for c, s in zip(np.cos(turns), np.sin(turns), strict=True)
    )


def _between_bends(runs: list[Run], roots: list[int]) -> list[Run]:
    """Return the runs between two bends of one line, each of two longer ones, that are too short to tell its way."""
    ends: dict[int, list[Run]] = {}
    for run in runs:
        for knot in (run.start, run.end):
            if knot >= 0:
                ends.setdefault(roots[knot], []).append(run)

    def is_bend(knot: int, short: Run) -> bool:
        met = ends[roots[knot]]
        return len(met) == 2 and all(run is short or run.length > _LONG * run.width for run in met)

    return [
        run
        for run in runs
        if run.start >= 0
        and run.end >= 0
        and roots[run.start] != roots[run.end]
        and run.length < _SHORT * run.width
        and is_bend(run.start, run)
        and is_bend(run.end, run)
    ]


def _side_by_side(runs: list[Run]) -> list[Run]:
    """Return the runs between two knots that are wider than everything they meet: two lines side by side."""
    ends: dict[int, list[Run]] = {}
    for run in runs:
        for knot in (run.start, run.end):
            if knot >= 0:
                ends.setdefault(knot, []).append(run)
    found = []
    for run in runs:
        if run.start < 0 or run.end < 0 or run.start == run.end:
            continue
        others = [
            max((other.width for other in ends[knot] if other is not run), default=run.width)
            for knot in (run.start, run.end)
        ]
        if len(ends[run.start]) > 2 and len(ends[run.end]) > 2 and run.width > _WIDER * max(others):
            found.append(run)
    return found


def _measured(
    ink: FloatArray, branch: Branch, width: float
) -> tuple[list[tuple[FloatArray, float]], list[FloatArray]]:
    """Return the pieces of a branch with the middle and the width of the line, and the places between them.

    At knots the branch is cut back to where it is one line.
    """
    pixels, knotted = branch.points, (branch.start >= 0, branch.end >= 0)
    furthest = 0.75 * width + 3.0
    at, widths, good = middles(ink, np.ascontiguousarray(pixels), branch.loop, 0.4 * width, furthest, 3)
    inside, own = _inside(widths, good, knotted[0], knotted[1], width)
    if own < 0.0:
        return [], []
    gap_points = max(2, round(_GAP * width))
    chosen, cuts = _parts(inside, branch.loop, gap_points)
    parts = [chosen[a:b] for a, b in cuts.tolist()]
    if not branch.loop and parts:
        parts = _with_hooks(parts, len(pixels), knotted, width)
    if not parts:
        return [], []
    between = [
        pixels[(int(a[-1]) + int((b[0] - a[-1]) % len(pixels)) // 2) % len(pixels)]
        for a, b in pairwise(parts)
    ]
    if branch.loop and (parts[0][0] - parts[-1][-1]) % len(pixels) > gap_points:
        tail = int((parts[0][0] - parts[-1][-1]) % len(pixels))
        between.append(pixels[(int(parts[-1][-1]) + tail // 2) % len(pixels)])
    return [(at[part], own) for part in parts], between


def _with_hooks(
    parts: list[AnyArray], count: int, knotted: tuple[bool, bool], width: float
) -> list[AnyArray]:
    """Return the parts of a branch, with what is left of it beyond a tight bend just before a free end."""
    hook = max(_LEAST_POINTS, int(0.25 * width))
    least = 0.6 * width + hook
    out = list(parts)
    if not knotted[0] and parts[0][0] > least:
        out.insert(0, np.arange(hook))
    if not knotted[1] and count - 1 - parts[-1][-1] > least:
        out.append(np.arange(count - hook, count))
    return out


@counted(cache=True)
def _inside(
    widths: FloatArray, good: BoolArray, from_knot: bool, to_knot: bool, width: float
) -> tuple[BoolArray, float]:
    """Return which points of a branch are where it is one line, and that line's width; -1 if it nowhere is."""
    n = len(widths)
    plain = good & (widths > 0.4 * width) & (widths < 1.6 * width)
    if plain.sum() < _LEAST_POINTS:
        return plain, -1.0
    own = _value_below(widths[plain], 0.3)
    if n < 3.0 * width:
        own = min(own, 1.12 * width)
    sound = plain & (widths < 1.03 * own + 0.4)
    if sound.sum() < _LEAST_POINTS:
        return sound, -1.0
    first, last = _between_knots(sound, from_knot, to_knot)
    safety = max(1, round(_SAFETY * width))
    gap_points = max(2, round(_GAP * width))
    if from_knot and last - first > 4 * _LEAST_POINTS + safety:
        first += safety
    if to_knot and last - first > 4 * _LEAST_POINTS + safety:
        last -= safety
    inside = plain & (widths < 1.15 * own + 0.5)
    # A bend too tight to measure spoils what lies either side of it.
    begin, off = 0, 0
    for k in range(n + 1):
        if k < n and not sound[k]:
            off += not inside[k]
            continue
        if begin < k and off > gap_points:
            inside[max(0, begin - safety) : k + safety] = False
        begin, off = k + 1, 0
    inside[:first] = False
    inside[last:] = False
    count = inside.sum()
    if count < _LEAST_POINTS:
        return inside, -1.0
    both = inside & sound
    if count < 0.8 * width and own < 1.2 * width:
        # A stub is too short to be measured.
        own = width
    elif both.any():
        own = _value_below(widths[both], 0.5)
    return inside, own


@counted(cache=True)
def _parts(inside: BoolArray, loop: bool, gap_points: int) -> tuple[AnyArray, AnyArray]:
    """Return the points of a branch that are inside, and where among them each part begins and ends.

    Larger gaps part them; a loop begins behind its largest one. What has too few points is no part.
    """
    n = len(inside)
    chosen = np.nonzero(inside)[0]
    count = len(chosen)
    if loop and count:
        largest, at = 0, 0
        for k in range(count):
            gap = chosen[k + 1] - chosen[k] if k + 1 < count else chosen[0] + n - chosen[k]
            if gap > largest:
                largest, at = gap, k
        if largest > gap_points:
            chosen = np.roll(chosen, -(at + 1))
    cuts = np.empty((count, 2), np.int64)
    found = begin = 0
    for k in range(1, count + 1):
        if k == count or (chosen[k] - chosen[k - 1]) % n > gap_points:
            if k - begin >= _LEAST_POINTS:
                cuts[found, 0], cuts[found, 1] = begin, k
                found += 1
            begin = k
    return chosen, cuts[:found].copy()


@uncounted(cache=True)
def _between_knots(sound: BoolArray, from_knot: bool, to_knot: bool) -> tuple[int, int]:
    """Return the part of a branch that is left when its knotted ends are cut back to three sound points in a row."""
    n = len(sound)
    first, last, row = -1, 0, 0
    for length in (3, 1):
        for k in range(n):
            row = row + 1 if sound[k] else 0
            if row >= length:
                if first < 0:
                    first = k - length + 1
                last = k + 1
        if first >= 0:
            break
        row = 0
    return (first if from_knot else 0), (last if to_knot else n)
