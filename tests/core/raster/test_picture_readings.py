"""What is read from a picture, beside pictures made to be read."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image

from zeichen.core.raster.clean.ground import figure_mask, find_signature, read_ground
from zeichen.core.raster.clean.tone import block_noise
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import read_picture_readings


def sheet(colour=(250, 248, 244), size=500):
    return np.full((size, size, 3), colour, np.uint8)


def with_discs(*discs, ground=(250, 248, 244), size=500):
    """A sheet with discs (x, y, radius, colour), drawn at four times the size."""
    big = np.full((size * 4, size * 4, 3), ground, np.uint8)
    for x, y, radius, colour in discs:
        cv2.circle(big, (x * 4, y * 4), radius * 4, colour, -1)
    return Picture(cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA))


INK, RED, GREEN, BLUE = (25, 25, 28), (190, 60, 50), (60, 130, 70), (50, 90, 170)


@pytest.mark.parametrize("colours", [[INK], [INK, RED], [INK, RED, GREEN], [INK, RED, GREEN, BLUE]])
def test_colours_are_counted_with_the_ground(colours):
    places = [(130, 130), (370, 130), (130, 370), (370, 370)]
    picture = with_discs(*((x, y, 80, c) for (x, y), c in zip(places, colours, strict=False)))
    assert read_picture_readings(picture).colours == len(colours) + 1


def test_pieces_and_holes_have_their_areas():
    picture = with_discs((150, 250, 90, INK), (380, 250, 60, INK), (150, 250, 20, (250, 248, 244)))
    seen = read_picture_readings(picture)
    assert sorted(seen.pieces.areas_px2) == pytest.approx([np.pi * 60**2, np.pi * (90**2 - 20**2)], rel=0.01)
    assert sorted(seen.pieces.heights_px) == pytest.approx([120, 180], abs=2)
    assert seen.figure_width_px == pytest.approx(380, abs=2)
    assert seen.figure_height_px == pytest.approx(180, abs=2)
    assert seen.figure[seen.figure_box].sum() == seen.figure.sum()


def test_a_figure_of_several_colours_is_whole_and_pale_ones_belong_to_it():
    pale = (236, 205, 170)
    picture = with_discs(
        (170, 250, 90, pale), (330, 250, 90, INK), (250, 130, 60, RED), (250, 370, 60, GREEN)
    )
    seen = read_picture_readings(picture)
    assert seen.figure[250, 170] and seen.figure[250, 330] and not seen.figure[20, 20]
    assert len(seen.pieces.areas_px2) == 1


@pytest.mark.parametrize(
    ("ground", "ink", "dark_on_light"),
    [((250, 250, 250), INK, True), ((30, 30, 32), (240, 240, 235), False), ((180, 150, 110), INK, True)],
)
def test_which_is_ground_and_which_is_figure(ground, ink, dark_on_light):
    seen = read_picture_readings(with_discs((250, 250, 120, ink), ground=ground))
    assert seen.dark_on_light is dark_on_light and seen.ground == "plain"
    assert seen.figure.sum() == pytest.approx(np.pi * 120**2, rel=0.01)
    assert seen.ground_share == pytest.approx(1 - np.pi * 120**2 / 250_000, abs=0.01)


def test_a_large_dark_figure_on_a_light_ground_is_not_taken_for_the_ground():
    seen = read_picture_readings(with_discs((250, 250, 240, INK)))
    assert seen.dark_on_light and seen.figure.mean() > 0.6


def test_grounds_are_plain_uneven_or_none():
    plain = sheet()
    shaded = (plain * np.linspace(1.0, 0.85, 500)[None, :, None]).astype(np.uint8)
    rng = np.random.default_rng(3)
    busy = cv2.resize(
        rng.integers(0, 256, (125, 125, 3), dtype=np.uint8), (500, 500), interpolation=cv2.INTER_NEAREST
    )
    assert read_ground(Picture(plain)).rim_share == 1.0
    marked = [cv2.circle(each.copy(), (250, 250), 90, INK, -1) for each in (plain, shaded, busy)]
    kinds = [read_picture_readings(Picture(each)).ground for each in marked]
    assert kinds == ["plain", "uneven", "none"]


@pytest.mark.parametrize(("x", "touches"), [(250, False), (90, True), (102, False), (410, True)])
def test_whether_the_figure_touches_the_border(x, touches):
    assert read_picture_readings(with_discs((x, 250, 100, INK))).touches_border is touches


def test_compression_noise_grows_as_quality_falls():
    picture = with_discs((250, 250, 120, INK), (150, 120, 40, INK)).rgb
    noise = []
    for quality in (95, 70, 40, 15):
        buffer = io.BytesIO()
        Image.fromarray(picture).save(buffer, "JPEG", quality=quality)
        noise.append(block_noise(np.array(Image.open(buffer).convert("L"))))
    assert block_noise(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)) < 0.2
    assert noise == sorted(noise) and noise[-1] > 3 * noise[0]


def test_edges_are_counted_by_their_length():
    small, large = (read_picture_readings(with_discs((250, 250, r, INK))).detail_per_px for r in (60, 180))
    assert large / small == pytest.approx(3.0, rel=0.05)
    assert small == pytest.approx(2 * np.pi * 60 / 250_000, rel=0.35)


def scribble(mask, x, y):
    t = np.linspace(0, 1, 80)
    line = np.column_stack([x + 60 * t, y + 6 * np.sin(26 * t)]).round().astype(np.int32)
    return cv2.polylines(mask.astype(np.uint8), [line], False, 1, 2) > 0


def test_a_signature_is_a_small_wide_mark_in_a_lower_corner():
    figure = figure_mask(with_discs((250, 220, 150, INK)))
    assert find_signature(figure) is None
    for x in (30, 400):
        box = find_signature(scribble(figure, x, 470))
        assert box is not None
        x_min, y_min, x_max, y_max = (share * 500 for share in box)
        assert x_min <= x and x_max >= x + 60 and y_min <= 464 and y_max >= 476
        assert x_max - x_min < 85 and y_max - y_min < 35
    # Above, in the middle, or as large as a part of the figure it is none.
    assert find_signature(scribble(figure, 30, 40)) is None
    assert find_signature(scribble(figure, 220, 470)) is None
    assert find_signature(figure | figure_mask(with_discs((420, 440, 40, INK)))) is None


def test_an_empty_sheet_has_no_figure():
    seen = read_picture_readings(Picture(sheet()))
    assert not seen.figure.any() and not len(seen.pieces.areas_px2) and seen.contrast < 2
    assert seen.figure_width_px == seen.figure_height_px == 0
