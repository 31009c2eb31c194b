"""How wide a picture's lines are, and what in it is no line: dots, and areas as wide as no pen."""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.tracing.strokes.medial_graph import Edge, length_of
from zeichen.core.tracing.strokes.rims import directions, resampled, rim_distances, smoothed
from zeichen.core.values import BoolArray, FloatArray

# A pen's width changes if between the slimmest and the widest tenth of its lines lies more than this share of it.
# Measured: pictures of pens have .38 to .86, of drawn lines of one width .00 to .07 (JPEG and blur among them), a short
# one that turned back on itself .22.
_CHANGES = 0.28
# Widths are read every so many px, on edges of so many widths, and not so near to their ends; and so many at least.
_EACH, _LEAST_LONG, _FROM_ENDS = 4, 2.5, 0.8
_LEAST_READ = 8
# The skeleton is smoothed over so many px first, and rims are looked for so many widths and px away.
_STAIR_PX, _REACH, _REACH_PX = 2.0, 1.6, 3.0
# So many times the usual width is two lines side by side, or one that came back, unless so much of what is read is on
# edges as wide all along: those are a second pen's.
_SIDE_BY_SIDE, _FEW = 1.6, 0.12
# Where the ink reaches further from paper than so many times the widest tenth's half, it is an area and no line. What
# is wider by less is lines that lie over each other, or an end a pen rested on.
_AREA = 3.0
# The rim around an area that thinning would take for a line, px.
_RIM_PX = 1.5
# A piece no longer than so many of its greatest half widths, that is no longer than so many times as wide and fills so
# much of the ellipse in its box, is a dot. Our own rule: a dash is longer.
_DOT_LONG, _DOT_AS_LONG, _DOT_FILLS = 3.0, 1.3, 0.75


@dataclass(frozen=True, slots=True)
class Widths:
    """The width, px, that a tenth, half and nine tenths of a picture's lines have at most."""

    slim_px: float
    usual_px: float
    wide_px: float

    @property
    def pen_px(self) -> float | None:
        """The width of all lines, if they all have one."""
        return None if self.wide_px - self.slim_px > _CHANGES * self.usual_px else self.usual_px


def half_widths(mask: BoolArray) -> FloatArray:
    """Return each pixel's distance from the nearest light one, (height, width), px; beyond the picture all is light."""
    padded = np.pad(mask, 1).astype(np.uint8)
    return np.asarray(cv2.distanceTransform(padded, cv2.DIST_L2, 5)[1:-1, 1:-1], dtype=np.float64)


def widths_of(ink: FloatArray, edges: list[Edge], half: FloatArray) -> Widths:
    """Return how wide the lines along a skeleton's edges are.

    ink: (height, width), how much ink each pixel holds, 0-1. half: see half_widths.
    """
    on_edges = [
        half[edge.points[:, 1].astype(np.int64), edge.points[:, 0].astype(np.int64)] for edge in edges
    ]
    about_px = 2.0 * float(np.median(np.concatenate(on_edges))) if edges else 0.0
    found = [np.zeros(0)]
    for edge in edges:
        if length_of(edge.points) < _LEAST_LONG * about_px:
            continue
        points = smoothed(resampled(edge.points, edge.closed), _STAIR_PX, edge.closed)
        along = directions(points, edge.closed)
        cut = 0 if edge.closed else int(_FROM_ENDS * about_px)
        points, along = points[cut : len(points) - cut : _EACH], along[cut : len(along) - cut : _EACH]
        if not len(points):
            continue
        across = np.stack([-along[:, 1], along[:, 0]], axis=1)
        reach = _REACH * about_px + _REACH_PX
        wide = rim_distances(ink, points, across, reach) + rim_distances(ink, points, -across, reach)
        found.append(wide[np.isfinite(wide)])
    widths = np.concatenate(found)
    if len(widths):
        most = _SIDE_BY_SIDE * np.median(widths)
        thick = [wide for wide in found if len(wide) >= _LEAST_READ and np.quantile(wide, 0.1) > most]
        if sum(len(wide) for wide in thick) < _FEW * len(widths):
            widths = widths[widths < most]
    if len(widths) < _LEAST_READ:
        return Widths(about_px, about_px, about_px)
    slim, usual, wide = np.quantile(widths, (0.1, 0.5, 0.9))
    return Widths(float(slim), float(usual), float(wide))


def no_lines(mask: BoolArray, half: FloatArray, widths: Widths) -> BoolArray:
    """Return the pixels, (height, width), of what is no line. mask: the ink's pixels; half: see half_widths."""
    return _areas(mask, half, widths) | _dots(mask, half)


def _areas(mask: BoolArray, half: FloatArray, widths: Widths) -> BoolArray:
    thick = _AREA * 0.5 * widths.wide_px
    seeds = half > thick
    if not seeds.any():
        return np.zeros_like(mask)
    # All that lies within the discs.
    far = cv2.distanceTransform((~seeds).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(mask & (far <= thick + _RIM_PX))


def _dots(mask: BoolArray, half: FloatArray) -> BoolArray:
    count, numbers, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    dots = np.zeros(count, bool)
    most_px = _DOT_LONG * float(half.max(initial=0.0))
    for k in range(1, count):
        x, y, wide, high, area = (int(v) for v in stats[k])
        if max(wide, high) > most_px or area < _DOT_FILLS * math.pi / 4 * wide * high:
            continue
        here = numbers[y : y + high, x : x + wide] == k
        if max(wide, high) < _DOT_LONG * float(half[y : y + high, x : x + wide][here].max()):
            rows, columns = np.nonzero(here)
            # Pixels have a size of their own.
            sides = np.array(cv2.minAreaRect(np.stack([columns, rows], axis=1).astype(np.float32))[1]) + 1.0
            dots[k] = sides.max() < _DOT_AS_LONG * sides.min()
    return np.asarray(dots[numbers])
