"""The first draft of a spline: corners where they are, and breaks that leave out no point."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, spun
from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.initial_spline import _blunted, _most_bent, _tip_share, initial_spline
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry.norm import norm


def initial(points: np.ndarray, *, closed: bool, down_weighted: bool = True, **changes):
    """The draft of a spline along points: its nodes, first points, lines and corners, and whether it is all smooth."""
    n = len(points)
    room = n + 8
    spline = Spline(points, np.ones(n), closed=closed, room=room)
    count, smooth = initial_spline(spline.arrays(), down_weighted, FitSettings(**changes).spans)
    return (
        spline.node[:count],
        spline.first[:count],
        spline.line[:count],
        spline.corner[:count],
        spline.weight,
        smooth,
    )


def outline(corners: np.ndarray, step: float = 0.8) -> np.ndarray:
    runs = []
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        size = math.dist(a, b)
        runs.append(a + (b - a) * (np.arange(0, size - 0.3, step) / size)[:, None])
    return np.concatenate(runs)


@examples(18)
@given(st.integers(3, 9), st.floats(0, 2 * math.pi), st.floats(40, 120))
def test_a_polygon_s_corners_are_the_draft_s_whatever_its_place_and_turn(sides, turn, radius):
    way = turn + np.arange(sides) * 2 * math.pi / sides
    corners = np.column_stack([np.cos(way), np.sin(way)]) * radius + 150.0
    node, first, line, corner, _, smooth = initial(outline(corners), closed=True)
    assert not smooth and corner.sum() == sides
    away = np.hypot(*(node[corner][:, None] - corners[None]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() < 0.15
    assert line.all() and (np.diff(first) > 0).all()


@examples(14)
@given(st.floats(25, 150), st.floats(0.55, 1.0))
def test_a_round_outline_has_no_corner_and_starts_where_it_bends_most(radius, flat):
    t = np.linspace(0, 2 * math.pi, round(2 * math.pi * radius / 0.8), endpoint=False)
    points = np.column_stack([150 + radius * np.cos(t), 150 + flat * radius * np.sin(t)])
    node, first, _, corner, _, smooth = initial(points, closed=True)
    assert smooth and not corner.any() and len(node) >= 3
    if flat < 0.9:
        # An ellipse bends most at the ends of its longer axis.
        assert abs(node[0, 0] - 150) > 0.9 * radius
    assert first[-1] < first[0] + len(points)


@given(st.floats(0.3, 2.8), st.booleans())
def test_an_open_run_keeps_its_ends_and_its_corner(turn, down_weighted):
    along = np.arange(0, 60, 0.8)[:, None]
    points = np.vstack([along[::-1] * [1.0, 0.0], along[1:] * [-math.cos(turn), math.sin(turn)]]) + 100.0
    node, first, _, corner, weight, smooth = initial(points, closed=False, down_weighted=down_weighted)
    assert not smooth and corner[0] and corner[-1]
    assert np.array_equal(node[[0, -1]], points[[0, -1]])
    assert first[0] == 0 and first[-1] == len(points)
    if turn > math.radians(30):
        assert np.hypot(*(node[corner] - 100.0).T).min() < 0.3
        # Points beside a corner, and beside ends where others meet, have hardly a say.
        assert weight[len(along) - 1] < 0.5
    assert not down_weighted or max(weight[0], weight[-1]) < 0.5


def test_blur_draws_a_slender_tip_back_further_than_a_right_angle():
    spans = FitSettings(blur_px=0.5).spans
    back = [_blunted(turn, spans) for turn in (90.0, 120.0, 150.0, 165.0)]
    assert back == sorted(back) and back[-1] > 2.0 * back[0]
    # And no further the slenderer it is: such tips are not told apart.
    assert _blunted(175.0, spans) == _blunted(170.0, spans)
    assert _blunted(90.0, FitSettings(blur_px=1.0).spans) > back[0]


def test_the_sides_of_a_tip_feel_each_other_further_out():
    assert _tip_share(60.0, 1.2, 6.0) == _tip_share(90.0, 1.2, 6.0) == pytest.approx(1.0)
    assert 1.0 < _tip_share(120.0, 1.2, 6.0) < _tip_share(150.0, 1.2, 6.0)
    # Never so far that nothing of the reach is left.
    assert _tip_share(179.0, 1.2, 6.0) <= 0.6 * 6.0 / 1.2 + 1e-12


def test_a_drop_bends_most_at_its_tip():
    t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    drop = np.column_stack([100 + 60 * np.cos(t), 100 + 40 * np.sin(t) * np.sin(t / 2) ** 2])
    assert min(_most_bent(drop, 5.0), 400 - _most_bent(drop, 5.0)) < 12


@given(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6))
def test_the_length_of_a_vector_is_that_of_the_library(x, y):
    assert norm(x, y) == pytest.approx(math.hypot(x, y), rel=1e-12)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"tolerance_px": 0.0}, "Tolerance"),
        ({"corner_deg": 200.0}, "Corner angle"),
        ({"pixel_px": math.nan}, "Pixel size"),
        ({"blur_px": -1.0}, "Blur"),
        ({"noise_px": 50.0}, "Noise"),
    ],
)
def test_settings_that_cannot_be_are_refused_by_name(changes, words):
    with pytest.raises(InvalidInputError, match=words):
        FitSettings(**changes)


@given(st.floats(0.5, 4), st.floats(0, 4), st.floats(0, 0.5))
def test_spans_are_in_order_and_widen_with_all_that_blurs(pixel, blur, noise):
    here = FitSettings(pixel_px=pixel, blur_px=blur, noise_px=noise).spans
    assert here.skip < here.moved <= here.moved_at_end and here.skip < here.reach
    assert here.straight < here.tolerance
    softer = FitSettings(pixel_px=pixel, blur_px=blur + 1.0, noise_px=noise).spans
    assert softer.skip > here.skip and softer.reach > here.reach and softer.moved > here.moved


def stadium(half: float, radius: float, turn: float, first: float, step: float = 0.8) -> np.ndarray:
    """Points at even steps round a bar with half discs for ends, from a share of its length on."""
    run, arc = np.arange(0, 2 * half, step), np.arange(0, math.pi, step / radius)
    side = np.column_stack([run - half, np.full(len(run), -radius)])
    end = np.column_stack([half + radius * np.sin(arc), -radius * np.cos(arc)])
    whole = np.concatenate([side, end, -side, -end])
    return np.roll(spun(whole, turn, (150.0, 150.0)), round(first * len(whole)), axis=0)


@examples(18)
@given(st.floats(15, 60), st.floats(4, 14), st.floats(0, 6.2), st.floats(0, 1))
def test_a_smooth_outline_with_lines_has_no_node_on_them_wherever_its_points_begin(half, radius, turn, first):
    """It is cut open on a line, and that cut goes again."""
    points = stadium(half, radius, turn, first)
    node, begins, line, corner, _, smooth = initial(points, closed=True)
    assert smooth and not corner.any()
    if half < 15 + 2:
        return  # Lines too short to be cut.
    assert line.sum() == 2 and not (line & np.roll(line, 1)).any()
    own = spun(node - 150.0, -turn, (0.0, 0.0))
    ends = own[line | np.roll(line, 1)]
    assert len(ends) == 4
    assert np.abs(np.abs(ends) - (half, radius)).max(axis=0)[1] < 0.15
    # A straight run goes on over an arc until that leaves it by what its points err.
    assert np.abs(np.abs(ends[:, 0]) - half).max() < math.sqrt(2 * radius * 0.1) + 1.6
    assert (
        0 <= begins[0] < len(points) and (np.diff(begins) > 0).all() and begins[-1] < begins[0] + len(points)
    )
