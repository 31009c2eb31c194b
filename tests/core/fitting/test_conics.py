"""Shapes whose area, length and place are known in closed form."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import exact, examples, spun
from zeichen.core.fitting.conics import with_nodes_at
from zeichen.core.geometry import bezier
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.raster.coverage import coverage
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def area(ring: np.ndarray) -> float:
    x, y = ring.T
    return abs(float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2)


def star(points: int, outer: float, inner: float) -> np.ndarray:
    angle = np.arange(2 * points) * math.pi / points
    radius = np.where(np.arange(2 * points) % 2 == 0, outer, inner)
    return np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])


def drawn_area(picture: Picture) -> float:
    return sum(shape_area(s, tolerance=1e-3).area for s in trace(picture, TraceSettings()).drawing.shapes)


@examples(12)
@given(st.floats(40, 110), st.floats(0, math.pi / 2), st.floats(0, 1))
def test_squares_have_their_area_to_a_thousandth(half, turn, shift):
    ring = spun(
        np.array([[-half, -half], [half, -half], [half, half], [-half, half]]), turn, (160 + shift, 160)
    )
    assert drawn_area(exact(ring, 320)) == pytest.approx(4 * half * half, rel=1e-3)


@examples(12)
@given(st.integers(5, 8), st.floats(0.5, 0.7), st.floats(0, 1))
def test_stars_have_their_area_to_a_thousandth(points, waist, turn):
    ring = spun(star(points, 140, 140 * waist), turn, (160.3, 159.6))
    assert drawn_area(exact(ring, 320)) == pytest.approx(area(ring), rel=1e-3)


@pytest.mark.parametrize("radius", [10.0, 17.3, 60.0, 140.0])
def test_discs_have_their_area_to_a_thousandth(radius):
    angle = np.linspace(0, 2 * math.pi, 4000, endpoint=False)
    ring = np.column_stack([160.2 + radius * np.cos(angle), 159.7 + radius * np.sin(angle)])
    assert drawn_area(exact(ring, 320)) == pytest.approx(math.pi * radius**2, rel=1e-3)


def test_doubling_the_size_doubles_the_drawing():
    ring = spun(star(5, 60, 30), 0.3, (80.2, 79.8))
    small, large = (trace(exact(k * ring, 160 * k), TraceSettings()).drawing for k in (1, 2))
    one, two = (shape_area(d.shapes[0], tolerance=1e-3) for d in (small, large))
    assert two.area == pytest.approx(4 * one.area, rel=1e-3)
    assert len(small.paths[0].segments) == len(large.paths[0].segments)
    nodes = small.paths[0].segments[:, 0]
    twice = large.paths[0].segments[:, 0]
    gaps = np.linalg.norm(twice[:, None] / 2 - nodes[None], axis=2).min(axis=1)
    assert gaps.max() < 0.15


def test_an_archimedean_spiral_has_its_length():
    """Length of r = a phi from 0 to T: a/2 (T sqrt(1 + T^2) + asinh T)."""
    a, first, last = 6.0, 1.5 * math.pi, 6 * math.pi
    phi = np.linspace(first, last, 1500)
    middle = np.column_stack([150 + a * phi * np.cos(phi), 150 + a * phi * np.sin(phi)])
    way = np.gradient(middle, axis=0)
    normal = np.column_stack([-way[:, 1], way[:, 0]]) / np.linalg.norm(way, axis=1)[:, None]
    band = np.concatenate([middle + 4 * normal, (middle - 4 * normal)[::-1]])
    (shape,) = trace(exact(band, 300), TraceSettings(method=Method.CENTRELINE)).drawing.shapes
    true = [a / 2 * (t * math.sqrt(1 + t * t) + math.asinh(t)) for t in (first, last)]
    # Cut off square, it ends where a round pen of its width would be lifted: up to half of that before either end.
    found = float(bezier.arc_lengths(shape.paths[0].segments).sum())
    assert true[1] - true[0] - 8.0 < found < true[1] - true[0] + 1.0
    assert shape.stroke_width == pytest.approx(8, abs=0.2)


def test_two_lines_that_merge_at_a_slender_angle_stay_two_lines():
    """Each keeps half a width inside its own rim, up to where they meet."""
    angle = math.radians(9)
    ends = [np.array([40.0, 150 + s * 220 * math.tan(angle)]) for s in (-1, 1)]
    meet = np.array([260.0, 150.0])
    bands = []
    for end in ends:
        way = (meet - end) / np.linalg.norm(meet - end)
        normal = 5 * np.array([-way[1], way[0]])
        bands.append(np.array([end + normal, meet + normal, meet - normal, end - normal]))
    disc = meet + 5 * np.column_stack([np.cos(np.linspace(0, 6.28, 90)), np.sin(np.linspace(0, 6.28, 90))])
    ink = np.maximum.reduce([np.abs(coverage([ring], 300, 300)) for ring in (*bands, disc)])
    values = np.round(255 * (1 - np.clip(ink, 0, 1))).astype(np.uint8)
    picture = Picture(np.repeat(values[..., None], 3, axis=2))
    drawing = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing
    for path in drawing.paths:
        run = bezier.flatten(path.segments, tolerance=0.01)
        # Distance from the nearer of the two axes.
        off = [
            np.abs((run - end) @ np.array([-(meet - end)[1], (meet - end)[0]])) / np.linalg.norm(meet - end)
            for end in ends
        ]
        assert np.minimum(*off).max() < 0.8
    total = sum(float(bezier.arc_lengths(path.segments).sum()) for path in drawing.paths)
    assert total == pytest.approx(2 * np.linalg.norm(meet - ends[0]), rel=0.03)


@pytest.mark.parametrize(("radius", "turn"), [(18, 0.75), (24, 0.0), (24, 1.1), (30, 0.3), (38, 0.75)])
def test_rounded_corners_are_true_arcs(radius, turn):
    """Each of the four is one cubic whose handles are 4/3 tan(turn/4) radii, and the radius is right."""
    quarter = np.linspace(0, math.pi / 2, 200)
    corner = np.column_stack([np.cos(quarter), np.sin(quarter)]) * radius
    sides = [
        (80 - radius, 60 - radius),
        (-80 + radius, 60 - radius),
        (-80 + radius, -60 + radius),
        (80 - radius, -60 + radius),
    ]
    spins = [np.linalg.matrix_power(np.array([[0, -1], [1, 0]]), k) for k in range(4)]
    ring = np.vstack([corner @ spin.T + side for spin, side in zip(spins, sides, strict=True)])
    (path,) = trace(exact(spun(ring, turn, (128.3, 127.8)), 256), TraceSettings()).drawing.paths
    curves = path.segments[~bezier.is_straight(path.segments, tolerance=1e-4)]
    assert len(curves) == 4
    for p0, p1, p2, p3 in curves:
        a, b = p1 - p0, p3 - p2
        angle = math.acos(np.clip(a @ b / (np.linalg.norm(a) * np.linalg.norm(b)), -1, 1))
        found = np.linalg.norm(p3 - p0) / (2 * math.sin(angle / 2))
        assert found == pytest.approx(radius, abs=0.05)
        handle = 4 / 3 * math.tan(angle / 4) * found
        assert np.linalg.norm(a) == pytest.approx(handle, rel=1e-3)
        assert np.linalg.norm(b) == pytest.approx(handle, rel=1e-3)


def test_corners_of_squares_are_found_to_a_tenth_of_a_pixel():
    rng = np.random.default_rng(7)
    for _ in range(40):
        half, turn = rng.uniform(40, 110), rng.uniform(0, math.pi / 2)
        ring = spun(
            half * np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]]),
            turn,
            (160 + rng.uniform(0, 1), 160),
        )
        (path,) = trace(exact(ring, 320), TraceSettings()).drawing.paths
        nodes = path.segments[:, 0]
        assert len(nodes) == 4
        assert max(np.hypot(*(nodes - corner).T).min() for corner in ring) < 0.1


@pytest.mark.parametrize("radius", [1.2, 1.5])
@pytest.mark.parametrize("inner_deg", [14.0, 20.0, 28.0])
def test_a_slender_tip_with_a_round_end_is_not_drawn_to_a_point(inner_deg, radius):
    half = math.radians(inner_deg) / 2
    for turn in np.linspace(0, 2 * math.pi, 14, endpoint=False):
        tip = np.array([[0.0, 0.0], [130.0, 130.0 * math.tan(half)], [130.0, -130.0 * math.tan(half)]])
        ring = spun(tip - [65.0, 0.0], float(turn), (100.3, 99.8))
        wedge = shapely.Polygon(ring).buffer(-radius, quad_segs=32).buffer(radius, quad_segs=32)
        (path,) = trace(exact(np.asarray(wedge.exterior.coords[:-1]), 200), TraceSettings()).drawing.paths
        run = shapely.segmentize(shapely.LinearRing(bezier.flatten(path.segments, tolerance=0.01)), 0.25)
        off = shapely.distance(shapely.points(np.asarray(run.coords)), wedge.exterior)
        assert off.max() < 1.3


@examples(14)
@given(
    st.lists(st.floats(-3.1, 3.1), min_size=1, max_size=7),
    st.floats(0.4, 2.5),
    st.floats(0, 3),
    st.booleans(),
)
def test_an_ellipse_with_nodes_where_others_end_is_the_same_ellipse(turns, flat, tilt, backwards):
    """No arc between two nodes turns by more than a quarter and a bit; each given place is a node."""
    axes = np.array([[math.cos(tilt), -math.sin(tilt)], [math.sin(tilt), math.cos(tilt)]]) * (
        40.0,
        40.0 * flat,
    )
    quarter = np.arange(4) * (math.pi / 2) * (-1 if backwards else 1)
    h = bezier.CIRCLE_HANDLE * (-1 if backwards else 1)
    on = np.stack([np.cos(quarter), np.sin(quarter)], axis=1)
    way = np.stack([-np.sin(quarter), np.cos(quarter)], axis=1) * h
    after, way_after = np.roll(on, -1, axis=0), np.roll(way, -1, axis=0)
    quarters = np.stack([on, on + way, after - way_after, after], axis=1) @ axes.T + (70.0, 60.0)
    places = np.stack([np.cos(turns), np.sin(turns)], axis=1) @ axes.T + (70.0, 60.0)
    curves = with_nodes_at(quarters, places)
    assert np.abs(curves[:, 3] - np.roll(curves[:, 0], -1, axis=0)).max() < 1e-9
    for place in places:
        assert np.linalg.norm(curves[:, 0] - place, axis=1).min() < 1e-6
    assert len(curves) <= 4 + len(places)
    off = (bezier.evaluate(curves, np.linspace(0, 1, 20)).reshape(-1, 2) - (70.0, 60.0)) @ np.linalg.inv(
        axes
    ).T
    assert np.abs(np.hypot(*off.T) - 1.0).max() < 5e-4
    ring = bezier.signed_area(curves) / bezier.signed_area(quarters)
    assert ring == pytest.approx(1.0, rel=1e-3)
