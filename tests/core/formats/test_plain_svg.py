"""Files as Zeichen writes them are read fast, and exactly as the reader of all SVG (svgelements) reads them."""

import numpy as np
import pytest
from defusedxml import ElementTree
from hypothesis import given

from samples import circle, drawing, examples, hole, rectangle, ring, star_drawings
from zeichen.core.formats import svg_reading
from zeichen.core.formats.plain_svg import read_plain
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import line_segments

LINE = Path(line_segments(np.array([[1.0, 2], [30, 40], [31, -4]])), closed=False)
EVERYTHING = drawing(
    Shape("board & <co>", (rectangle(2, 3, 100, 50), hole(circle(30, 30, 9))), "#a14c2d", group="frame"),
    Shape("line", (LINE, circle(50, 50, 20)), "#3e7b4f", stroke_width=2.5, locked=True),
    Shape("rule", (circle(10, 10, 4),), "#24272b", "nonzero", hidden=True),
    Shape("letters", (ring(60, 60, 20, 7).paths[0],), letters='{"text": "Öffnet"}'),
    size=(200.5, 100.25),
)


def both_ways(text: str) -> tuple[Drawing, Drawing]:
    plain = read_plain(ElementTree.fromstring(text))
    assert plain is not None
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(svg_reading, "read_plain", lambda root: None)
        return plain, svg_reading.read_svg(text)


def same(ours: Drawing, theirs: Drawing) -> None:
    assert (ours.width, ours.height) == (theirs.width, theirs.height)
    for one, other in zip(ours.shapes, theirs.shapes, strict=True):
        for field in ("id", "fill", "fill_rule", "stroke_width", "group", "locked", "hidden", "letters"):
            assert getattr(one, field) == getattr(other, field), field
        for mine, its in zip(one.paths, other.paths, strict=True):
            assert mine.closed == its.closed and mine.segments.shape == its.segments.shape
            assert np.abs(mine.segments - its.segments).max() < 1e-9


def test_all_that_a_shape_can_have():
    same(*both_ways(write_svg(EVERYTHING)))


@examples(18)
@given(star_drawings())
def test_any_drawing(draw):
    same(*both_ways(write_svg(draw)))


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("<path", '<g transform="scale(2)"/><path'),
        (' fill="#24272b"', ' fill="black"'),
        (' fill="#24272b"', ' fill="#24272b" transform="scale(2)"'),
        (' fill="#24272b"', ' fill="#24272b" style="fill:red"'),
        (' fill="#24272b"', ' fill="#24272b" stroke="#000000" stroke-width="2"'),
        ('viewBox="0 0 200', 'viewBox="0 0 100'),
        ('width="200.5"', 'width="200.5mm"'),
        ('d="M', 'd="M0 0A5 5 0 1 1 9 9ZM'),
        ('d="M', 'd="m'),
        ('d="M', 'd="M1 2 3C'),
        ('d="M', 'd="M1e3 2L5 5Z'),
        ('id="line"', 'id="rule"'),
    ],
)
def test_what_zeichen_does_not_write_is_left_to_the_other_reader(before, after):
    text = write_svg(EVERYTHING)
    assert before in text
    assert read_plain(ElementTree.fromstring(text.replace(before, after, 1))) is None
