"""A drawing is between 1 µm and 100 m across, and holds no number beyond."""

import numpy as np
import pytest

from samples import drawing, rectangle
from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.extent import (
    require_extent,
    require_file_size,
    require_numbers,
    require_reach,
    require_shape_sizes,
)


@pytest.mark.parametrize("side_mm", [0.00101, 1.0, 99_900.0])
def test_what_a_machine_could_make_passes(side_mm):
    require_extent(drawing(rectangle(0, 0, 10, 10)), mm_per_unit=side_mm / 10)


@pytest.mark.parametrize("side_mm", [0.00099, 100_100.0])
def test_what_none_could_is_refused_with_its_size_and_the_bounds(side_mm):
    with pytest.raises(InvalidInputError, match=r"mm across\. A drawing is at most 100 m and at least 1 µm"):
        require_extent(drawing(rectangle(0, 0, 10, 10)), mm_per_unit=side_mm / 10)


def test_a_drawing_far_from_its_page_is_refused_though_it_is_small():
    far = drawing(rectangle(1e6, 0, 10, 10))
    require_extent(far, mm_per_unit=1)
    with pytest.raises(InvalidInputError, match="reach 1e\\+06 mm from its corner"):
        require_reach(far, mm_per_unit=1)
    with pytest.raises(FormatError, match="Scale it in the file first"):
        require_file_size(far, mm_per_unit=1)


def test_a_shape_that_writing_would_lose_is_named():
    tiny = drawing(rectangle(0, 0, 10, 10), rectangle(5, 5, 1e-4, 1e-4))
    with pytest.raises(InvalidInputError, match=r"s2 would be 0\.0001 mm across"):
        require_shape_sizes(tiny.shapes[1:], mm_per_unit=1)


@pytest.mark.parametrize("number", [np.nan, np.inf, -np.inf, 1e10, -1e308])
def test_no_path_line_or_change_holds_a_number_beyond(number):
    segments = np.zeros((1, 4, 2))
    segments[0, 1, 0] = number
    with pytest.raises(InvalidInputError, match="coordinate"):
        Path(segments)
    with pytest.raises(InvalidInputError, match="Line width"):
        Shape("a", (), stroke_width=abs(number))
    with pytest.raises(InvalidInputError, match="no drawing can hold"):
        require_numbers([1, (2.0, ["text", number])])
