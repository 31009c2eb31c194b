"""Drawings from elsewhere: everything that can be drawn is, and what cannot is listed; hostile files are refused."""

import io
import math
import re

import ezdxf
import numpy as np
import pytest
import svgelements as se
from hypothesis import given
from hypothesis import strategies as st

from samples import circle, drawing, examples, hole, rectangle
from zeichen.core.errors import FormatError
from zeichen.core.formats.dxf import Entity, write_dxf
from zeichen.core.formats.dxf_reading import read_foreign_dxf
from zeichen.core.formats.svg import path_data
from zeichen.core.formats.svg_reading import read_foreign_svg
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import evaluate


def svg(inside: str, more: str = 'width="100" height="80" viewBox="0 0 100 80"') -> str:
    links = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {links} {more}>{inside}</svg>"


def test_transforms_units_groups_use_and_css_colours():
    text = svg(
        '<style>.leaf{fill:#3e7b4f}</style><defs><circle id="dot" r="5"/></defs>'
        '<g transform="translate(10 20) scale(2)"><rect class="leaf" width="10" height="5"/></g>'
        '<use xlink:href="#dot" x="50" y="40" fill="teal"/>',
        'width="200mm" height="160mm" viewBox="0 0 100 80"',
    )
    draw, left_out, _ = read_foreign_svg(text)
    assert left_out == [] and len(draw.shapes) == 2
    # One millimetre is 96 / 25.4 px (CSS 2.1).
    unit = 96 / 25.4 * 2
    assert draw.width == pytest.approx(100 * unit)
    box, dot = draw.shapes
    assert box.fill == "#3e7b4f" and box.area == pytest.approx(20 * 10 * unit**2, rel=1e-5)
    assert dot.fill == "#008080" and dot.area == pytest.approx(math.pi * 25 * unit**2, rel=1e-3)


def test_a_shape_with_area_and_line_becomes_both():
    draw, *_ = read_foreign_svg(
        svg('<rect width="40" height="30" fill="#aa5500" stroke="#000000" stroke-width="3"/>')
    )
    assert [(shape.fill, shape.stroke_width) for shape in draw.shapes] == [
        ("#aa5500", None),
        ("#000000", 3.0),
    ]


def test_what_is_not_supported_is_listed():
    text = svg(
        '<defs><clipPath id="c"><rect width="9" height="9"/></clipPath><linearGradient id="g">'
        '<stop stop-color="#eee"/><stop offset="1" stop-color="#ddd"/></linearGradient></defs>'
        '<rect width="40" height="30" fill="url(#g)" mask="url(#c)"/><text x="5" y="9">Tea</text>'
        '<image href="data:image/png;base64,iVBORw0KGgo=" width="5" height="5"/>'
    )
    draw, left_out, _ = read_foreign_svg(text)
    words = " ".join(left_out)
    assert len(draw.shapes) == 1
    assert "gradient" in words and "mask" in words and "live text" in words and "picture" in words


def test_clip_paths_cut_what_refers_to_them_in_its_own_coordinates():
    text = svg(
        '<defs><clipPath id="c"><rect x="10" y="10" width="20" height="20"/></clipPath></defs>'
        '<g transform="translate(30 20) scale(2)"><circle cx="20" cy="20" r="12" clip-path="url(#c)"/></g>'
        '<rect x="0" y="0" width="5" height="5"/>'
    )
    draw, left_out, _ = read_foreign_svg(text)
    assert left_out == [] and len(draw.shapes) == 2
    assert Drawing(1, 1, draw.shapes[:1]).bounds() == pytest.approx((50, 40, 90, 80), abs=0.01)
    # The circle is wider than the square, but for its corners.
    assert 1300 < draw.shapes[0].area < 1600


def test_a_clip_cuts_a_line_with_its_pen_and_leaves_what_it_does_not_cut_a_line():
    text = svg(
        '<defs><clipPath id="c"><circle cx="50" cy="50" r="20"/></clipPath></defs>'
        '<g clip-path="url(#c)" fill="none" stroke="#000" stroke-width="2">'
        '<path d="M0 50L100 50"/><path d="M0 5L9 5"/><circle cx="50" cy="50" r="5"/></g>'
    )
    draw, left_out, _ = read_foreign_svg(text)
    cut, whole = draw.shapes
    assert left_out == [] and (cut.stroke_width, whole.stroke_width) == (None, 2.0)
    # A band 2 high within a circle of radius 20: its ends are bent as the circle is.
    half = math.asin(1 / 20)
    assert cut.area == pytest.approx(2 * 20 * math.cos(half) + 2 * 400 * half, rel=1e-4)
    assert whole.paths[0].closed


@pytest.mark.parametrize(
    "text",
    [
        svg("<script>alert(1)</script>"),
        svg('<rect width="9" height="9" onclick="x()"/>'),
        svg('<image href="https://elsewhere.example/a.png" width="5" height="5"/>'),
        '<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + svg("<text>&a;</text>"),
        svg(""),
        "<html/>",
        "not xml",
        "",
    ],
)
def test_hostile_and_empty_svgs_are_refused(text):
    with pytest.raises(FormatError):
        read_foreign_svg(text)


numbers = st.floats(-50, 50).map(lambda value: round(value, 2))


@examples(18)
@given(
    st.lists(
        st.tuples(st.sampled_from("LHVCSQTAlhvcsqta"), st.lists(numbers, min_size=7, max_size=7)),
        min_size=1,
        max_size=6,
    )
)
def test_the_path_grammar_is_read_as_svgelements_reads_it(commands):
    """SVG 2, chapter 9 (paths); arcs within what their cubics may be off."""
    counts = {"l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2}
    data = "M 3 4"
    for letter, values in commands:
        # svgelements takes up the control point of a quadratic before S, where SVG 2, section 9.3.6, has none.
        if letter in "Ss" and re.findall("[A-Za-z]", data)[-1] in "QqTt":
            continue
        if letter in "Tt" and re.findall("[A-Za-z]", data)[-1] in "CcSs":
            continue
        if letter.lower() == "a":
            rx, ry, turn = abs(values[0]) + 1, abs(values[1]) + 1, values[2]
            data += f" {letter} {rx} {ry} {turn} {values[3] > 0:d} {values[4] > 0:d} {values[5]} {values[6]}"
        else:
            data += f" {letter} " + " ".join(str(value) for value in values[: counts[letter.lower()]])
    try:
        draw, *_ = read_foreign_svg(svg(f'<path d="{data}" fill="none" stroke="#000000" stroke-width="1"/>'))
    except FormatError:
        # Nothing but points.
        return
    reference = se.Path(data)
    ends = np.array(
        [[s.end.x, s.end.y] for s in reference if s.end is not None and not isinstance(s, se.Move)]
    )
    ours = evaluate(np.concatenate([path.segments for path in draw.paths]), np.array([0.0, 1.0])).reshape(
        -1, 2
    )
    for end in ends:
        assert np.hypot(*(ours - end).T).min() < 1e-6
    length = sum(
        np.hypot(*np.diff(evaluate(path.segments, np.linspace(0, 1, 200)).reshape(-1, 2), axis=0).T).sum()
        for path in draw.paths
    )
    assert length == pytest.approx(reference.length(error=1e-4), rel=5e-3, abs=0.05)


def test_our_own_dxf_comes_back_with_its_areas():
    source = drawing(Shape("ring", (circle(50, 50, 30), hole(circle(50, 50, 10)))), rectangle(90, 10, 30, 20))
    for entity in Entity:
        draw, left_out, _ = read_foreign_dxf(write_dxf({"cut": source}, entity=entity, tolerance_mm=0.001))
        assert left_out == []
        (shape,) = draw.shapes
        areas = sorted(abs(path.area) / 100 for path in shape.paths)
        assert areas == pytest.approx([math.pi * 100, 600, math.pi * 900], rel=2e-3)


def dxf(build) -> bytes:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    build(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_lines_and_arcs_that_follow_on_each_other_are_one_outline_and_inches_are_read():
    def slot(space, document):
        document.units = ezdxf.units.IN
        space.add_line((0, 0), (2, 0))
        space.add_arc((2, 0.5), 0.5, -90, 90)
        space.add_line((0, 1), (2, 1))
        space.add_arc((0, 0.5), 0.5, 90, 270)
        space.add_text("north")

    draw, left_out, _ = read_foreign_dxf(dxf(slot))
    (shape,) = draw.shapes
    (path,) = shape.paths
    assert path.closed and left_out == ["1 × live text: set it anew with Lettering (“north”)"]
    # 25.4 mm an inch, ten units a millimetre.
    assert abs(path.area) == pytest.approx((2 + math.pi / 4) * 254**2, rel=1e-3)


def test_open_lines_blocks_and_circles():
    def build(space, document):
        block = document.blocks.new("knob")
        block.add_circle((0, 0), 3)
        space.add_blockref("knob", (20, 5))
        space.add_lwpolyline([(0, 0), (10, 0), (10, 8)])

    draw, *_ = read_foreign_dxf(dxf(build))
    by_width = {shape.stroke_width: shape for shape in draw.shapes}
    assert by_width[3.0].paths[0].closed is False
    assert by_width[None].area == pytest.approx(math.pi * 9 * 100, rel=1e-3)


@pytest.mark.parametrize("data", [b"", b"   ", b"not a dxf", b"0\nSECTION\n", bytes(range(256)) * 20])
def test_damaged_dxfs_are_refused(data):
    with pytest.raises(FormatError):
        read_foreign_dxf(data)


def test_an_empty_dxf_says_so():
    with pytest.raises(FormatError, match="nothing that can be drawn"):
        read_foreign_dxf(dxf(lambda space, document: None))


def test_marks_of_our_own_come_back(tmp_path):
    from zeichen.core.formats.svg import write_svg
    from zeichen.core.formats.svg_reading import read_svg

    shape = Shape("a", (circle(9, 9, 5),), group="eyes", locked=True, letters='{"text": "Tea & <two>"}')
    hidden = Shape("b", (circle(30, 9, 5),), hidden=True)
    back = read_svg(write_svg(Drawing(60, 20, (shape, hidden))))
    assert [(s.group, s.locked, s.hidden, s.letters) for s in back.shapes] == [
        ("eyes", True, False, '{"text": "Tea & <two>"}'),
        ("", False, True, ""),
    ]
    assert path_data(Path(back.shapes[0].paths[0].segments))
