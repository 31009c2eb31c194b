"""Light that falls off over the sheet, divided out again."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.raster import Picture
from zeichen.core.raster.even_light import even_light
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def sheet(light) -> np.ndarray:
    """Three discs of ink on paper, seen under a light given as a function of x and y in -1..1."""
    canvas = np.full((1200, 1200), 235, np.uint8)
    for x, y in ((300, 300), (900, 400), (500, 900)):
        cv2.circle(canvas, (x, y), 160, 40, -1)
    ink = cv2.resize(canvas, (300, 300), interpolation=cv2.INTER_AREA).astype(float)
    y, x = np.mgrid[-1:1:300j, -1:1:300j]
    return np.clip(ink * light(x, y), 0, 255).astype(np.uint8)


@examples(12)
@given(st.floats(0, 2 * np.pi), st.floats(0.1, 0.32))
def test_paper_and_ink_get_one_grey_each(angle, fall):
    grey = even_light(sheet(lambda x, y: 1 - fall * (1 + np.cos(angle) * x + np.sin(angle) * y)))
    canvas = sheet(lambda x, y: np.ones_like(x))
    assert np.ptp(np.percentile(grey[canvas > 230].astype(float), [3, 97])) < 12
    assert np.ptp(np.percentile(grey[canvas < 45].astype(float), [3, 97])) < 8


def test_a_figure_half_in_the_shade_is_traced_whole():
    """With one level for the sheet the shaded paper would count as ink."""
    shaded = sheet(lambda x, y: 1 - 0.85 * np.clip((x + 1) / 2, 0, 1) ** 1.5)
    picture = Picture(np.repeat(shaded[..., None], 3, axis=2))
    even = trace(picture, TraceSettings(even_light=True)).drawing
    assert len(even.shapes) == 3
    true = np.pi * 40**2
    for shape in even.shapes:
        assert shape_area(shape, tolerance=0.01).area == pytest.approx(true, rel=0.02)
    plain = trace(picture, TraceSettings()).drawing
    assert max(abs(shape.area - true) for shape in plain.shapes) > true


def test_an_evenly_lit_sheet_stays_as_it_is():
    grey = sheet(lambda x, y: np.ones_like(x))
    even = even_light(grey).astype(float)
    steady = even[grey > 230]
    assert steady.std() < 1 and abs(even[grey < 45].mean() - 40 * 245 / 235) < 2


def test_a_blank_sheet_is_refused():
    with pytest.raises(InvalidInputError, match="all white"):
        even_light(np.full((50, 50), 250, np.uint8))
