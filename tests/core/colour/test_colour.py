"""Colours: against published values, and by what must stay when they change."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import circle, drawing, examples, rectangle
from zeichen.core.colour import (
    HARMONIES,
    by_map,
    contrast,
    fills,
    from_words,
    harmonised,
    known_words,
    merged,
    proposals_from_words,
    readable_on,
    recoloured,
    toned,
)
from zeichen.core.colour.merging import colour_off, merged_colours
from zeichen.core.colour.spaces import _TO_CONE, _TO_LAB, from_polar, linear, oklab, polar
from zeichen.core.colour.words import meaning_of
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import Shape

colours = st.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06x}")
palettes = st.lists(colours, min_size=1, max_size=9, unique=True)


sizes = st.dictionaries(colours, st.sampled_from([0.0, 1.0, 2.5, 40.0]), min_size=1, max_size=9)


@given(sizes, st.integers(1, 6))
def test_the_pair_that_costs_least_goes_together_first(areas, most):
    """Ward's method, pair by pair, as its paper says it: J. H. Ward (1963)."""
    left, into = dict(areas), {colour: colour for colour in areas}
    while len(left) > most:
        one, other = min(
            itertools.combinations(sorted(left), 2),
            key=lambda two: (
                colour_off(*two) ** 2 * left[two[0]] * left[two[1]] / max(left[two[0]] + left[two[1]], 1e-12)
            ),
        )
        small, big = (other, one) if left[one] >= left[other] else (one, other)
        left[big] += left.pop(small)
        into = {colour: big if target == small else target for colour, target in into.items()}
    assert merged_colours(areas, most=most) == into


def test_thousands_of_colours_are_brought_down_to_a_few():
    areas = {f"#{(k * 7919) & 0xFFFFFF:06x}": 1.0 + k % 5 for k in range(1, 3000)}
    assert len(set(merged_colours(areas, most=4).values())) == 4


def test_white_is_one_and_primaries_are_where_they_were_published():
    """Oklab of sRGB red, green and blue (from memory, B. Ottosson 2020)."""
    table = {
        (255, 255, 255): (1.0, 0.0, 0.0),
        (255, 0, 0): (0.628, 0.225, 0.126),
        (0, 255, 0): (0.866, -0.234, 0.179),
        (0, 0, 255): (0.452, -0.032, -0.312),
    }
    for rgb, lab in table.items():
        assert oklab(np.array(rgb, dtype=float)) == pytest.approx(lab, abs=2e-3)
    assert _TO_CONE.sum(axis=1) == pytest.approx([1, 1, 1], abs=1e-6) and _TO_LAB.shape == (3, 3)


def test_srgb_goes_to_light_and_back():
    """IEC 61966-2-1: the middle grey 188 is about half the light (from memory)."""
    assert float(linear(np.array(188.0))) == pytest.approx(0.503, abs=2e-3)


@given(colours)
def test_a_colour_comes_back_from_lightness_chroma_and_hue(colour):
    assert from_polar(*polar(colour)) == colour


@given(st.floats(0.15, 1), st.floats(0, 0.5), st.floats(0, 360))
def test_what_srgb_cannot_show_keeps_its_lightness_and_hue(lightness, chroma, hue):
    got = polar(from_polar(lightness, chroma, hue))
    assert got[0] == pytest.approx(lightness, abs=0.02) and got[1] <= chroma + 0.02


def test_contrast_is_wcags():
    """W3C, WCAG 2.2: black on white 21; #777777 on white 4.48, #767676 4.54 (the well-known pair)."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)
    assert contrast("#ffffff", "#767676") == pytest.approx(4.54, abs=0.01)
    assert readable_on("#24272b", "#ffffff") and not readable_on("#f7f4ec", "#ffffff")


@examples(27)
@given(palettes, st.sampled_from(sorted(HARMONIES)), st.integers(0, 50))
def test_a_harmony_keeps_the_order_from_dark_to_light(palette, harmony, seed):
    change = harmonised(palette, harmony, seed=seed)
    assert list(change) == palette and change == harmonised(palette, harmony, seed=seed)
    ranked = sorted(palette, key=lambda colour: polar(colour)[0])
    light = [polar(change[colour])[0] for colour in ranked]
    assert all(b >= a - 1e-9 for a, b in itertools.pairwise(light))


@pytest.mark.parametrize("harmony", sorted(HARMONIES))
def test_hues_stand_as_the_harmony_says(harmony):
    palette = ["#a14c2d", "#3e7b4f", "#2f6db5", "#b7791f"]
    hues = [polar(colour)[2] for colour in harmonised(palette, harmony, seed=4).values()]
    steps = HARMONIES[harmony]
    for number, hue in enumerate(hues):
        off = (hue - hues[0] - steps[number % len(steps)] + 180) % 360 - 180
        assert abs(off) < 4


def test_greys_stay_grey_beside_colours_and_take_colour_alone():
    palette = ["#24272b", "#808080", "#a14c2d"]
    for change in (harmonised(palette, "triadic"), from_words(palette, "deep moss")):
        assert change["#24272b"] == "#24272b" and change["#808080"] == "#808080"
        assert change["#a14c2d"] != "#a14c2d"
    assert from_words(["#ffffff", "#24272b"], "moss")["#ffffff"] == "#ffffff"
    assert polar(from_words(["#ffffff", "#24272b"], "moss")["#24272b"])[1] > 0.03


@examples(18)
@given(palettes, st.lists(st.sampled_from(known_words()), min_size=1, max_size=4))
def test_any_known_words_make_a_palette(palette, words):
    change = from_words(palette, " and ".join(words))
    assert list(change) == palette
    assert all(len(colour) == 7 and colour[0] == "#" for colour in change.values())


def test_words_say_hue_and_mood():
    green = polar(from_words(["#a14c2d"], "moss")["#a14c2d"])
    assert 100 < green[2] < 150
    assert polar(from_words(["#a14c2d"], "pale moss")["#a14c2d"])[0] > green[0]
    assert polar(from_words(["#a14c2d"], "vivid moss")["#a14c2d"])[1] > green[1]


@pytest.mark.parametrize(
    ("form", "word"),
    [
        ("frosty", "frost"), ("frostig", "frost"), ("frostiger", "frost"), ("rosy", "rose"), ("leaves", "leaf"),
        ("berries", "berry"), ("sunny", "sun"), ("reddish", "red"), ("rötlich", "rot"), ("Wälder", "Wald"),
        ("Blätter", "Blatt"), ("herbstlich", "autumn"), ("goldene", "gold"), ("kupferfarben", "copper"),
        ("Schnee", "snow"), ("wintery", "winter"), ("stormy", "storm"), ("kühles", "cool"), ("zartes", "soft"),
    ],
)  # fmt: skip
def test_forms_and_both_languages_say_the_same(form, word):
    assert meaning_of(form) == meaning_of(word.lower()) is not None


def test_words_put_together_say_both():
    assert meaning_of("hellblau").moods == meaning_of("hell").moods
    assert meaning_of("hellblau").anchors == meaning_of("blue").anchors
    assert meaning_of("moosgrün").anchors == meaning_of("moss").anchors + meaning_of("green").anchors


@pytest.mark.parametrize("word", ["chair", "table", "Tisch", "qwert", "zebra", "please", "bitte"])
def test_other_words_say_nothing(word):
    assert meaning_of(word) is None


def test_the_dictionary_has_the_words_makers_use():
    words = set(known_words())
    assert len(words) >= 400
    assert {"red", "rot", "gold", "silber", "herbst", "dawn", "fog", "nebel", "honey", "fröhlich"} <= words


def test_unknown_words_are_passed_over_and_several_ways_are_shown():
    found = proposals_from_words(["#a14c2d", "#3e7b4f", "#24272b"], "mossy glorp honey")
    assert found.unknown == ("glorp",) and len(found.ways) >= 4
    assert found.ways[0].change == from_words(["#a14c2d", "#3e7b4f", "#24272b"], "moss honey")
    assert len({tuple(way.change.values()) for way in found.ways}) == len(found.ways)
    assert all(way.change["#24272b"] == "#24272b" for way in found.ways)


def test_unknown_words_say_so_with_near_ones():
    with pytest.raises(InvalidInputError, match=r"no word hony\. Near it: honey"):
        from_words(["#a14c2d"], "the hony")
    with pytest.raises(InvalidInputError, match="at least one colour or mood"):
        from_words(["#a14c2d"], "and the")


def sign():
    return drawing(
        Shape("board", (rectangle(0, 0, 100, 50),), "#a14c2d"),
        Shape("dot", (circle(50, 25, 10),), "#3e7b4f"),
        Shape("twin", (circle(80, 25, 5),), "#3E7B4F"),
    )


def test_recolouring_changes_colours_and_nothing_else():
    before = sign()
    after = recoloured(before, by_map("#3e7b4f=#102030"))
    assert [shape.fill for shape in after.shapes] == ["#a14c2d", "#102030", "#102030"]
    assert [shape.paths for shape in after.shapes] == [shape.paths for shape in before.shapes]
    shares = fills(before)
    assert list(shares) == ["#a14c2d", "#3e7b4f"] and sum(shares.values()) == pytest.approx(1)


def test_wrong_maps_are_said():
    with pytest.raises(InvalidInputError, match=r"no colour #000000\. Its colours are: #a14c2d, #3e7b4f"):
        recoloured(sign(), {"#000000": "#111111"})
    with pytest.raises(InvalidInputError, match="Write pairs"):
        by_map("#3e7b4f")
    with pytest.raises(InvalidInputError, match="must look like"):
        recoloured(sign(), {"#3e7b4f": "green"})


@given(palettes, st.floats(-1, 1), st.floats(0, 3))
def test_tone_goes_the_way_it_is_asked(palette, lightness, chroma):
    for old, new in toned(palette, lightness=lightness, chroma=chroma).items():
        before, after = polar(old)[0], polar(new)[0]
        if before < 0.15:
            # Among the darkest, one step of 8 bits is much lightness.
            continue
        assert after >= before - 0.01 if lightness >= 0 else after <= before + 0.01


def test_tone_has_limits():
    with pytest.raises(InvalidInputError, match="-1 to 1"):
        toned(["#a14c2d"], lightness=2)


def test_merging_leaves_as_many_as_asked():
    assert list(fills(merged(sign(), most=1))) == ["#a14c2d"]
    with pytest.raises(InvalidInputError, match="At least one"):
        merged(sign(), most=0)


def test_a_map_takes_names_and_short_hex_and_says_what_is_none():
    assert by_map("Black = teal, #fff=#F4E9D0") == {"#000000": "#008080", "#ffffff": "#f4e9d0"}
    for wrong in ("#12=teal", "nothing=teal", "black=#00000080", "black=currentcolor"):
        with pytest.raises(InvalidInputError, match="is no colour"):
            by_map(wrong)
