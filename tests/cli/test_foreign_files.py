"""Files from elsewhere on the command line: SVG and DXF for every command, and the same words for what is not taken."""

import io
import json
import sys
import zipfile

import ezdxf
import pytest

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="60"><rect x="10" y="10" width="60" height="30"/>'
    '<text x="10" y="55">Tea</text></svg>'
)
LEFT = "1 × live text: set it anew with Lettering (“Tea”)"
COMMANDS = {
    "check": ("check", "{}", "--process", "relief", "--width-mm", 80),
    "mend": ("mend", "{}", "--process", "relief", "--width-mm", 80, "--out", "m.svg"),
    "recolour": ("recolour", "{}", "--map", "black=teal", "--out", "c.svg"),
    "make laser": ("make", "laser", "{}", "--width-mm", 80, "--out-dir", "l"),
    "make carve": ("make", "carve", "{}", "--width-mm", 80, "--out-dir", "v"),
    "make relief": ("make", "relief", "{}", "--width-mm", 80, "--out-dir", "r"),
    "make apparel": ("make", "apparel", "{}", "--width-mm", 80, "--out-dir", "a"),
}


def plate() -> bytes:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (60, 0), (60, 30), (0, 30)], close=True)
    space.add_text("Tea")
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


@pytest.fixture
def files(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "sign.svg").write_text(SVG)
    (tmp_path / "plate.dxf").write_bytes(plate())
    # What is in a file counts, not what it is called.
    (tmp_path / "really.svg").write_bytes(plate())
    return tmp_path


@pytest.mark.parametrize("name", COMMANDS)
@pytest.mark.parametrize("file", ["sign.svg", "plate.dxf", "really.svg"])
def test_every_command_reads_both_kinds_and_reports_what_it_did_not_take(run, files, name, file):
    words = [file if word == "{}" else word for word in COMMANDS[name]]
    code, _, err = run(*words, "--report", "report.json")
    # A drawing that something is missing of is never cut-ready.
    assert code == (3 if name in ("check", "mend") else 0)
    assert f"{file}: not taken: {LEFT}" in err
    assert json.loads((files / "report.json").read_text())["not_taken"] == [LEFT]


def test_a_pack_reports_by_file(run, files):
    code, *_ = run(
        "pack",
        "sign.svg",
        "plate.dxf",
        "--title",
        "Tea",
        "--out",
        "p.zip",
        "--report",
        "report.json",
        "--origin",
        "hand",
    )
    report = json.loads((files / "report.json").read_text())
    assert code == 0 and report["not_taken"] == {"sign.svg": [LEFT], "plate.dxf": [LEFT]}
    assert zipfile.ZipFile(files / "p.zip").testzip() is None


def test_several_files_are_checked_and_one_that_cannot_be_read_keeps_no_other_back(run, files):
    (files / "photo.svg").write_bytes(b"\xff\xd8\xff\xe0" + b"x" * 99)
    asked = ("--process", "relief", "--width-mm", 80, "--report", "report.json")
    code, out, err = run("check", "sign.svg", "photo.svg", "plate.dxf", *asked)
    assert code == 2 and "photo.svg is a JPEG, not a drawing" in err
    assert "sign.svg:" in out and "plate.dxf:" in out
    report = json.loads((files / "report.json").read_text())
    assert [each["file"] for each in report["drawings"]] == ["sign.svg", "plate.dxf"]
    assert len(report["not_read"]) == 1


def test_standard_input_is_a_file_too(run, files, monkeypatch):
    monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(SVG.encode())))
    code, _, err = run("check", "-", "--process", "relief", "--width-mm", 80)
    assert code == 3 and f"standard input: not taken: {LEFT}" in err


def test_no_svg_goes_into_a_name_that_says_otherwise(run, files):
    for words in (
        ("mend", "sign.svg", "--process", "relief", "--width-mm", 80),
        ("recolour", "sign.svg", "--map", "black=red"),
    ):
        code, _, err = run(*words, "--out", "drawn.png")
        assert code == 2 and "name it drawn.svg" in err and not (files / "drawn.png").exists()


def test_help_and_version(run):
    for flag in ("-h", "--help"):
        code, out, _ = run(flag)
        assert code == 0 and "From an idea to files" in out
    code, out, _ = run("--version")
    assert code == 0 and out.startswith("zeichen ")
