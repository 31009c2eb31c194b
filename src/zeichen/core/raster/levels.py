"""Which grey level parts dark from light.

A level L means: a pixel is dark when its grey is L or less ("dark up to L").
"""

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.errors import InvalidInputError
from zeichen.core.values import AnyArray, Bytes8Array, FloatArray

# Less difference than this between the darkest and lightest pixel is noise on an empty sheet.
_LEAST_CONTRAST = 16
# A level is in the middle of a tone if so many grey values to either side of it hold this share of all pixels, and
# three times as many as they do where there are fewest between ink and paper. Our own rule: with two tones the edges'
# pixels spread over all greys, a filled area's stay within its noise.
_TONE_REACH = 14
_TONE_SHARE, _TONE_TIMES = 0.01, 3.0
# Of pictures with twice as many pixels not every row is counted, but every eighth at least; of a few rows all.
_ENOUGH = 130_000
_EVERY_ROW = 8
_FEW_ROWS = 64


def histogram(grey: Bytes8Array) -> FloatArray:
    """Return how many pixels have each of the 256 grey values."""
    counts: FloatArray = _count(np.ascontiguousarray(grey).ravel()).astype(np.float64)
    return counts


@counted(cache=True)
def _count(values: Bytes8Array) -> AnyArray:
    # Four tables in turn: pixels side by side are mostly equal, and one count would wait for the other.
    counts = np.zeros((4, 256), np.int64)
    whole = len(values) // 4 * 4
    for k in range(0, whole, 4):
        counts[0, values[k]] += 1
        counts[1, values[k + 1]] += 1
        counts[2, values[k + 2]] += 1
        counts[3, values[k + 3]] += 1
    for k in range(whole, len(values)):
        counts[0, values[k]] += 1
    for grey in range(256):
        counts[0, grey] += counts[1, grey] + counts[2, grey] + counts[3, grey]
    total: AnyArray = counts[0].copy()
    return total


def otsu_level(grey: Bytes8Array) -> int:
    """Return the level with the largest variance between the dark and the light class.

    Source: N. Otsu, "A threshold selection method from gray-level histograms", IEEE Transactions on
    Systems, Man and Cybernetics 9 (1979).

    Raises
    ------
    InvalidInputError
        If the picture has one tone only.

    Examples
    --------
    >>> otsu_level(np.array([[10, 10, 200, 200]], dtype=np.uint8))
    10
    """
    return _parting(histogram(grey))


def _parting(counts: FloatArray) -> int:
    """Return Otsu's level of a histogram."""
    _require_contrast(counts)
    return int(_widest_apart(counts))


@counted(cache=True)
def _widest_apart(counts: FloatArray) -> int:
    total = of_all = 0.0
    for value in range(len(counts)):
        total += counts[value]
        of_all += counts[value] * value
    dark = of_dark = most = 0.0
    found = 0
    for value in range(len(counts) - 1):
        dark += counts[value]
        of_dark += counts[value] * value
        light = total - dark
        if dark > 0.0 and light > 0.0:
            between = dark * light * (of_dark / dark - (of_all - of_dark) / light) ** 2
            if between > most:
                most, found = between, value
    return found


def edge_level(grey: Bytes8Array) -> int:
    """Return the level half-way between ink and paper: where an antialiased edge truly runs.

    Otsu's level parts the classes, but with few grey pixels between them it is nearly arbitrary
    inside the gap, and any level off the middle makes every shape a little fat or thin. So Otsu
    decides which pixels are ink and which are paper, and the middle of the two medians is the edge.

    Examples
    --------
    >>> edge_level(np.array([[0] * 8 + [100] + [255] * 8], dtype=np.uint8))
    127
    """
    dark, light = ink_and_paper(grey)
    return int((dark + light) // 2)


def ink_and_paper(grey: Bytes8Array) -> tuple[int, int]:
    """Return the middle grey of the dark and of the light side of Otsu's level.

    Raises
    ------
    InvalidInputError
        If the picture has one tone only.
    """
    # Some pixels tell the two tones as well as all; a spot of a few rows must not be passed over.
    pace = max(1, min(grey.size // _ENOUGH, _EVERY_ROW, len(grey) // _FEW_ROWS))
    counts = histogram(grey[::pace])
    parting = _parting(counts)
    return int(_median(counts, 0, parting + 1)), int(_median(counts, parting + 1, len(counts)))


def level_off_tones(grey: Bytes8Array, ink: int, paper: int) -> int:
    """Return the level half-way between ink and paper, or the nearest that is in the middle of no area's tone.

    There it would draw the noise of that area instead of an edge.
    """
    middle = (ink + paper) // 2
    first, last = ink + _TONE_REACH, paper - _TONE_REACH
    if first >= last:
        return middle
    near = np.convolve(histogram(grey), np.ones(2 * _TONE_REACH + 1), mode="same") / grey.size
    least = float(near[first : last + 1].min())
    if near[middle] < max(_TONE_SHARE, _TONE_TIMES * least):
        return middle
    free = first + np.nonzero(near[first : last + 1] <= max(_TONE_SHARE / 2, 1.5 * least))[0]
    return int(free[np.abs(free - middle).argmin()])


@uncounted(cache=True)
def _median(counts: FloatArray, first: int, last: int) -> int:
    """Return the value in the middle of those counted from the first up to before the last."""
    half = 0.0
    for value in range(first, last):
        half += 0.5 * counts[value]
    below = 0.0
    for value in range(first, last):
        below += counts[value]
        if below >= half:
            return value
    return last - 1


def _require_contrast(counts: FloatArray) -> None:
    used = np.nonzero(counts)[0]
    if used[-1] - used[0] < _LEAST_CONTRAST:
        tone = "white" if used[0] > 200 else "black" if used[-1] < 55 else "grey"
        raise InvalidInputError(
            f"The picture is all {tone}: there is no figure to trace. Bring in a picture with a dark figure "
            "on a light ground."
        )
