"""Files that ask for far more than they show are read or refused at once: each was found to hold the app up."""

import numpy as np
import pytest
from bench import hostile
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, svg_file
from zeichen.core.errors import FormatError, TooMuchError
from zeichen.core.formats.dxf_reading import read_foreign_dxf
from zeichen.core.formats.names import FreeNames
from zeichen.core.formats.svg_reading import read_foreign_svg
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.tangle import is_tangled, require_untangled
from zeichen.core.proofing import Kind, Process, Yardstick, proof

STICK = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)


def test_rules_that_never_end_are_left_out_and_whole_ones_are_kept():
    style = "<style>.a{fill:#ff0000} b{ c{ } .d { fill: blue } @media print { .a { fill: green } } x{</style>"
    draw, *_ = read_foreign_svg(svg_file(f'{style}<path class="a" d="M1 1H50V50Z"/>'))
    assert draw.shapes[0].fill == "#ff0000"
    draw, *_ = read_foreign_svg(hostile.broken_rules(50_000))
    assert len(draw.shapes) == 1


def test_copies_are_counted_before_they_are_made():
    draw, *_ = read_foreign_svg(hostile.copies_of_copies(6))
    assert len(draw.shapes) == 64
    with pytest.raises(TooMuchError, match="with all the copies that “use” makes"):
        read_foreign_svg(hostile.copies_of_copies(40))
    for within in (
        '<g id="a"><use href="#a"/></g>',
        '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>',
    ):
        with pytest.raises(FormatError, match="uses an element within itself"):
            read_foreign_svg(svg_file(within + '<path d="M1 1H50V50Z"/>'))


def test_groups_nest_as_deep_as_anyone_draws():
    for deep, fits in ((150, True), (300, False), (50_000, False)):
        file = svg_file("<g>" * deep + '<path d="M1 1H50V50Z"/>' + "</g>" * deep)
        if fits:
            assert len(read_foreign_svg(file)[0].shapes) == 1
        else:
            with pytest.raises(FormatError, match=r"nested more than 200|not well-formed"):
                read_foreign_svg(file)


def test_more_elements_than_anyone_draws_are_refused_in_words():
    with pytest.raises(TooMuchError, match=r"more than 50,000 elements\. Join shapes"):
        read_foreign_svg(hostile.rectangles(200_000))


def test_equal_ids_are_numbered():
    draw, *_ = read_foreign_svg(hostile.rectangles(3000, one_id=True))
    ids = [shape.id for shape in draw.shapes]
    assert ids[:3] == ["a", "a-2", "a-3"] and len(set(ids)) == 3000
    names = FreeNames()
    assert len({names.take("a") for _ in range(50_000)}) == 50_000


@pytest.mark.parametrize("filled", [True, False])
def test_a_scribble_is_told_and_not_taken_apart(filled):
    draw, *_ = read_foreign_svg(hostile.scribble(2000, filled=filled))
    kinds = {finding.kind for finding in proof(draw, STICK).findings}
    assert Kind.UNMEASURED in kinds and not proof(draw, STICK).cut_ready
    rings = [path.segments[:, 0] for path in draw.paths]
    with pytest.raises(TooMuchError, match="cross more than 10,000 times"):
        require_untangled(rings)


def test_crossings_that_can_be_taken_apart_are_measured():
    draw, *_ = read_foreign_svg(hostile.scribble(60))
    found = proof(draw, STICK).findings
    assert Kind.UNMEASURED not in {finding.kind for finding in found}
    assert Kind.SELF_CROSSING in {finding.kind for finding in found}


def hatching(across: int) -> list[Path]:
    """Lines along and across: each of one kind crosses each of the other."""
    at = np.linspace(5, 95, across)
    along = [[[x, 0], [x, 100 / 3], [x, 200 / 3], [x, 100]] for x in at]
    over = [[[0, y], [100 / 3, y], [200 / 3, y], [100, y]] for y in at]
    return [Path(np.array([segment]), closed=False) for segment in (*along, *over)]


@examples(10)
@given(st.integers(2, 160))
def test_crossings_are_counted_up_to_the_limit(across):
    """across² crossings, by construction."""
    assert is_tangled(hatching(across), tolerance=0.01) == (across**2 > 10_000)


def test_many_shapes_are_judged_at_a_glance_and_doubles_among_them_are_found():
    draw, *_ = read_foreign_svg(hostile.rectangles(5000, on_one_place=True))
    judged = proof(draw, STICK)
    first, *others = judged.findings
    assert (first.kind, first.measured, first.unit) == (Kind.UNMEASURED, 5000, "shapes")
    assert {each.kind for each in others} == {Kind.DUPLICATE_OUTLINE} and len(others) == 500


def test_doubles_are_one_finding_each_however_many_there_are():
    draw, *_ = read_foreign_svg(hostile.rectangles(40, on_one_place=True))
    doubles = [each for each in proof(draw, STICK).findings if each.kind is Kind.DUPLICATE_OUTLINE]
    assert len(doubles) == 39 and len({each.shape for each in doubles}) == 39


@examples(11)
@given(st.integers(3, 200), st.integers(1, 5))
def test_lines_in_any_order_are_put_together_as_the_outlines_they_are(count, seed):
    draw, *_ = read_foreign_dxf(hostile.shuffled_outline(count + seed))
    (shape,) = draw.shapes
    assert len(shape.paths) == 1 and shape.paths[0].closed and len(shape.paths[0].segments) == count + seed


def test_loose_lines_stay_loose():
    draw, *_ = read_foreign_dxf(hostile.loose_lines(2000))
    (shape,) = draw.shapes
    assert isinstance(shape, Shape) and len(shape.paths) == 2000 and shape.stroke_width is not None
