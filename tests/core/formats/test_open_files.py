"""Files of open sets that nobody here drew come in as the picture resvg makes of them."""

from pathlib import Path

import pytest

from reference_pictures import likeness
from zeichen.core.formats.svg_reading import read_foreign_svg

FILES = sorted((Path(__file__).parents[2] / "open").glob("*.svg"))


@pytest.mark.parametrize("file", FILES, ids=lambda file: file.stem)
def test_an_open_file_comes_in_as_its_picture(file):
    text = file.read_text()
    taken = read_foreign_svg(text)
    found = likeness(text, taken.drawing)
    assert found.iou >= 0.995
    # A gradient in steps is a little off everywhere; it is named.
    assert found.delta_e < (2.5 if any("gradient" in line for line in taken.not_taken) else 0.5)
    assert all("gradient" in line or "half-transparent" in line for line in taken.not_taken)


def test_there_are_a_few_dozen():
    assert len(FILES) >= 30
