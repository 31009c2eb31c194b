"""Thinning of drawn lines to one pixel, and the pixels where thinned lines meet.

Source: T. Y. Zhang and C. Y. Suen, "A fast parallel algorithm for thinning digital patterns",
Communications of the ACM 27 (1984), with the least number of neighbours of H. E. Lue and P. S. P. Wang,
"A comment on 'A fast parallel algorithm for thinning digital patterns'", ibid. 29 (1986, from memory),
without which slanted lines an even number of pixels wide vanish. A pixel is looked at again only when
one beside it has gone.
"""

import numpy as np

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.values import AnyArray, BoolArray

# The eight neighbours in the order of the source: up first, then with the clock.
_ROWS = (-1, -1, 0, 1, 1, 1, 0, -1)
_COLUMNS = (0, 1, 1, 1, 0, -1, -1, -1)


def _table() -> AnyArray:
    """Return for each pattern of neighbours (one bit each) in which passes its pixel goes: 1, 2, or 3 for both."""
    out = np.zeros(256, np.uint8)
    for pattern in range(256):
        p = [pattern >> k & 1 for k in range(8)]
        rises = sum(p[k] == 0 and p[(k + 1) % 8] == 1 for k in range(8))
        if 3 <= sum(p) <= 6 and rises == 1:
            up, right, down, left = p[0], p[2], p[4], p[6]
            first = not (up and right and down) and not (right and down and left)
            second = not (up and right and left) and not (up and down and left)
            out[pattern] = first + 2 * second
    return out


def _spare() -> BoolArray:
    """Return for each pattern whether its pixel, a corner of a step, may go with its neighbours still connected.

    They are if the crossing number of Hilditch is one (C. J. Hilditch, "Linear skeletons from square
    cupboards", Machine Intelligence 4, 1969, from memory). A corner has two neighbours that share a side with
    it: with one, it may be the end of a line, which would be taken off pixel by pixel.
    """
    out = np.zeros(256, np.bool_)
    for pattern in range(256):
        p = [pattern >> k & 1 for k in range(8)]
        crossing = sum(not p[k] and (p[k + 1] or p[(k + 2) % 8]) for k in (0, 2, 4, 6))
        out[pattern] = sum(p[::2]) >= 2 and crossing == 1
    return out


_GOES = _table()
_SPARE = _spare()


def thinned(mask: AnyArray) -> tuple[BoolArray, AnyArray, AnyArray]:
    """Return the thinned mask, and the rows and columns of its pixels.

    Parameters
    ----------
    mask : (height, width) bool array
        No pixel of its rim may be set.
    """
    thin = np.array(mask, dtype=np.bool_, order="C")
    rows, columns = _thin(thin, np.flatnonzero(thin), _GOES, _SPARE)
    return thin, rows, columns


@counted(cache=True)
def _thin(thin: BoolArray, inked: AnyArray, goes: AnyArray, spare: BoolArray) -> tuple[AnyArray, AnyArray]:
    """Thin a mask, whose set pixels' places are given, in place; returns rows and columns of what is left."""
    width = thin.shape[1]
    flat = thin.ravel()
    steps = np.empty(8, np.int64)
    for k in range(8):
        steps[k] = _ROWS[k] * width + _COLUMNS[k]
    total = len(inked)
    now = np.empty(total, np.int64)
    later = np.empty(total, np.int64)
    gone = np.empty(total, np.int64)
    # In which pass a pixel was put on a list last.
    listed = np.zeros(len(flat), np.int32)
    active = NONE
    for i in inked:
        if not (flat[i - 1] and flat[i + 1] and flat[i - width] and flat[i + width]):
            now[active] = i
            active += 1
    number = 0
    while active:
        waiting = NONE
        number += 1
        for bit in (1, 2):
            many = 0
            for j in range(active):
                i = now[j]
                pattern = 0
                for k in range(8):
                    pattern |= flat[i + steps[k]] << k
                if goes[pattern] & bit:
                    gone[many] = i
                    many += 1
            for j in range(many):
                flat[gone[j]] = False
            for j in range(many):
                for k in range(8):
                    i = gone[j] + steps[k]
                    if flat[i] and listed[i] != number:
                        listed[i] = number
                        later[waiting] = i
                        waiting += 1
            if bit == 1:
                # The second pass looks at those, too, once each.
                active = _with_new(now, active, later, waiting, flat, listed, number)
        active = NONE
        for j in range(waiting):
            if flat[later[j]]:
                now[active] = later[j]
                active += 1
    # What is left may be two pixels wide where it climbs in steps.
    left = 0
    for j in range(total):
        i = inked[j]
        if flat[i]:
            pattern = 0
            for k in range(8):
                pattern |= flat[i + steps[k]] << k
            if spare[pattern]:
                flat[i] = False
            else:
                inked[left] = i
                left += 1
    return inked[:left] // width, inked[:left] % width


@uncounted
def _with_new(
    now: AnyArray,
    active: int,
    later: AnyArray,
    waiting: int,
    flat: BoolArray,
    listed: AnyArray,
    number: int,
) -> int:
    """Leave on a list what is still there and not on the second one, then add the second; returns its length."""
    left = 0
    for j in range(active):
        i = now[j]
        if flat[i] and listed[i] != number:
            now[left] = i
            left += 1
    for j in range(waiting):
        now[left] = later[j]
        left += 1
    return left


@counted(cache=True)
def meeting_pixels(thin: BoolArray, rows: AnyArray, columns: AnyArray) -> tuple[AnyArray, AnyArray]:
    """Return, for a thinned mask, the number of each pixel's meeting (0: none), and where their middles are.

    At a meeting a pixel has more than two neighbours; touching ones (corners count) are one meeting. The
    middles are (n, 2), column and row.
    """
    numbers = np.zeros(thin.shape, np.int32)
    many = 0
    for j in range(len(rows)):
        around = 0
        for k in range(8):
            around += thin[rows[j] + _ROWS[k], columns[j] + _COLUMNS[k]]
        if around > 2:
            numbers[rows[j], columns[j]] = -1
            many += 1
    stack = np.empty((many, 2), np.int64)
    middles = np.empty((many, 2))
    count = 0
    for j in range(len(rows)):
        if numbers[rows[j], columns[j]] >= 0:
            continue
        stack[0, 0], stack[0, 1] = rows[j], columns[j]
        numbers[rows[j], columns[j]] = count + 1
        high = 1
        x = y = 0.0
        size = 0
        while high:
            high -= 1
            r, c = stack[high, 0], stack[high, 1]
            x += c
            y += r
            size += 1
            for k in range(8):
                rr, cc = r + _ROWS[k], c + _COLUMNS[k]
                if numbers[rr, cc] == -1:
                    numbers[rr, cc] = count + 1
                    stack[high, 0], stack[high, 1] = rr, cc
                    high += 1
        middles[count, 0], middles[count, 1] = x / size, y / size
        count += 1
    return numbers, middles[:count].copy()


@counted(cache=True)
def walked(rest: AnyArray, groups: AnyArray) -> tuple[AnyArray, AnyArray, AnyArray, AnyArray, AnyArray]:
    """Return the runs of thinned pixels that are no meeting's, one after the other.

    rest: (height, width) bool, those pixels; groups: (height, width) int, the number of the meeting a pixel belongs to,
    0 for none; neither has any in its outermost ring. Returns rows and columns (n,) of all pixels in order, per run the
    meeting at its start and its length (runs, 2), the meeting at its end (runs,), and whether it is a ring (runs,).
    """
    height, width = rest.shape
    total = 0
    for r in range(height):
        for c in range(width):
            if rest[r, c]:
                total += 1
    rows = np.empty(total, np.int64)
    columns = np.empty(total, np.int64)
    starts = np.empty((total, 2), np.int64)
    ends = np.empty(total, np.int64)
    loops = np.zeros(total, np.bool_)
    seen = np.zeros((height, width), np.bool_)
    filled = 0
    count = 0
    # Straight neighbours before diagonal ones, so that no pixel of a stair is left out.
    dr = (0, 1, 0, -1, 1, 1, -1, -1)
    dc = (1, 0, -1, 0, 1, -1, 1, -1)
    for round_loops in range(2):
        for r0 in range(1, height - 1):
            for c0 in range(1, width - 1):
                if not rest[r0, c0] or seen[r0, c0]:
                    continue
                friends = 0
                for k in range(8):
                    if rest[r0 + dr[k], c0 + dc[k]] and not seen[r0 + dr[k], c0 + dc[k]]:
                        friends += 1
                if round_loops == 0 and friends > 1:
                    continue
                first = filled
                r, c = r0, c0
                while True:
                    seen[r, c] = True
                    rows[filled], columns[filled] = r, c
                    filled += 1
                    moved = False
                    for k in range(8):
                        rr, cc = r + dr[k], c + dc[k]
                        if rest[rr, cc] and not seen[rr, cc]:
                            r, c = rr, cc
                            moved = True
                            break
                    if not moved:
                        break
                size = filled - first
                meets = np.zeros(2, np.int64)
                for end in range(2):
                    r, c = rows[first if end == 0 else filled - 1], columns[first if end == 0 else filled - 1]
                    for k in range(8):
                        g = groups[r + dr[k], c + dc[k]]
                        if g > 0 and (size > 1 or end == 0 or g != meets[0]):
                            meets[end] = g
                            break
                loops[count] = (
                    size > 3
                    and meets[0] == 0
                    and meets[1] == 0
                    and abs(rows[first] - rows[filled - 1]) <= 1
                    and abs(columns[first] - columns[filled - 1]) <= 1
                )
                starts[count, 0], starts[count, 1] = meets[0], size
                ends[count] = meets[1]
                count += 1
    return rows, columns, starts[:count].copy(), ends[:count].copy(), loops[:count].copy()
