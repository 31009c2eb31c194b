"""Which points of a boundary tell of it, and how it runs there."""

import math

import numpy as np

from zeichen.core.compiled import FAST_SUMS, common, counted, uncounted
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Shorter contours keep all their points, and others those so near to where chords over so many turn by more.
_SHORT_LOOP = 200
_PACE = common(6)
_NEAR_BEND = 14
_ONE_IN = 2
# Further from bends than this still fewer tell.
_FAR_FROM_BENDS = 36
_ONE_IN_FAR = 4
_GENTLE = math.tan(math.radians(7.0))
_LOOP = common(True)
# No more points than this on either side of one tell how the edge runs there.
_MOST_BESIDE = 24


@counted(cache=True)
def telling(points: FloatArray, starts: AnyArray) -> tuple[AnyArray, AnyArray, FloatArray]:
    """Return the numbers of the points that tell all there is of closed contours, and where each then starts.

    All of those near a bend, every second one elsewhere: fits feel corners by points near them, and curves by few.
    The third is for how many points each of these stands. points: (n, 2), px; starts: (contours + 1,).
    """
    kept = np.empty(len(points), np.int64)
    begins = np.empty(len(starts), np.int64)
    count = 0
    for loop in range(len(starts) - 1):
        first, n = starts[loop], starts[loop + 1] - starts[loop]
        begins[loop] = count
        away = np.zeros(n, np.int64)
        if n >= _SHORT_LOOP:
            away = from_bends(points[first : first + n], _LOOP, _PACE, _GENTLE)
        for i in range(n):
            away[i] = max(away[i] - _NEAR_BEND, 0)
        last = -_ONE_IN_FAR
        for i in range(n):
            if away[i] == 0 or i - last >= (_ONE_IN if away[i] < _FAR_FROM_BENDS else _ONE_IN_FAR):
                kept[count] = first + i
                count += 1
                last = i
    begins[len(starts) - 1] = count
    kept = kept[:count].copy()
    return kept, begins, standing_for(kept, starts, begins)


@counted(cache=True)
def from_bends(points: FloatArray, closed: bool, pace: int, most: float) -> AnyArray:
    """Return how many points each point of a run (n, 2) is away from the nearest bend, (n,); 0: it is in one.

    A bend is where chords over so many points turn by more than an angle with the tangent `most`.
    """
    n = len(points)
    away = np.full(n, 2 * n)
    before, after = n - pace if closed else -pace, pace
    for i in range(n):
        if before >= 0 and after < n:
            ax, ay = points[i, 0] - points[before, 0], points[i, 1] - points[before, 1]
            bx, by = points[after, 0] - points[i, 0], points[after, 1] - points[i, 1]
            if abs(ax * by - ay * bx) > most * (ax * bx + ay * by):
                away[i] = 0
        before = 0 if before + 1 == n else before + 1
        after = 0 if closed and after + 1 == n else after + 1
    # In either direction; of a loop twice round, for what lies behind the start.
    rounds = 2 if closed else 1
    for direction in (1, -1):
        steps = 2 * n
        for j in range(rounds * n):
            i = j if j < n else j - n
            if direction < 0:
                i = n - 1 - i
            steps = min(steps + 1, away[i])
            away[i] = steps
    return away


@counted
def standing_for(kept: AnyArray, starts: AnyArray, begins: AnyArray) -> FloatArray:
    """Return for how many points of closed contours each kept one stands: half the way to its neighbours.

    kept: (k,), their numbers; starts: where each contour starts among all points; begins: among those kept.
    """
    out = np.ones(len(kept))
    for loop in range(len(starts) - 1):
        first, last = begins[loop], begins[loop + 1]
        n = starts[loop + 1] - starts[loop]
        if last - first < 2:
            continue
        before = kept[last - 1] - n
        for k in range(first, last):
            after = kept[k + 1] if k + 1 < last else kept[first] + n
            out[k] = 0.5 * (after - before)
            before = kept[k]
    return out


@counted(cache=True, fastmath=FAST_SUMS)
def normals(
    points: FloatArray, starts: AnyArray, closed: BoolArray, window: float, at: AnyArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the unit normal into the ink, the curvature (1/px, positive where ink is convex)
    and the offset of some points, given by their numbers, which rise.

    Each comes from a parabola through the points (n, 2), px, within a window of arc length on either side; at: (k,).
    Returns (k, 2), (k,) and (k,).
    """
    total = len(at)
    normal = np.zeros((total, 2))
    curvature = np.zeros(total)
    offset = np.zeros(total)
    # Each loop in rows, x, y and the length so far, with what comes before its start and after its end.
    longest = 0
    for k in range(len(starts) - 1):
        longest = max(longest, starts[k + 1] - starts[k])
    rows = np.empty((3, longest + 2 * _MOST_BESIDE))
    loop = -1
    begin = end = most = 0
    for out in range(total):
        here = at[out]
        if loop < 0 or here >= starts[loop + 1]:
            while loop < 0 or here >= starts[loop + 1]:
                loop += 1
            first, n = starts[loop], starts[loop + 1] - starts[loop]
            most = min(_MOST_BESIDE, (n + 1) // 2) if closed[loop] else _MOST_BESIDE
            begin, end = _lay_in_rows(points[first : first + n], closed[loop], rows)
        k = here - starts[loop] + _MOST_BESIDE
        px, py, run = rows[0, k], rows[1, k], rows[2, k]
        low, high = k, k + 1
        while low > begin and k - low < most - 1 and (low == k or run - rows[2, low - 1] <= window):
            low -= 1
        while high < end and high - k < most and (high == k + 1 or rows[2, high] - run <= window):
            high += 1
        if high - low < 2:
            continue
        # Chord direction first, then a parabola over the chord.
        mx = my = 0.0
        for j in range(np.uint64(k + 1), np.uint64(high)):
            mx += rows[0, j] - px
            my += rows[1, j] - py
        ahead = max(high - k - 1, 1)
        sx, sy = mx / ahead, my / ahead
        mx = my = 0.0
        for j in range(np.uint64(low), np.uint64(k)):
            mx += rows[0, j] - px
            my += rows[1, j] - py
        behind = max(k - low, 1)
        sx, sy = sx - mx / behind, sy - my / behind
        size = math.sqrt(sx * sx + sy * sy)
        if size < 1e-9:
            continue
        tx, ty = sx / size, sy / size
        # Dark lies on the right of the run: with y down that is (-ty, tx).
        s1 = s2 = s3 = s4 = h0 = h1 = h2 = 0.0
        for j in range(np.uint64(low), np.uint64(high)):
            dx, dy = rows[0, j] - px, rows[1, j] - py
            u = dx * tx + dy * ty
            v = -dx * ty + dy * tx
            square = u * u
            s1 += u
            s2 += square
            s3 += square * u
            s4 += square * square
            h0 += v
            h1 += v * u
            h2 += v * square
        # Least squares v = a + b u + c u u; the point itself is one of them.
        used = high - low
        slope = 0.0
        a, b, c, det = solve_three((float(used), s1, s2, s2, s3, s4), (h0, h1, h2))
        size = 1.0
        if abs(det) > 1e-9 and used >= 4:
            slope = b
            size = math.sqrt(1.0 + slope * slope)
            offset[out] = -a
            curvature[out] = 2.0 * c / (size * size * size)
        elif s2 > 1e-9:
            slope = h1 / s2
        if abs(slope) > 1.0:
            slope = 0.0
        size = math.sqrt(1.0 + slope * slope)
        normal[out, 0] = (-ty - slope * tx) / size
        normal[out, 1] = (tx - slope * ty) / size
    return normal, curvature, offset


@uncounted
def _lay_in_rows(points: FloatArray, closed: bool, rows: FloatArray) -> tuple[int, int]:
    """Write a run of points into rows of x, y and length so far, from column _MOST_BESIDE on.

    Around a closed one stands what comes before and after. Returns the first column filled and the one after the last.
    """
    n = len(points)
    begin, end = (0, n + 2 * _MOST_BESIDE) if closed else (_MOST_BESIDE, n + _MOST_BESIDE)
    i = (begin - _MOST_BESIDE) % n
    for column in range(begin, end):
        rows[0, column], rows[1, column] = points[i, 0], points[i, 1]
        i = i + 1 if i + 1 < n else 0
    rows[2, begin] = 0.0
    for column in range(begin + 1, end):
        dx, dy = rows[0, column] - rows[0, column - 1], rows[1, column] - rows[1, column - 1]
        rows[2, column] = rows[2, column - 1] + math.sqrt(dx * dx + dy * dy)
    return begin, end
