"""Shading told from colour: areas without an edge of their own inside, and what changes within each."""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.raster.smooth_areas import SmoothAreas, smooth_areas
from zeichen.core.values import AnyArray, BoolArray, Bytes8Array, FloatArray

# An area is shaded if its colour changes by this much (CIEDE2000) without its lightest and darkest parts, each so large
# a share of it: of the ground a smaller one, as a shadow may lie on little of it ...
_ASIDE, _ASIDE_OF_GROUND = 0.02, 0.002
SHADED = 4.0
# ... and a picture if this share of its areas' pixels lies in such.
_SHADED_SHARE = 0.02
# Areas of which so little is shaded are looked at whole; of larger ones every so manieth pixel.
_SEEN_PX = 4_000
# What the ground fades into is a shadow on it if its colour (a*, b*) is off by no more than this and it is darker (L*)
# by no more than that, or if it is smaller than this share of the picture; otherwise it is figure. Our own rule.
_COLOURED, _BLACK, _LEAST_FIGURE = 8.0, 45.0, 1e-3
# What differs less than this from the ground (CIEDE2000) has its colour.
_GROUND = 5.0
# Pixels beside edges that no mixture explains better than this (0-255), or than so many times the noise, stay.
_UNEXPLAINED, _UNEXPLAINED_NOISE = 24.0, 5.0
# The light tone of an area: this share of it is darker.
_LIGHT = 0.85


@dataclass(frozen=True, slots=True)
class Shaded:
    """A picture's areas, the middle colour of each, how much it changes (CIEDE2000), and how large it is, px².

    ground: the number of the area that fills most of the sheet's rim, -1 if none does.
    """

    rgb: Bytes8Array
    areas: SmoothAreas
    middle: FloatArray
    light: FloatArray
    change: FloatArray
    size_px2: FloatArray
    ground: int

    @property
    def share(self) -> float:
        """Which share of the areas' pixels, the ground's aside, lies in shaded ones."""
        figure = np.arange(len(self.size_px2)) != self.ground
        return float(
            self.size_px2[figure & (self.change > SHADED)].sum() / max(1.0, self.size_px2[figure].sum())
        )

    @property
    def unexplained(self) -> float:
        """How far, 0-255, a pixel beside edges may be from every mixture of two areas to be one."""
        return max(_UNEXPLAINED, _UNEXPLAINED_NOISE * self.areas.noise)

    @property
    def is_shaded(self) -> bool:
        """Whether taking the shading apart from the colours is worth while."""
        return self.share > _SHADED_SHARE or bool(self.ground >= 0 and self.change[self.ground] > SHADED)


def _with_figure_off_ground(areas: SmoothAreas) -> SmoothAreas:
    """Return areas of which no figure that fades into the ground is a part of it: a shadow is grey and not black."""
    ground = _ground_of(areas.number)
    if ground < 0:
        return areas
    here = areas.number == ground
    rim = np.zeros_like(here)
    rim[[0, -1]] = rim[:, [0, -1]] = True
    off = to_lab(areas.field) - to_lab(np.median(areas.field[here & rim], axis=0))
    coloured = here & ((np.hypot(off[..., 1], off[..., 2]) > _COLOURED) | (off[..., 0] < -_BLACK))
    _, numbers, stats, _ = cv2.connectedComponentsWithStats(coloured.astype(np.uint8), connectivity=4)
    large = stats[:, cv2.CC_STAT_AREA] >= _LEAST_FIGURE * here.size
    large[0] = False
    if not large.any():
        return areas
    fresh = np.where(large, areas.count - 1 + np.cumsum(large), -1)[numbers]
    number = np.where(fresh >= 0, fresh, areas.number).astype(np.int32)
    return replace(areas, number=number, count=areas.count + int(large.sum()))


def _ground_of(number: AnyArray) -> int:
    """Return the area that fills most of the sheet's rim, -1 if none does."""
    rim = np.concatenate([number[0], number[-1], number[:, 0], number[:, -1]])
    counts = np.bincount(rim[rim >= 0], minlength=1)
    return int(counts.argmax()) if counts.max() > 0.5 * len(rim) else -1


def read_shading(rgb: Bytes8Array) -> Shaded:
    """Return the areas of a picture (height, width, 3) and what changes within each."""
    areas = _with_figure_off_ground(smooth_areas(rgb))
    inside = np.nonzero(areas.number.ravel() >= 0)[0]
    number = areas.number.ravel()[inside]
    order = np.argsort(number, kind="stable")
    inside = inside[order]
    size = np.bincount(number, minlength=areas.count).astype(np.float64)
    starts = np.concatenate([[0], np.cumsum(size)]).astype(np.int64)
    field = areas.field.reshape(-1, 3)
    middle, light, change = np.zeros((areas.count, 3)), np.zeros((areas.count, 3)), np.zeros(areas.count)
    ground = _ground_of(areas.number)
    for k in range(areas.count):
        each = max(1, int(size[k]) // _SEEN_PX)
        seen = field[inside[starts[k] : starts[k + 1] : each]].astype(np.float64)
        by_light = seen[np.argsort(seen @ (0.299, 0.587, 0.114), kind="stable")]
        aside = int((_ASIDE_OF_GROUND if k == ground else _ASIDE) * len(by_light))
        middle[k] = np.median(seen, axis=0)
        light[k] = by_light[int(_LIGHT * (len(by_light) - 1))]
        ends = to_lab(by_light[[aside, len(by_light) - 1 - aside]])
        change[k] = float(difference(ends[0], ends[1]))
    return Shaded(rgb, areas, middle, light, change, size, ground)


def like_ground(shaded: Shaded) -> BoolArray:
    """Return which areas are the ground, or have its colour and no shading."""
    like = np.zeros(max(1, len(shaded.size_px2)), bool)
    if shaded.ground < 0:
        return like
    off = difference(to_lab(shaded.middle), to_lab(shaded.middle[shaded.ground])[None])
    like[: len(off)] = (off < _GROUND) & (shaded.change < SHADED)
    like[shaded.ground] = True
    return like
