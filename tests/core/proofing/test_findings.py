"""Each kind of finding: found where it is, measured in mm, with its limit; absent where there is none."""

import dataclasses
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import circle, drawing, examples, hole, polygon, rectangle, ring, star_drawings
from zeichen.core.errors import ConflictError, InvalidInputError
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import line_segments
from zeichen.core.proofing import (
    How,
    Kind,
    Limits,
    Process,
    Yardstick,
    mend,
    mend_all,
    proof,
    usual_limits,
    widths,
)
from zeichen.core.proofing.facts import Memory

LASER = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=100)
CUT = Yardstick.usual(Process.LASER_CUT, width_mm=100)


def kinds(draw, yardstick=LASER):
    return [finding.kind for finding in proof(draw, yardstick).findings]


def test_a_plain_shape_is_cut_ready():
    result = proof(drawing(circle(100, 100, 80)), LASER)
    assert result.cut_ready and result.findings == ()
    assert result.readings.width_mm == pytest.approx(100)
    assert result.readings.area_mm2 == pytest.approx(math.pi * 50**2, rel=1e-3)
    assert (result.readings.shapes, result.readings.pieces, result.readings.closed_paths) == (1, 1, 1)


def test_an_open_path_is_found_with_its_gap_in_mm():
    corners = np.array([[0.0, 0], [200, 0], [200, 150], [0, 150], [0, 10]])
    (finding,) = proof(drawing(Path(line_segments(corners), closed=False)), LASER).findings
    assert finding.kind is Kind.OPEN_PATH
    assert finding.measured == pytest.approx(5.0)
    assert (finding.x_mm, finding.y_mm) == (pytest.approx(0), pytest.approx(2.5))


def test_a_drawn_line_may_be_open():
    line = Shape("l", (Path(line_segments(np.array([[0.0, 0], [200, 0]])), closed=False),), stroke_width=4)
    assert Kind.OPEN_PATH not in kinds(drawing(line))


def test_a_bow_tie_crosses_itself_once():
    found = proof(drawing(polygon((0, 0), (200, 100), (200, 0), (0, 100))), LASER).findings
    crossings = [finding for finding in found if finding.kind is Kind.SELF_CROSSING]
    assert [finding.measured for finding in crossings] == [1]
    assert (crossings[0].x_mm, crossings[0].y_mm) == (pytest.approx(50), pytest.approx(25))


def test_two_paths_of_a_shape_that_cross_are_found():
    shape = Shape("a", (rectangle(0, 0, 200, 100), rectangle(150, 20, 100, 40)))
    assert Kind.SELF_CROSSING in kinds(drawing(shape))


def test_a_doubled_outline_is_found_once_even_if_drawn_from_another_start():
    first = rectangle(20, 20, 160, 100)
    other_start = Path(np.roll(first.segments, 2, axis=0))
    assert kinds(drawing(first, other_start)) == [Kind.DUPLICATE_OUTLINE]
    assert Kind.DUPLICATE_OUTLINE not in kinds(drawing(first, rectangle(24, 24, 152, 92)))


def test_a_colour_set_into_a_hole_of_another_is_no_double_outline():
    frame = Shape("frame", (rectangle(20, 20, 160, 100), hole(rectangle(60, 40, 60, 40))), "#2f5f6e")
    inset = Shape("inset", (rectangle(60, 40, 60, 40),), "#efdcb8")
    assert Kind.DUPLICATE_OUTLINE not in kinds(drawing(frame, inset))
    same = Shape("inset", (rectangle(60, 40, 60, 40),), "#2f5f6e")
    assert Kind.DUPLICATE_OUTLINE in kinds(drawing(frame, same))


def test_a_stray_spot_is_a_speck_and_a_pin_hole_too():
    spotted = drawing(circle(100, 100, 80), circle(5, 5, 0.5))
    (finding,) = proof(spotted, LASER).findings
    assert (finding.kind, finding.shape, finding.unit) == (Kind.SPECK, "s2", "mm²")
    mm_per_px = 100 / (180 - 4.5)
    assert finding.measured == pytest.approx(math.pi * (0.5 * mm_per_px) ** 2, rel=0.01)
    pin = drawing(Shape("p", (circle(100, 100, 80), hole(circle(100, 100, 0.5)))))
    assert kinds(pin) == [Kind.PIN_HOLE]


def test_a_small_spot_on_the_figure_is_part_of_it():
    eye = Shape("eye", (circle(100, 100, 0.6),), "#ffffff")
    assert Kind.SPECK not in kinds(drawing(circle(100, 100, 80), eye))


@examples(11)
@given(st.floats(0.02, 0.14))
def test_a_thin_part_is_measured_in_mm(width_mm):
    px = width_mm * 2
    bridge = Shape("b", (rectangle(79, 50 - px / 2, 42, px),))
    found = proof(drawing(rectangle(0, 0, 80, 100), rectangle(120, 0, 80, 100), bridge), LASER).findings
    thin = [finding for finding in found if finding.kind is Kind.THIN_PART]
    assert [finding.measured for finding in thin] == [pytest.approx(width_mm, rel=0.01)]
    assert thin[0].limit == 0.15 and 40 <= thin[0].x_mm <= 60


def test_a_narrow_gap_is_found():
    found = proof(drawing(rectangle(0, 0, 99.9, 100), rectangle(100.1, 0, 99.9, 100)), LASER).findings
    assert [finding.kind for finding in found] == [Kind.SMALL_GAP]
    assert found[0].measured == pytest.approx(0.1, rel=0.01)


def test_loose_pieces_matter_only_where_the_process_needs_one_piece():
    two = drawing(rectangle(0, 0, 80, 100), rectangle(120, 0, 80, 100))
    assert kinds(two) == []
    loose = [finding for finding in proof(two, CUT).findings if finding.kind is Kind.LOOSE_PIECE]
    assert len(loose) == 1 and loose[0].measured == pytest.approx(20)


def test_an_island_falls_out_of_a_stencil():
    stencil = Yardstick.usual(Process.STENCIL, width_mm=100)
    found = proof(drawing(ring(100, 100, 90, 40)), stencil).findings
    assert [finding.kind for finding in found] == [Kind.LOOSE_PIECE]
    assert found[0].measured == pytest.approx(50 * 100 / 180, rel=0.01)


def test_in_a_stencil_the_bridges_are_the_light_parts():
    cut_away = Yardstick.usual(Process.STENCIL, width_mm=100)
    near = drawing(rectangle(0, 0, 99, 100), rectangle(101, 0, 99, 100))
    (finding,) = proof(near, cut_away).findings
    assert finding.kind is Kind.THIN_PART and finding.measured == pytest.approx(1.0, rel=0.01)


@examples(10)
@given(star_drawings(), st.floats(1.2, 6))
def test_a_larger_yardstick_never_finds_more(draw, factor):
    small = proof(draw, Yardstick.usual(Process.CARVE, width_mm=30))
    large = proof(draw, Yardstick.usual(Process.CARVE, width_mm=30 * factor))
    assert len(large.findings) <= len(small.findings)


def test_an_empty_drawing_is_refused():
    with pytest.raises(InvalidInputError, match="empty"):
        proof(Drawing(10, 10), LASER)


def test_dropping_specks_leaves_none_and_does_nothing_twice():
    spotted = drawing(
        Shape("p", (circle(100, 100, 80), hole(circle(100, 60, 0.5)))), circle(5, 5, 0.6), circle(190, 8, 0.4)
    )
    cleaned = mend_all(spotted, LASER, only=[Kind.SPECK, Kind.PIN_HOLE]).drawing
    assert [shape.id for shape in cleaned.shapes] == ["p"] and len(cleaned.paths) == 1
    assert proof(cleaned, LASER).cut_ready
    assert mend_all(cleaned, LASER).drawing == cleaned


def test_a_drawing_of_specks_only_is_kept():
    dust = drawing(circle(5, 5, 0.001), circle(5, 5.01, 0.001), circle(5, 180, 0.001))
    coarse = dataclasses.replace(LASER, limits=Limits(0.15, 0.15, 10_000))
    specks = [finding for finding in proof(dust, coarse).findings if finding.kind is Kind.SPECK]
    left = mend_all(dust, coarse, only=[Kind.SPECK])
    assert specks and not left.changed and left.drawing == dust


def test_the_last_shape_stays():
    alone = drawing(circle(5, 5, 0.001))
    coarse = dataclasses.replace(LASER, limits=Limits(0.15, 0.15, 10_000))
    speck = proof(alone, coarse).findings
    with pytest.raises(ConflictError, match="last shape"):
        mend(alone, LASER, speck[:1], How.DROP)


# The table of limits in the trade: common practice, no source.
@pytest.mark.parametrize(
    ("process", "thin_mm", "gap_mm"),
    [
        (Process.LASER_ENGRAVE, 0.15, 0.15),
        (Process.LASER_CUT, 1.5, 0.5),
        (Process.CARVE, 0.4, 0.4),
        (Process.RELIEF, 0.8, 0.4),
        (Process.APPAREL, 0.35, 0.35),
        (Process.STENCIL, 1.5, 1.0),
    ],
)
def test_usual_limits(process, thin_mm, gap_mm):
    limits = usual_limits(process)
    assert (limits.thin_mm, limits.gap_mm) == (thin_mm, gap_mm)
    assert limits.one_piece is (process in (Process.LASER_CUT, Process.STENCIL))


@pytest.mark.parametrize("field", ["thin_mm", "gap_mm", "speck_mm2"])
@pytest.mark.parametrize("value", [-1, math.nan, math.inf])
def test_impossible_limits_are_refused(field, value):
    with pytest.raises(InvalidInputError, match="must be"):
        dataclasses.replace(usual_limits(Process.CARVE), **{field: value})


@pytest.mark.parametrize("width_mm", [0, -5, math.nan])
def test_a_yardstick_needs_a_width(width_mm):
    with pytest.raises(InvalidInputError, match="Width must be above 0"):
        Yardstick.usual(Process.CARVE, width_mm=width_mm)


def test_a_tall_figure_is_made_smaller_to_fit_the_blank():
    slate = Yardstick(Process.LASER_ENGRAVE, 80, "slate", 100, 60, usual_limits(Process.LASER_ENGRAVE))
    tall, wide = drawing(rectangle(0, 0, 50, 150)), drawing(rectangle(0, 0, 150, 50))
    assert slate.finished_width_mm(wide) == 80
    assert slate.finished_width_mm(tall) == pytest.approx(18)
    assert proof(tall, slate).readings.height_mm == pytest.approx(54)


def test_what_did_not_change_is_not_measured_again_and_the_proof_is_the_same(monkeypatch):
    shapes = [Shape(f"s{k}", (circle(40 + 60 * k, 50, 20),)) for k in range(5)]
    before = Drawing(400, 100, tuple(shapes))
    yardstick = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=260)
    memory = Memory()
    assert proof(before, yardstick, memory) == proof(before, yardstick)
    looked: list[int] = []
    real = widths.measure_narrowness
    monkeypatch.setattr(
        widths, "measure_narrowness", lambda walls, **limits: looked.append(1) or real(walls, **limits)
    )
    # A needle from the third disc to the fourth: only these two are near enough to matter.
    needle = Shape("needle", (rectangle(178, 49.95, 24, 0.1),))
    after = dataclasses.replace(before, shapes=(*shapes, needle))
    found = proof(after, yardstick, memory)
    assert len(looked) == 2, "parts and gaps of one group"
    assert found == proof(after, yardstick) and Kind.THIN_PART in {each.kind for each in found.findings}
    looked.clear()
    assert proof(before, yardstick, memory) == proof(before, yardstick, Memory())
