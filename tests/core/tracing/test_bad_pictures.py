"""Pictures no figure is in, or far too much: each method traces them sanely or refuses in a sentence."""

import io

import numpy as np
import pytest
from PIL import Image

from zeichen.core.errors import InvalidInputError, ZeichenError
from zeichen.core.formats.picture import read_picture
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.tracing.trace import trace


def grey(values: np.ndarray) -> Picture:
    return Picture(np.repeat(values.astype(np.uint8)[..., None], 3, axis=2))


def traced(picture: Picture, method: Method, **changes) -> Trace | str:
    """Return the trace, checked for sanity, or the sentence in which it was refused."""
    try:
        result = trace(picture, TraceSettings(method=method, **changes))
    except ZeichenError as error:
        message = str(error)
        assert message.endswith(".") and len(message) > 30
        return message
    assert result.drawing.shapes
    for path in result.drawing.paths:
        assert np.isfinite(path.segments).all()
        assert path.segments.min() > -20 and path.segments.max() < 20 + max(picture.rgb.shape[:2])
        assert path.closed or method is Method.CENTRELINE
    return result


METHODS = pytest.mark.parametrize("method", list(Method))


@METHODS
@pytest.mark.parametrize("tone", [0, 128, 255])
def test_a_blank_sheet_is_refused(method, tone):
    assert isinstance(traced(grey(np.full((64, 64), tone)), method), str)


@METHODS
def test_one_pixel_is_a_speck_and_said_to_be(method):
    sheet = np.full((64, 64), 255)
    sheet[30, 30] = 0
    assert isinstance(traced(grey(sheet), method), str)


@METHODS
def test_ten_thousand_specks_are_dropped_or_traced_but_never_hang(method):
    sheet = np.full((1000, 1000), 255)
    sheet[4::10, 4::10] = sheet[5::10, 4::10] = 0
    assert isinstance(traced(grey(sheet), method), str)
    kept = traced(grey(sheet), method, min_spot_px2=0)
    if method is Method.SOLID:
        assert isinstance(kept, Trace) and len(kept.drawing.shapes) == 10_000


@METHODS
def test_pure_noise_ends_in_bounded_time(method):
    noise = np.random.default_rng(7).integers(0, 256, (110, 110))
    traced(grey(noise), method)
    traced(grey(noise), method, min_spot_px2=0)


def test_noise_of_any_size_is_refused_as_texture_before_its_pieces_are_compared():
    noise = np.random.default_rng(7).integers(0, 256, (700, 700))
    assert "texture" in str(traced(grey(noise), Method.CENTRELINE))


@METHODS
def test_sixteen_bit_pictures_keep_their_figure(method):
    values = np.full((120, 120), 65_000, np.uint16)
    values[30:90, 40:80] = 900
    file = io.BytesIO()
    Image.fromarray(values).save(file, "PNG")
    result = traced(read_picture(file.getvalue()), method)
    if method is Method.CENTRELINE:
        return
    assert isinstance(result, Trace)
    assert sum(shape.area for shape in result.drawing.shapes) == pytest.approx(60 * 40, rel=1e-3)


@pytest.mark.parametrize("shape", [(1, 10_000), (10_000, 1), (7, 7)])
def test_a_picture_of_one_row_is_refused_before_anything_is_traced(shape):
    with pytest.raises(InvalidInputError, match="too small to hold a figure"):
        grey(np.zeros(shape))


@METHODS
def test_a_strip_eight_pixels_high_is_traced(method):
    strip = np.full((8, 10_000), 255)
    strip[2:6, 100:9_900] = 0
    result = traced(grey(strip), method)
    assert isinstance(result, Trace)
