"""How noisy a picture is where nothing is drawn."""

import cv2
import numpy as np

from zeichen.core.values import AnyArray, value_below

# Differences of second differences: even areas, slopes and edges along rows or columns leave nothing.
_MASK = np.array([[1.0, -2.0, 1.0], [-2.0, 4.0, -2.0], [1.0, -2.0, 1.0]])
# What noise of one grey leaves of it: the root of the sum of its squares; and the median of a bell of width one.
_GAIN, _MEDIAN = 6.0, 0.6745


def grey_noise(grey: AnyArray) -> float:
    """Return the standard deviation of the noise in a picture most of which is flat, grey levels.

    Parameters
    ----------
    grey : (height, width) array
        One less than 3 px wide or high tells nothing: 0.

    Notes
    -----
    J. Immerkaer, "Fast noise variance estimation", Computer Vision and Image Understanding 64 (1996), with the
    median in place of the mean, so that what is drawn does not count.
    """
    if min(grey.shape) < len(_MASK):
        return 0.0
    # Seldom does more than every second row tell anything else.
    rest = cv2.filter2D(grey.astype(np.float32), -1, _MASK)[1:-1:2, 1:-1:2]
    return value_below(np.abs(rest).ravel(), 0.5) / (_GAIN * _MEDIAN)
