"""SVG: what is written reads back the same, foreign files are understood, hostile ones refused."""

import io
import math

import numpy as np
import pytest
import svgelements
from hypothesis import given

from samples import circle, drawing, examples, hole, rectangle, ring, star_drawings
from zeichen.core.errors import FormatError
from zeichen.core.formats.svg import number, path_data, write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry import Drawing, Path, Shape, drawing_area
from zeichen.core.geometry.bezier import line_segments

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="60">'


@examples(18)
@given(star_drawings())
def test_writing_then_reading_gives_the_same_drawing(draw):
    back = read_svg(write_svg(draw))
    assert (back.width, back.height) == (draw.width, draw.height)
    assert [shape.id for shape in back.shapes] == [shape.id for shape in draw.shapes]
    for ours, theirs in zip(draw.paths, back.paths, strict=True):
        assert theirs.closed == ours.closed and len(theirs.segments) == len(ours.segments)
        assert np.allclose(theirs.segments, ours.segments, atol=2e-4)


def test_strokes_open_paths_and_rules_survive():
    line = Shape(
        "l",
        (Path(line_segments(np.array([[1.0, 2], [30, 40]])), closed=False),),
        "#c23b2a",
        stroke_width=2.5,
        cap="butt",
        join="mitre",
        mitre_limit=6.5,
    )
    full = Shape("f", (rectangle(5, 5, 20, 20),), "#3e7b4f", "nonzero")
    back = read_svg(write_svg(drawing(line, full)))
    assert (back.shapes[0].stroke_width, back.shapes[0].fill) == (2.5, "#c23b2a")
    assert (back.shapes[0].cap, back.shapes[0].join, back.shapes[0].mitre_limit) == ("butt", "mitre", 6.5)
    assert not back.shapes[0].paths[0].closed
    assert (back.shapes[1].fill_rule, back.shapes[1].fill) == ("nonzero", "#3e7b4f")


def test_straight_segments_are_written_as_lines_and_the_return_as_z():
    assert path_data(rectangle(0, 0, 10, 5)) == "M0 0L10 0L10 5L0 5Z"


def test_another_reader_sees_the_same_curves():
    """svgelements parses the document and agrees on the box and on how many segments there are."""
    draw = drawing(ring(100, 100, 80, 30))
    document = svgelements.SVG.parse(io.StringIO(write_svg(draw)), reify=False)
    (path,) = [element for element in document.elements() if isinstance(element, svgelements.Path)]
    assert path.bbox() == pytest.approx(draw.bounds(), abs=1e-3)
    assert sum(isinstance(segment, svgelements.CubicBezier) for segment in path) == 8


@pytest.mark.parametrize(
    ("body", "area"),
    [
        pytest.param('<rect x="10" y="10" width="40" height="20"/>', 800, id="rect"),
        pytest.param('<circle cx="30" cy="30" r="20"/>', math.pi * 400, id="circle"),
        pytest.param('<ellipse cx="30" cy="30" rx="20" ry="10"/>', math.pi * 200, id="ellipse"),
        pytest.param('<polygon points="0,0 40,0 40,30"/>', 600, id="polygon"),
        pytest.param('<path d="M10 30 a20 20 0 1 0 40 0 a20 20 0 1 0 -40 0z"/>', math.pi * 400, id="arcs"),
        pytest.param('<path d="m0 0h40v20h-40z"/>', 800, id="relative"),
        # A parabola cuts a third of the triangle under its chord off the square (Archimedes).
        pytest.param('<path d="M0 0Q20 0 20 20L0 20z"/>', 400 - 200 / 3, id="quadratic"),
        pytest.param(
            '<g transform="translate(5 5) scale(2)"><rect width="10" height="10"/></g>', 400, id="transform"
        ),
        pytest.param(
            '<defs><rect id="r" width="10" height="10"/></defs><use href="#r" x="3"/>', 100, id="use"
        ),
        pytest.param(
            '<rect width="9" height="9" fill="none"/><rect width="5" height="5"/>', 25, id="unfilled"
        ),
    ],
)
def test_foreign_files_are_understood(body, area):
    """Areas from the shapes' own formulas; svgelements turns arcs into cubics within 0.1 %."""
    got = drawing_area(read_svg(SVG + body + "</svg>"), tolerance=0.001).area
    assert got == pytest.approx(area, rel=2e-3)


def test_a_page_in_mm_is_read_at_96_to_the_inch():
    """CSS Values 3, section 6.2: 1 in = 96 px = 25.4 mm."""
    page = read_svg(
        '<svg xmlns="http://www.w3.org/2000/svg" width="25.4mm" height="50.8mm"><rect width="9" height="9"/></svg>'
    )
    assert (page.width, page.height) == (pytest.approx(96), pytest.approx(192))


ENTITY = '<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'
LAUGHS = '<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]>'


@pytest.mark.parametrize(
    ("text", "message"),
    [
        pytest.param("", "empty", id="empty"),
        pytest.param("   \n", "empty", id="blank"),
        pytest.param("hello", "not well-formed XML", id="text"),
        pytest.param("<html><body/></html>", "XML of another kind", id="html"),
        pytest.param(SVG + "<rect", "not well-formed", id="cut short"),
        pytest.param(ENTITY + SVG + "<text>&x;</text></svg>", "declares entities", id="external entity"),
        pytest.param(LAUGHS + SVG + "<text>&b;</text></svg>", "declares entities", id="entity bomb"),
        pytest.param(SVG + "<script>alert(1)</script></svg>", "carries a script", id="script"),
        pytest.param(
            SVG + '<rect width="5" height="5" onclick="x()"/></svg>', "carries a script", id="handler"
        ),
        pytest.param(SVG + "<foreignObject/></svg>", "carries a script", id="foreign object"),
        pytest.param(
            SVG + '<image href="http://example.org/a.png"/></svg>', "links to another file", id="link"
        ),
        pytest.param(SVG + '<use href="other.svg#a"/></svg>', "links to another file", id="use elsewhere"),
        pytest.param(SVG + "<text>Snail</text></svg>", "live text", id="text element"),
        pytest.param(SVG + "</svg>", "no shapes", id="no shapes"),
        pytest.param(SVG + '<rect width="0" height="0"/></svg>', "no shapes", id="nothing to draw"),
    ],
)
def test_bad_and_hostile_files_are_refused(text, message):
    with pytest.raises(FormatError, match=message):
        read_svg(text)


def test_the_reader_never_opens_what_a_file_names(monkeypatch):
    """A hostile file is refused before anything in it is looked up."""
    import builtins

    opened = []
    real = builtins.open
    monkeypatch.setattr(
        builtins, "open", lambda name, *a, **k: opened.append(str(name)) or real(name, *a, **k)
    )
    with pytest.raises(FormatError):
        read_svg(ENTITY + SVG + "<text>&x;</text></svg>")
    assert "/etc/passwd" not in opened


def test_ids_stay_unique():
    twice = read_svg(SVG + '<rect id="a" width="5" height="5"/><circle id="a" r="3"/></svg>')
    assert len({shape.id for shape in twice.shapes}) == 2


def test_titles_and_names_are_escaped():
    text = write_svg(drawing(Shape('a"><script>', (circle(5, 5, 2),))), title="<b>&")
    assert "<script>" not in text and "&lt;b&gt;&amp;" in text
    assert len(read_svg(text).shapes) == 1


@pytest.mark.parametrize(
    ("value", "text"), [(0.0, "0"), (-0.00001, "0"), (2.5, "2.5"), (100.0, "100"), (-3.12345, "-3.1235")]
)
def test_numbers_are_short(value, text):
    assert number(value) == text


def test_a_ground_fills_the_page():
    assert '<rect width="200" height="200" fill="#ffffff"/>' in write_svg(
        drawing(circle(5, 5, 2)), ground="#ffffff"
    )


def test_a_hole_stays_a_hole():
    shape = Shape("h", (rectangle(0, 0, 50, 50), hole(rectangle(10, 10, 20, 20))))
    assert drawing_area(read_svg(write_svg(Drawing(60, 60, (shape,)))), tolerance=0.01).area == pytest.approx(
        2100
    )
