"""The commands after tracing: mending, recolouring, lettering."""

import json

import pytest

from samples import circle, drawing, rectangle
from zeichen.core.formats.svg import write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry import Shape


def sign(tmp_path):
    path = tmp_path / "sign.svg"
    board = Shape("board", (rectangle(0, 0, 100, 50),), "#a14c2d")
    path.write_text(write_svg(drawing(board, Shape("dot", (circle(50, 25, 10),), "#3e7b4f"))))
    return path


@pytest.mark.parametrize(
    "ask", [("--map", "#3e7b4f=#102030"), ("--harmony", "triadic", "--seed", 3), ("--words", "pale moss")]
)
def test_recolouring_changes_fills_alone(run, tmp_path, ask):
    source, out, report = sign(tmp_path), tmp_path / "out.svg", tmp_path / "r.json"
    code, said, _ = run("recolour", source, *ask, "--out", out, "--report", report)
    assert code == 0 and " -> " in said
    before, after = read_svg(source.read_bytes()), read_svg(out.read_bytes())
    assert [path.segments.tolist() for path in after.paths] == [p.segments.tolist() for p in before.paths]
    change = json.loads(report.read_text())["map"]
    assert [s.fill for s in after.shapes] == [change.get(s.fill, s.fill) for s in before.shapes]
    assert after.shapes[1].fill != "#3e7b4f"


@pytest.mark.parametrize(
    ("ask", "words"),
    [
        ((), "Give one of --map"),
        (("--words", "glorp"), "no word glorp"),
        (("--harmony", "loud"), "no harmony loud"),
        (("--map", "#123456=#ffffff"), "no colour #123456"),
    ],
)
def test_a_recolouring_that_cannot_be_is_said(run, tmp_path, ask, words):
    code, _, errors = run("recolour", sign(tmp_path), *ask, "--out", tmp_path / "o.svg")
    assert code == 2 and words in errors and not (tmp_path / "o.svg").exists()


def test_letters_are_written_in_mm(run, tmp_path):
    out, report = tmp_path / "l.svg", tmp_path / "l.json"
    ask = ("--font", "lilita-one", "--cap-height-mm", 8, "--arch", 100)
    code, _, _ = run("letter", "Open Day", *ask, "--out", out, "--report", report)
    assert code == 0 and 'width="' in out.read_text() and "mm" in out.read_text()
    figures = json.loads(report.read_text())
    # One millimetre is 96 / 25.4 px for whoever reads it (CSS 2.1).
    assert read_svg(out.read_bytes()).width == pytest.approx(figures["width_mm"] * 96 / 25.4, rel=1e-3)
    code, _, errors = run("letter", "Hi", "--font", "nope", "--cap-height-mm", 8, "--out", out)
    assert code == 2 and "single-stroke" in errors
    code, _, errors = run("letter", "Hi", *ask, "--wave", 1, "--out", out)
    assert code == 2 and "Give one of --arch" in errors


def test_mending_says_what_it_did_and_what_is_left(run, tmp_path):
    path, out, report = tmp_path / "d.svg", tmp_path / "o.svg", tmp_path / "r.json"
    path.write_text(write_svg(drawing(circle(100, 100, 80), circle(5, 5, 0.5))))
    ask = ("--process", "laser-engrave", "--width-mm", 100)
    code, said, _ = run("mend", path, *ask, "--out", out, "--report", report)
    assert code == 0 and "1 mended" in said and "cut-ready" in said
    (done,) = json.loads(report.read_text())["done"]
    assert (done["kind"], done["how"], done["node_change"]) == ("speck", "drop", -4)
    code, _, _ = run("mend", out, *ask, "--out", tmp_path / "again.svg")
    assert code == 0 and (tmp_path / "again.svg").read_bytes() == out.read_bytes()
    far = tmp_path / "far.svg"
    far.write_text(write_svg(drawing(rectangle(0, 0, 50, 100), rectangle(150, 0, 50, 100))))
    code, said, _ = run("mend", far, "--process", "laser-cut", "--width-mm", 100, "--out", out)
    assert code == 3 and "loose piece" in said
    code, _, errors = run("mend", far, *ask, "--out", out, "--only", "warts")
    assert code == 2 and "no finding warts" in errors


def test_what_is_hidden_is_not_judged_and_not_lost(run, tmp_path):
    path, out = tmp_path / "d.svg", tmp_path / "o.svg"
    hidden = Shape("spot", (circle(5, 5, 0.5),), hidden=True)
    path.write_text(write_svg(drawing(circle(100, 100, 80), circle(195, 5, 0.5), hidden)))
    ask = ("--process", "laser-engrave", "--width-mm", 100)
    code, said, _ = run("check", path, *ask)
    assert code == 3 and "1 to mend" in said
    code, said, _ = run("mend", path, *ask, "--out", out)
    assert code == 0 and [shape.hidden for shape in read_svg(out.read_bytes()).shapes] == [False, True]
