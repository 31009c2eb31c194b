"""Reading pictures: what every format carries is obeyed, whatever is wrong is said."""

import io
import struct
import zlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageCms, ImageOps

from samples import examples, is_thorough, thinned
from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.formats.picture import picture_size, read_picture, write_jpeg, write_png

# Four quadrants: red, green, blue, white.
QUADRANTS = np.full((32, 48, 3), 255, np.uint8)
QUADRANTS[:16, :24] = (255, 0, 0)
QUADRANTS[:16, 24:] = (0, 255, 0)
QUADRANTS[16:, :24] = (0, 0, 255)


def saved(image: Image.Image, kind: str, **options) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "BMP", "TIFF", "GIF"])
def test_every_format_reads_to_the_same_picture(kind):
    options = (
        {"quality": 100, "subsampling": 0} if kind == "JPEG" else {"lossless": True} if kind == "WEBP" else {}
    )
    picture = read_picture(saved(Image.fromarray(QUADRANTS), kind, **options))
    assert picture.rgb.shape == QUADRANTS.shape
    off = np.abs(picture.rgb[4:12, 4:20].astype(int) - (255, 0, 0)).max()
    assert off <= (4 if kind == "JPEG" else 0)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_orientation_is_obeyed(orientation):
    """Exif 2.32, tag 274: each stored way round must read as the same upright picture."""
    upright = Image.fromarray(QUADRANTS)
    undo = {
        1: [],
        2: [Image.Transpose.FLIP_LEFT_RIGHT],
        3: [Image.Transpose.ROTATE_180],
        4: [Image.Transpose.FLIP_TOP_BOTTOM],
        5: [Image.Transpose.TRANSPOSE],
        6: [Image.Transpose.ROTATE_90],
        7: [Image.Transpose.TRANSVERSE],
        8: [Image.Transpose.ROTATE_270],
    }[orientation]
    stored = upright
    for step in undo:
        stored = stored.transpose(step)
    exif = Image.Exif()
    exif[274] = orientation
    picture = read_picture(saved(stored, "PNG", exif=exif))
    assert np.array_equal(picture.rgb, QUADRANTS)


def test_transparency_is_laid_on_white():
    rgba = np.zeros((16, 16, 4), np.uint8)
    rgba[:, :8] = (0, 0, 0, 255)
    rgba[:, 8:] = (0, 0, 0, 128)
    rgba[8:, 8:] = (0, 0, 0, 0)
    picture = read_picture(saved(Image.fromarray(rgba), "PNG"))
    assert picture.rgb[2, 2, 0] == 0 and picture.rgb[12, 12, 0] == 255
    assert abs(int(picture.rgb[2, 12, 0]) - 127) <= 1


def test_a_palette_with_a_clear_colour_is_laid_on_white():
    image = Image.new("P", (16, 16), 0)
    image.putpalette([0, 0, 0, 255, 0, 0] + [0] * 762)
    image.paste(1, (8, 0, 16, 16))
    picture = read_picture(saved(image, "GIF", transparency=0))
    assert tuple(picture.rgb[5, 2]) == (255, 255, 255) and tuple(picture.rgb[5, 12]) == (255, 0, 0)


def test_sixteen_bits_become_eight():
    deep = np.linspace(0, 65535, 32, dtype=np.uint16)[None].repeat(16, axis=0)
    picture = read_picture(saved(Image.fromarray(deep), "PNG"))
    assert picture.rgb[0, 0, 0] == 0 and picture.rgb[0, -1, 0] == 255
    assert (np.diff(picture.rgb[0, :, 0].astype(int)) > 0).all()


def test_cmyk_becomes_rgb():
    ink = Image.new("CMYK", (16, 16), (0, 255, 255, 0))
    picture = read_picture(saved(ink, "TIFF"))
    red, green, blue = (int(v) for v in picture.rgb[3, 3])
    assert red > 200 and green < 60 and blue < 60


def test_an_embedded_profile_is_turned_into_srgb():
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    picture = read_picture(saved(Image.fromarray(QUADRANTS), "PNG", icc_profile=profile))
    assert np.abs(picture.rgb.astype(int) - QUADRANTS).max() <= 2


def test_a_broken_profile_does_not_hinder():
    picture = read_picture(saved(Image.fromarray(QUADRANTS), "PNG", icc_profile=b"not a profile"))
    assert np.array_equal(picture.rgb, QUADRANTS)


def test_the_first_frame_of_an_animation_is_read():
    frames = [Image.new("RGB", (16, 16), colour) for colour in ("red", "blue")]
    picture = read_picture(saved(frames[0], "GIF", save_all=True, append_images=frames[1:]))
    assert tuple(picture.rgb[3, 3]) == (255, 0, 0)


def bomb(width: int, height: int) -> bytes:
    """A PNG whose header declares a size and whose data is nothing."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(b""))
        + chunk(b"IEND", b"")
    )


WHOLE = saved(Image.fromarray(QUADRANTS), "PNG")


@pytest.mark.parametrize(
    ("data", "message"),
    [
        pytest.param(b"", r"empty \(0 bytes\)", id="empty"),
        pytest.param(
            b"Dear diary, today I drew a snail.", "not a picture Zeichen can read", id="renamed text"
        ),
        pytest.param(b"<svg xmlns='http://www.w3.org/2000/svg'/>", "not a picture", id="svg"),
        pytest.param(b"%PDF-1.7\n", "not a picture", id="pdf"),
        pytest.param(WHOLE[: len(WHOLE) // 2], "damaged or cut short", id="truncated"),
        pytest.param(WHOLE[:20], "not a picture|damaged", id="header only"),
        pytest.param(bomb(50_000, 50_000), "claims 50000 x 50000 px, more than the 100 million", id="bomb"),
    ],
)
def test_bad_files_are_refused_with_a_reason(data, message):
    with pytest.raises(FormatError, match=message):
        read_picture(data)


def test_a_one_pixel_picture_is_too_small():
    with pytest.raises(InvalidInputError, match="1 x 1 px, too small"):
        read_picture(saved(Image.new("RGB", (1, 1)), "PNG"))


@examples(68)
@given(st.integers(0, len(WHOLE) - 1), st.integers(0, 255))
def test_a_flipped_byte_is_read_or_refused_but_never_crashes(place, value):
    damaged = bytearray(WHOLE)
    damaged[place] = value
    try:
        read_picture(bytes(damaged))
    except InvalidInputError as error:
        assert str(error).endswith((".", "trace.")) and "Traceback" not in str(error)


@given(st.binary(max_size=200))
def test_random_bytes_are_refused(data):
    with pytest.raises(InvalidInputError):
        read_picture(data)


def test_written_files_carry_resolution_and_colour_space():
    image = Image.open(io.BytesIO(write_png(QUADRANTS, dpi=300, srgb=True)))
    assert image.info["dpi"] == pytest.approx((300, 300), rel=1e-4) and "srgb" in image.info
    assert np.array_equal(np.asarray(image), QUADRANTS)
    photo = Image.open(io.BytesIO(write_jpeg(QUADRANTS)))
    assert (photo.format, photo.info["dpi"]) == ("JPEG", (300, 300))


def large(mode: str, name: str, **options) -> bytes:
    """7,000 x 5,000 px with a dark square from a fifth to four fifths, of any mode and format."""
    size = (7000, 5000)
    paper = {"RGBA": (0, 0, 0, 0), "I;16": 65535}.get(mode, "white")
    ink = {"RGBA": (200, 30, 30, 255), "I;16": 0}.get(mode, "black")
    image = Image.new(mode, size, paper)
    image.paste(ink, (1400, 1000, 5600, 4000))
    out = io.BytesIO()
    image.save(out, name, **options)
    return out.getvalue()


@pytest.mark.parametrize(
    ("mode", "name"),
    thinned(
        [("RGBA", "PNG"), ("L", "PNG"), ("I;16", "PNG"), ("RGB", "PNG"), ("RGB", "JPEG"), ("1", "PNG")], 2
    ),
)
def test_a_picture_of_over_30_million_pixels_is_brought_down_as_it_is(mode, name):
    found = read_picture(large(mode, name))
    assert found.width_px * found.height_px <= 30_000_000 and found.width_px == 3500
    dark = (found.rgb.astype(int).sum(axis=2) < 500).mean()
    assert dark == pytest.approx(0.6 * 0.6, abs=1e-3)
    assert found.rgb[0, 0].tolist() == [255, 255, 255]
    inside = found.rgb[found.height_px // 2, found.width_px // 2].tolist()
    assert inside == ([200, 30, 30] if mode == "RGBA" else [0, 0, 0])


@pytest.mark.parametrize("orientation", range(1, 9) if is_thorough() else (3, 5, 6))
def test_a_turned_picture_is_upright_whatever_its_size(orientation):
    """Exif 2.32, 4.6.4: against Pillow's own turning of the small picture."""
    marked = np.zeros((40, 60, 3), np.uint8)
    marked[:10, :20] = 255
    exif = Image.Exif()
    exif[0x0112] = orientation
    out = io.BytesIO()
    Image.fromarray(marked).save(out, "PNG", exif=exif)
    upright = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(out.getvalue()))))
    assert np.array_equal(read_picture(out.getvalue()).rgb, upright)
    out = io.BytesIO()
    Image.fromarray(marked).resize((7200, 4800), Image.Resampling.NEAREST).save(out, "PNG", exif=exif)
    small = np.asarray(Image.fromarray(read_picture(out.getvalue()).rgb).resize(upright.shape[1::-1]))
    assert np.abs(small.astype(int) - upright).mean() < 8


def test_a_strip_that_is_no_picture_is_refused_and_a_long_ornament_is_read():
    for width, fits in ((1_000_000, False), (8001, False), (8000, True)):
        out = io.BytesIO()
        Image.new("L", (width, 8), 255).save(out, "PNG")
        if fits:
            assert read_picture(out.getvalue()).width_px == width
            assert picture_size(out.getvalue()) == (width, 8)
        else:
            with pytest.raises(FormatError, match=f"{width} x 8 px: over 1000 times as long"):
                read_picture(out.getvalue())
