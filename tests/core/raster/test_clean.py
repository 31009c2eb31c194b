"""Clean-up steps: each does what it says, and the picture it began with stays."""

import json
import math

import cv2
import numpy as np
import pytest
import skimage.filters
import skimage.morphology
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean import STEP_KINDS, at_scale, cleaned, steps_from_data, steps_to_data
from zeichen.core.raster.clean.frame import find_page
from zeichen.core.raster.clean.steps import (
    BlackAndWhite,
    Brush,
    Crop,
    CropToSubject,
    Despeckle,
    Enlarge,
    EvenLight,
    Flip,
    Invert,
    Levels,
    PageFlat,
    RemoveGround,
    SmoothNoise,
    Turn,
    WipeBox,
)
from zeichen.core.raster.levels import otsu_level
from zeichen.core.raster.picture import Picture


def disc(*, size=200, radius=50.0, ink=30, paper=235, middle=(100.0, 100.0)):
    y, x = np.mgrid[:size, :size] + 0.5
    share = np.clip(radius + 0.5 - np.hypot(x - middle[0], y - middle[1]), 0, 1)
    grey = np.round(paper + share * (ink - paper)).astype(np.uint8)
    return Picture(np.repeat(grey[:, :, None], 3, axis=2))


def dark_area(picture):
    grey = picture.grey().astype(float)
    return float((235 - grey).sum() / (235 - 30))


def test_a_chain_skips_what_is_off_and_leaves_the_picture_alone():
    picture = disc()
    before = picture.rgb.copy()
    assert (cleaned(picture, [Invert(on=False)]).rgb == before).all()
    assert (cleaned(picture, [Invert(), Invert()]).rgb == before).all()
    assert (picture.rgb == before).all()


def test_every_kind_of_step_survives_json():
    steps = [
        kind() if name != "brush" else Brush(path=((0.1, 0.2), (0.5, 0.5)))
        for name, kind in STEP_KINDS.items()
    ]
    assert list(steps_from_data(json.loads(json.dumps(steps_to_data(steps))))) == steps


@pytest.mark.parametrize(
    "data",
    [
        "invert", [{"kind": "magic"}], [{}], [{"kind": "turn", "angle": 3}],
        [{"kind": "levels", "black": 200, "white": 100}], [{"kind": "turn", "angle_deg": math.nan}],
        [{"kind": "turn", "angle_deg": "much"}], [{"kind": "enlarge", "factor": 9}], [{"kind": "brush", "path": []}],
        [{"kind": "brush", "path": [[1]]}], [{"kind": "crop", "x_min": 0.6, "x_max": 0.5}],
    ],
)  # fmt: skip
def test_wrong_steps_are_refused_in_words(data):
    with pytest.raises(InvalidInputError, match=r"[Ss]tep|Black|enlarged|brush|box|Angle"):
        steps_from_data(data)


def test_a_step_that_cannot_be_done_is_named():
    blank = Picture(np.full((50, 50, 3), 255, np.uint8))
    with pytest.raises(InvalidInputError, match=r"Step 2 \(crop to subject\)"):
        cleaned(blank, [Flip(), CropToSubject()])


def test_crop_to_subject_leaves_an_even_margin():
    out = cleaned(disc(middle=(70.0, 120.0)), [CropToSubject(margin=0.1)])
    dark = out.grey() < 130
    rows, columns = np.nonzero(dark.any(axis=1))[0], np.nonzero(dark.any(axis=0))[0]
    sides = (rows[0], out.height_px - 1 - rows[-1], columns[0], out.width_px - 1 - columns[-1])
    assert max(sides) - min(sides) <= 1 and min(sides) == pytest.approx(10, abs=1)


def test_crop_to_subject_adds_ground_where_the_figure_is_cut_off():
    out = cleaned(disc(middle=(40.0, 100.0)), [CropToSubject(margin=0.2)])
    assert (out.grey()[:, :5] == 235).all()


def test_quarter_turns_are_exact_and_others_keep_the_figure_whole():
    picture = disc(middle=(60.0, 100.0))
    assert (cleaned(picture, [Turn(angle_deg=90)] * 4).rgb == picture.rgb).all()
    assert (cleaned(picture, [Turn(angle_deg=90)]).rgb == np.rot90(picture.rgb, -1)).all()
    turned = cleaned(picture, [Turn(angle_deg=33)])
    assert dark_area(turned) == pytest.approx(dark_area(picture), rel=0.005)


def test_a_small_turn_is_clockwise():
    bar = np.full((100, 100, 3), 255, np.uint8)
    bar[48:52, 10:90] = 0
    out = cleaned(Picture(bar), [Turn(angle_deg=20)]).grey()
    ys, xs = np.nonzero(out < 128)
    assert np.polyfit(xs, ys, 1)[0] == pytest.approx(math.tan(math.radians(20)), rel=0.03)


def test_black_and_white_keeps_the_area_and_soft_edges():
    out = cleaned(disc(ink=90, paper=200), [BlackAndWhite()])
    assert set(np.unique(out.grey())) >= {0, 255} and len(np.unique(out.grey())) > 3
    assert (255 - out.grey().astype(float)).sum() / 255 == pytest.approx(math.pi * 50**2, rel=0.005)


def test_the_level_found_is_the_reference_librarys():
    rng = np.random.default_rng(5)
    grey = np.clip(
        np.where(rng.random((80, 80)) < 0.3, 60, 190) + rng.normal(0, 12, (80, 80)), 0, 255
    ).astype(np.uint8)
    assert otsu_level(grey) == skimage.filters.threshold_otsu(grey)


def test_levels_stretch_linearly():
    ramp = Picture(np.repeat(np.tile(np.arange(256, dtype=np.uint8), (8, 1))[:, :, None], 3, axis=2))
    out = cleaned(ramp, [Levels(black=50, white=200)]).grey()[0].astype(int)
    assert (out[:51] == 0).all() and (out[200:] == 255).all()
    assert np.abs(out[50:201] - (np.arange(50, 201) - 50) * 255 / 150).max() <= 0.51


def test_removed_ground_is_white_with_no_rim_of_its_colour_left():
    tinted = disc(paper=200)
    out = cleaned(tinted, [RemoveGround(tolerance=20)])
    grey = out.grey()
    assert (grey[0] == 255).all() and grey[100, 100] == 30
    assert (255 - grey.astype(float)).sum() / (255 - 30) == pytest.approx(math.pi * 50**2, rel=0.02)
    # Outside the soft edge nothing of the old ground is left.
    y, x = np.mgrid[:200, :200] + 0.5
    assert (grey[np.hypot(x - 100, y - 100) > 52.5] == 255).all()


def test_ground_seen_through_the_figure_goes_or_stays():
    ring = disc(paper=200).rgb.copy()
    cv2.circle(ring, (100, 100), 20, (200, 200, 200), -1)
    out = cleaned(Picture(ring), [RemoveGround(tolerance=20, holes=True)])
    kept = cleaned(Picture(ring), [RemoveGround(tolerance=20, holes=False)])
    assert out.grey()[100, 100] == 255 and kept.grey()[100, 100] == 200


def test_despeckling_takes_specks_and_pin_holes_and_nothing_else():
    marked = disc().rgb.copy()
    marked[20:23, 20:23] = 30
    marked[100:103, 100:103] = 235
    out = cleaned(Picture(marked), [Despeckle(area_px2=20)])
    assert np.abs(out.grey().astype(int) - disc().grey().astype(int)).max() <= 12
    mask = marked[:, :, 0] < 130
    reference = skimage.morphology.remove_small_objects(mask, max_size=19)
    assert ((out.grey() < 130) | mask)[reference].all() and not (out.grey() < 130)[20:23, 20:23].any()


def test_noise_is_smoothed_and_corners_stay():
    square = np.full((120, 120, 3), 225, np.uint8)
    square[30:90, 30:90] = 30
    rng = np.random.default_rng(2)
    noisy = np.clip(square + rng.normal(0, 6, square.shape), 0, 255).astype(np.uint8)
    out = cleaned(Picture(noisy), [SmoothNoise(strength=18)]).rgb.astype(float)
    assert np.abs(out - square).mean() < 0.5 * np.abs(noisy.astype(float) - square).mean()
    assert out[31, 31].max() < 60 and out[28, 28].min() > 195


def test_enlarging_multiplies_the_area_by_the_square():
    picture = disc(size=64, radius=20, middle=(32.0, 32.0))
    for factor in (2, 4):
        out = cleaned(picture, [Enlarge(factor=factor)])
        assert (out.width_px, out.height_px) == (64 * factor, 64 * factor)
        assert dark_area(out) == pytest.approx(factor**2 * math.pi * 20**2, rel=0.02)


def test_a_photographed_page_is_laid_flat_by_a_known_homography():
    page = np.full((400, 300, 3), 245, np.uint8)
    cv2.circle(page, (150, 200), 60, (20, 20, 20), -1)
    corners = np.array([[90.0, 60.0], [410.0, 85.0], [440.0, 520.0], [60.0, 500.0]], dtype=np.float32)
    flat = np.array([[0, 0], [300, 0], [300, 400], [0, 400]], dtype=np.float32)
    matrix = cv2.getPerspectiveTransform(flat, corners)
    photo = cv2.warpPerspective(page, matrix, (520, 600), borderValue=(70, 60, 50), flags=cv2.INTER_AREA)
    found = find_page(Picture(photo)) * (520, 600)
    assert np.abs(found - corners).max() < 2.0
    out = cleaned(Picture(photo), [PageFlat()])
    scale = np.array([out.width_px / 300, out.height_px / 400])
    ys, xs = np.nonzero(out.grey() < 128)
    assert np.abs(np.array([xs.mean(), ys.mean()]) / scale - (150, 200)).max() < 1.5
    # A circle again: as wide as high once the sides' own scales are taken out.
    assert np.ptp(xs) / scale[0] == pytest.approx(np.ptp(ys) / scale[1], rel=0.03)


def test_no_page_no_guess():
    with pytest.raises(InvalidInputError, match="No page was found"):
        cleaned(disc(), [Crop(x_max=0.4, y_max=0.4), PageFlat()])


def test_rubbing_out_and_bringing_back():
    picture = disc()
    stroke = ((0.5, 0.2), (0.5, 0.8))
    rubbed = cleaned(picture, [Brush(path=stroke, width=0.1)])
    assert rubbed.grey()[100, 100] == 235
    back = cleaned(picture, [Brush(path=stroke, width=0.1), Brush(path=stroke, width=0.14, restore=True)])
    assert np.abs(back.grey().astype(int) - picture.grey().astype(int)).max() <= 2


def test_a_wiped_box_has_the_grounds_colour():
    out = cleaned(disc(), [WipeBox(x_min=0.4, y_min=0.4, x_max=0.6, y_max=0.6)])
    assert (out.grey()[80:120, 80:120] == 235).all() and out.grey()[60, 100] == 30


def test_even_light_leaves_paper_white():
    shade = np.linspace(1.0, 0.6, 200)[None, :, None]
    out = cleaned(Picture((disc().rgb * shade).astype(np.uint8)), [EvenLight()])
    grey = out.grey()
    assert abs(int(grey[5, 5]) - int(grey[5, 194])) <= 6


@examples(10)
@given(st.integers(0, 10_000), st.sampled_from(["flip", "upside-down", "invert", "half-turns"]))
def test_steps_that_undo_themselves(seed, kind):
    rng = np.random.default_rng(seed)
    picture = Picture(rng.integers(0, 256, (rng.integers(8, 40), rng.integers(8, 40), 3), dtype=np.uint8))
    step = {
        "flip": Flip(),
        "upside-down": Flip(upside_down=True),
        "invert": Invert(),
        "half-turns": Turn(angle_deg=180),
    }[kind]
    once = cleaned(picture, [step])
    assert (cleaned(once, [step]).rgb == picture.rgb).all()
    assert sorted(once.rgb.ravel()) == sorted(picture.rgb.ravel()) or kind == "invert"


@examples(10)
@given(st.floats(25, 60), st.floats(-20, 20), st.floats(-20, 20))
def test_cropping_to_the_subject_forgets_where_it_lay(radius, dx, dy):
    here = cleaned(disc(radius=radius), [CropToSubject(margin=0.1)])
    there = cleaned(
        disc(radius=radius, middle=(100 + round(dx), 100 + round(dy))), [CropToSubject(margin=0.1)]
    )
    assert (here.rgb == there.rgb).all()


@pytest.mark.parametrize("steps", [[RemoveGround()], [Despeckle()], [CropToSubject()]])
def test_a_step_done_twice_changes_nothing_more(steps):
    once = cleaned(disc(), steps)
    twice = cleaned(once, steps)
    assert np.abs(once.rgb.astype(int) - twice.rgb.astype(int)).max() <= 1


def test_a_chain_in_two_halves_is_the_same_chain(snail):
    chain = steps_from_data(
        [
            {"kind": "invert"},
            {"kind": "brush", "path": [[0.2, 0.5], [0.8, 0.5]], "width": 0.1},
            {"kind": "brush", "path": [[0.5, 0.4], [0.5, 0.6]], "width": 0.05, "restore": True},
        ]
    )
    whole = cleaned(snail, chain)
    for at in (1, 2):
        half = cleaned(cleaned(snail, chain[:at]), chain[at:], original=snail, number=at + 1)
        assert np.array_equal(half.rgb, whole.rgb)


def test_a_smaller_copy_gets_the_same_look_from_the_same_steps():
    large = np.full((800, 800, 3), 255, np.uint8)
    large[200:600, 200:600] = 20
    large[100:108, 100:108] = 20
    chain = steps_from_data([{"kind": "despeckle", "area_px2": 100.0}, {"kind": "enlarge", "factor": 2}])
    small = np.ascontiguousarray(large[::4, ::4])
    gone = cleaned(Picture(small), at_scale(chain, 0.25))
    assert gone.rgb.shape == small.shape, "a look at it is not enlarged"
    assert gone.rgb[25:27, 25:27].min() == 255 and gone.rgb[100, 100].max() == 20
    assert at_scale(chain, 1.0) == chain
