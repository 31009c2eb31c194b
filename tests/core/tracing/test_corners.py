"""What is a corner: seen from afar and from near by; round ends are none, however soft the picture."""

import math

import cv2
import numpy as np
import pytest

from zeichen.core.fitting.corner_search import corner_angles
from zeichen.core.fitting.local_polynomial import Stretch, polyline_of
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def bend(turn_deg, *, step=0.7, arm=24.0):
    """Points along two straight arms that meet in the middle."""
    turn = math.radians(turn_deg)
    back = np.column_stack([np.arange(-arm, 0, step), np.zeros(len(np.arange(-arm, 0, step)))])
    away = np.arange(0, arm, step)
    return np.vstack([back, np.column_stack([away * math.cos(turn), away * math.sin(turn)])]), len(back)


def angles_of(points):
    return corner_angles(polyline_of(points, False), Stretch(1.2, 6.0), 0.08)


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


def rounded_corner(turn_deg, radius, *, step=0.7, arm=24.0):
    """Points along two straight arms with an arc between them, and the number of the arc's middle one."""
    turn = math.radians(turn_deg)
    back = radius * math.tan(turn / 2)
    come = np.arange(-arm, -back, step)
    arc = np.arange(step / 2, radius * turn, step) / radius
    go = np.arange(back + step / 2, arm, step)
    points = np.vstack(
        [
            np.column_stack([come, np.zeros(len(come))]),
            np.column_stack([radius * np.sin(arc) - back, radius * (1 - np.cos(arc))]),
            np.column_stack([go * math.cos(turn), go * math.sin(turn)]),
        ]
    )
    return points, len(come) + len(arc) // 2


@pytest.mark.parametrize(
    ("turn", "radius"), [(60, 6.0), (90, 4.0), (90, 5.0), (90, 6.0), (110, 4.0), (110, 6.0)]
)
def test_a_small_round_between_straight_arms_is_no_corner(turn, radius):
    """It is seen as a corner from afar, but from nearer by it loses what an arc must."""
    points, _ = rounded_corner(turn, radius)
    assert angles_of(points).max() < 20


@pytest.mark.parametrize("turn", [45, 60, 90, 110, 140])
def test_what_is_rounded_by_a_pixel_is_a_corner(turn):
    points, middle = rounded_corner(turn, 1.0)
    angles = angles_of(points)
    assert angles[middle - 2 : middle + 3].max() == pytest.approx(turn, abs=8)


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
