"""Reading PNG, JPEG, WebP, BMP, TIFF and GIF into a `Picture`, and writing PNG and JPEG.

Pillow decodes. Orientation tags are obeyed, transparency is laid on white, embedded colour
profiles are turned into sRGB, 16-bit greys are scaled to 8 bits. Pictures of over 30 million pixels are brought down
while they are decoded.
"""

import io
import math
import struct
import warnings
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any

import numpy as np
from PIL import ExifTags, Image, ImageCms, PngImagePlugin, UnidentifiedImageError

from zeichen.core.errors import FormatError, ZeichenError
from zeichen.core.provenance import Origin, origin_in, record
from zeichen.core.raster.picture import Picture
from zeichen.core.values import Bytes8Array

READABLE = ("PNG", "JPEG", "WEBP", "BMP", "TIFF", "GIF")
LARGEST_PIXELS = 100_000_000
# What is larger is brought down by a whole number, to 24 million or less: far finer than any of our machines.
WHOLE_PIXELS = 30_000_000
_BROUGHT_DOWN_PIXELS = 24_000_000
_LEAST_SIDE = 8
# No ornament runs on further; lengths at the finished size, in pixels, would be far more than the picture is wide.
MOST_ASPECT = 1000
_STRIP_PIXELS = 4_000_000
# Where a PNG keeps XMP (PNG specification, third edition, 11.3.3.1).
_XMP_KEYWORD = "XML:com.adobe.xmp"
_MOST_XMP = 200_000
MM_PER_INCH = 25.4
# How to turn a picture upright, by its orientation tag (Exif 2.32, 4.6.4).
_UPRIGHT: dict[int | None, Callable[[Bytes8Array], Bytes8Array]] = {
    2: lambda rows: rows[:, ::-1],
    3: lambda rows: rows[::-1, ::-1],
    4: lambda rows: rows[::-1],
    5: lambda rows: rows.transpose(1, 0, 2),
    6: lambda rows: rows[::-1].transpose(1, 0, 2),
    7: lambda rows: rows[::-1, ::-1].transpose(1, 0, 2),
    8: lambda rows: rows[:, ::-1].transpose(1, 0, 2),
}


def picture_origin(data: bytes) -> Origin | None:
    """Return what a picture file says of how it came about; None if it says nothing, or cannot be read."""
    try:
        with _opened(data) as image:
            noted = image.info.get("xmp") or b""
    except FormatError:
        return None
    text = noted.decode("utf-8", "replace") if isinstance(noted, bytes) else str(noted)
    return origin_in(text[:_MOST_XMP])


def read_picture(data: bytes) -> Picture:
    """Return the picture in a file; one of over 30 million pixels is brought down to what a trace can use.

    Parameters
    ----------
    data : bytes
        The whole file.

    Raises
    ------
    FormatError
        If the file is empty, not one of the readable formats, damaged, or declares more than
        100 million pixels.
    InvalidInputError
        If the picture is smaller than 8 px on a side.
    """
    with _opened(data) as image:
        return Picture(_decoded(image))


def picture_size(data: bytes) -> tuple[int, int]:
    """Return the width and height, px, that a picture file declares; raises as read_picture, but decodes nothing."""
    with _opened(data) as image:
        return image.size


@contextmanager
def _opened(data: bytes) -> Iterator[Image.Image]:
    if not data:
        raise FormatError("The file is empty (0 bytes). Choose the picture again.")
    # The size is checked by hand below, before any pixel is decoded, so Pillow's own alarm is turned off.
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = _open(data)
            _require_decent_size(image)
            yield image
        except (OSError, SyntaxError, ValueError, EOFError, struct.error, zlib.error, OverflowError) as error:
            if isinstance(error, ZeichenError):
                raise
            raise FormatError(
                "The picture is damaged or cut short and could not be read to its end. "
                "Save or download it again."
            ) from error


def _open(data: bytes) -> Image.Image:
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        return Image.open(io.BytesIO(data), formats=READABLE)
    except UnidentifiedImageError as error:
        raise FormatError(
            "This is not a picture Zeichen can read, whatever its name says. "
            "Use PNG, JPEG, WebP, BMP, TIFF or GIF."
        ) from error
    finally:
        Image.MAX_IMAGE_PIXELS = limit


def _require_decent_size(image: Image.Image) -> None:
    width_px, height_px = image.size
    if width_px * height_px > LARGEST_PIXELS:
        raise FormatError(
            f"The picture claims {width_px} x {height_px} px, more than the {LARGEST_PIXELS // 1_000_000} million "
            "Zeichen works on. Make it smaller first; 2000 px across is plenty for tracing."
        )
    if max(image.size) > MOST_ASPECT * min(image.size) and min(image.size) >= _LEAST_SIDE:
        raise FormatError(
            f"The picture is {width_px} x {height_px} px: over {MOST_ASPECT} times as long as it is wide, which no "
            "figure is. Crop it first."
        )


def _decoded(image: Image.Image) -> Bytes8Array:
    """Return the pixels as sRGB, upright, row by row of strips: only the decoder's own copy is ever whole."""
    orientation = image.getexif().get(ExifTags.Base.Orientation)
    factor = _too_large_by(image)
    if factor > 1:
        # JPEGs can be decoded at half their size and less (ITU-T T.81, by leaving out fine waves).
        image.draft(None, (-(-image.width // factor), -(-image.height // factor)))
        factor = _too_large_by(image)
    turned = _to_srgb(image)
    out = np.empty((image.height // factor, image.width // factor, 3), np.uint8)
    rows = max(1, _STRIP_PIXELS // (image.width * factor)) * factor
    for top in range(0, len(out) * factor, rows):
        strip = turned(image.crop((0, top, out.shape[1] * factor, min(top + rows, len(out) * factor))))
        reduced = strip.reduce(factor) if factor > 1 else strip
        out[top // factor : top // factor + reduced.height] = np.asarray(reduced)
    turn = _UPRIGHT.get(orientation)
    return out if turn is None else np.ascontiguousarray(turn(out))


def _too_large_by(image: Image.Image) -> int:
    """Return by which whole number to divide a picture's sides; 1 if it is no larger than Zeichen works on."""
    pixels = image.width * image.height
    if pixels <= WHOLE_PIXELS:
        return 1
    factor = math.ceil(math.sqrt(pixels / _BROUGHT_DOWN_PIXELS))
    # A long strip is narrow: it keeps what width it must have.
    return max(1, min(factor, min(image.size) // _LEAST_SIDE))


def _to_srgb(image: Image.Image) -> Callable[[Image.Image], Image.Image]:
    """Return what turns a strip of an image into sRGB on white, as the image's own mode and profile ask for."""
    if image.mode.startswith("I") or image.mode == "F":
        most: Any = image.getextrema()[1]
        deep = image.mode.startswith("I;16") or (image.mode == "I" and most > 255)
        return partial(_grey, deep=deep)
    profile = image.info.get("icc_profile")
    if profile and image.mode in ("RGB", "CMYK", "L"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            change = ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), image.mode, "RGB")
            return partial(_by_profile, change=change)
        except (ImageCms.PyCMSError, OSError):
            pass  # A broken profile is common and harmless: the plain conversion below is used instead.
    if image.mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info:
        return partial(_on_white, transparency=image.info.get("transparency"))
    return lambda strip: strip.convert("RGB")


def _grey(strip: Image.Image, *, deep: bool) -> Image.Image:
    grey = np.asarray(strip, dtype=np.float32)
    values = np.clip(grey / 257.0 if deep else grey, 0, 255).round().astype(np.uint8)
    return Image.fromarray(values).convert("RGB")


def _by_profile(strip: Image.Image, *, change: ImageCms.ImageCmsTransform) -> Image.Image:
    return ImageCms.applyTransform(strip, change) or strip.convert("RGB")


def _on_white(strip: Image.Image, *, transparency: Any) -> Image.Image:
    if transparency is not None:
        strip.info["transparency"] = transparency
    figure = strip.convert("RGBA")
    return Image.alpha_composite(Image.new("RGBA", figure.size, "white"), figure).convert("RGB")


def write_png(
    rgb_or_rgba: Bytes8Array,
    *,
    dpi: float | None = None,
    srgb: bool = False,
    quick: bool = False,
    origin: Origin | None = None,
) -> bytes:
    """Return a PNG file; with a resolution (pHYs, rounded to whole px per metre) and an sRGB mark if wanted.

    quick: written several times as fast, and somewhat larger. origin: how the picture came about, kept as metadata.
    """
    extra = PngImagePlugin.PngInfo()
    if origin is not None:
        extra.add_itxt(_XMP_KEYWORD, record(origin))
    if srgb:
        extra.add(b"sRGB", b"\0")  # perceptual intent (PNG specification, section 11.3.2.5)
    out = io.BytesIO()
    options = {} if dpi is None else {"dpi": (dpi, dpi)}
    Image.fromarray(rgb_or_rgba).save(out, "PNG", pnginfo=extra, compress_level=1 if quick else 6, **options)
    return out.getvalue()


def write_jpeg(
    rgb: Bytes8Array, *, quality: int = 90, dpi: float = 300, origin: Origin | None = None
) -> bytes:
    """Return a JPEG file with full colour resolution; origin: how the picture came about, kept as metadata."""
    out = io.BytesIO()
    noted = {} if origin is None else {"xmp": record(origin).encode()}
    Image.fromarray(rgb).save(out, "JPEG", quality=quality, subsampling=0, dpi=(dpi, dpi), **noted)
    return out.getvalue()
