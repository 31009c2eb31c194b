"""Ink of lines of one width that no stroke covers yet: feet and hooks at their ends, short lines beside others, dashes.

One way for all of it: candidates are proposed, drawn and compared with the picture's ink, and the best is kept if it
explains enough.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.optimize import minimize
from scipy.spatial import cKDTree

from zeichen.core.compiled import uncounted
from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.rims import lead_of, resampled, rim_distances
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# A patch that strokes so many px wider do not cover is looked at if it is larger than this, pen widths squared: the
# corner of a line cut off square has .05.
_WIDER_PX, _LEAST_PATCH = 2.0, 0.08
# The largest so many are: each takes some hundredth of a second.
_MOST_PATCHES = 60
# The picture is compared so many pen widths around a patch, at about so many places a pen width, and fewer where a
# patch is so large that there were more than so many in all: what decides there is not its rim.
_AROUND, _PLACES, _MOST_PLACES = 1.6, 10, 6000
# An end no further off than so many pen widths may have turned into a patch; it is drawn anew from so many before it.
# So many at most, the nearest: where there are more, lines cross like a mesh.
_NEAR, _ANEW, _MOST_ENDS = 1.5, 2.0, 4
# Straight on the ink ends no further off than so many half widths.
_FAR = 8.0
# What is kept leaves less than this share of what was wrong before; a line of its own must leave so much less again
# than an end that turned.
_BETTER, _OWN = 0.6, 0.75
# A piece no longer than so many pen widths is a dash if a straight stroke leaves no more than this share of its ink,
# and is so much longer than wide, pen widths.
_DASH_LONG, _DASH_LEFT, _DASH_LEAST = 3.4, 0.12, 0.3
# It has at least so much ink, pen widths squared, and spreads so much further along than across (a dash that
# is longer than wide by the above does by 1.25); of so many pieces it is tried, each takes some hundredth of a second.
_LEAST_DASH, _DASH_SPREAD, _MOST_DASHES = 0.7, 1.15, 300
# Shifts, px, within which a candidate's places are found, and in how many steps at most.
_EXACT_PX, _STEPS = 0.03, 220
# An end that turns by less, as a cosine, has no corner.
_STRAIGHT = 0.94


@dataclass(frozen=True, slots=True)
class _Window:
    """The picture around a patch: places (n, 2), px, the ink there (n,), and how much of the sheet each stands for."""

    places: FloatArray
    ink: FloatArray
    px2: float
    half: float

    def covered(self, off: FloatArray) -> FloatArray:
        """Return how much of each place a pen covers whose middle is so far off, px."""
        return np.asarray(np.clip(self.half - off + 0.5, 0.0, 1.0))

    def wrong(self, covered: FloatArray) -> float:
        """Return how much ink is uncovered, and paper covered, px²."""
        return float(np.abs(self.ink - covered).sum()) * self.px2

    def by(self, lines: list[PenLine]) -> FloatArray:
        """Return how much lines cover of each place."""
        reach = self.half + 2.0
        low, high = self.places.min(axis=0) - reach, self.places.max(axis=0) + reach
        points = [
            line.points
            for line in lines
            if len(line.points)
            and (line.points.max(axis=0) >= low).all()
            and (line.points.min(axis=0) <= high).all()
        ]
        if not points:
            return np.zeros(len(self.places))
        tree = cKDTree(np.vstack([resampled(p, closed=False) if len(p) > 1 else p for p in points]))
        off, _ = tree.query(self.places, distance_upper_bound=reach)
        return self.covered(np.where(np.isfinite(off), off, 1e9))


def with_uncovered(ink: FloatArray, mask: BoolArray, lines: list[PenLine], pen_px: float) -> list[PenLine]:
    """Return lines with what they leave uncovered: ends that turned, and lines of their own.

    ink: (height, width), how much ink each pixel holds, 0-1; mask: its pixels that are lines.
    """
    lines = list(lines)
    canvas = np.zeros(mask.shape, np.uint8)
    for line in lines:
        _draw(canvas, line, pen_px + _WIDER_PX)
    _, numbers, stats, middles = cv2.connectedComponentsWithStats(
        (mask & (canvas == 0)).astype(np.uint8), connectivity=8
    )
    sizes = stats[1:, cv2.CC_STAT_AREA]
    order = np.argsort(-sizes, kind="stable")[:_MOST_PATCHES]
    for k in order[sizes[order] >= _LEAST_PATCH * pen_px**2] + 1:
        x, y, wide, high, _ = (int(v) for v in stats[k])
        rows, columns = np.nonzero(numbers[y : y + high, x : x + wide] == k)
        patch = np.stack([columns + (x + 0.5), rows + (y + 0.5)], axis=1)
        window = _window(ink, patch, pen_px)
        _explain(ink, window, patch, middles[k] + 0.5, lines)
    return lines


def dashes(ink: FloatArray, mask: BoolArray, pen_px: float) -> tuple[list[PenLine], BoolArray]:
    """Return the short pieces of a picture that are straight strokes, and the mask without them.

    ink, mask: (height, width), see with_uncovered.
    """
    count, numbers, stats, middles = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    found: list[PenLine] = []
    tried = 0
    gone = np.zeros(count, bool)
    for k in range(1, count):
        x, y, wide, high, area = (int(v) for v in stats[k])
        if max(wide, high) > _DASH_LONG * pen_px:
            continue
        # What is no longer than wide is a speck or a dot; most pieces of a dirty picture are.
        if area < _LEAST_DASH * pen_px**2 or tried == _MOST_DASHES:
            continue
        rows, columns = np.nonzero(numbers[y : y + high, x : x + wide] == k)
        piece = np.stack([columns + (x + 0.5), rows + (y + 0.5)], axis=1)
        spread = np.sqrt(np.linalg.eigvalsh(np.cov(piece.T)))
        if spread[1] < _DASH_SPREAD * spread[0]:
            continue
        tried += 1
        window = _window(ink, piece, pen_px, around=0.3)
        ends, wrong = _best(window, np.zeros(len(window.places)), _along(piece, middles[k] + 0.5, pen_px / 2))
        if wrong < _DASH_LEFT * area and np.hypot(*(ends[1] - ends[0])) > _DASH_LEAST * pen_px:
            found.append(_line(ends, pen_px / 2))
            gone[k] = True
    return found, mask & ~gone[numbers]


def _draw(canvas: AnyArray, line: PenLine, width_px: float) -> None:
    points = np.round((line.points - 0.5) * 16).astype(np.int32)
    cv2.polylines(canvas, [points], line.closed, 255, max(1, round(width_px)), cv2.LINE_8, 4)


def _window(ink: FloatArray, patch: FloatArray, pen_px: float, *, around: float = _AROUND) -> _Window:
    low = np.maximum(np.floor(patch.min(axis=0) - around * pen_px), 0).astype(int)
    high = np.ceil(patch.max(axis=0) + around * pen_px).astype(int)
    step = max(1, int(pen_px / _PLACES), round(math.sqrt(float(np.prod(high - low)) / _MOST_PLACES)))
    columns = np.arange(low[0], min(high[0], ink.shape[1]), step)
    rows = np.arange(low[1], min(high[1], ink.shape[0]), step)
    x, y = np.meshgrid(columns, rows)
    places = np.stack([x.ravel(), y.ravel()], axis=1) + 0.5
    return _Window(places, ink[y.ravel(), x.ravel()].astype(np.float64), float(step * step), pen_px / 2)


def _explain(
    ink: FloatArray, window: _Window, patch: FloatArray, middle: FloatArray, lines: list[PenLine]
) -> None:
    """Change the lines by what explains a patch best, if anything does."""
    pen_px = 2.0 * window.half
    before = window.wrong(window.by(lines))
    best, change = _BETTER * before, None
    for number, side in _ends_near(patch, lines, _NEAR * pen_px):
        line = lines[number]
        points = line.points[::-1] if side == 0 else line.points
        kept = points[: _cut(points, _ANEW * pen_px)]
        others = [*lines[:number], *lines[number + 1 :], _line(kept, window.half)]
        covered = window.by(others)
        for turn in (points[-1], _straight_on(ink, kept, window.half)):
            found, wrong = _best(window, covered, np.vstack([turn, middle]), start=kept[-1])
            if wrong < best:
                best, change = wrong, (number, side, kept, found)
    covered = window.by(lines)
    nearest = min(
        (line.points[np.hypot(*(line.points - middle).T).argmin()] for line in lines),
        default=middle,
        key=lambda place: float(np.hypot(*(place - middle))),
    )
    for ends in (np.vstack([nearest, middle]), _along(patch, middle, window.half)):
        found, wrong = _best(window, covered, ends)
        if wrong < _OWN * best:
            best, change = wrong / _OWN, (-1, 0, found[:0], found)
    if change is None:
        return
    number, side, kept, found = change
    if number < 0:
        lines.append(_line(found, window.half))
        return
    line = lines[number]
    corner, end = found
    come, go = corner - kept[-1], end - corner
    turned = float(come @ go) < _STRAIGHT * float(np.hypot(*come) * np.hypot(*go))
    whole = np.vstack(
        [kept, resampled(np.vstack([kept[-1], corner]), closed=False)[1:], resampled(found, closed=False)[1:]]
    )
    corners = [c for c in line.corners if np.hypot(*(kept - c).T).min() < 0.5]
    whole = whole[::-1] if side == 0 else whole
    lines[number] = PenLine(
        whole, np.full(len(whole), window.half), False, [*corners, corner] if turned else corners
    )


def _ends_near(patch: FloatArray, lines: list[PenLine], within_px: float) -> list[tuple[int, int]]:
    """Return the ends near a patch, (n, 2) px: each as a line's number and 0 for its start, in the lines' order."""
    near = []
    for number, line in enumerate(lines):
        if line.closed or len(line.points) < 3:
            continue
        for side, end in ((0, line.points[0]), (1, line.points[-1])):
            off = float(np.hypot(*(patch - end).T).min())
            if off <= within_px:
                near.append((off, number, side))
    return sorted((number, side) for _, number, side in sorted(near)[:_MOST_ENDS])


def _best(
    window: _Window, covered: FloatArray, places: FloatArray, *, start: FloatArray | None = None
) -> tuple[FloatArray, float]:
    """Return the places (m, 2) near some at which a stroke through them explains the window best, and what is wrong.

    covered: by what else is drawn; start: where the stroke comes from.
    """
    first = [] if start is None else [start]

    def wrong(values: FloatArray) -> float:
        polyline = np.vstack([*first, values.reshape(-1, 2)])
        return float(_wrong_with(window.places, window.ink, covered, polyline, window.half)) * window.px2

    simplex = np.vstack([places.ravel(), places.ravel() + 0.5 * window.half * np.eye(places.size)])
    found = minimize(
        wrong,
        places.ravel(),
        method="Nelder-Mead",
        options={"initial_simplex": simplex, "xatol": _EXACT_PX, "fatol": 0.05, "maxfev": _STEPS},
    )
    return np.asarray(found.x.reshape(-1, 2)), float(found.fun)


@uncounted(cache=True)
def _wrong_with(
    places: FloatArray, ink: FloatArray, covered: FloatArray, polyline: FloatArray, half: float
) -> float:
    """Return how much of the ink at places is uncovered, and paper covered, with a stroke (m, 2) drawn there, too."""
    total = 0.0
    for k in range(len(places)):
        x, y = places[k, 0], places[k, 1]
        nearest = np.inf
        for i in range(len(polyline) - 1):
            ax, ay = polyline[i, 0], polyline[i, 1]
            bx, by = polyline[i + 1, 0] - ax, polyline[i + 1, 1] - ay
            t = min(1.0, max(0.0, ((x - ax) * bx + (y - ay) * by) / max(bx * bx + by * by, 1e-9)))
            dx, dy = x - ax - t * bx, y - ay - t * by
            nearest = min(nearest, dx * dx + dy * dy)
        here = min(1.0, max(0.0, half - math.sqrt(nearest) + 0.5))
        total += abs(ink[k] - max(covered[k], here))
    return total


def _along(patch: FloatArray, middle: FloatArray, half: float) -> FloatArray:
    """Return the ends of a stroke along pixels (n, 2), as long as they are less its caps."""
    direction = np.linalg.svd(patch - middle, full_matrices=False)[2][0]
    reach = (patch - middle) @ direction
    back, ahead = min(float(reach.min()) + half, 0.0), max(float(reach.max()) - half, 0.0)
    return np.vstack([middle + back * direction, middle + ahead * direction])


def _cut(points: FloatArray, length_px: float) -> int:
    """Return how many points of a line lie no nearer to its end than a length along it; two at least."""
    back = np.cumsum(np.hypot(*np.diff(points[::-1], axis=0).T))
    return max(2, len(points) - 1 - int(np.searchsorted(back, length_px)))


def _straight_on(ink: FloatArray, kept: FloatArray, half: float) -> FloatArray:
    """Return where a line ends that goes straight on to the end of the ink."""
    lead = lead_of(kept, np.full(len(kept), half), 2.0 * half)
    rim = float(rim_distances(ink, kept[-1:], lead.direction[None], _FAR * half)[0])
    further = max(rim - half, 0.0) if np.isfinite(rim) else 2.0 * half
    return np.asarray(kept[-1] + further * lead.direction)


def _line(points: FloatArray, half: float) -> PenLine:
    dense = resampled(points, closed=False) if len(points) > 1 else points
    return PenLine(dense, np.full(len(dense), half), False, [])
