"""Equal parts get equal nodes, symmetric outlines are symmetric, ellipses are true ones."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, inked, picture_of, spun
from zeichen.core.geometry import Path, bezier
from zeichen.core.geometry.bezier import ellipse_segments
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.symmetry.reflection import Axis, Likeness, Measured, mirrored_from_half, symmetric
from zeichen.core.tracing.symmetry.registration import (
    best_fit,
    brought_onto,
    is_quarter,
    laid_onto,
    outline_of,
    snapped,
)
from zeichen.core.tracing.symmetry.repeated_outlines import draw_repeated_alike
from zeichen.core.tracing.trace import trace


def leaf(turn: float = 0.0, size: float = 1.0) -> np.ndarray:
    """A lopsided leaf about 60 px long, round its own middle."""
    t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    x, y = 30 * np.cos(t), 12 * np.sin(t) * (1 + 0.45 * np.cos(t)) + 4 * np.cos(2 * t)
    spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return np.column_stack([x, y]) @ spin.T * size


def picture(*rings) -> Picture:
    return picture_of(inked(*rings, size=256))


def measured_along(run: np.ndarray):
    """What a trace would have measured of a closed run of curves."""
    return outline_of(bezier.evaluate(run, np.linspace(0, 1, 40, endpoint=False)).reshape(-1, 2)).pieces


def outlines(made: Picture):
    return [path.segments for path in trace(made, TraceSettings()).drawing.paths]


@examples(8)
@given(st.floats(0, 0.9), st.floats(0, 0.9))
def test_the_same_ornament_twice_gets_the_same_nodes(dx, dy):
    first, second = outlines(picture(leaf() + np.array((60, 60)), leaf() + np.array((160 + dx, 150 + dy))))
    move = second[0, 0] - first[0, 0]
    assert np.abs(second - first - move).max() < 1e-9
    assert move == pytest.approx((100 + dx, 90 + dy), abs=0.05) or -move == pytest.approx(
        (100 + dx, 90 + dy), abs=0.05
    )


def test_a_turned_and_a_mirrored_copy_have_the_same_handles():
    made = picture(
        leaf() + np.array((60, 60)), leaf(2.1) + np.array((170, 70)), leaf() * (-1, 1) + np.array((128, 190))
    )
    lengths = [
        sorted(np.linalg.norm(np.diff(run, axis=1), axis=2).ravel().round(6)) for run in outlines(made)
    ]
    assert lengths[0] == pytest.approx(lengths[1], abs=1e-5) and lengths[0] == pytest.approx(
        lengths[2], abs=1e-5
    )


@pytest.mark.parametrize("turn", [0.0, 0.4])
def test_a_symmetric_figure_is_drawn_symmetric(turn):
    t = np.linspace(0, 2 * math.pi, 600, endpoint=False)
    x = 60 * np.sin(t) ** 3
    y = -(48 * np.cos(t) - 18 * np.cos(2 * t) - 8 * np.cos(3 * t) - 3 * np.cos(4 * t))
    spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    (run,) = outlines(picture(np.column_stack([x, y]) @ spin.T + np.array((128.3, 120.7))))
    nodes = run[:, 0] - np.array((128.3, 120.7))
    way = np.array([-math.sin(turn), math.cos(turn)])
    across = np.array([math.cos(turn), math.sin(turn)])
    along, side = nodes @ way, nodes @ across
    middle = (side.min() + side.max()) / 2
    assert abs(middle) < 0.15
    for a, s in zip(along, side - middle, strict=True):
        assert np.hypot(along - a, side - middle + s).min() < 0.03


def test_unlike_outlines_stay_as_they_are():
    first, second = outlines(picture(leaf() + np.array((60, 60)), leaf(size=1.06) + np.array((160, 150))))
    assert len(first) != len(second) or np.abs(second - first - (second[0, 0] - first[0, 0])).max() > 0.3


# Flatter and smaller ones, with ends of 2 to 4 px, come out with 3 to 5 segments at times.
@examples(10)
@given(st.floats(24, 60), st.floats(0.5, 0.8), st.floats(0, math.pi))
def test_an_ellipse_is_four_quarters_with_its_own_area(a, flat, turn):
    t = np.linspace(0, 2 * math.pi, 720, endpoint=False)
    ring = np.column_stack([a * np.cos(t), a * flat * np.sin(t)])
    spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    made = trace(picture(ring @ spin.T + np.array((128.4, 127.7))), TraceSettings()).drawing
    (path,) = made.paths
    assert len(path.segments) == 4
    assert shape_area(made.shapes[0], tolerance=1e-3).area == pytest.approx(math.pi * a * a * flat, rel=2e-3)
    # Perimeter after S. Ramanujan, Quarterly Journal of Mathematics 45 (1914), good to 1e-5 here.
    h = ((1 - flat) / (1 + flat)) ** 2
    round_about = math.pi * a * (1 + flat) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
    assert float(bezier.arc_lengths(path.segments).sum()) == pytest.approx(round_about, rel=2e-3)


def test_a_symmetric_outline_closes_to_the_last_digit():
    turn = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    oval = np.column_stack([15.03 * np.cos(turn), 16.91 * np.sin(turn) + 1.7 * np.cos(turn) ** 2])
    for shift in (0.0, 0.31, 0.77):
        (run,) = outlines(picture(oval + np.array((128.2 + shift, 120.4))))
        assert (run[0, 0] == run[-1, 3]).all()
        assert (run[1:, 0] == run[:-1, 3]).all()


def gear(teeth: int, radius: float = 90.0) -> np.ndarray:
    """An outline that is nearly round: its turn shows in its teeth only."""
    way = np.repeat(np.arange(teeth) * 2 * np.pi / teeth, 4)
    way += np.tile([-0.35, -0.2, 0.2, 0.35], teeth) * np.pi / teeth
    far = np.tile([radius, radius + 6, radius + 6, radius], teeth)
    corners = np.column_stack([far * np.cos(way), far * np.sin(way)])
    ring = np.vstack([corners, corners[:1]])
    return np.vstack([a + (b - a) * np.linspace(0, 1, 12)[:-1, None] for a, b in pairwise(ring)])


@examples(11)
@given(st.integers(8, 24), st.floats(-0.012, 0.012), st.floats(-0.3, 0.3), st.floats(-0.3, 0.3))
def test_a_small_turn_of_a_nearly_round_outline_is_found(teeth, angle, dx, dy):
    loop = gear(teeth)
    found, *_ = brought_onto(spun(loop, -angle, (dx, dy)), outline_of(loop).pieces, np.zeros(2), True)
    assert np.angle(found) == pytest.approx(angle, abs=4e-4) and abs(found) == pytest.approx(1.0)


@given(st.floats(-0.2, 0.2))
def test_a_circle_has_no_turn_to_find(angle):
    t = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    loop = np.column_stack([60 * np.cos(t), 60 * np.sin(t)])
    assert (
        abs(
            np.angle(
                brought_onto(spun(loop, angle, (0.0, 0.0)), outline_of(loop).pieces, np.zeros(2), True)[0]
            )
        )
        < 1e-3
    )


@given(st.integers(-8, 8))
def test_quarters_are_told_from_other_turns(quarters):
    assert is_quarter(snapped(complex(np.exp(0.5j * np.pi * quarters))))
    assert not is_quarter(complex(np.exp(0.5j * np.pi * (quarters + 0.1))))


@examples(10)
@given(st.integers(0, 10_000), st.integers(0, 191), st.floats(-3.1, 3.1))
def test_the_best_fit_is_where_numpys_correlation_is_largest(seed, shift, angle):
    rng = np.random.default_rng(seed)
    ring = np.cumsum(rng.normal(size=(192, 2)), axis=0)
    ring -= ring.mean(axis=0)
    goal = np.roll(spun(ring, angle, (0.0, 0.0)), shift, axis=0) + rng.normal(0, 0.01, ring.shape)
    found, turn, left = best_fit(goal, ring)
    own, other = (rows[:, 0] + 1j * rows[:, 1] for rows in (ring, goal))
    score = np.fft.ifft(np.fft.fft(other) * np.conj(np.fft.fft(own)))
    assert found == int(np.abs(score).argmax()) == shift
    assert abs(turn - np.exp(1j * angle)) < 0.01 and left < 0.02


@examples(10)
@given(st.floats(0.05, 1.5), st.floats(-0.3, 0.3), st.floats(-20, 20), st.booleans())
def test_an_outline_is_laid_onto_its_copy(turn, shift, way, backwards):
    loop = leaf(0.3) + 80.0
    own = outline_of(loop)
    mirror = np.array([1.0, -1.0]) if backwards else np.ones(2)
    copy = spun((loop - own.centre) * mirror, turn, (100.0 + shift, 100.0 + way))
    onto = outline_of(copy[::-1].copy() if backwards else copy)
    found, spin, x, y, off = laid_onto(own.ring, backwards, onto.ring, onto.pieces, onto.centre, 0.2)
    assert found and off < 0.01 and math.hypot(x, y) < 0.01
    assert abs(spin - np.exp(1j * turn)) < 1e-3 or abs(spin - np.round(np.exp(1j * turn))) < 0.02


@given(st.floats(0, 3.1), st.sampled_from([0.0, 0.2, 0.7]))
def test_half_of_a_symmetric_run_and_its_image_are_the_run(turn, where):
    """A drop of four curves, its nodes on the axis or beside it: every place has its image among the others."""
    upper = [[0.0, -40.0], [9.0, -20.0], [22.0, -8.0], [22.0, 12.0]]
    half = np.array([upper, [[22.0, 12.0], [22.0, 24.0], [12.0, 34.0], [0.0, 34.0]]])
    image = (half * (-1, 1))[::-1, ::-1]
    run = np.concatenate([half, image])
    if where:
        run = bezier.split(run, 1, where)
        run = np.roll(run, -1, axis=0)
    spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    run = np.ascontiguousarray(run @ spin.T + (50.0, 60.0))
    across = spin @ (1.0, 0.0)
    curved = np.zeros(len(run), np.bool_)
    measured = measured_along(run)
    whole = mirrored_from_half(
        Path(run).segments, curved, measured, Axis(np.array([50.0, 60.0]), across), 0.05
    )
    assert len(whole) == 4 and (whole[:, 0] == np.roll(whole[:, 3], 1, axis=0)).all()
    nodes = whole[:, 0] - (50.0, 60.0)
    images = nodes - 2 * (nodes @ across)[:, None] * across
    for node in images:
        assert np.hypot(*(nodes - node).T).min() < 1e-9
    # Not its own image about another line.
    other = Axis(np.array([50.0, 60.0]), spin @ (0.8, 0.6))
    assert len(mirrored_from_half(Path(run).segments, curved, measured, other, 0.05)) == 0


def bowl(first: float, second: float) -> np.ndarray:
    """A bowl upright about x = 50: a flat bottom curve with handles so long, two sides, a lid."""
    bottom = [[30.0, 60.0], [30.0, 60.0 + first], [70.0, 60.0 + second], [70.0, 60.0]]
    right = [[70.0, 60.0], [70.0, 50.0], [64.0, 40.0], [58.0, 34.0]]
    left = [[42.0, 34.0], [36.0, 40.0], [30.0, 50.0], [30.0, 60.0]]
    lid = [[58.0, 34.0], [52.0, 31.0], [48.0, 31.0], [42.0, 34.0]]
    return np.array([bottom, right, lid, left])


@given(st.floats(8, 14), st.floats(-3, 3))
def test_a_curve_over_the_axis_crosses_it_where_it_did_whatever_its_handles(handle, more):
    """Mirrored with the longer or the shorter one of its handles it bulged."""
    run = bowl(handle + more, handle - more)
    curved = np.zeros(4, np.bool_)
    middle, across = np.array([50.0, 50.0]), np.array([1.0, 0.0])
    whole = mirrored_from_half(Path(run).segments, curved, measured_along(run), Axis(middle, across), 3.0)
    lowest = bezier.evaluate(whole, np.linspace(0, 1, 401)).reshape(-1, 2)[:, 1].max()
    # Half-way between handles up, a curve has come three quarters of their mean length (Bernstein form).
    assert lowest == pytest.approx(60 + 0.75 * handle, abs=0.2)
    images = (whole * (-1, 1) + (100, 0))[:, ::-1]
    assert np.abs(np.sort(images[:, 0, 0]) - np.sort(whole[:, 0, 0])).max() < 1e-9


@pytest.mark.parametrize("spoiled", [0, 1])
def test_of_two_halves_with_as_many_nodes_the_one_nearer_to_the_measured_outline_is_kept(spoiled):
    run = bowl(11.0, 11.0)
    measured = measured_along(run)
    off = run.copy()
    side = 3 if spoiled else 1
    off[side, 1:3] += (0.8, 0.5)
    whole = mirrored_from_half(
        Path(off).segments,
        np.zeros(4, np.bool_),
        measured,
        Axis(np.array([50.0, 50.0]), np.array([1.0, 0.0])),
        3.0,
    )
    places = bezier.evaluate(whole, np.linspace(0, 1, 100)).reshape(-1, 2)
    truth = bezier.evaluate(run, np.linspace(0, 1, 2000)).reshape(-1, 2)
    gaps = np.hypot(*(places[:, None] - truth).transpose(2, 0, 1)).min(axis=1)
    assert gaps.max() < 0.05


@pytest.mark.parametrize("turn_deg", [0.25, 0.4, -0.3])
def test_what_is_turned_by_nearly_a_quarter_keeps_its_turn(turn_deg):
    """Half a degree is 0.3 px over a leaf of 60: its image is that far off an upright axis, and not off its own."""
    t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    drop = np.column_stack([30 * np.cos(t) + 6 * np.cos(2 * t), 14 * np.sin(t)])
    outline = outline_of(spun(drop, math.radians(turn_deg), (60.0, 60.0)))
    found, turn, _, _, off = laid_onto(outline.ring, True, outline.ring, outline.pieces, outline.centre, 0.15)
    assert found and off < 0.02
    assert math.degrees(math.atan2(turn.imag, turn.real)) == pytest.approx(2 * turn_deg, abs=0.02)


def test_what_is_not_quite_symmetric_stays_so():
    """One side of a bowl stands out by 0.4 px more than the other."""
    run = bowl(11.0, 11.0)
    run[3, 1:3] -= (0.55, 0.0)
    loop = bezier.evaluate(run, np.linspace(0, 1, 60, endpoint=False)).reshape(-1, 2)
    outline = outline_of(loop)
    lines = np.zeros(4, np.bool_)
    measured = Measured(outline.ring, outline.centre, outline.pieces)
    kept = symmetric(Path(run).segments, lines, measured, Likeness(0.5, 0.1, 1.0))
    assert len(kept) == 0
    assert len(symmetric(Path(run).segments, lines, measured, Likeness(0.5, 0.5, 1.0))) == 4


@examples(10)
@given(st.floats(-0.6, 0.6), st.floats(-0.6, 0.6))
def test_a_move_alone_is_found_without_a_turn(dx, dy):
    loop = leaf(0.7) + 60.0
    outline = outline_of(loop)
    turn, x, y = brought_onto(outline.ring + outline.centre - (dx, dy), outline.pieces, outline.centre, False)
    assert turn == 1.0 and (x, y) == pytest.approx((dx, dy), abs=0.01)


def test_outlines_of_other_sizes_or_shapes_are_not_laid_onto_each_other():
    own = outline_of(leaf() + 60.0)
    for other in (leaf(size=1.5) + 60.0, gear(9, radius=20.0) + 60.0, leaf()[:, ::-1] * (1.0, 0.4) + 60.0):
        onto = outline_of(other)
        assert not laid_onto(own.ring, False, onto.ring, onto.pieces, onto.centre, 0.1)[0]


@given(st.floats(0, 3.1), st.floats(0.5, 3.0))
def test_an_outlines_length_and_centre_are_its_own(turn, size):
    loop = leaf(turn, size) + np.array((70.0, 55.0))
    outline = outline_of(loop)
    closed = np.vstack([loop, loop[:1]])
    assert outline.length == pytest.approx(bezier.lengths_along(closed)[-1])
    assert np.abs(outline.ring.mean(axis=0)).max() < 1e-9
    apart = np.hypot(*(outline.ring - np.roll(outline.ring, 1, axis=0)).T)
    # Even steps along the outline: chords are hardly shorter, least so where it bends.
    assert apart.max() <= outline.length / len(outline.ring) + 1e-9 and apart.min() > 0.9 * apart.max()


@pytest.mark.parametrize("axes", [(20.0, 20.0), (30.0, 12.0)])
@pytest.mark.parametrize("turn", [0.0, 0.6])
def test_true_ellipses_stay_as_they_are(axes, turn):
    """Mirrored about any other line through its middle a circle is no longer made of quarters."""
    t = np.linspace(0, 2 * math.pi, 900, endpoint=False)
    ring = spun(np.column_stack([axes[0] * np.cos(t), axes[1] * np.sin(t)]), turn, (60.3, 59.8))
    upright = ellipse_segments((0, 0), radius_x=axes[0], radius_y=axes[1])
    ellipse = Path(spun(upright.reshape(-1, 2), turn, (60.3, 59.8)).reshape(upright.shape))
    (kept,) = draw_repeated_alike([ellipse], [ring[::3]], tolerance_px=0.2)
    assert kept is ellipse
