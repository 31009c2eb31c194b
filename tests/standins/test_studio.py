"""The stand-in studio: the same order gives the same picture, seeds differ, rules and style are obeyed."""

import itertools

import numpy as np
import pytest
from scipy import ndimage

from samples import thinned
from zeichen.core.briefing import (
    RULES,
    Detail,
    HouseStyle,
    Look,
    Manner,
    PictureFormat,
    Reach,
    SketchOrder,
    Variation,
    compose_wording,
    manner_after,
)
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster import edge_level
from zeichen.core.raster.colours import difference, find_palette, to_lab
from zeichen.core.raster.style_reading import read_style
from zeichen.standins.studio import CHANCES, SUBJECTS, Fault, Studio, known_subject

# Creatures and things that everybody draws already; the studio keeps clear of them.
NOT_OURS = {
    "cat", "dog", "lion", "unicorn", "fox", "pig", "goat", "chicken", "cow", "bee", "sheep", "horse", "ship", "whale",
    "lighthouse", "pumpkin", "skull", "bat", "bonsai", "astronaut", "car",
}  # fmt: skip
SET = ("snail", "beetroot", "watering can", "teapot", "hedgehog", "bean pod", "wheelbarrow", "dragonfly")


def drawn(subject="snail", look=Look.SILHOUETTE, seed=1, faults=0.0, size_px=256, **order):
    return Studio(faults=faults).draw(SketchOrder(subject, look, seed, size_px=size_px, **order))


def mask(picture):
    grey = picture.grey()
    return grey <= edge_level(grey)


def test_there_are_many_subjects_and_none_of_the_worn_out_ones():
    assert len(SUBJECTS) >= 24
    assert not NOT_OURS & {word for name in SUBJECTS for word in (name, *name.split())}


# Every subject in two looks.
EACH = [(s, list(Look)[(k + step) % len(Look)]) for k, s in enumerate(SUBJECTS) for step in (0, 2)]


@pytest.mark.parametrize(("subject", "look"), thinned(EACH, 3))
def test_a_figure_stands_in_an_empty_margin(subject, look):
    dark = drawn(subject, look, 5).grey() < 245
    assert 0.02 < dark.mean() < 0.55
    edge = np.concatenate([dark[:8].ravel(), dark[-8:].ravel(), dark[:, :8].ravel(), dark[:, -8:].ravel()])
    assert not edge.any()
    rows, columns = np.nonzero(dark)
    middle = (columns.min() + columns.max()) / 2, (rows.min() + rows.max()) / 2
    assert abs(middle[0] - 128) < 12 and abs(middle[1] - 128) < 12


def test_the_same_order_gives_the_same_picture_and_another_seed_another():
    assert np.array_equal(drawn(seed=9, faults=1).rgb, drawn(seed=9, faults=1).rgb)
    masks = [drawn(seed=seed).grey() < 128 for seed in range(5)]
    for a, b in itertools.combinations(masks, 2):
        assert (a != b).mean() > 0.02


def test_looks_are_looks():
    made = {look: drawn(look=look).rgb.astype(int) for look in Look}
    dark = {look: float((rgb.mean(axis=2) < 80).mean()) for look, rgb in made.items()}
    assert dark[Look.SILHOUETTE] > 2 * dark[Look.LINE] and dark[Look.STENCIL] > 1.5 * dark[Look.INK]
    spread = {look: float((np.ptp(rgb, axis=2) > 60).mean()) for look, rgb in made.items()}
    assert spread[Look.FLAT] > 0.05
    assert all(spread[look] < 0.001 for look in Look if look is not Look.FLAT)


def test_the_strokes_of_a_brush_swell_and_those_of_a_pen_do_not():
    def spread(look):
        inside = ndimage.distance_transform_edt(mask(drawn("apple", look, 3, size_px=512)))
        ridge = inside[(inside == ndimage.maximum_filter(inside, 5)) & (inside > 1.5)]
        return np.percentile(ridge, 85) / np.percentile(ridge, 15)

    assert spread(Look.INK) > 1.4 > 1.25 > spread(Look.LINE)


@pytest.mark.parametrize("subject", ["butterfly", "strawberry", "spider web", "jam jar", "sun", "teapot"])
def test_a_stencil_has_no_island_that_would_fall_out(subject):
    light = ~mask(drawn(subject, Look.STENCIL, 4, size_px=700))
    areas = np.bincount(ndimage.label(light)[0].ravel())[1:]
    assert (areas > 12).sum() == 1


@pytest.mark.parametrize("subject", ["owl", "frog", "snail", "kettle", "acorn"])
def test_all_in_one_piece_if_the_wording_says_so(subject):
    def pieces(rules):
        words = compose_wording(subject, rule_keys=rules)
        areas = np.bincount(
            ndimage.label(mask(drawn(subject, seed=4, size_px=700, wording=words)))[0].ravel()
        )[1:]
        return int((areas > 30).sum())

    every = tuple(rule.key for rule in RULES)
    assert pieces(every) == 1 < pieces(tuple(key for key in every if key != "one-piece"))


def test_all_looks_of_a_seed_show_one_pose():
    boxes = []
    for look in Look:
        rows, columns = np.nonzero(drawn("teapot", look, 3).grey() < 200)
        boxes.append((rows.min(), rows.max(), columns.min(), columns.max()))
    assert np.ptp(np.array(boxes), axis=0).max() <= 8


@pytest.mark.parametrize("subject", ["snail", "watering can", "kettle", "robin", "wellington boot"])
def test_a_figure_faces_where_the_pose_says(subject):
    left, right = (mask(drawn(subject, seed=6, pose=f"facing {side}")) for side in ("left", "right"))
    assert (left != right).mean() > 0.05
    mirrored = right[:, ::-1]
    assert min((left != np.roll(mirrored, k, axis=1)).mean() for k in (-1, 0, 1)) < 0.02


def test_near_variations_are_near_and_far_ones_far():
    def away(reach, seed):
        steps = (Variation(reach, seed),)
        return (start != (drawn("teapot", seed=5, variations=steps).grey() < 128)).mean()

    start = drawn("teapot", seed=5).grey() < 128
    near, far = ([away(reach, seed) for seed in range(8)] for reach in (Reach.NEAR, Reach.FAR))
    assert 0 < np.median(near) < 0.6 * np.median(far)
    twice = (Variation(Reach.NEAR, 1), Variation(Reach.NEAR, 2))
    assert not np.array_equal(drawn(variations=twice).rgb, drawn(variations=twice[:1]).rgb)


@pytest.mark.parametrize("picture_format", list(PictureFormat))
def test_the_format_is_the_pictures_shape(picture_format):
    picture = drawn("dragonfly", format=picture_format, size_px=400)
    assert (picture.width_px, picture.height_px) == picture_format.size_px(400)


def test_more_detail_is_more_drawn():
    plain, rich = (
        np.mean(
            [
                read_style(drawn(s, Look.LINE, 2, size_px=512, manner=Manner(detail=d))).detail
                for s in list(SUBJECTS)[::6]
            ]
        )
        for d in (Detail.PLAIN, Detail.RICH)
    )
    assert rich > 1.05 * plain


def test_a_palette_and_a_number_of_colours_are_kept_to():
    palette = ("#24405c", "#d8873a", "#e9dcc0")
    picture = drawn("toadstool", Look.FLAT, 3, size_px=512, manner=Manner(palette=palette))
    found = to_lab(find_palette(picture.rgb).rgb)
    wanted = to_lab(
        np.array([[int(c[k : k + 2], 16) for k in (1, 3, 5)] for c in (*palette, "#ffffff")], float)
    )
    assert difference(found[:, None], wanted[None]).min(axis=1).max() < 3.0
    two = drawn("basket", Look.FLAT, 3, size_px=512, manner=Manner(colours=2))
    assert len(find_palette(two.rgb).rgb) == 3, "two and the ground"


@pytest.mark.parametrize(
    ("look", "share"), thinned([(Look.LINE, 0.010), (Look.SILHOUETTE, 0.014), (Look.INK, 0.022)], 2)
)
def test_a_set_drawn_after_a_reference_has_its_line_weight(look, share):
    """Within 15 % for each of eight motifs; the reference is a picture, only measured."""
    reference = read_style(drawn("owl", look, 5, faults=1, size_px=576, manner=Manner(line_share=share)))
    hand = manner_after(reference)
    found = [read_style(drawn(s, look, 7, faults=1, size_px=576, manner=hand)).line_share for s in SET]
    assert np.mean(found) == pytest.approx(reference.line_share, rel=0.15)
    off = np.abs(np.array(found) / reference.line_share - 1)
    assert (off < 0.15).sum() >= 7


def test_a_style_in_mm_is_a_share_of_the_picture():
    hand = HouseStyle(Look.LINE, line_mm=2.0).manner(width_mm=80)
    assert hand.line_share == pytest.approx(2 / 80 * 0.84)
    assert read_style(drawn("apple", Look.LINE, 2, size_px=1024, manner=hand)).line_share == pytest.approx(
        hand.line_share, rel=0.08
    )


def test_pictures_are_soft_and_noisy_as_generated_ones_are():
    grey = drawn(faults=1, size_px=512).grey()
    assert ((grey > 60) & (grey < 200)).mean() > 0.002
    assert 240 <= grey[:40, :40].mean() <= 255
    assert drawn(faults=0, size_px=512).grey()[:40, :40].min() == 255


DRAWN = 70


def test_faults_happen_as_often_as_stated_and_a_knob_scales_them():
    wording = compose_wording("snail")

    def counted(knob, words):
        studio = Studio(faults=knob)
        seen = [
            studio.draw_openly(SketchOrder("snail", Look.LINE, s, words, size_px=64)).faults
            for s in range(DRAWN)
        ]
        return {fault: sum(fault in each for each in seen) / len(seen) for fault in Fault}

    assert not any(counted(0, wording).values())
    usual, many = counted(1, wording), counted(3, wording)
    for fault, chance in CHANCES.items():
        # Three standard deviations of a share of so many.
        slack = 3 * np.sqrt(max(chance.usual, 0.02) / DRAWN)
        assert abs(usual[fault] - chance.usual) < slack, fault
        assert many[fault] >= usual[fault]
    loose = counted(1, "A snail.")
    assert loose[Fault.TWO] > usual[Fault.TWO] and loose[Fault.CUT_OFF] > usual[Fault.CUT_OFF]
    assert loose[Fault.IN_PIECES] == 1.0


def test_what_a_picture_has_is_what_it_says_it_has():
    studio = Studio(faults=3)
    for seed in range(16):
        made = studio.draw_openly(SketchOrder("owl", Look.SILHOUETTE, seed, size_px=256))
        grey = made.picture.grey()
        frame = np.concatenate([grey[0], grey[-1], grey[:, 0], grey[:, -1]])
        if Fault.CUT_OFF in made.faults:
            assert frame.min() < 140
        elif Fault.TEXTURE not in made.faults:
            assert frame.min() > 200


@pytest.mark.parametrize(
    ("subject", "advice"),
    [("snial", "Did you mean snail"), ("xylophone", "It knows: snail"), ("red apple", "Did you mean apple")],
)
def test_unknown_subjects_are_refused_with_near_ones(subject, advice):
    with pytest.raises(InvalidInputError, match=f"can't draw.*{advice}"):
        drawn(subject)


@pytest.mark.parametrize(
    ("written", "name"),
    [("Owls", "owl"), ("tea pot", "teapot"), ("watering-can", "watering can"), ("owlet", None)],
)
def test_a_subject_is_known_however_it_is_written(written, name):
    assert known_subject(written) == name
