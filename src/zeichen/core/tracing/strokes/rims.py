"""The middle of lines of any width, measured between their two rims, and where a pen was lifted."""

import math
from dataclasses import dataclass, field

import numpy as np
from scipy import ndimage

from zeichen.core.tracing.strokes.medial_graph import Edge, Meeting
from zeichen.core.tracing.strokes.rim_tracking import rims_along
from zeichen.core.values import FloatArray

# Points along a line are so far apart, px.
_STEP_PX = 1.0
# Pixel centres are smoothed over so many px before anything is measured, and middles after each round.
_STAIR_PX, _AFTER_PX = 2.0, 1.0
_ROUNDS = 3
# The way across is seen over so many points to either side.
_ALONG = 4
# Rims are looked for up to so many half widths, and so many px more; a middle that would move by more than a share of
# one, or lines wider than so many, are another line's.
_REACH, _REACH_PX = 2.0, 3.0
_MOST_MOVE, _MOST_WIDE = 0.7, 1.5
# The end of a line is looked at over so many half widths, and what lies nearer to it than that share of one is cap.
_END, _CAP = 1.3, 0.7
# No line is slimmer than a pixel.
_LEAST_HALF_PX = 0.5
# A line gets slimmer towards its end by no more than this, and wider by no more than that, px for each px.
_SLIMMER, _WIDER = 0.5, 0.3


@dataclass(slots=True, eq=False)
class Run:
    """An edge as measured: points (n, 2), half widths (n,), px, and the meetings at its ends (-1: free).

    shared: by end, the points beyond it, outwards, where it shares its ink with others.
    """

    points: FloatArray
    half: FloatArray
    ends: list[int]
    closed: bool = False
    shared: dict[int, FloatArray] = field(default_factory=dict)

    def from_side(self, side: int) -> tuple[FloatArray, FloatArray]:
        """Return points (n, 2) and half widths (n,), px, starting at an end (0 or 1)."""
        return (self.points[::-1], self.half[::-1]) if side else (self.points, self.half)

    def put(self, points: FloatArray, half: FloatArray, side: int) -> None:
        """Keep points (n, 2) and half widths (n,), px, that start at an end."""
        self.points, self.half = (points[::-1], half[::-1]) if side else (points, half)


@dataclass(frozen=True, slots=True)
class Lead:
    """How a run leaves at an end: the last place, the unit direction outwards, half width there and its slope."""

    place: FloatArray
    direction: FloatArray
    half: float
    slope: float


def measured_runs(
    ink: FloatArray, edges: list[Edge], meetings: dict[int, Meeting], half: FloatArray
) -> list[Run]:
    """Return the runs along edges, from meeting's rim to meeting's rim, free ends put where the pen was lifted.

    ink: (height, width), how much ink each pixel holds, 0-1. half: see medial_graph.
    """
    runs = []
    for edge in edges:
        points = smoothed(resampled(edge.points, edge.closed), _STAIR_PX, edge.closed)
        clear = np.ones(len(points), bool)
        for end in edge.ends:
            if end >= 0:
                clear &= np.hypot(*(points - meetings[end].place).T) > meetings[end].radius + 0.5
        inside = np.nonzero(clear)[0]
        if edge.closed:
            run = _measured(ink, points, half, closed=True)
        elif len(inside) < _ALONG:
            # All of it lies within meetings: their middle tells where it runs.
            middle = len(points) // 2
            points = points[max(0, middle - 2) : middle + 3]
            run = Run(points, _half_at(half, points), [])
        else:
            run = _measured(ink, points[inside[0] : inside[-1] + 1], half, closed=False)
        run.ends = list(edge.ends)
        if not run.closed:
            for side in (0, 1):
                if run.ends[side] < 0:
                    _end_where_lifted(ink, run, side)
        runs.append(run)
    return runs


def resampled(points: FloatArray, closed: bool, step_px: float = _STEP_PX) -> FloatArray:
    """Return points (n, 2) about a step apart along a polyline; a closed one does not repeat its first."""
    line = np.vstack([points, points[:1]]) if closed else points
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    apart = np.append(True, np.diff(along) > 1e-9)
    line, along = line[apart], along[apart]
    at = np.linspace(0.0, along[-1], max(2, round(along[-1] / step_px) + 1))
    out = np.stack([np.interp(at, along, line[:, k]) for k in (0, 1)], axis=1)
    return out[:-1] if closed else out


def smoothed(points: FloatArray, sigma: float, closed: bool) -> FloatArray:
    """Return points (n, 2) smoothed by a bell of so many points; the ends of an open line stay."""
    if len(points) < 4:
        return points
    if closed:
        return np.asarray(ndimage.gaussian_filter1d(points, sigma, axis=0, mode="wrap"))
    # Turned about its ends the line goes on straight there.
    n = min(len(points) - 1, int(4 * sigma) + 1)
    longer = np.vstack([2 * points[0] - points[n:0:-1], points, 2 * points[-1] - points[-2 : -n - 2 : -1]])
    return np.asarray(ndimage.gaussian_filter1d(longer, sigma, axis=0)[n : n + len(points)])


def directions(points: FloatArray, closed: bool) -> FloatArray:
    """Return the unit direction of a line at each of its points (n, 2)."""
    if closed:
        step = np.roll(points, -_ALONG, axis=0) - np.roll(points, _ALONG, axis=0)
    else:
        k = np.arange(len(points))
        step = points[np.minimum(k + _ALONG, len(points) - 1)] - points[np.maximum(k - _ALONG, 0)]
    return np.asarray(step / np.maximum(np.hypot(*step.T), 1e-9)[:, None])


def rim_distances(ink: FloatArray, points: FloatArray, directions: FloatArray, reach_px: float) -> FloatArray:
    """Return how far the rim lies from each point (n, 2) in a unit direction (n, 2), px; nan where none is in reach.

    It is the ink's sum on the way there: blur spreads ink evenly to both sides of a rim, and so does not move it.
    """
    start, along = (np.ascontiguousarray(values, np.float64) for values in (points, directions))
    return np.asarray(rims_along(ink, start, along, reach_px))


def _measured(ink: FloatArray, points: FloatArray, half: FloatArray, *, closed: bool) -> Run:
    """Return the run along a line's middle, moved to the middle of its rims a few times."""
    wide = np.zeros(0)
    for _ in range(_ROUNDS):
        points = resampled(points, closed)
        along = directions(points, closed)
        across = np.stack([-along[:, 1], along[:, 0]], axis=1)
        about = _half_at(half, points)
        reach = _REACH * float(about.max()) + _REACH_PX
        left, right = rim_distances(ink, points, across, reach), rim_distances(ink, points, -across, reach)
        move, wide = (left - right) / 2, (left + right) / 2
        good = (np.abs(move) < _MOST_MOVE * about + 1) & (wide < _MOST_WIDE * about + 2)
        points = smoothed(points + np.where(good, move, 0.0)[:, None] * across, _AFTER_PX, closed)
        wide = np.where(good, wide, np.nan)
    told = np.isfinite(wide)
    if told.any():
        k = np.arange(len(wide))
        return Run(points, np.interp(k, k[told], wide[told]), [], closed)
    return Run(points, _half_at(half, points), [], closed)


def _half_at(half: FloatArray, points: FloatArray) -> FloatArray:
    rows = np.clip(points[:, 1].astype(np.int64), 0, half.shape[0] - 1)
    columns = np.clip(points[:, 0].astype(np.int64), 0, half.shape[1] - 1)
    return np.asarray(half[rows, columns])


def lead_of(points: FloatArray, half: FloatArray, span_px: float) -> Lead:
    """Return how a line, points (n, 2) and half widths (n,), leaves at its end, seen no further back than span_px."""
    back = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points[::-1], axis=0).T))])[::-1]
    near = back <= max(span_px, float(_ALONG))
    near[-3:] = True
    points, half, back = points[near], half[near], back[near]
    middle = points.mean(axis=0)
    direction = np.linalg.svd(points - middle, full_matrices=False)[2][0]
    if direction @ (points[-1] - points[0]) < 0:
        direction = -direction
    place = middle + direction * ((points[-1] - middle) @ direction)
    slope = float(np.polyfit(-back, half, 1)[0]) if len(half) > _ALONG else 0.0
    last = max(_LEAST_HALF_PX, float(np.median(half[-max(3, len(half) // 3) :])))
    return Lead(place, direction, last, min(max(slope, -_SLIMMER), _WIDER))


def _end_where_lifted(ink: FloatArray, run: Run, side: int) -> None:
    """Let a run end where a round pen was lifted: as far before the ink's end as it is wide there."""
    points, half = run.from_side(1 - side)
    usual = float(np.median(half[-max(3, min(len(half), int(2 * half[-1]) + 1)) :]))
    back = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points[::-1], axis=0).T))])[::-1]
    # A cap tells no width.
    told = np.nonzero(back >= _CAP * usual)[0]
    last = int(told[-1]) if len(told) >= _ALONG else len(points) - 1
    lead = lead_of(points[: last + 1], half[: last + 1], _END * usual)
    end_px = float(rim_distances(ink, lead.place[None], lead.direction[None], 4.0 * usual + 6.0)[0])
    if not math.isfinite(end_px):
        return
    further = min(max((end_px - lead.half) / (1.0 + lead.slope), -0.5 * usual), end_px)
    end = lead.place + further * lead.direction
    keep = ((points - end) @ lead.direction < -0.3) | (np.arange(len(points)) < last - int(1.5 * usual))
    keep[0] = True
    points, half = points[keep], half[keep]
    count = max(1, int(math.hypot(*(end - points[-1]))))
    more = points[-1] + (end - points[-1]) * (np.arange(1, count + 1) / count)[:, None]
    run.put(np.vstack([points, more])[::-1], np.concatenate([half, np.full(count, lead.half)])[::-1], side)
