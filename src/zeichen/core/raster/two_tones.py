"""What ink and paper alone would lose of a picture's colours.

All limits in this module are our own rules, measured on open sets (bench.forecasts); no source.
"""

import numpy as np

from zeichen.core.raster.colours import Palette, difference, to_lab
from zeichen.core.values import FloatArray

# A colour further (CIEDE2000) from both tones that solid knows is lost by it.
_OFF_TONE = 12.0
# Colours of the palette are of the figure from this share of it on: soft edges leave a grey behind.
_LEAST_SHARE = 0.004


def lost_in_two_tones(palette: Palette, ground_rgb: FloatArray) -> tuple[int, float]:
    """Return how many colours a figure has, and the share of it that two tones would draw wrongly.

    ground_rgb: (3,), 0-255.
    """
    off = np.abs(palette.rgb - ground_rgb).max(axis=1)
    ground = int(off.argmin())
    figure = np.arange(len(palette.rgb)) != ground
    area = palette.area_px[figure]
    if not len(area):
        return 0, 0.0
    share = area / area.sum()
    rgb = palette.rgb[figure][share >= _LEAST_SHARE]
    share = share[share >= _LEAST_SHARE]
    if len(rgb) < 2:
        return len(rgb), 0.0
    lab, paper = to_lab(rgb), to_lab(palette.rgb[ground][None])
    # Solid draws one tone: the darkest that fills a fair part, or, on a dark ground, the lightest.
    contrast = np.abs(lab[:, 0] - paper[0, 0])
    fair = share >= 0.1
    tone = lab[fair][np.argmax(contrast[fair])] if fair.any() else lab[np.argmax(contrast)]
    wrong = np.minimum(difference(lab, tone[None]), difference(lab, paper)) > _OFF_TONE
    return len(rgb), float(share[wrong].sum() / share.sum())
