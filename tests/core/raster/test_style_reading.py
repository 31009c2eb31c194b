"""The measured hand: strokes of known width, corners of known radius, known colours."""

import cv2
import numpy as np
import pytest
from skimage.draw import polygon2mask

from zeichen.core.raster import Picture
from zeichen.core.raster.style_reading import line_weight_px, read_style

_FINER = 8


def coverage(*corners, size_px=320):
    """How much of each pixel a polygon covers, by its area in 8 x 8 parts (scikit-image's mask)."""
    fine = np.zeros((size_px * _FINER, size_px * _FINER), bool)
    for points in corners:
        fine |= polygon2mask(fine.shape, np.asarray(points)[:, ::-1] * _FINER - 0.5)
    return fine.reshape(size_px, _FINER, size_px, _FINER).mean(axis=(1, 3))


def bar(width_px, angle_deg, middle=(160.3, 159.7), length_px=220.0):
    along = np.array([np.cos(np.radians(angle_deg)), np.sin(np.radians(angle_deg))])
    across = np.array([-along[1], along[0]])
    a, b = along * length_px / 2, across * width_px / 2
    return np.array(middle) + np.array([-a - b, a - b, a + b, b - a])


@pytest.mark.parametrize("angle_deg", [0, 17, 45])
@pytest.mark.parametrize("width_px", [3.0, 4.5, 7.25, 20.5, 33.0])
@pytest.mark.parametrize("blur_px", [0.0, 1.0])
def test_strokes_of_known_width_within_a_quarter_of_a_pixel(width_px, angle_deg, blur_px):
    share = coverage(bar(width_px, angle_deg))
    if blur_px:
        share = cv2.GaussianBlur(share, (0, 0), blur_px)
    found = line_weight_px(share, widest_px=40)
    assert found.width_px == pytest.approx(width_px, abs=0.25)


def test_the_mean_weighs_length_and_areas_are_no_lines():
    share = coverage(bar(6, 0, (160, 60)), bar(12, 0, (160, 120)), bar(90, 0, (160, 240), 120))
    assert line_weight_px(share, widest_px=40).width_px == pytest.approx(9.0, abs=0.4)


def test_without_lines_there_is_no_line_weight():
    assert line_weight_px(coverage(bar(120, 0, length_px=130)), widest_px=40) is None
    assert line_weight_px(np.zeros((50, 50)), widest_px=10) is None


def picture(share):
    return Picture(np.repeat((255 * (1 - share)).round().astype(np.uint8)[..., None], 3, axis=2))


def test_light_lines_in_a_dark_figure_are_what_it_is_drawn_in():
    figure = coverage(bar(180, 0, length_px=260)) - coverage(bar(7, 30, length_px=150))
    found = read_style(picture(np.clip(figure, 0, 1)))
    assert not found.line_of_ink
    assert found.line_share * 320 == pytest.approx(7.0, abs=0.5)


def test_size_of_the_picture_does_not_matter():
    shape = [bar(8, angle) for angle in (0, 60, 120)]
    small = read_style(picture(coverage(*shape)))
    large = read_style(picture(coverage(*[2 * p for p in shape], size_px=640)))
    assert large.line_share == pytest.approx(small.line_share, rel=0.03)
    assert large.detail == pytest.approx(small.detail, rel=0.05)


@pytest.mark.parametrize("radius_px", [0, 12, 24])
def test_corners_of_known_radius(radius_px):
    canvas = np.zeros((4 * 512, 4 * 512), np.uint8)
    for x, y in ((60, 60), (300, 60), (60, 300), (300, 300)):
        low, high = np.array([x, y]) * 4, np.array([x + 150, y + 150]) * 4
        r = 4 * radius_px
        cv2.rectangle(canvas, (int(low[0] + r), int(low[1])), (int(high[0] - r), int(high[1])), 255, -1)
        cv2.rectangle(canvas, (int(low[0]), int(low[1] + r)), (int(high[0]), int(high[1] - r)), 255, -1)
        for cx in (low[0] + r, high[0] - r):
            for cy in (low[1] + r, high[1] - r):
                cv2.circle(canvas, (int(cx), int(cy)), max(r, 0), 255, -1)
    share = cv2.resize(canvas, (512, 512), interpolation=cv2.INTER_AREA) / 255.0
    found = read_style(picture(share)).corner_share * 512
    assert found == pytest.approx(radius_px, abs=0.25 * radius_px + 1e-9)


def test_colours_are_told_without_the_ground():
    rgb = np.full((300, 300, 3), 255, np.uint8)
    for k, colour in enumerate(((194, 64, 47), (84, 130, 74), (47, 100, 112))):
        rgb[40 + 75 * k : 100 + 75 * k, 60:240] = colour
    assert set(read_style(Picture(rgb)).palette) == {"#c2402f", "#54824a", "#2f6470"}


def test_an_empty_picture_has_no_style():
    found = read_style(Picture(np.full((80, 80, 3), 255, np.uint8)))
    assert (found.line_share, found.corner_share, found.detail, found.palette) == (None, None, 0.0, ())
