"""A gradient drawn in steps of one colour each, where one colour alone would not look like it.

The steps are cut where the colour, as people see it, has gone on by equal amounts.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from zeichen.core.colour.spaces import oklab
from zeichen.core.formats.foreign.gradients import Gradient, mean_colour, places_over
from zeichen.core.formats.foreign.style import Rgba
from zeichen.core.formats.foreign.values import inverse, moved
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

# One step may hold this much of a change of colour (OKLab; a just noticeable difference is about 0.02, so that the
# middle of a step is two of them off at most), and there are so many at most: our own rules.
_STEP = 0.08
MOST_STEPS = 6
# Each step that shows through is mixed with all that lies below.
_MOST_FADING = 3
_LOOKS = 128


@dataclass(frozen=True, slots=True)
class Step:
    """One colour, up to a place on the way of the gradient; the last one reaches everywhere."""

    colour: Rgba
    limit: float


def steps_of(gradient: Gradient, paths: tuple[Path, ...], rule: str) -> list[Step]:
    """Return the steps a gradient is drawn in over an area, the last one on its way first: each covers the next.

    Parameters
    ----------
    gradient : Gradient
    paths, rule : the area in user units
    """
    points = places_over(paths, rule)
    if not len(points):
        return []
    t = gradient.along(points)
    low, high = float(np.quantile(t, 0.002)), float(np.quantile(t, 0.998))
    count = 1
    cuts: list[float] = []
    if gradient.spread == "pad" or (low >= 0.0 and high <= 1.0):
        low, high = max(low, 0.0), min(high, 1.0)
        if high > low:
            looks = np.linspace(low, high, _LOOKS)
            gone = _changes(gradient.ramp(looks))
            most = _MOST_FADING if gradient.fades else MOST_STEPS
            count = min(most, max(1, math.ceil(float(gone[-1]) / _STEP)))
            goals = gone[-1] * np.arange(1, count) / count
            cuts = np.interp(goals, gone, looks).tolist()
    colours = gradient.at(points)
    bounds = [-math.inf, *cuts, math.inf]
    steps = []
    for first, last in pairwise(bounds):
        held = (t > first) & (t <= last)
        if held.any():
            steps.append(Step(mean_colour(colours[held]), last))
    if steps:
        steps[-1] = Step(steps[-1].colour, math.inf)
    return steps[::-1]


def up_to(gradient: Gradient, limit: float, box: tuple[float, float, float, float]) -> Path | None:
    """Return the area, in user units, in which a gradient has not gone further than a limit.

    Parameters
    ----------
    gradient : Gradient
    limit : float
    box : x min, y min, x max, y max
        What the area must reach over, user units.
    """
    forth = inverse(gradient.back)
    if forth is None:
        return None
    if len(gradient.line) == 4:
        x1, y1, x2, y2 = gradient.line
        way = np.array([x2 - x1, y2 - y1])
        across = np.array([-way[1], way[0]])
        corners = np.array([[box[0], box[1]], [box[2], box[1]], [box[2], box[3]], [box[0], box[3]]])
        away = (moved(gradient.back, corners) - [x1, y1]) @ np.stack([way, across]).T / float(way @ way)
        low, (left, right) = min(float(away[:, 0].min()), limit), (away[:, 1].min(), away[:, 1].max())
        pad = 0.1 * float(np.ptp(away, axis=0).max()) + 0.1
        marks = np.array(
            [[low - pad, left - pad], [limit, left - pad], [limit, right + pad], [low - pad, right + pad]]
        )
        ring = np.array([x1, y1]) + marks @ np.stack([way, across])
        return Path(bezier.line_segments(moved(forth, np.vstack([ring, ring[:1]]))))
    cx, cy, r, fx, fy, fr = gradient.line
    radius = fr + limit * (r - fr)
    if not radius > 0:
        return None
    circle = bezier.circle_segments((fx + limit * (cx - fx), fy + limit * (cy - fy)), radius=radius)
    return Path(moved(forth, circle.reshape(-1, 2)).reshape(-1, 4, 2))


def _changes(colours: FloatArray) -> FloatArray:
    """Return how far colours have gone up to each, on white or on black, whichever shows more."""
    alpha = colours[:, 3:]
    seen = [oklab(255.0 * (colours[:, :3] * alpha + ground * (1.0 - alpha))) for ground in (0.0, 1.0)]
    steps = np.max([np.sqrt((np.diff(each, axis=0) ** 2).sum(axis=1)) for each in seen], axis=0)
    return np.concatenate([[0.0], np.cumsum(steps)])
