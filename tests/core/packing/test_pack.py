"""Packs: every format, a listing with its declaration, the same bytes for the same pack."""

import io
import zipfile

import pytest

from samples import circle, drawing, ring
from zeichen.core.errors import InvalidInputError
from zeichen.core.packing import Listing, Origin, PackItem, listing_text, make_pack

DISC, RING = drawing(circle(100, 100, 80)), drawing(ring(100, 100, 80, 40))


def names(data: bytes) -> list[str]:
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        assert bundle.testzip() is None
        return bundle.namelist()


def test_a_single_motif_lies_flat_and_several_in_folders():
    one = names(make_pack([PackItem("Watering can", DISC)], Listing("One")))
    assert sorted(one) == [
        "listing.txt",
        *sorted(f"watering-can.{e}" for e in ("dxf", "eps", "jpg", "pdf", "png", "svg")),
    ]
    two = names(make_pack([PackItem("Disc", DISC), PackItem("Ring", RING)], Listing("Two")))
    assert len(two) == 13 and "ring/ring.svg" in two


def test_the_same_pack_has_the_same_bytes():
    items, listing = [PackItem("Disc", DISC, 50)], Listing("Disc", keywords=("round",))
    assert make_pack(items, listing) == make_pack(items, listing)


def test_the_listing_names_its_files_with_their_true_sizes():
    data = make_pack([PackItem("Disc", DISC, 50)], Listing("Disc"))
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        text = bundle.read("listing.txt").decode()
        for entry in bundle.infolist():
            if entry.filename != "listing.txt":
                assert f"{entry.filename}  {entry.file_size} bytes" in text


def test_generated_work_is_declared():
    text = listing_text(
        Listing(
            "Snail",
            origin=Origin.MACHINE,
            generator="stand-in studio",
            wording="A snail.",
            made_on="2026-11-24",
        ),
        file_lines=["snail.svg"],
    )
    for line in (
        "AI disclosure",
        "trainedAlgorithmicMedia",
        "Generator: stand-in studio",
        "Wording: A snail.",
        "Date: 2026-11-24",
    ):
        assert line in text


def test_hand_made_work_says_so_and_nothing_else():
    text = listing_text(Listing("Snail", origin=Origin.HAND, generator="x"), file_lines=[])
    assert (
        "No picture generator was used" in text
        and "trainedAlgorithmicMedia" not in text
        and "Generator:" not in text
    )


def test_empty_sections_are_left_out():
    text = listing_text(Listing("Snail"), file_lines=["a"])
    assert "Keywords" not in text and text.splitlines()[0] == "Snail"


def test_motifs_of_one_name_are_numbered():
    names = zipfile.ZipFile(
        io.BytesIO(make_pack([PackItem("A b", DISC), PackItem("a-B", RING)], Listing("x")))
    ).namelist()
    assert "a-b/a-b.svg" in names and "a-b-2/a-b-2.svg" in names


def test_packs_that_cannot_be_made_say_why():
    with pytest.raises(InvalidInputError, match="pack is empty"):
        make_pack([], Listing("x"))
    with pytest.raises(InvalidInputError, match="needs a title"):
        Listing("  ")
    with pytest.raises(InvalidInputError, match="Width must be"):
        PackItem("a", DISC, 0)
