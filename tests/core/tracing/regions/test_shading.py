"""Shading: told from colour, drawn in calm steps or taken out, on pictures whose flats are known."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.tracing.regions.test_flats import GREEN, GROUND, RED, flats, painted, plum

from samples import examples
from zeichen.core.methods import AreaTone, Shading
from zeichen.core.raster import Picture
from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.raster.shading import read_shading
from zeichen.core.values import rgb_colours


def lit(picture: Picture, *, from_deg: float, strength: float = 0.3) -> Picture:
    """The picture with light that falls off across it, on all that is neither ground nor ink."""
    height, width = picture.rgb.shape[:2]
    y, x = np.mgrid[0:height, 0:width] / max(height, width) - 0.5
    turn = np.radians(from_deg)
    light = 1.0 + strength * (x * np.cos(turn) + y * np.sin(turn))
    rgb = picture.rgb.astype(float)
    # The more of a pixel is coloured the more of it is lit: grey tones have no colour.
    coloured = np.clip((rgb.max(axis=2) - rgb.min(axis=2) - 15) / 60.0, 0.0, 1.0)
    light = 1.0 + coloured * (light - 1.0)
    return Picture(np.clip(rgb * light[:, :, None] + 0.5, 0, 255).astype(np.uint8))


def noisy(picture: Picture, seed: int, quality: int = 80) -> Picture:
    rng = np.random.default_rng(seed)
    grainy = np.clip(picture.rgb + rng.normal(0, 2.0, picture.rgb.shape), 0, 255).astype(np.uint8)
    done, data = cv2.imencode(".jpg", grainy[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    assert done
    return Picture(np.ascontiguousarray(cv2.imdecode(data, cv2.IMREAD_COLOR)[:, :, ::-1]))


def shadowed(canvas, s):
    """A disc, and a soft shadow of it on the ground."""
    cv2.ellipse(canvas, (100 * s, 160 * s), (60 * s, 14 * s), 0, 0, 360, (150, 148, 144), -1)
    canvas[:] = cv2.GaussianBlur(canvas, (0, 0), 9 * s)
    cv2.circle(canvas, (100 * s, 90 * s), 55 * s, RED, -1)


def areas(trace) -> list[float]:
    return sorted(shape.area for shape in trace.drawing.shapes)


@pytest.mark.parametrize("from_deg", [0, 70, 205])
def test_shading_put_on_and_taken_out_again_gives_the_flats(from_deg):
    plain = painted(plum, 400)
    out = flats(lit(plain, from_deg=from_deg, strength=1.0), shading=Shading.OUT)
    assert out.shading is Shading.OUT
    assert areas(out) == pytest.approx(areas(flats(plain)), rel=0.01)


def test_out_of_a_noisy_jpeg_each_area_has_one_colour_its_middle_one():
    plain = painted(plum, 400)
    shaded = lit(plain, from_deg=40, strength=1.0)
    out = flats(noisy(shaded, 3), shading=Shading.OUT)
    fills = rgb_colours(tuple({shape.fill for shape in out.drawing.shapes}))
    assert len(out.drawing.shapes) == 3
    for colour in (RED, GREEN):
        middle = np.median(shaded.rgb[(plain.rgb == colour).all(axis=2)], axis=0)
        assert difference(to_lab(fills), to_lab(middle[None])).min() < 3
    assert out.self_crossings == 0


def test_the_light_tone_is_lighter_than_the_middle_one():
    shaded = lit(painted(plum, 400), from_deg=0, strength=1.2)
    tones = {tone: flats(shaded, shading=Shading.OUT, tone=tone) for tone in AreaTone}
    light, middle = (
        np.mean([rgb_colours((shape.fill,)).sum() for shape in tones[tone].drawing.shapes])
        for tone in (AreaTone.LIGHT, AreaTone.MIDDLE)
    )
    assert light > middle + 5


@pytest.mark.parametrize("colours", [3, 5, 8])
def test_steps_are_as_many_as_asked_for_and_follow_the_light(colours):
    picture = lit(painted(plum, 400), from_deg=0, strength=1.2)
    steps = flats(noisy(picture, 1), shading=Shading.STEPS, colours=colours)
    assert steps.shading is Shading.STEPS
    assert len({shape.fill for shape in steps.drawing.shapes}) <= colours
    assert steps.self_crossings == 0
    # Light that falls from the left makes borders that run up and down: hardly any is longer than the figure is high.
    if colours == 8:
        assert len({shape.fill for shape in steps.drawing.shapes}) > 4
        assert sum(shape.node_count for shape in steps.drawing.shapes) < 200


def test_a_soft_shadow_on_the_ground_is_left_out():
    picture = painted(shadowed, 400)
    for shading in (Shading.STEPS, Shading.OUT):
        made = flats(picture, shading=shading)
        assert [shape.area for shape in made.drawing.shapes] == pytest.approx([np.pi * 55**2], rel=0.01)


def test_flat_pictures_have_no_shading():
    assert flats(painted(plum)).shading is None
    assert not read_shading(painted(plum, 400).rgb).is_shaded
    assert not read_shading(noisy(painted(plum, 400), 5).rgb).is_shaded


def test_a_palette_of_the_makers_own_is_kept_to():
    picture = lit(painted(plum, 400), from_deg=90, strength=1.2)
    own = ("#26282c", "#c83c32", "#5a9650")
    for shading in (Shading.STEPS, Shading.OUT):
        made = flats(picture, shading=shading, palette=own)
        assert {shape.fill for shape in made.drawing.shapes} <= set(own)


@examples(12)
@given(
    seed=st.integers(0, 10_000),
    colours=st.integers(2, 9),
    from_deg=st.floats(0, 360),
    shading=st.sampled_from([Shading.STEPS, Shading.OUT]),
)
def test_no_border_crosses_itself_on_noisy_shaded_pictures(seed, colours, from_deg, shading):
    rng = np.random.default_rng(seed)

    def blobs(canvas, s):
        for _ in range(4):
            centre = tuple(int(v) for v in rng.integers(40, 160, 2) * s)
            axes = tuple(int(v) for v in rng.integers(12, 60, 2) * s)
            colour = tuple(int(v) for v in rng.integers(0, 255, 3))
            cv2.ellipse(canvas, centre, axes, float(rng.uniform(0, 180)), 0, 360, colour, -1)

    picture = noisy(lit(painted(blobs, 240), from_deg=from_deg, strength=0.6), seed, quality=60)
    try:
        made = flats(picture, shading=shading, colours=colours)
    except ValueError as error:
        pytest.fail(f"no drawing: {error}")
    assert made.self_crossings == 0
    assert all(path.closed for path in made.drawing.paths)


def test_the_grounds_colour_does_not_become_a_step():
    steps = flats(lit(painted(plum, 400), from_deg=0, strength=1.2), shading=Shading.STEPS, colours=6)
    fills = rgb_colours(tuple({shape.fill for shape in steps.drawing.shapes}))
    assert difference(to_lab(fills), to_lab(np.array([GROUND], float))).min() > 8


@pytest.mark.parametrize("shading", [Shading.STEPS, Shading.OUT])
def test_a_figure_that_fades_into_the_ground_stays_a_figure(shading):
    """A blue disc whose light side is the ground's white: no edge parts the two there."""
    y, x = np.mgrid[0:300, 0:300]
    share = np.clip((x - 60) / 160, 0, 1)[:, :, None]
    rgb = np.full((300, 300, 3), 255.0)
    inside = (x - 140) ** 2 + (y - 150) ** 2 < 80**2
    rgb[inside] = (share * 255 + (1 - share) * np.array([40, 80, 200]))[inside]
    made = flats(Picture(rgb.astype(np.uint8)), shading=shading)
    assert sum(shape.area for shape in made.drawing.shapes) > 0.6 * np.pi * 80**2
