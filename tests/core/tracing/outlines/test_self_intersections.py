"""Crossings of curves found where a reference library finds them, and loops cut."""

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.geometry import bezier
from zeichen.core.tracing.outlines.self_intersections import crossings, without_loops


def point_on(curves, u):
    k = min(int(u), len(curves) - 1)
    return bezier.evaluate(curves[k : k + 1], np.array([u - k])).reshape(2)


@examples(18)
@given(st.integers(0, 2**32 - 1))
def test_crossings_lie_on_both_curves_where_shapely_has_them(seed):
    """Reference: shapely's (GEOS') intersection of the finely flattened curves."""
    rng = np.random.default_rng(seed)
    a, b = rng.uniform(0, 100, (2, 2, 4, 2))
    a[1, 0], b[1, 0] = a[0, 3], b[0, 3]
    found = crossings(a, b)
    lines = [shapely.LineString(bezier.flatten(curves, tolerance=1e-4)) for curves in (a, b)]
    true = shapely.get_coordinates(shapely.intersection(*lines))
    for u, v in found:
        assert np.linalg.norm(point_on(a, u) - point_on(b, v)) < 0.5
        assert len(true) and np.linalg.norm(true - point_on(a, u), axis=1).min() < 1.0
    # Curves that barely touch may cross in one flattening and miss each other in the other.
    for place in true:
        slopes = [shapely.LineString(line.coords).distance(shapely.Point(place)) for line in lines]
        assert max(slopes) < 1e-3


def test_a_small_loop_is_cut_and_the_run_turns_where_it_crossed():
    loop = np.array([[[0.0, 0.0], [14.0, 4.0], [-4.0, 4.0], [10.0, 0.0]]])
    run = np.concatenate(
        [
            bezier.line_segments(np.array([[-20.0, 0.0], [0.0, 0.0]])),
            loop,
            bezier.line_segments(np.array([[10.0, 0.0], [30.0, 0.0]])),
        ]
    )
    assert len(crossings(run)) == 1
    cut = without_loops(run, 30.0, closed=False)
    assert len(crossings(cut)) == 0
    assert np.allclose(cut[0, 0], [-20, 0]) and np.allclose(cut[-1, 3], [30, 0])
    assert np.allclose(cut[1:, 0], cut[:-1, 3])


def test_a_loop_longer_than_asked_for_is_the_pictures_own():
    eight = np.array([[[0.0, 0.0], [100.0, 80.0], [-60.0, 80.0], [40.0, 0.0]]])
    assert np.array_equal(without_loops(eight, 10.0, closed=False), eight)


def test_a_curve_that_is_one_place_is_no_loop_and_the_run_does_not_grow():
    """It crosses itself in the last digits of its control points: cutting there doubled the run each round."""
    rng = np.random.default_rng(2)
    dot = 118.0 + rng.integers(-1, 2, (1, 4, 2)) * np.spacing(118.0)
    back = np.array([[[118.0, 118.0], [121.0, 120.0], [121.0, 117.0], [118.0, 119.0]]])
    run = np.concatenate([dot, dot[:, ::-1], back])
    cut = without_loops(run, 6.0, closed=False)
    assert len(cut) <= 3
    assert (cut[0, 0] == run[0, 0]).all() and (cut[-1, 3] == run[-1, 3]).all()
    (same,) = without_loops(dot, 6.0, closed=False)
    assert np.abs(same - 118.0).max() < 1e-9
