"""Paths along strokes whose points have gaps: the pen never left its own ink."""

import math
from itertools import pairwise

import cv2
import numpy as np
import pytest

from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry import bezier
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_room import rooms
from zeichen.core.tracing.strokes.stroke_fit import fitted_stroke

FINE = 10


def along(start: np.ndarray, end: np.ndarray, after: float, before: float) -> np.ndarray:
    """Points about a pixel apart on a line, from so far after its start to so far before its end."""
    size = math.dist(start, end)
    return start + (end - start) / size * np.arange(after, size - before, 0.95)[:, None]


def z_joint(seed: int) -> tuple[np.ndarray, np.ndarray, float]:
    """Two lines side by side joined by a short one across, of which no more than one point was measured.

    Returns the points, how far each pixel is from paper, and the pen's width.
    """
    random = np.random.default_rng(seed)
    width = random.uniform(5.5, 8)
    top, left = np.array([70.0, 14.0]), np.array([38.0, 66.0]) + random.uniform(-2, 2, 2)
    right = left + np.array([random.uniform(9, 15), random.uniform(-1, 1)])
    end = np.array([20.0, 118.0]) + random.uniform(-6, 6, 2)
    canvas = np.zeros((140 * FINE, 100 * FINE), np.uint8)
    way = np.round(np.array([top, left, right, end]) * FINE).astype(np.int32)
    cv2.polylines(canvas, [way], False, 255, round(width * FINE))
    ink = cv2.resize(canvas, (100, 140), interpolation=cv2.INTER_AREA) / 255.0
    half = cv2.distanceTransform((ink > 0.5).astype(np.uint8), cv2.DIST_L2, 5).astype(np.float64)
    one = along(top, left, 0, random.uniform(6, 10))
    two = along(right, end, random.uniform(3, 6), 0)
    between = one[-1] + 0.55 * (two[0] - one[-1]) + random.uniform(-1, 1, 2)
    points = np.vstack([one, between, two])
    return points + random.normal(0, 0.08, points.shape), half, ink, width


def least_room(half: np.ndarray, places: np.ndarray) -> float:
    return float(rooms(half, np.ascontiguousarray(places)).min())


@pytest.mark.parametrize("seed", [*range(40), 557])
def test_what_crosses_a_gap_stays_in_the_ink_its_points_stay_in(seed):
    points, half, ink, width = z_joint(seed)
    share = np.linspace(0, 1, 8)[:, None]
    straight = np.vstack([a + (b - a) * share for a, b in pairwise(points)])
    stroke = Stroke(points, False, width)
    path = fitted_stroke(stroke, FitSettings(tolerance_px=0.17, noise_px=0.02, stroke_px=width), half, ink)
    places = bezier.evaluate(path.segments, np.linspace(0, 1, 40)).reshape(-1, 2)
    # Half a pixel off paper is what the picture's own pixels leave open.
    assert least_room(half, places) > min(0.4, least_room(half, straight) - 0.5)
    assert np.abs(path.segments[[0, -1], [0, 3]] - points[[0, -1]]).max() < 0.5
