"""Where lines of one width share their ink: a stretch wider than the pen is two of them, or a sharp corner."""

import numpy as np

from zeichen.core.tracing.strokes.medial_graph import Meeting
from zeichen.core.tracing.strokes.rims import Run
from zeichen.core.values import BoolArray, FloatArray

# A line is wider than its pen by more than this share, and so many px more ...
_WIDER, _WIDER_PX = 0.06, 0.4
# ... and somewhere in a stretch of it by so much, or it is noise.
_SURELY = 2.0
# A line wider than others is another pen's if it is longer than so many of their widths, wider than two side by side
# can be, and as wide all along.
_OWN_LONG, _OWN_WIDE, _OWN_EVEN = 3.0, 1.9, 1.12
# Between two meetings a line shorter than so many pen widths is a waist.
_LINK = 0.75
# So many half widths beside a stretch its ink still moves the middle.
_MORE = 0.4
# Gaps of so many points in a wide stretch are noise; a line has at least so many.
_GAP, _LEAST = 3, 4


def own_stretches(
    runs: list[Run], meetings: dict[int, Meeting], pen_px: float
) -> tuple[list[Run], dict[int, Meeting]]:
    """Return the stretches of runs as wide as their pen; what is wider belongs to the meetings, or makes one."""
    owner: dict[int, int] = {number: number for number in meetings}

    def root(k: int) -> int:
        while owner[k] != k:
            k = owner[k]
        return k

    out: list[Run] = []
    fresh = max(meetings, default=-1) + 1
    for run in runs:
        if min(run.ends) >= 0 and len(run.points) < _LINK * pen_px:
            # Too short to be seen as one: two crossings at a small angle.
            owner[root(run.ends[0])] = root(run.ends[1])
            continue
        stretches = _wide_stretches(run, pen_px)
        if not stretches or _has_own_pen(run, pen_px):
            out.append(run)
            continue
        if run.closed:
            # Begun in the middle of a wide stretch, it is an open one between two ends of the same meeting.
            first, last = stretches[0]
            turn = (first + last) // 2
            run = Run(np.roll(run.points, -turn, axis=0), np.roll(run.half, -turn), [fresh, fresh])
            owner[fresh] = fresh
            fresh += 1
            stretches = _wide_stretches(run, pen_px)
        cuts = [0]
        ends = [run.ends[0]]
        count = len(run.points)
        for first, last in stretches:
            at_start, at_stop = first <= _LEAST, last >= count - 1 - _LEAST
            if at_start and at_stop:
                if max(run.ends) < 0:
                    continue
                if run.ends[0] < 0:
                    count = min(count, _LEAST)
                elif run.ends[1] < 0:
                    cuts = [max(0, count - _LEAST)]
                else:
                    owner[root(run.ends[0])] = root(run.ends[1])
                    cuts = [count]
            elif at_start:
                if run.ends[0] >= 0:
                    cuts = [last + 1]
            elif at_stop:
                if run.ends[1] >= 0:
                    count = first
            else:
                cuts += [first, last + 1]
                owner[fresh] = fresh
                ends += [fresh, fresh]
                fresh += 1
        ends.append(run.ends[1])
        if cuts[0] >= count:
            continue
        cuts.append(count)
        for k in range(0, len(cuts), 2):
            a, b = cuts[k], cuts[k + 1]
            shared = {}
            if k == 0 and a > 0:
                shared[0] = run.points[:a][::-1]
            if k == len(cuts) - 2 and b < len(run.points):
                shared[1] = run.points[b:]
            out.append(Run(run.points[a:b], run.half[a:b], [ends[k], ends[k + 1]], shared=shared))
    for run in out:
        run.ends = [root(end) if end >= 0 else -1 for end in run.ends]
    known = [(root(number), meeting) for number, meeting in meetings.items()]
    return out, _meetings_of(out, known, pen_px)


def _wide_stretches(run: Run, pen_px: float) -> list[tuple[int, int]]:
    """Return the first and last point of each stretch that is wider than the pen."""
    limit = 0.5 * (pen_px * (1.0 + _WIDER) + _WIDER_PX)
    wide: BoolArray = run.half > limit
    at = np.nonzero(wide)[0]
    if not len(at):
        return []
    parts = np.split(at, np.nonzero(np.diff(at) > _GAP)[0] + 1)
    sure = 0.5 * (pen_px * (1.0 + _SURELY * _WIDER) + _WIDER_PX)
    more = int(_MORE * 0.5 * pen_px)
    end = len(run.points) - 1
    out: list[tuple[int, int]] = []
    for part in parts:
        if len(part) < _LEAST or run.half[part].max() <= sure:
            continue
        first, last = max(0, int(part[0]) - more), min(end, int(part[-1]) + more)
        if out and first - out[-1][1] <= _LEAST:
            first = out.pop()[0]
        out.append((first, last))
    return out


def _has_own_pen(run: Run, pen_px: float) -> bool:
    """Return whether a run is a longer line of another pen: as wide all along."""
    slim, wide = np.quantile(run.half, (0.1, 0.9))
    return (
        len(run.points) > _OWN_LONG * pen_px and slim > 0.5 * _OWN_WIDE * pen_px and wide < _OWN_EVEN * slim
    )


def _meetings_of(runs: list[Run], known: list[tuple[int, Meeting]], pen_px: float) -> dict[int, Meeting]:
    """Return the meetings that runs name, each in the middle of its ends and as far around as they are.

    known: what each number's meetings were before.
    """
    places: dict[int, list[FloatArray]] = {}
    for run in runs:
        if run.closed:
            continue
        for side in (0, 1):
            if run.ends[side] >= 0:
                places.setdefault(run.ends[side], []).append(run.points[-1 if side else 0])
    before: dict[int, list[Meeting]] = {}
    for number, meeting in known:
        before.setdefault(number, []).append(meeting)
    out = {}
    for number, there in places.items():
        at, were = np.array(there), before.get(number, [])
        place = were[0].place if len(were) == 1 else at.mean(axis=0)
        reach = float(np.hypot(*(at - place).T).max())
        out[number] = Meeting(place, max(reach, *(meeting.radius for meeting in were), 0.5 * pen_px))
    return out
