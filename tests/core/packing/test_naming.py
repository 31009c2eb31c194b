"""File names of any script that every system takes, none of them twice."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.packing import file_stem, file_stems

# What Windows, macOS or Linux do not take in a name (Microsoft Learn, "Naming Files, Paths, and Namespaces"; POSIX
# 3.170; from memory).
FORBIDDEN = set('<>:"/\\|?*') | {chr(k) for k in range(32)} | {chr(127)}
DEVICES = {"con", "prn", "aux", "nul", *(f"{port}{k}" for port in ("com", "lpt") for k in range(1, 10))}


@pytest.mark.parametrize(
    ("name", "stem"),
    [
        ("Watering can!", "watering-can"),
        ("../../etc/passwd", "etc-passwd"),
        ("Schnecke 2", "schnecke-2"),
        ("Grüne Käfer", "grüne-käfer"),
        ("じょうろ", "じょうろ"),
        ("ลูกแมว", "ลูกแมว"),
        ("Лейка №5", "лейка-5"),
        ("حلزون", "حلزون"),
        ("cafe\u0301", "café"),
        ("???", "motif"),
        ("", "motif"),
        ("🐌", "motif"),
        ("COM1", "com1-"),
        ("nul", "nul-"),
        ("a\u202egnp.exe", "a-gnp-exe"),
    ],
)
def test_letters_of_all_scripts_are_kept_and_the_rest_is_not(name, stem):
    assert file_stem(name) == stem


@given(st.text(max_size=300))
def test_any_name_is_safe_on_the_three_big_systems(name):
    stem = file_stem(name)
    assert stem and not set(stem) & FORBIDDEN and stem not in DEVICES
    assert len(f"{stem}-relief.stl".encode()) <= 255 and stem == unicodedata.normalize("NFC", stem)
    assert not stem.startswith((".", "-", " ")) and not stem.endswith((".", " "))


@given(st.lists(st.sampled_from(["Snail", "snail!", "Snail 2", "SNAIL", "", "🐌", "con"]), max_size=12))
def test_none_of_some_names_is_there_twice_whatever_the_case(names):
    stems = file_stems(names)
    assert len({stem.casefold() for stem in stems}) == len(names)
