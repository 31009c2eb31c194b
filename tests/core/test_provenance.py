"""How a picture came about: a record that travels in PNG and SVG, read by readers that are not ours."""

import io
from dataclasses import replace

import numpy as np
import pytest
from lxml import etree
from PIL import Image

from zeichen.core.formats.picture import picture_origin, write_jpeg, write_png
from zeichen.core.formats.svg import write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.packing import pack_origin
from zeichen.core.provenance import Origin, origin_in, record

MACHINE, HAND = Origin.MACHINE, Origin.HAND
SHEET = np.full((20, 20, 3), 200, np.uint8)
SQUARE = read_svg(
    '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M1 1H8V8H1Z"/></svg>'
)


@pytest.mark.parametrize("write", [write_png, write_jpeg])
@pytest.mark.parametrize("origin", [MACHINE, HAND])
def test_a_picture_carries_it_as_xmp(origin, write):
    data = write(SHEET, origin=origin)
    assert picture_origin(data) is origin
    # Pillow finds it where XMP is kept.
    packet = Image.open(io.BytesIO(data)).info["xmp"]
    terms = etree.fromstring(packet).xpath("//*[local-name()='DigitalSourceType']/text()")
    assert len(terms) == 1 and terms[0].startswith("http://cv.iptc.org/newscodes/digitalsourcetype/")


def test_pictures_that_say_nothing_or_are_none_say_nothing():
    assert picture_origin(write_png(SHEET)) is picture_origin(write_jpeg(SHEET)) is None
    assert (
        picture_origin(b"")
        is picture_origin(b"GIF89a, cut off")
        is picture_origin(write_png(SHEET)[:40])
        is None
    )


@pytest.mark.parametrize(
    ("said", "origin"),
    [
        ("x:DigitalSourceType='http://cv.iptc.org/newscodes/digitalsourcetype/digitalCapture'", HAND),
        ("x:DigitalSourceType=\"http://cv.iptc.org/newscodes/digitalsourcetype/algorithmicMedia\"", MACHINE),
        ("<a:DigitalSourceType r:resource='http://cv.iptc.org/newscodes/digitalsourcetype/print'/>", HAND),
        ("<a:DigitalSourceType>http://cv.iptc.org/newscodes/digitalsourcetype/unheardOf</a>", None),
        ("digitalsourcetype/print, but nothing it belongs to", None),
    ],
)  # fmt: skip
def test_records_of_other_programs_are_understood(said, origin):
    assert origin_in(said) is origin


@pytest.mark.parametrize("origin", [MACHINE, HAND, None])
def test_an_svg_keeps_it_through_reading_moving_and_writing(origin):
    placed = at_true_size(replace(SQUARE, origin=origin), width_mm=30)
    written = write_svg(placed)
    assert read_svg(written).origin is origin
    assert write_svg(read_svg(written)) == written
    etree.fromstring(written.encode())
    # A file from elsewhere with more in it than Zeichen writes.
    foreign = written.replace("<path", "<g><circle cx='2' cy='2' r='1'/></g><path", 1)
    assert read_svg(foreign).origin is origin


@pytest.mark.parametrize(
    ("noted", "told", "whole"),
    [
        ([MACHINE, None], None, MACHINE),
        ([HAND, HAND], None, HAND),
        ([HAND, None], None, None),
        ([None], HAND, HAND),
        ([HAND, None], MACHINE, MACHINE),
        # What a file says of itself is not talked away.
        ([MACHINE], HAND, MACHINE),
        ([HAND], MACHINE, HAND),
    ],
)  # fmt: skip
def test_one_generated_picture_declares_the_whole_pack(noted, told, whole):
    assert pack_origin(noted, told=told) is whole


def test_the_record_is_well_formed():
    assert etree.fromstring(record(MACHINE)).tag.endswith("}RDF")
