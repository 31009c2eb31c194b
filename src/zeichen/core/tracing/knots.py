"""Where lines share ink: the runs that are plainly one line, and the knots between them."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from zeichen.core.tracing.skeleton import Branch, Skeleton
from zeichen.core.tracing.stroke_middle import ink_at, middles
from zeichen.core.values import AnyArray, BoolArray, FloatArray, value_below

_LEAST_POINTS = 3
# Before ink is plainly shared, it already weighs a little: this much more is cut off a run, widths.
_SAFETY = 0.15
# A stretch this long that cannot be measured parts a branch in two, widths.
_GAP = 0.3
# A run this much wider than all it meets is two lines side by side.
_WIDER = 1.15


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
        self.length = float(np.hypot(*np.diff(self.points, axis=0).T).sum())

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
    for run in _side_by_side(runs):
        owner[root(run.start)] = root(run.end)
        runs.remove(run)
    roots = [root(k) for k in range(len(owner))]
    numbers = {r: n for n, r in enumerate(dict.fromkeys(roots))}
    knots = np.zeros((len(numbers), 2))
    for r, number in numbers.items():
        knots[number] = np.mean([places[k] for k in range(len(roots)) if roots[k] == r], axis=0)
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
    plain = good & (widths > 0.4 * width) & (widths < 1.6 * width)
    if plain.sum() < _LEAST_POINTS:
        return [], []
    own = value_below(widths[plain], 0.3)
    if len(pixels) < 3.0 * width:
        own = min(own, 1.12 * width)
    sound = plain & (widths < 1.03 * own + 0.4)
    if sound.sum() < _LEAST_POINTS:
        return [], []
    first, last = _between_knots(sound, knotted)
    safety = max(1, round(_SAFETY * width))
    gap_points = max(2, round(_GAP * width))
    for end in (0, 1):
        if knotted[end] and last - first > 4 * _LEAST_POINTS + safety:
            first, last = (first + safety, last) if end == 0 else (first, last - safety)
    inside = plain & (widths < 1.15 * own + 0.5)
    # A bend too tight to measure spoils what lies either side of it.
    ends = np.flatnonzero(np.diff(sound, prepend=True, append=True))
    for begin, end in zip(ends[::2].tolist(), ends[1::2].tolist(), strict=True):
        if end - begin - np.count_nonzero(inside[begin:end]) > gap_points:
            inside[max(0, begin - safety) : end + safety] = False
    inside[:first] = inside[last:] = False
    if inside.sum() < _LEAST_POINTS:
        return [], []
    if inside.sum() < 0.8 * width and own < 1.2 * width:
        # A stub is too short to be measured.
        own = width
    elif (inside & sound).any():
        own = value_below(widths[inside & sound], 0.5)
    chosen = np.nonzero(inside)[0]
    if branch.loop:
        gap = np.diff(np.append(chosen, chosen[0] + len(pixels)))
        if gap.max() > gap_points:
            chosen = np.roll(chosen, -(int(gap.argmax()) + 1))
    steps = np.diff(chosen) % len(pixels)
    cuts = np.nonzero(steps > gap_points)[0]
    parts = [part for part in np.split(chosen, cuts + 1) if len(part) >= _LEAST_POINTS]
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


def _between_knots(sound: BoolArray, knotted: tuple[bool, bool]) -> tuple[int, int]:
    """Return the part of a branch that is left when its knotted ends are cut back to three sound points in a row."""
    three: AnyArray = sound[:-2] & sound[1:-1] & sound[2:]
    where = np.nonzero(three)[0]
    if len(where) == 0:
        where = np.nonzero(sound)[0]
        return (int(where[0]) if knotted[0] else 0), (int(where[-1]) + 1 if knotted[1] else len(sound))
    return (int(where[0]) if knotted[0] else 0), (int(where[-1]) + 3 if knotted[1] else len(sound))
