"""Print files: pixel size, resolution, transparency, placement."""

import io

import numpy as np
import pytest
from PIL import Image

from samples import circle, drawing, rectangle
from zeichen.core.errors import InvalidInputError
from zeichen.core.making.apparel import ApparelSettings, make_apparel

SMALL = ApparelSettings(resolution_dpi=72)


def opened(product) -> Image.Image:
    return Image.open(io.BytesIO(product.files[0].data))


def test_the_figure_lies_where_it_should():
    image = np.asarray(opened(make_apparel(drawing(rectangle(0, 0, 100, 50)), SMALL, width_mm=254)))
    rows, columns = np.nonzero(image[..., 3] > 127)
    px_per_mm = 72 / 25.4
    assert np.ptp(columns) + 1 == pytest.approx(254 * px_per_mm, abs=1.5)
    assert np.ptp(rows) + 1 == pytest.approx(127 * px_per_mm, abs=1.5)
    assert (columns.min() + columns.max()) / 2 == pytest.approx(image.shape[1] / 2, abs=1)
    assert rows.min() == pytest.approx(40 * px_per_mm, abs=1.5)


def test_everything_around_it_is_clear():
    image = np.asarray(opened(make_apparel(drawing(circle(100, 100, 80)), SMALL, width_mm=100)))
    assert image[0, 0, 3] == 0 and image[-1, -1, 3] == 0
    assert 0 < (image[..., 3] > 0).mean() < 0.2


def test_a_figure_larger_than_the_print_area_is_refused():
    with pytest.raises(InvalidInputError, match="larger than the 381 x 457 mm print area"):
        make_apparel(drawing(circle(100, 100, 80)), SMALL, width_mm=400)


def test_a_tall_figure_is_moved_up_rather_than_cut_off():
    product = make_apparel(drawing(rectangle(0, 0, 40, 100)), SMALL, width_mm=180)
    rows = np.nonzero(np.asarray(opened(product))[..., 3])[0]
    assert np.ptp(rows) + 1 == pytest.approx(450 * 72 / 25.4, abs=1.5)


@pytest.mark.parametrize("field", ["area_width_in", "area_height_in", "resolution_dpi"])
def test_impossible_areas_are_refused(field):
    with pytest.raises(InvalidInputError, match="must be"):
        ApparelSettings(**{field: 0})
