"""Reading PNG, JPEG, WebP, BMP, TIFF and GIF into a `Picture`, and writing PNG and JPEG.

Pillow decodes. Orientation tags are obeyed, transparency is laid on white, embedded colour
profiles are turned into sRGB, 16-bit greys are scaled to 8 bits.
"""

import io
import struct
import warnings
import zlib

import numpy as np
from PIL import Image, ImageCms, ImageOps, PngImagePlugin, UnidentifiedImageError

from zeichen.core.errors import FormatError
from zeichen.core.raster.picture import Picture
from zeichen.core.values import Bytes8Array

READABLE = ("PNG", "JPEG", "WEBP", "BMP", "TIFF", "GIF")
LARGEST_PIXELS = 100_000_000
MM_PER_INCH = 25.4


def read_picture(data: bytes) -> Picture:
    """Return the picture in a file.

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
    if not data:
        raise FormatError("The file is empty (0 bytes). Choose the picture again.")
    # The size is checked by hand below, before any pixel is decoded, so Pillow's own alarm is turned off.
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = _open(data)
            _require_decent_size(image)
            image = ImageOps.exif_transpose(image)
            return Picture(_to_srgb(image))
        except (OSError, SyntaxError, ValueError, EOFError, struct.error, zlib.error, OverflowError) as error:
            if isinstance(error, FormatError) or type(error).__module__.startswith("zeichen"):
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


def _to_srgb(image: Image.Image) -> Bytes8Array:
    if image.mode.startswith("I") or image.mode == "F":
        grey = np.asarray(image, dtype=np.float64)
        deep = image.mode.startswith("I;16") or (image.mode == "I" and grey.max(initial=0) > 255)
        grey = np.clip(grey / 257.0 if deep else grey, 0, 255).round().astype(np.uint8)
        return np.repeat(grey[..., None], 3, axis=2)
    profile = image.info.get("icc_profile")
    if profile and image.mode in ("RGB", "CMYK", "L"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            turned = ImageCms.profileToProfile(
                image, source, ImageCms.createProfile("sRGB"), outputMode="RGB"
            )
            image = turned if turned is not None else image
        except (ImageCms.PyCMSError, OSError):
            pass  # A broken profile is common and harmless: the plain conversion below is used instead.
    if image.mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info:
        figure = image.convert("RGBA")
        ground = Image.new("RGBA", figure.size, "white")
        image = Image.alpha_composite(ground, figure)
    return np.array(image.convert("RGB"), dtype=np.uint8)


def write_png(
    rgb_or_rgba: Bytes8Array, *, dpi: float | None = None, srgb: bool = False, quick: bool = False
) -> bytes:
    """Return a PNG file; with a resolution (pHYs, rounded to whole px per metre) and an sRGB mark if wanted.

    quick: written several times as fast, and somewhat larger.
    """
    extra = PngImagePlugin.PngInfo()
    if srgb:
        extra.add(b"sRGB", b"\0")  # perceptual intent (PNG specification, section 11.3.2.5)
    out = io.BytesIO()
    options = {} if dpi is None else {"dpi": (dpi, dpi)}
    Image.fromarray(rgb_or_rgba).save(out, "PNG", pnginfo=extra, compress_level=1 if quick else 6, **options)
    return out.getvalue()


def write_jpeg(rgb: Bytes8Array, *, quality: int = 90, dpi: float = 300) -> bytes:
    """Return a JPEG file with full colour resolution."""
    out = io.BytesIO()
    Image.fromarray(rgb).save(out, "JPEG", quality=quality, subsampling=0, dpi=(dpi, dpi))
    return out.getvalue()
