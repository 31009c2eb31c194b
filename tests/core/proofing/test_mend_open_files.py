"""Mend all on open files: what is judged is written, a second run writes the same bytes, and little is lost."""

from dataclasses import replace
from pathlib import Path

import pytest

from samples import circle, drawing, rectangle, thinned
from zeichen.core.formats.svg import write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.formats.written import as_written
from zeichen.core.geometry import Shape, drawing_area
from zeichen.core.proofing import Kind, Yardstick, mend_all, proof
from zeichen.core.proofing.mending import MOST_OF_A_PIECE, MOST_OF_ALL
from zeichen.core.proofing.yardstick import Process

FOLDER = Path(__file__).parents[2] / "open"
FILES = sorted([*FOLDER.glob("tabler-*.svg"), *FOLDER.glob("maki-*.svg"), *FOLDER.glob("streamline-*.svg")])
STICKS = {
    "cut": Yardstick.usual(Process.LASER_CUT, width_mm=120),
    "stencil": Yardstick.usual(Process.STENCIL, width_mm=200),
    "relief": Yardstick.usual(Process.RELIEF, width_mm=100),
}


@pytest.mark.parametrize("stick", STICKS)
@pytest.mark.parametrize("file", thinned(FILES, 2), ids=lambda file: file.stem)
def test_what_is_judged_is_written_and_a_second_mend_writes_the_same(file, stick):
    whole, yardstick = read_svg(file.read_bytes()), STICKS[stick]
    mended = mend_all(whole, yardstick)
    text = write_svg(mended.drawing)
    again = read_svg(text)
    assert [f.kind for f in proof(again, yardstick).findings] == [f.kind for f in mended.proof.findings]
    assert write_svg(mend_all(again, yardstick).drawing) == text
    tolerance = 2e-4 * max(whole.width, whole.height)
    before, after = (
        drawing_area(whole, tolerance=tolerance),
        drawing_area(mended.drawing, tolerance=tolerance),
    )
    # Bars of a stencil are taken from its openings: they are asked for.
    bars = sum(-done.area_mm2 for done in mended.done if done.how.value == "bridge" and stick == "stencil")
    share_of_bars = bars / max(mended.proof.readings.area_mm2, 1e-9)
    assert before.difference(after).area <= (MOST_OF_ALL + share_of_bars) * before.area
    for piece in before.geoms:
        if piece.area > MOST_OF_A_PIECE * before.area:
            assert piece.intersection(after).area > 0.5 * piece.area


@pytest.mark.parametrize("file", sorted(FOLDER.glob("*.svg")), ids=lambda file: file.stem)
def test_what_was_written_once_is_written_the_same_for_ever(file):
    once = as_written(read_svg(file.read_bytes()))
    assert write_svg(as_written(once)) == write_svg(once) == write_svg(read_svg(file.read_bytes()))


def test_an_area_and_the_line_along_it_are_no_doubles():
    box = rectangle(20, 20, 60, 40)
    both = drawing(Shape("area", (box,), "#c8553d"), Shape("line", (box,), "#24272b", stroke_width=4))
    kinds = {finding.kind for finding in proof(both, STICKS["cut"]).findings}
    assert Kind.DUPLICATE_OUTLINE not in kinds


def test_of_two_colours_on_one_outline_the_one_that_shows_stays():
    box = rectangle(20, 20, 60, 40)
    twice = drawing(Shape("below", (box,), "#c8553d"), Shape("above", (box,), "#24272b"), circle(150, 40, 20))
    mended = mend_all(twice, STICKS["relief"]).drawing
    assert "below" not in {shape.id for shape in mended.shapes} and mended.shape("above").fill == "#24272b"


@pytest.mark.parametrize("file", thinned(FILES, 2), ids=lambda file: file.stem)
def test_writing_only_what_changed_gives_what_writing_all_gives(file):
    before = as_written(read_svg(file.read_bytes()))
    moved = before.shapes[-1]
    moved = replace(moved, paths=tuple(path.moved(lambda points: points + 0.123456) for path in moved.paths))
    empty = replace(moved, id="nothing", paths=())
    for shapes in (
        (*before.shapes[:-1], moved),
        (moved, *before.shapes[:-1]),
        (*before.shapes, empty),
        before.shapes[::-1],
    ):
        changed = replace(before, shapes=shapes)
        assert write_svg(as_written(changed, before)) == write_svg(as_written(changed))
