"""The command line: files, reports, exit codes, one clear line when something is wrong."""

import json
import os
import signal
import subprocess
import sys
import time
import zipfile
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from samples import blots_picture, circle, drawing, png, rectangle, ring, rose_picture
from zeichen.core.formats.svg import write_svg
from zeichen.core.formats.svg_reading import read_svg


@pytest.fixture
def disc(tmp_path) -> Path:
    path = tmp_path / "disc.svg"
    path.write_text(write_svg(drawing(circle(100, 100, 80))))
    return path


def test_from_subject_to_pack(run, tmp_path):
    picture, svg, report = tmp_path / "t.png", tmp_path / "t.svg", tmp_path / "t.json"
    assert (
        run("sketch", "--subject", "teapot", "--look", "silhouette", "--seed", 46, "--out", picture)[0] == 0
    )
    assert Image.open(picture).size == (1024, 1024)
    assert run("trace", picture, "--method", "solid", "--out", svg, "--report", report)[0] == 0
    figures = json.loads(report.read_text())
    assert {"seconds", "width_px", "height_px", "shapes", "paths", "closed_paths", "self_crossings", "nodes", "colours",
            "deviation_px"} <= set(figures)  # fmt: skip
    assert figures["paths"] == figures["closed_paths"] and figures["self_crossings"] == 0
    assert set(figures["deviation_px"]) == {"mean", "p95", "max"}
    assert sum(colour["area_share"] for colour in figures["colours"]) == pytest.approx(1)
    assert figures["nodes"] == read_svg(svg.read_bytes()).node_count
    checked = tmp_path / "c.json"
    code, out, _ = run("check", svg, "--process", "laser-engrave", "--width-mm", 80, "--report", checked)
    assert code == 0 and "cut-ready" in out and json.loads(checked.read_text())["cut_ready"] is True
    for process, endings in (
        ("laser", ("svg", "gcode")),
        ("carve", ("dxf",)),
        ("relief", ("stl", "3mf")),
        ("apparel", ("png",)),
    ):
        assert run("make", process, svg, "--width-mm", 80, "--out-dir", tmp_path / "made")[0] == 0
        for ending in endings:
            assert (tmp_path / "made" / f"t-{process}.{ending}").stat().st_size > 0
    # How the picture came about has come along, from the studio's PNG through the trace into the pack.
    assert run("pack", svg, "--title", "Tea", "--out", tmp_path / "tea.zip")[0] == 0
    packed = zipfile.ZipFile(tmp_path / "tea.zip")
    assert "trainedAlgorithmicMedia" in packed.read("listing.txt").decode()
    assert all(
        b"trainedAlgorithmicMedia" in packed.read(f"{svg.stem}.{kind}") for kind in ("svg", "png", "jpg")
    )
    assert "t.eps" in zipfile.ZipFile(tmp_path / "tea.zip").namelist()


def test_findings_are_exit_code_three_and_reported_in_mm(run, tmp_path):
    bad = drawing(rectangle(0, 0, 99.9, 100), rectangle(100.1, 0, 99.9, 100))
    path, report = tmp_path / "bad.svg", tmp_path / "r.json"
    path.write_text(write_svg(bad))
    code, out, _ = run("check", path, "--process", "laser-engrave", "--width-mm", 100, "--report", report)
    assert code == 3 and "small gap at" in out
    (finding,) = json.loads(report.read_text())["findings"]
    assert set(finding) == {
        "kind", "x_mm", "y_mm", "measured", "limit", "unit", "shape", "sure", "mends",
    }  # fmt: skip
    assert finding["mends"] == ["open", "fill"]
    assert (finding["kind"], finding["limit"], finding["unit"]) == ("small_gap", 0.15, "mm")
    assert finding["measured"] == pytest.approx(0.1, rel=0.02) and finding["x_mm"] == pytest.approx(
        50, abs=0.2
    )


def test_a_level_by_hand_is_used(run, tmp_path):
    picture = tmp_path / "rose.png"
    picture.write_bytes(rose_picture(200))
    areas = []
    for level in ("60", "auto", "200"):
        run("trace", picture, "--level", level, "--out", tmp_path / "r.svg")
        areas.append(sum(shape.area for shape in read_svg((tmp_path / "r.svg").read_bytes()).shapes))
    assert areas[0] < areas[1] < areas[2]


def test_flats_and_centreline_write_what_they_say(run, tmp_path):
    picture = tmp_path / "rose.png"
    picture.write_bytes(rose_picture(120))
    for method, colours in (("flats", "1"), ("centreline", "auto")):
        out, report = tmp_path / f"{method}.svg", tmp_path / f"{method}.json"
        code, text, _ = run(
            "trace", picture, "--method", method, "--colours", colours, "--out", out, "--report", report
        )
        figures = json.loads(report.read_text())
        drawn = read_svg(out.read_bytes())
        assert code == 0 and str(out) in text
        assert figures["shapes"] == len(drawn.shapes) and figures["nodes"] == drawn.node_count
        assert all((shape.stroke_width is None) == (method == "flats") for shape in drawn.shapes[:1])


def lines_picture() -> bytes:
    canvas = np.full((300, 300, 3), 255, np.uint8)
    canvas[40:46, 30:270] = canvas[40:260, 30:36] = canvas[254:260, 30:270] = 0
    return png(canvas)


def test_the_method_is_the_pictures_own_unless_one_is_asked_for(run, tmp_path):
    """Solid for one dark tone, flats for colours, centreline for lines, but areas where lines are cut out."""
    pictures = {
        "solid": rose_picture(120),
        "flats": two_dots((200, 40, 40), (40, 60, 190)),
        "centreline": lines_picture(),
    }
    for method, data in pictures.items():
        (tmp_path / f"{method}.png").write_bytes(data)
        report = tmp_path / "r.json"
        code, said, _ = run(
            "trace", tmp_path / f"{method}.png", "--out", tmp_path / "o.svg", "--report", report
        )
        figures = json.loads(report.read_text())
        assert code == 0 and figures["method"] == method
        assert said.splitlines()[0] == f"{method}: {figures['why']}"
    run(
        "trace",
        tmp_path / "centreline.png",
        "--process",
        "laser-cut",
        "--out",
        tmp_path / "o.svg",
        "--report",
        report,
    )
    assert json.loads(report.read_text())["method"] == "solid"
    run("trace", tmp_path / "solid.png", "--colours", "1", "--out", tmp_path / "o.svg", "--report", report)
    assert json.loads(report.read_text())["method"] == "flats"


def test_a_palette_must_be_written_as_hexadecimal_colours(run, tmp_path):
    picture = tmp_path / "rose.png"
    picture.write_bytes(rose_picture(120))
    code, _, err = run("trace", picture, "--method", "flats", "--palette", "red", "--out", tmp_path / "x.svg")
    assert code == 2 and "#1a2b3c" in err and not (tmp_path / "x.svg").exists()


def files(folder: Path) -> dict[str, Path]:
    made = {
        "empty.png": b"",
        "text.png": b"Dear diary",
        "cut.png": rose_picture(120)[:500],
        "dot.png": png(np.zeros((1, 1, 3), np.uint8)),
        "white.png": png(np.full((40, 40, 3), 255, np.uint8)),
        "black.png": png(np.zeros((40, 40, 3), np.uint8)),
        "fine.png": rose_picture(120),
        "disc.svg": write_svg(drawing(circle(100, 100, 80))).encode(),
        "entity.svg": b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg"/>',
        "script.svg": b'<svg xmlns="http://www.w3.org/2000/svg"><script/></svg>',
    }
    for name, data in made.items():
        (folder / name).write_bytes(data)
    return {name: folder / name for name in made}


@pytest.mark.parametrize(
    ("words", "message"),
    [
        ("trace {empty.png} --out {out}", "empty (0 bytes)"),
        ("trace {text.png} --out {out}", "not a picture"),
        ("trace {cut.png} --out {out}", "damaged or cut short"),
        ("trace {dot.png} --out {out}", "1 x 1 px, too small"),
        ("trace {white.png} --out {out}", "all white"),
        ("trace {black.png} --out {out}", "all black"),
        ("trace nowhere.png --out {out}", "There is no file"),
        (
            "trace {fine.png} --out {out} --level 256",
            "Level must be auto or a whole number from 0 to 255; got 256",
        ),
        ("trace {fine.png} --out {out} --level bright", "Level must be auto"),
        ("trace {fine.png} --out {out} --tolerance-px 0", "Tolerance must be at least 0.02 px"),
        ("trace {fine.png} --out {out} --tolerance-px nan", "Tolerance must be"),
        ("trace {fine.png} --out {out} --min-spot-px -1", "Smallest spot must be at least 0"),
        ("trace {fine.png} --out {out} --colours 0", "Colours must be auto or a whole number"),
        ("trace {fine.png} --out /proc/nothing/x.svg", "could not be written"),
        ("check {entity.svg} --process carve --width-mm 80", "declares entities"),
        ("check {script.svg} --process carve --width-mm 80", "carries a script"),
        ("check {fine.png} --process carve --width-mm 80", "is a PNG, not a drawing"),
        ("check {disc.svg} --process carve --width-mm 0", "Width must be above 0"),
        ("check {disc.svg} --process carve --width-mm -4", "Width must be above 0"),
        ("make laser {disc.svg} --width-mm 0 --out-dir {dir}", "Width must be above 0"),
        (
            "make laser {disc.svg} --width-mm 50 --out-dir {dir} --cut half",
            "Cut must be one of none, shapes, around",
        ),
        (
            "make relief {disc.svg} --width-mm 50 --out-dir {dir} --base-mm 2.1",
            "multiple of the 0.2 mm layer height",
        ),
        (
            "make carve {disc.svg} --width-mm 50 --out-dir {dir} --entity arc",
            "Entity must be one of spline, polyline",
        ),
        ("make apparel {disc.svg} --width-mm 500 --out-dir {dir}", "larger than the 381 x 457 mm print area"),
        ("pack {disc.svg} --title= --out {out}", "needs a title"),
        ("sketch --subject spaceship --out {out}", "can't draw"),
        ("sketch --subject snail --seed -1 --out {out}", "Seed must be at least 0"),
    ],
)
def test_bad_use_is_exit_code_two_and_one_line(run, tmp_path, words, message):
    made = files(tmp_path)
    out, folder = tmp_path / "out.bin", tmp_path / "made"
    text = words.replace("{out}", str(out)).replace("{dir}", str(folder))
    for name, path in made.items():
        text = text.replace(f"{{{name}}}", str(path))
    code, _, err = run(*text.split())
    assert code == 2 and message in err
    assert err.startswith("zeichen: ") and err.strip().count("\n") == 0
    assert not out.exists() and not folder.exists()


@pytest.mark.parametrize(
    "words", ["check x.svg --process welding --width-mm 5", "trace", "dance", "trace a.png"]
)
def test_words_the_command_line_does_not_know_are_exit_code_two(run, words):
    code, _, err = run(*words.split())
    assert code == 2 and err


def test_options_reach_the_files(run, tmp_path, disc):
    run("make", "laser", disc, "--width-mm", 50, "--out-dir", tmp_path, "--cut", "none", "--spacing-mm", 0.5)
    program = (tmp_path / "disc-laser.gcode").read_text()
    assert "(MSG, engrave)" in program and "(MSG, cut)" not in program
    code, out, _ = run(
        "make", "relief", disc, "--width-mm", 50, "--out-dir", tmp_path, "--base-mm", 3, "--form", "outline"
    )
    assert code == 0 and "Thickness: 4 mm" in out


def test_a_drawing_that_does_not_say_how_it_came_about_needs_a_word(run, tmp_path, disc):
    code, _, err = run("pack", disc, "--title", "One", "--out", tmp_path / "one.zip")
    assert code == 2 and len(err.strip().splitlines()) == 1
    assert "--origin machine" in err and "--origin hand" in err and str(disc) in err
    assert not (tmp_path / "one.zip").exists()


def test_several_drawings_make_one_pack(run, tmp_path, disc):
    other = tmp_path / "ring.svg"
    other.write_text(write_svg(drawing(ring(100, 100, 80, 40))))
    code, _, _ = run(
        "pack",
        disc,
        other,
        "--title",
        "Two",
        "--out",
        tmp_path / "two.zip",
        "--origin",
        "hand",
        "--keywords",
        "a, b",
    )
    listing = zipfile.ZipFile(tmp_path / "two.zip").read("listing.txt").decode()
    assert code == 0 and "No picture generator was used" in listing and "a, b" in listing


def test_the_installed_command_runs():
    command = Path(sys.executable).parent / "zeichen"
    help_ = subprocess.run(
        [command, "--help"], capture_output=True, text=True, env={**os.environ, "COLUMNS": "100"}
    )
    assert help_.returncode == 0
    for name in ("serve", "demo", "words", "sketch", "trace", "check", "make", "pack"):
        assert name in help_.stdout


def test_a_batch_goes_on_past_a_bad_picture_and_says_so_at_the_end(run, tmp_path):
    for name in ("rose", "rose two"):
        (tmp_path / f"{name}.png").write_bytes(rose_picture(120))
    (tmp_path / "bad.png").write_bytes(b"nothing")
    code, text, err = run("trace", *sorted(tmp_path.glob("*.png")), "--out-dir", tmp_path / "out")
    assert code == 2 and "2 of 3 traced" in text and "bad.png" in err
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == [
        "rose-two.json",
        "rose-two.svg",
        "rose.json",
        "rose.svg",
    ]


def test_a_stopped_batch_ends_at_once_and_keeps_what_is_done(tmp_path):
    """The key goes to every process of the terminal, as it does there."""
    for number in range(3):
        (tmp_path / f"quick {number}.png").write_bytes(rose_picture(120))
    slow = blots_picture()
    for number in range(6):
        (tmp_path / f"slow {number}.png").write_bytes(slow)
    out = tmp_path / "out"
    batch = subprocess.Popen(
        [Path(sys.executable).parent / "zeichen", "trace", *sorted(map(str, tmp_path.glob("*.png"))), "--method",
         "centreline", "--out-dir", str(out)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True,
        # Who runs these tests in the background may have told all of them to ignore the key.
        preexec_fn=partial(signal.signal, signal.SIGINT, signal.SIG_DFL),
    )  # fmt: skip
    deadline = time.monotonic() + 120
    while len(list(out.glob("*.svg"))) < 3 and time.monotonic() < deadline:
        assert batch.poll() is None, batch.communicate()
        time.sleep(0.05)
    os.killpg(batch.pid, signal.SIGINT)
    _, said = batch.communicate(timeout=20)
    assert batch.returncode == 130, said
    (line,) = said.strip().splitlines()
    assert line.startswith("Stopped: 3 of 9 traced into") and "slow 5.png" in line and "quick" not in line
    assert sorted(path.name for path in out.glob("*.svg")) == [f"quick-{k}.svg" for k in range(3)]
    for path in out.glob("*.svg"):
        assert read_svg(path.read_bytes()).shapes


def test_one_picture_needs_a_file_and_many_a_folder(run, tmp_path):
    picture = tmp_path / "rose.png"
    picture.write_bytes(rose_picture(120))
    for arguments, words in (
        ([picture], "--out FILE"),
        ([picture, picture, "--out", tmp_path / "x.svg"], "--out-dir FOLDER"),
        ([picture, "--out", tmp_path / "x.svg", "--out-dir", tmp_path], "for one picture"),
        ([picture, "--out-dir", tmp_path, "--executor", "moon"], "dask://HOST:PORT"),
    ):
        code, _, err = run("trace", *arguments)
        assert code == 2 and words in err


def two_dots(first: tuple[int, int, int], second: tuple[int, int, int]) -> bytes:
    canvas = np.full((160, 160, 3), 255, np.uint8)
    canvas[30:80, 20:80], canvas[80:130, 60:140] = first, second
    return png(canvas)


def test_a_set_is_drawn_with_the_same_colours(run, tmp_path):
    for name, colours in (("a", ((200, 60, 50), (60, 120, 70))), ("b", ((206, 66, 56), (40, 60, 150)))):
        (tmp_path / f"{name}.png").write_bytes(two_dots(*colours))
    code, _, error = run("trace", tmp_path / "a.png", tmp_path / "b.png", "--method", "flats", "--same-palette",
                         "--out-dir", tmp_path / "out")  # fmt: skip
    assert code == 0, error
    fills = [
        {shape.fill for shape in read_svg((tmp_path / "out" / f"{name}.svg").read_bytes()).shapes}
        for name in "ab"
    ]
    assert len(fills[0] & fills[1]) == 1 and len(fills[0] | fills[1]) == 3


def test_an_underlay_is_given_in_mm_at_the_finished_width(run, tmp_path):
    picture = tmp_path / "p.png"
    picture.write_bytes(two_dots((200, 60, 50), (60, 120, 70)))
    words = ("trace", picture, "--method", "flats", "--borders", "underlaid", "--out", tmp_path / "p.svg")
    code, _, error = run(*words)
    assert code == 2 and "needs --width-mm" in error
    sizes = []
    for underlay in (1.0, 2.0):
        assert run(*words, "--width-mm", 60, "--underlay-mm", underlay)[0] == 0
        shapes = read_svg((tmp_path / "p.svg").read_bytes()).shapes
        strip = next(shape for shape in shapes if shape.id.startswith("u"))
        sizes.append(np.ptp(np.vstack([path.segments.reshape(-1, 2) for path in strip.paths])[:, 1]))
    # The figure is 120 px and 60 mm wide: a millimetre more is two pixels further under the neighbour.
    assert sizes[1] - sizes[0] == pytest.approx(2, abs=0.5)


def test_a_shaded_photo_is_traced_with_its_light_evened_out(run, tmp_path):
    shade = np.linspace(1.0, 0.25, 300)
    sheet = np.full((300, 300), 240.0)
    sheet[60:120, 60:120] = sheet[180:240, 200:260] = 60
    picture = tmp_path / "photo.png"
    picture.write_bytes(png(np.repeat((sheet * shade).astype(np.uint8)[..., None], 3, axis=2)))
    assert run("trace", picture, "--even-light", "--out", tmp_path / "photo.svg")[0] == 0
    shapes = read_svg((tmp_path / "photo.svg").read_bytes()).shapes
    assert [round(shape.area / 3600, 1) for shape in shapes] == [1.0, 1.0]


def test_a_forecast_names_the_cure_and_cleaning_up_cures_it(run, tmp_path):
    grey = np.full((400, 400, 3), 250, np.uint8)
    grey[100:300, 100:300] = 20
    grey[40:45, 40:45] = 20
    picture, report = tmp_path / "p.png", tmp_path / "f.json"
    picture.write_bytes(png(grey))
    words = ("--process", "laser-cut", "--width-mm", 40)
    code, out, _ = run("forecast", picture, *words, "--report", report)
    assert code == 0 and out.startswith("needs-clean-up, by solid") and "despeckle" in out
    found = json.loads(report.read_text())
    assert found["readings"]["specks"] == 1 and found["reasons"][0]["cure"]["kind"] == "despeckle"
    clean, steps = tmp_path / "c.png", tmp_path / "s.json"
    assert run("clean", picture, "--suggest", *words, "--out", clean, "--report", steps)[0] == 0
    assert run("forecast", clean, *words)[1].splitlines() == [
        "traces-well, by solid: one dark tone, in areas"
    ]
    again = tmp_path / "again.png"
    assert run("clean", picture, "--steps", steps, "--out", again)[0] == 0
    assert (np.array(Image.open(again)) == np.array(Image.open(clean))).all()


@pytest.mark.parametrize(
    ("words", "message"),
    [
        ((), "either --suggest"),
        (("--suggest",), "--process and --width-mm"),
        (("--steps", "nothing.json"), "no file"),
        (("--steps", "{wrong}"), "is not JSON"),
        (("--steps", "{magic}"), "there is no magic"),
    ],
)
def test_cleaning_up_says_what_is_wrong_with_the_steps(run, tmp_path, words, message):
    picture = tmp_path / "p.png"
    picture.write_bytes(png(np.full((60, 60, 3), 250, np.uint8)))
    (tmp_path / "wrong.json").write_text("steps please")
    (tmp_path / "magic.json").write_text('[{"kind": "magic"}]')
    named = [w.format(wrong=tmp_path / "wrong.json", magic=tmp_path / "magic.json") for w in words]
    code, _, err = run("clean", picture, "--out", tmp_path / "o.png", *named)
    assert code == 2 and message in err and not (tmp_path / "o.png").exists()
