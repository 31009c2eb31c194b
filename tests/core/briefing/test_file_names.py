"""A motif's name from a picture's file."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.briefing.file_names import motif_name


@pytest.mark.parametrize(
    ("file", "name"),
    [
        ("tea_pot-final.png", "Tea pot final"),
        ("C:\\scans\\snail.JPG", "Snail"),
        ("scans/bean pod.tif", "Bean pod"),
        ("Snail (2).jpg", "Snail"),
        ("snail copy 3.png", "Snail"),
        ("copy.png", "Copy"),
        ("gate v2.5.webp", "Gate v2 5"),
        (".svg", "Motif"),
        ("", "Motif"),
    ],
)
def test_the_name_is_the_files_without_what_programs_add(file, name):
    assert motif_name(file) == name


@given(st.text(max_size=300))
def test_any_file_gives_a_name_that_a_motif_may_have(file):
    name = motif_name(file)
    assert 0 < len(name) <= 120
    assert name == name.strip()
    assert motif_name(name + ".png") in (name, motif_name(name))
