"""Letters: outlines against fontTools, sizes in mm, bends by their geometry."""

import io
import math
import unicodedata

import numpy as np
import pytest
from fontTools.pens.areaPen import AreaPen
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import Drawing, is_simple
from zeichen.core.geometry.bezier import bounds
from zeichen.core.lettering import FONTS, Bend, LetterOrder, font_named, lettered
from zeichen.core.lettering.fonts import font_bytes
from zeichen.core.lettering.shaping import glyph_paths, shaped
from zeichen.core.proofing import Kind, Process, Yardstick, proof

OUTLINED = [font for font in FONTS if not font.strokes]


def set_text(text="HAMBURG", font="oswald", mm=10.0, **more):
    return lettered(LetterOrder(text, font, mm, **more))


@pytest.mark.parametrize("font", OUTLINED, ids=lambda font: font.key)
def test_outlines_are_those_that_fonttools_reads(font):
    """Bounds and areas of glyphs without overlaps, as fontTools' own pens measure them."""
    source = TTFont(io.BytesIO(font_bytes(font.key)))
    glyphs, names = source.getGlyphSet(), source.getGlyphOrder()
    checked = 0
    for letter in "HOIEnot":
        name = source.getBestCmap()[ord(letter)]
        area, box = AreaPen(glyphs), BoundsPen(glyphs)
        glyphs[name].draw(area)
        glyphs[name].draw(box)
        paths = glyph_paths(font.key, names.index(name))
        x0, y0, x1, y1 = np.array([bounds(path.segments) for path in paths]).T
        assert (x0.min(), -y1.max(), x1.max(), -y0.min()) == pytest.approx(box.bounds, abs=0.6)
        ours = sum(path.area for path in paths)
        # Where outlines overlap, the font counts that twice.
        assert ours <= abs(area.value) * (1 + 1e-3)
        checked += math.isclose(ours, abs(area.value), rel_tol=2e-3)
    assert checked >= 5


@pytest.mark.parametrize("font", FONTS, ids=lambda font: font.key)
def test_capitals_are_exactly_as_high_as_asked(font):
    _, low, _, high = set_text("H", font.key, 12.0).bounds()
    assert high - low == pytest.approx(12.0, abs=1e-6)


@pytest.mark.parametrize("letter", "ÄÖÜäöüßÅåÉéÈèÊêËëÇçÑñÃãÕõÎîÏïÍíŠšŽžČčŘřŁłØøĐđŐőŰűĄąĘęȘșİ")
def test_single_strokes_have_accents_that_stand_clear_of_their_letters(letter):
    made = set_text(letter, "single-stroke", 12.0)
    plain = unicodedata.normalize("NFD", letter)[0]
    if plain != letter:
        bare = set_text(plain, "single-stroke", 12.0)
        # An accent stands where the dot of an i was, not above it.
        assert made.height > bare.height or plain in "ij"
        # Marks above stand higher than the letter, by more than a hair; the letter itself is the same.
        marks = len(made.paths) - len(bare.paths)
        assert marks >= 1 or plain in "ij"
    assert all(not path.closed or len(path.segments) > 3 for path in made.paths)


def test_a_letter_that_is_nowhere_is_named():
    with pytest.raises(InvalidInputError, match="no Ж"):
        set_text("Ж", "single-stroke", 12.0)


@pytest.mark.parametrize("font", FONTS, ids=lambda font: font.key)
def test_letters_are_cut_ready_paths_and_their_licence_is_there(font):
    made = set_text("Bean Pod", font.key, 40.0)
    kinds = {
        f.kind for f in proof(made, Yardstick.usual(Process.LASER_ENGRAVE, width_mm=made.width)).findings
    }
    assert not kinds & {Kind.SELF_CROSSING, Kind.OPEN_PATH, Kind.DUPLICATE_OUTLINE}
    if not font.strokes:
        assert all(path.closed and is_simple(path, tolerance=1e-3) for path in made.paths)
        assert "Open Font License" in font.licence()
    else:
        assert made.shapes[0].stroke_width == 0.3 and "Hershey" in font.licence()


@pytest.mark.parametrize("font", [font.key for font in FONTS if font.stencil])
def test_stencil_letters_have_no_islands(font):
    made = set_text("BADO RQ", font, 30.0)
    assert all(path.area > 0 for path in made.paths)


def test_pairs_are_kerned():
    """HarfBuzz draws A and V together; without kerning they would be as far apart as A and H."""
    pair = shaped("AV", font_named("bitter"))
    alone = shaped("A", font_named("bitter"))[0].advance
    assert pair[1].x < alone - 0.02


def test_an_arch_spans_its_angle_and_letters_keep_their_shape():
    straight, arched = set_text("IIIIIIIII"), set_text("IIIIIIIII", bend=Bend.ARCH, bend_by=180.0)
    assert sum(p.area for p in arched.paths) == pytest.approx(sum(p.area for p in straight.paths), rel=1e-6)
    radius = straight.width / math.pi
    # Nearly a half circle of that radius, and the letters on it.
    assert arched.width == pytest.approx(2 * (radius + 10), rel=0.12)
    hanging = set_text("IIIIIIIII", bend=Bend.ARCH, bend_by=-180.0)
    assert hanging.width < arched.width


def test_a_circle_closes_and_a_bulge_rises_in_the_middle():
    ring = set_text("ROUND AND ROUND", bend=Bend.CIRCLE)
    assert ring.width == pytest.approx(ring.height, rel=0.1)
    bulged = set_text("HHHHH", bend=Bend.BULGE, bend_by=0.5)
    assert bulged.height == pytest.approx(15.0, rel=0.06)
    waved = set_text("HHHHHHHHH", bend=Bend.WAVE, bend_by=0.5)
    assert waved.height == pytest.approx(20.0, rel=0.1)


def test_bent_letters_keep_few_nodes():
    assert (
        set_text("Watering can", bend=Bend.BULGE, bend_by=0.4).node_count
        < 4 * set_text("Watering can").node_count
    )


def test_lines_stand_below_each_other():
    one, two = set_text("Pod"), set_text("Pod\nPod")
    assert two.height == pytest.approx(one.height + 17.0, rel=0.01) and two.width == pytest.approx(one.width)


def test_the_frame_just_holds_the_letters():
    made = set_text("Snail", "single-stroke")
    x0, y0, x1, y1 = Drawing(1, 1, made.shapes).bounds()
    assert (x0, y0) == pytest.approx((0.15, 0.15)) and made.width == pytest.approx(x1 + 0.15)
    assert made.height == pytest.approx(y1 + 0.15)


@pytest.mark.parametrize(
    ("order", "words"),
    [
        ({"text": "  "}, "text is empty"),
        ({"font": "papyrus"}, "no font papyrus"),
        ({"text": "Ж", "font": "lilita-one"}, "has no Ж"),
        ({"text": "Ж", "font": "single-stroke"}, "no Ж"),
        ({"mm": 0.0}, "Cap height"),
        ({"mm": float("nan")}, "Cap height"),
        ({"bend": Bend.ARCH, "bend_by": 900.0}, "Arch"),
        ({"text": "x" * 500}, "Number of letters"),
    ],
)
def test_what_cannot_be_set_is_said(order, words):
    with pytest.raises(InvalidInputError, match=words):
        set_text(**order)
