"""Numbers no drawing can hold are refused in words or read in words, without a library's warnings."""

import json
import warnings

import numpy as np
import pytest

from samples import png, svg_file

WILD = ("1e308", "1e20", "-1e20", "1e-300", "NaN", "inf", "-Infinity", "1e309")
SQUARE = "M10 10H60V60H10Z"
PLACES = {
    "coordinate": '<path d="M0 0L{} 0L50 50Z"/>',
    "second path": f'<path d="{SQUARE}"/><path d="M0 0L{{}} 0L50 50Z"/>',
    "stroke": f'<path d="{SQUARE}" fill="none" stroke="red" stroke-width="{{}}"/>',
    "translate": f'<g transform="translate({{}} 0)"><path d="{SQUARE}"/></g>',
    "scale": f'<g transform="scale({{}})"><path d="{SQUARE}"/></g>',
    "rectangle": '<rect x="5" y="5" width="{}" height="9"/>',
    "circle": '<circle cx="5" cy="{}" r="9"/>',
    "arc": '<path d="M5 5A{} 9 0 0 1 50 50Z"/>',
}
PAGES = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="{0}" height="50"><path d="{1}"/></svg>',
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {0} 50"><path d="{1}"/></svg>',
    '<svg xmlns="http://www.w3.org/2000/svg" width="50" height="50" viewBox="{0} 0 50 50"><path d="{1}"/></svg>',
)


def files() -> list:
    made = [
        pytest.param(svg_file(form.format(number)), id=f"{place} {number}")
        for place, form in PLACES.items()
        for number in WILD
    ]
    for k, form in enumerate(PAGES):
        made += [pytest.param(form.format(n, SQUARE).encode(), id=f"page {k} {n}") for n in WILD]
    return made


@pytest.mark.parametrize("file", files())
def test_wild_numbers_in_a_file(run, tmp_path, file):
    path = tmp_path / "wild.svg"
    path.write_bytes(file)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        code, out, err = run(
            "check", path, "--process", "laser-cut", "--width-mm", 40, "--report", tmp_path / "r.json"
        )
    assert code in (0, 2, 3)
    if code == 2:
        assert err.startswith("zeichen: ") and err.count("\n") == 1 and "Traceback" not in err
    else:
        # What was read is all there was, or it is said what was left out.
        report = json.loads((tmp_path / "r.json").read_text())
        assert report["readings"]["paths"] == file.count(b"<path") + file.count(b"<rect") + file.count(
            b"<circle"
        ) or report.get("not_taken"), out


@pytest.mark.parametrize("number", WILD)
@pytest.mark.parametrize(
    "command", [("check",), ("mend",), ("make", "laser"), ("make", "carve"), ("forecast",)]
)
def test_wild_numbers_as_sizes(run, tmp_path, number, command):
    path = tmp_path / "square.svg"
    path.write_bytes(svg_file(f'<path d="{SQUARE}"/>'))
    more: tuple[object, ...] = ("--process", "laser-cut")
    if command[0] == "make":
        more = ("--out-dir", tmp_path / "out")
    elif command == ("mend",):
        more = (*more, "--out", tmp_path / "mended.svg")
    elif command == ("forecast",):
        path.write_bytes(png(np.tile(np.uint8([255, 0, 255]), (90, 30))))
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        code, _, err = run(*command, path, f"--width-mm={number}", *more)
    assert code == 2 and err.startswith("zeichen: ") and err.count("\n") == 1


@pytest.mark.parametrize("width", [0.001, 0.01, 1.0])
def test_a_figure_far_smaller_than_any_limit_is_forecast_in_words(run, tmp_path, width):
    """Its limits, in pixels, are many times the picture."""
    path = tmp_path / "bars.png"
    path.write_bytes(png(np.tile(np.uint8([255, 255, 0, 0, 255, 255]), (90, 30))))
    code, out, _ = run("forecast", path, "--process", "laser-cut", f"--width-mm={width}")
    assert code == 0 and out.startswith(("too-fine", "wrong-kind"))
