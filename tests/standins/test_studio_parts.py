"""What the studio is made of: choices that can be varied, parts set into a frame, cut paper, ornament, tones."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from zeichen.core.briefing import Reach, Variation
from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.values import rgb_colours
from zeichen.standins.studio.cut_paper import silhouette, stencil
from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.looks import TONES, choose_tones
from zeichen.standins.studio.ornament import KINDS, adorn
from zeichen.standins.studio.pen import Dot, Form, Mark
from zeichen.standins.studio.placing import Frame, bounds, place, round_off

seeds = st.integers(0, 2**32 - 1)


def islands(area) -> int:
    return sum(len(part.interiors) for part in getattr(area, "geoms", [area]))


@given(seeds, st.floats(-50, 50), st.floats(0.1, 90))
def test_choices_stay_within_their_limits_and_come_again(seed, low, width):
    first, again = Hand(seed, "mug"), Hand(seed, "mug")
    for _ in range(5):
        value = first.uniform(low, low + width)
        assert low <= value <= low + width and value == again.uniform(low, low + width)
        whole = first.integers(2, 6)
        assert whole in range(2, 6) and whole == again.integers(2, 6)
    assert first.random() != Hand(seed, "owl").random()


@given(seeds, st.lists(st.tuples(st.sampled_from(Reach), seeds), min_size=1, max_size=5))
def test_varied_choices_are_choices_too(seed, steps):
    hand = Hand(seed, "mug", variations=[Variation(reach, each) for reach, each in steps])
    assert all(0.0 <= hand.random() < 1.0 for _ in range(20))


def test_a_near_step_is_a_quarter_of_a_far_one():
    def moved(reach):
        away = []
        for seed in range(200):
            base, varied = Hand(seed, "mug"), Hand(seed, "mug", variations=[Variation(reach, seed)])
            away += [abs(base.random() - varied.random()) for _ in range(3)]
        return np.mean(away)

    assert 0.03 < moved(Reach.NEAR) < 0.4 * moved(Reach.FAR)


@given(
    st.floats(-180, 180), st.booleans(), st.floats(0.2, 0.9), st.floats(0.3, 0.7),
    st.sampled_from([(1000.0, 1000.0), (1000.0, 750.0), (750.0, 1000.0)]),
)  # fmt: skip
def test_a_figure_fills_its_share_of_the_frame_round_its_middle(lean, mirrored, share, across, size):
    parts = [Form(box(10, 20, 400, 120), "red"), Mark(LineString([(0, 0), (300, 300)]), "dark", -1.0)]
    frame = Frame(*size)
    made = place(parts, frame, lean_deg=lean, mirrored=mirrored, size_share=share, middle=(across, 0.5))
    x0, y0, x1, y1 = bounds(made)
    assert max((x1 - x0) / frame.width, (y1 - y0) / frame.height) == pytest.approx(share)
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((across * frame.width, frame.height / 2))
    # Shapes keep their proportions, however they are turned.
    scale = made[1].line.length / parts[1].line.length
    assert made[0].area.area == pytest.approx(parts[0].area.area * scale**2)


@pytest.mark.parametrize("radius", [0.0, 5.0, 20.0])
def test_corners_are_rounded_by_the_radius(radius):
    (made,) = round_off([Form(box(0, 0, 200, 100), "red")], radius)
    # Each corner of a square loses r² - pi r² / 4.
    assert made.area.area == pytest.approx(200 * 100 - 4 * (1 - np.pi / 4) * radius**2, rel=2e-3)


def test_rounding_never_makes_a_small_form_vanish():
    (made,) = round_off([Form(box(0, 0, 300, 6), "red")], 40.0)
    assert made.area.area > 0.8 * 1800


@pytest.mark.parametrize("one_piece", [True, False])
def test_a_form_inside_another_is_set_off_and_hangs_on_if_it_must(one_piece):
    parts = [Form(box(0, 0, 400, 400), "red"), Form(Point(200, 200).buffer(80), "rose")]
    dark = silhouette(parts, 20.0, one_piece=one_piece)
    assert (dark.geom_type == "Polygon") == one_piece
    light = box(0, 0, 400, 400).difference(dark)
    # A ring of 0.72 line weights around the inner form, open below where all hangs together.
    ring = np.pi * ((80 + 14.4) ** 2 - 80**2)
    assert light.area == pytest.approx(ring, rel=0.25 if one_piece else 0.03)


def test_marks_stay_clear_of_the_outline_in_one_piece():
    parts = [Form(box(0, 0, 400, 400), "red"), Mark(LineString([(-50, 200), (450, 200)]), "cream")]
    assert silhouette(parts, 20.0, one_piece=True).geom_type == "Polygon"
    assert silhouette(parts, 20.0, one_piece=False).geom_type == "MultiPolygon"


@settings(max_examples=25)
@given(st.integers(1, 5), st.floats(12, 30))
def test_a_stencil_holds_every_island(count, weight):
    dots = [Dot(Point(150 + 170 * k, 300 + 40 * (k % 2)).buffer(50), "cream") for k in range(count)]
    openings = stencil([Form(box(0, 0, 1000, 600), "red"), *dots], weight)
    assert islands(openings) == 0
    assert openings.area > 0.6 * 600_000 - sum(dot.area.area for dot in dots)


@pytest.mark.parametrize("kind", list(KINDS))
@pytest.mark.parametrize("tone", ["red", "cream"])
def test_ornament_stays_within_its_room_and_shows(kind, tone):
    room = Point(500, 500).buffer(260)
    made = adorn(tone, room, Hand(4, "mug"), weight=16.0, kind=kind)
    assert made
    for part in made:
        inside = part.line if isinstance(part, Mark) else part.area
        assert room.buffer(1.0).contains(inside)
        assert part.tone != tone, "it would not be seen"
    assert adorn(tone, Point(0, 0).buffer(20), Hand(4, "mug"), weight=16.0, kind=kind) == []


def test_tones_follow_the_palette_without_falling_together():
    parts = [
        Form(box(0, 0, 100 * k, 100), tone) for k, tone in enumerate(("red", "leaf", "cream", "brown"), 1)
    ]
    palette = ("#b03030", "#407040", "#f0e0c0", "#604030")
    chosen = choose_tones(parts, palette, None)
    assert chosen == dict(zip(("red", "leaf", "cream", "brown"), palette, strict=True))
    assert choose_tones(parts, (), None) == {tone: TONES[tone] for tone in chosen}


@pytest.mark.parametrize("colours", [1, 2, 3])
def test_fewer_colours_keep_the_largest_tones_and_give_the_others_their_nearest(colours):
    parts = [
        Form(box(0, 0, 400, 100), "red"),
        Form(box(0, 0, 300, 100), "leaf"),
        Form(box(0, 0, 200, 100), "teal"),
    ]
    parts.append(Form(box(0, 0, 10, 10), "lime"))
    chosen = choose_tones(parts, (), colours)
    assert len(set(chosen.values())) == colours
    kept = ("red", "leaf", "teal")[:colours]
    assert all(chosen[tone] == TONES[tone] for tone in kept)
    away = difference(
        to_lab(rgb_colours([TONES["lime"]]))[0], to_lab(rgb_colours([TONES[tone] for tone in kept]))
    )
    assert chosen["lime"] == TONES[kept[int(away.argmin())]]


def test_looks_of_paper_differ_for_different_seeds():
    rooms = [
        shapely.union_all(
            [p.area for p in adorn("red", box(0, 0, 600, 400), Hand(s, "mug"), weight=16, kind="dots")]
        )
        for s in range(4)
    ]
    assert all(not a.equals(b) for a, b in itertools.combinations(rooms, 2))
