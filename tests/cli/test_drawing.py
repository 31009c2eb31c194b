"""The commands before tracing: wordings for any generator, sketches of the stand-in."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from zeichen.core.briefing import RULES
from zeichen.core.raster import Picture
from zeichen.core.raster.style_reading import read_style


def pixels(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.array(image.convert("RGB"))


@pytest.fixture
def subjects(tmp_path) -> Path:
    path = tmp_path / "list.txt"
    path.write_text("Snail | facing left\n# Mug\n\nAcorn\nsnail\n", encoding="utf-8")
    return path


def test_words_are_one_line_each_and_the_same_every_time(run, subjects, tmp_path):
    out = tmp_path / "words.txt"
    code, said, warned = run("words", "--subjects", subjects, "--look", "ink", "--out", out)
    assert code == 0 and "2 wordings" in said and "snail is there more than once" in warned
    lines = out.read_text().splitlines()
    assert [line.partition(".")[0] for line in lines] == ["A snail, facing left", "An acorn"]
    assert all("Brush and ink" in line and rule.words in line for line in lines for rule in RULES)
    run("words", "--subjects", subjects, "--look", "ink", "--out", tmp_path / "again.txt")
    assert (tmp_path / "again.txt").read_text() == out.read_text()


def test_words_keep_to_the_rules_and_style_that_are_asked_for(run, subjects, tmp_path):
    out = tmp_path / "words.txt"
    options = [
        "--look",
        "flat",
        "--rules",
        "margin,one-figure",
        "--colours",
        3,
        "--line-mm",
        1,
        "--width-mm",
        60,
    ]
    assert run("words", "--subjects", subjects, "--out", out, *options)[0] == 0
    first = out.read_text().splitlines()[0]
    assert first.endswith(
        "lines about 1.4 % of the picture across, no more than 3 colours, an empty margin all round, "
        "a single figure, no letters."
    )


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("words --subjects {list} --rules loud --out {out}", "no rule loud"),
        ("words --subjects {list} --line-mm 2 --out {out}", "--line-mm needs --width-mm"),
        ("words --subjects {nothing} --out {out}", "names no subject"),
        ("words --subjects {missing} --out {out}", "There is no file"),
        ("words --subjects {binary} --out {out}", "is not text"),
        ("sketch --subject snail --palette red --out {out}", "must look like #1a2b3c; got red"),
        ("sketch --subject snail --vary sideways:3 --out {out}", "near:SEED or far:SEED"),
        ("sketch --subject snail --like {list} --out {out}", "not a picture"),
        ("sketch --subject snail --faults some --out {out}", "none"),
    ],
)
def test_bad_use_is_said_in_a_line(run, subjects, tmp_path, words, said):
    (tmp_path / "nothing").write_text("\n# \n")
    (tmp_path / "binary").write_bytes(b"\xff\xfe\x00\x80")
    places = {"list": subjects, "out": tmp_path / "out", "missing": tmp_path / "no"}
    names = {**{name: tmp_path / name for name in ("nothing", "binary")}, **places}
    code, _, err = run(*words.format(**names).split())
    assert code == 2 and said in err
    assert not (tmp_path / "out").exists()


def test_a_sketch_like_a_picture_has_its_line_weight_and_says_what_was_measured(run, tmp_path):
    reference, out, report = tmp_path / "ref.png", tmp_path / "out.png", tmp_path / "out.json"
    run("sketch", "--subject", "frog", "--look", "line", "--seed", 4, "--out", reference)
    options = ["--seed", 9, "--like", reference, "--faults", "none", "--report", report]
    assert run("sketch", "--subject", "kettle", "--look", "line", "--out", out, *options)[0] == 0
    wanted, got = (read_style(Picture(pixels(path))).line_share for path in (reference, out))
    assert got == pytest.approx(wanted, rel=0.15)
    figures = json.loads(report.read_text())
    assert figures["reference"]["line_share"] == pytest.approx(wanted) and figures["faults"] == []
    assert figures["wording"].startswith("A kettle. Bold line drawing")


def test_faults_come_as_often_as_the_level_says(run, tmp_path):
    def counted(level: str) -> int:
        total = 0
        for seed in range(5):
            report = tmp_path / "r.json"
            words = ["--seed", seed, "--size-px", 64, "--faults", level, "--report", report]
            assert run("sketch", "--subject", "mug", "--out", tmp_path / "m.png", *words)[0] == 0
            total += len(json.loads(report.read_text())["faults"])
        return total

    none, usual, many = (counted(level) for level in ("none", "usual", "many"))
    assert none == 0 < usual < many


def test_pose_format_and_variations_reach_the_picture(run, tmp_path):
    def drawn(*words: object) -> np.ndarray:
        out = tmp_path / "s.png"
        start = ["sketch", "--subject", "snail", "--seed", 3, "--size-px", 200, "--faults", "none"]
        assert run(*start, "--out", out, *words)[0] == 0
        return pixels(out)

    start = drawn()
    assert drawn("--format", "portrait").shape == (200, 150, 3)
    assert not np.array_equal(drawn("--pose", "facing left"), drawn("--pose", "facing right"))
    near, far = drawn("--vary", "near:1"), drawn("--vary", "near:1", "--vary", "far:2")
    assert not np.array_equal(start, near) and not np.array_equal(near, far)
    assert np.array_equal(near, drawn("--vary", "near:1"))
    assert not np.array_equal(start, drawn("--rules", "none"))
