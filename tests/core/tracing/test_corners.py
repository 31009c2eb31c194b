"""What is a corner: seen from afar and from near by; round ends are none, however soft the picture."""

import math

import cv2
import numpy as np
import pytest

from zeichen.core.raster.picture import Picture
from zeichen.core.tracing import TraceSettings, trace
from zeichen.core.tracing.corner_search import corner_angles
from zeichen.core.tracing.local import cumulative_length


def bend(turn_deg, *, step=0.7, arm=24.0):
    """Points along two straight arms that meet in the middle."""
    turn = math.radians(turn_deg)
    back = np.column_stack([np.arange(-arm, 0, step), np.zeros(len(np.arange(-arm, 0, step)))])
    away = np.arange(0, arm, step)
    return np.vstack([back, np.column_stack([away * math.cos(turn), away * math.sin(turn)])]), len(back)


def angles_of(points):
    length = cumulative_length(points)
    length[len(points)] = length[len(points) - 1]
    return corner_angles(points, length, 1.2, 6.0, 0.08, False)


@pytest.mark.parametrize("turn", [25, 40, 60, 90, 120, 150])
def test_the_angle_between_straight_arms_is_found(turn):
    points, at = bend(turn)
    assert angles_of(points)[at] == pytest.approx(turn, abs=0.5)


@pytest.mark.parametrize("radius", [6.0, 9.0, 15.0, 40.0])
def test_a_bend_has_no_angle(radius):
    """Straight, then half a circle, then straight again: tangents never jump."""
    arc = np.linspace(-math.pi / 2, math.pi / 2, round(math.pi * radius / 0.7))
    run = np.arange(-30, 0, 0.7)
    points = np.vstack(
        [
            np.column_stack([run, np.full(len(run), -radius)]),
            np.column_stack([radius * np.cos(arc), radius * np.sin(arc)]),
            np.column_stack([run[::-1], np.full(len(run), radius)]),
        ]
    )
    assert angles_of(points).max() < 20


def capsule(size, radius, *, factor=1, sigma=0.0, noise=0.0, turn=0.5):
    """A bar with round ends, drawn finely, enlarged, blurred and noisy as wanted."""
    k = 16
    big = np.full((size * k, size * k), 250, np.uint8)
    middle, arm = size / 2, size * 0.28
    ends = [
        (round((middle + s * arm * math.cos(turn)) * k), round((middle + s * arm * math.sin(turn)) * k))
        for s in (-1, 1)
    ]
    cv2.line(big, *ends, 20, round(2 * radius * k))
    grey = cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)
    if factor > 1:
        grey = cv2.resize(grey, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC)
    soft = cv2.GaussianBlur(grey.astype(np.float32), (0, 0), sigma) if sigma else grey.astype(np.float32)
    soft = soft + np.random.default_rng(7).normal(0, noise, soft.shape) if noise else soft
    return Picture(np.repeat(np.clip(soft, 0, 255).astype(np.uint8)[:, :, None], 3, axis=2))


def sharpest_turn(path):
    way = np.diff(path.segments, axis=1)
    leave, arrive = way[:, 0], way[:, -1]
    before = np.roll(arrive, 1, axis=0)
    cross = before[:, 0] * leave[:, 1] - before[:, 1] * leave[:, 0]
    return np.degrees(np.abs(np.arctan2(cross, (before * leave).sum(axis=1)))).max()


@pytest.mark.parametrize(
    ("factor", "sigma", "noise"), [(1, 0.0, 0.0), (1, 0.8, 0.0), (2, 0.0, 2.0), (2, 0.6, 3.0)]
)
@pytest.mark.parametrize("turn", [0.0, 0.5, 1.1])
def test_round_ends_stay_round_in_soft_pictures(factor, sigma, noise, turn):
    picture = capsule(120, 7.0, factor=factor, sigma=sigma, noise=noise, turn=turn)
    (shape,) = trace(picture, TraceSettings(tolerance_px=0.2 * factor)).drawing.shapes
    assert sharpest_turn(shape.paths[0]) < 25
    area = (math.pi * 49 + 2 * 7 * 2 * 0.28 * 120) * factor**2
    assert abs(shape.area) == pytest.approx(area, rel=0.012)
