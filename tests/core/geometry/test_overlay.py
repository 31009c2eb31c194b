"""Joining, subtracting and intersecting: exact on curves, checked against shapely and by what areas must obey."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import blob, circle, examples, hole, polygon, rectangle
from zeichen.core.geometry import Path, Shape
from zeichen.core.geometry.bezier import circle_segments, evaluate, split
from zeichen.core.geometry.overlay import Overlay, Region, intersected, subtracted, united, untangled
from zeichen.core.geometry.polygons import shape_area


def area(paths) -> float:
    return sum(path.area for path in paths)


def region(*paths: Path) -> Region:
    return Region(tuple(paths))


def polygons(paths) -> shapely.MultiPolygon:
    return shape_area(Shape("a", tuple(paths)), tolerance=1e-4)


def off_the_sum(seed, x, y) -> float:
    """How far |A or B| + |A and B| is from |A| + |B|, and (A less B) + (A and B) from A, as a share."""
    a, b = untangled(region(blob(seed, 0, 0))), untangled(region(blob(seed + 1, x, y)))
    one, other = Region(a), Region(b)
    both, shared = area(united([one, other])), area(intersected([one, other]))
    total, rest = area(a) + area(b), area(subtracted(one, other))
    return max(abs(both + shared - total) / total, abs(rest + shared - area(a)) / area(a))


@examples(18)
@given(st.integers(0, 10_000), st.floats(0, 90), st.floats(-90, 90))
def test_areas_add_up(seed, x, y):
    """Where curves cross right beside a node, it may come to lie on the wrong side of it: still a millionth."""
    assert off_the_sum(seed, x, y) < 1e-5


def test_areas_add_up_to_the_last_digits_but_for_crossings_beside_a_node():
    rng = np.random.default_rng(4)
    off = [off_the_sum(seed, rng.uniform(0, 90), rng.uniform(-90, 90)) for seed in range(30)]
    assert sum(each < 1e-9 for each in off) >= 28


@examples(11)
@given(st.integers(0, 10_000), st.floats(0, 90), st.floats(-90, 90))
def test_the_result_is_shapelys_on_finely_flattened_curves(seed, x, y):
    a, b = blob(seed, 0, 0), blob(seed + 1, x, y)
    first, second = polygons(untangled(region(a))), polygons(untangled(region(b)))
    for paths, truth in (
        (united([region(a), region(b)]), first.union(second)),
        (subtracted(region(a), region(b)), first.difference(second)),
        (intersected([region(a), region(b)]), first.intersection(second)),
    ):
        got = area(paths)
        assert got == pytest.approx(truth.area, abs=1e-4 * first.area)
        assert polygons(paths).symmetric_difference(truth).area < 2e-4 * first.area


def test_two_discs_meet_where_circles_meet():
    paths = united([region(circle(0, 0, 50)), region(circle(60, 0, 50))])
    (outline,) = paths
    # Three quarters of one disc whole and two cut, of the other the same: nodes about what it needs.
    assert len(outline.segments) <= 8
    corners = outline.segments[:, 0]
    x, y = 30.0, math.sqrt(50**2 - 30**2)
    # The discs are cubics, 0.03 % off a circle, and so is where they meet.
    for place in ((x, y), (x, -y)):
        assert np.hypot(*(corners - place).T).min() < 0.03
    lens = 2 * 50**2 * math.acos(0.6) - 60 / 2 * math.sqrt(4 * 50**2 - 60**2)
    assert area(paths) == pytest.approx(2 * math.pi * 50**2 - lens, rel=5e-4)


def test_what_is_not_touched_keeps_its_curves_to_the_last_digit():
    a, far = blob(3, 0, 0), circle(400, 0, 20)
    paths = united([region(a), region(far)])
    kept = {tuple(segment.ravel()) for path in paths for segment in path.segments}
    assert all(tuple(segment.ravel()) in kept for segment in (*a.segments, *far.segments))


def test_a_hole_runs_the_other_way_and_an_outline_clockwise():
    paths = subtracted(region(circle(0, 0, 50)), region(circle(0, 0, 20)))
    assert sorted(round(path.area) for path in paths) == [-1257, 7856]


def test_neighbours_that_share_a_border_become_one_without_a_seam():
    left, right = rectangle(0, 0, 50, 40), rectangle(50, 0, 30, 40)
    (whole,) = united([region(left), region(right)])
    assert whole.area == pytest.approx(80 * 40)
    curved = blob(5, 0, 0)
    inner = region(curved)
    ring = Region(subtracted(region(circle(0, 0, 200)), inner))
    (disc,) = united([ring, inner])
    assert disc.area == pytest.approx(area(untangled(region(circle(0, 0, 200)))), rel=1e-9)


def test_a_region_less_itself_is_nothing_and_with_itself_the_same():
    a = untangled(region(blob(11, 0, 0)))
    assert subtracted(Region(a), Region(a)) == ()
    (same,) = united([Region(a), Region(a)])
    assert same.area == pytest.approx(area(a))


def test_a_border_that_was_cut_in_other_places_is_the_same_border():
    """One curve in two pieces beside the same in one: no slivers wider than the flattening."""
    whole = circle_segments((0.0, 0.0), radius=50)
    pieces = split(split(whole, 2, 0.37), 0, 0.61)
    overlay = Overlay([region(Path(whole)), region(Path(pieces))])
    paths = overlay.outline(overlay.inside[:, 0] & ~overlay.inside[:, 1], least_width=0.01)
    assert area(paths) < 0.01
    joined = overlay.outline(overlay.in_any(), least_width=0.01)
    assert area(joined) == pytest.approx(Path(whole).area, rel=1e-5)


def test_fill_rules_say_what_is_inside():
    pentagram = polygon(*[(math.sin(k * 0.8 * math.pi), -math.cos(k * 0.8 * math.pi)) for k in range(5)])
    assert len(untangled(Region((pentagram,), "evenodd"))) == 5
    (star,) = untangled(Region((pentagram,), "nonzero"))
    assert len(star.segments) == 10
    twice = Region((circle(0, 0, 10), circle(0, 0, 4)), "nonzero")
    assert area(untangled(twice)) == pytest.approx(math.pi * 100, rel=1e-3)
    assert area(untangled(Region((circle(0, 0, 10), hole(circle(0, 0, 4))), "nonzero"))) == pytest.approx(
        math.pi * 84, rel=1e-3
    )


def test_new_nodes_lie_on_both_curves():
    a, b = blob(21, 0, 0), blob(22, 50, 10)
    paths = intersected([region(a), region(b)])
    t = np.linspace(0, 1, 2001)
    fine = [evaluate(path.segments, t).reshape(-1, 2) for path in (a, b)]
    old = {tuple(point) for path in (a, b) for point in path.segments[:, 0]}
    new = [point for path in paths for point in path.segments[:, 0] if tuple(point) not in old]
    assert new
    for point in new:
        for curve in fine:
            assert np.hypot(*(curve - point).T).min() < 0.02


def test_nothing_comes_of_nothing():
    assert united([]) == ()
    assert united([Region(())]) == ()
    assert intersected([region(circle(0, 0, 5)), region(circle(90, 0, 5))]) == ()


@pytest.mark.parametrize("size", [16.0, 64.0, 1024.0])
@pytest.mark.parametrize("start", [0.0, 2.0, -7.0, 6.5])
def test_corners_a_power_of_two_apart_are_two_corners(size, start):
    """Whole numbers of a grid that is itself a power of two: once they were taken for one place."""
    box = rectangle(start, 2 * start, size, 3)
    (whole,) = united([region(box)])
    assert whole.area == pytest.approx(3 * size) and len(whole.segments) == 4
    left = subtracted(region(box), region(rectangle(start + size / 4, 2 * start, size / 2, 3)))
    assert sum(path.area for path in left) == pytest.approx(1.5 * size)
