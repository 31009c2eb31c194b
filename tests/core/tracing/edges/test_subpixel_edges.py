"""Where the edge is: unbiased at any slant, on discs of any size, and nearer than interpolation."""

import math

import numpy as np
import pytest
from cv2 import GaussianBlur, circle
from hypothesis import given
from hypothesis import strategies as st
from skimage.measure import find_contours as reference_contours

from samples import disc_mask, examples, inked, picture_of, spun
from zeichen.core.raster import Picture
from zeichen.core.raster.coverage import coverage
from zeichen.core.tracing.edges.edge_spread import BLURS_PX, PER_PX, edge_spread
from zeichen.core.tracing.edges.local_contrast import plainly_other, tones_beside, with_gaps_bridged
from zeichen.core.tracing.edges.marching_squares import find_contours
from zeichen.core.tracing.edges.subpixel_edges import Edges, _share_of_eighth, settle
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def settled(grey, **changes):
    contours = find_contours(grey, level=127)
    return settle(grey, contours, **{"ink": 0, "paper": 255, "level": 127.5, **changes})


@pytest.mark.parametrize("blur", [0.0, 0.3, 1.0])
def test_profiles_run_from_none_to_all_and_are_half_at_the_edge(blur):
    profile = edge_spread(blur)
    middle = profile.share.shape[1] // 2
    assert np.allclose(profile.share[:, middle], 0.5, atol=1e-6)
    assert np.allclose(profile.share[:, 0], 0, atol=2e-3) and np.allclose(profile.share[:, -1], 1, atol=2e-3)
    if blur == 0:
        return  # A sharp profile has kinks, where differences and slopes differ.
    assert np.allclose(
        np.gradient(profile.share, 1 / PER_PX, axis=1)[:, 2:-2], profile.slope[:, 2:-2], atol=0.03
    )


def test_an_unblurred_profile_is_the_area_a_slanted_edge_cuts_off():
    """At 45 degrees the square's corner is a triangle: its area is the distance squared."""
    profile = edge_spread(0.0)
    d = np.arange(profile.share.shape[1]) / PER_PX - profile.reach_px
    inside = (d > -math.sqrt(0.5) + 0.1) & (d < -0.1)
    assert np.allclose(profile.share[-1][inside], (math.sqrt(0.5) + d[inside]) ** 2, atol=2e-3)


@examples(14)
@given(st.floats(0, 2 * math.pi), st.floats(-0.5, 0.5))
def test_a_straight_edge_is_found_to_a_hundredth_of_a_pixel(angle, shift):
    way = np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-way[1], way[0]])
    middle = np.array([20.0, 20.0]) + shift * across
    ring = np.array(
        [middle - 90 * way, middle + 90 * way, middle + 90 * (way + across), middle + 90 * (across - way)]
    )
    share = np.clip(coverage([ring], 40, 40), 0, 1)
    found = settled(np.round(255 * (1 - share)).astype(np.uint8)).contours
    inner = found.points[np.abs(found.points - 20).max(axis=1) < 14]
    off = np.abs((inner - middle) @ across)
    # On average; the furthest of some angles lie two hundredths off.
    assert len(inner) > 10 and off.max() < 0.025 and off.mean() < 0.012


@pytest.mark.parametrize("radius", [5, 8, 12, 20, 40])
def test_a_disc_has_its_true_area_at_every_size(radius):
    """0.1 % from 12 px of radius up; of a smaller disc half a hundredth of a pixel is more than that."""
    picture = picture_of(disc_mask(112, (55.3, 56.8), radius, fine=24))
    area = trace(picture, TraceSettings()).drawing.shapes[0].area
    assert area == pytest.approx(math.pi * radius**2, rel=1e-3 if radius >= 12 else 4e-3)


def test_settled_points_are_nearer_to_the_truth_than_interpolated_ones():
    """scikit-image's find_contours interpolates: the reference."""
    radius, centre = 30.0, np.array([48.3, 47.6])
    grey = picture_of(disc_mask(96, tuple(centre), radius, fine=24)).grey()
    (reference,) = reference_contours(grey, 127.5)
    theirs = np.abs(np.linalg.norm(reference[:, ::-1] + 0.5 - centre, axis=1) - radius)
    mine = np.abs(np.linalg.norm(settled(grey).contours.points - centre, axis=1) - radius)
    assert mine.mean() < 0.3 * theirs.mean() and np.percentile(mine, 95) < 0.02


def test_contours_lie_where_the_reference_library_finds_them():
    grey = picture_of(disc_mask(80, (40.2, 39.7), 25, fine=16)).grey()
    (reference,) = reference_contours(grey, 127.5)
    mine = find_contours(grey, level=127).points
    gaps = np.linalg.norm(mine[:, None] - (reference[:, ::-1] + 0.5)[None], axis=2).min(axis=1)
    assert gaps.max() < 1e-6


def test_blur_is_told_from_the_picture():

    sharp = 255 - np.round(255 * disc_mask(120, (60, 60), 40, fine=8))
    for blur in (0.0, 0.45):
        soft = GaussianBlur(sharp, (0, 0), blur) if blur else sharp
        assert settled(np.round(soft).astype(np.uint8)).blur_px == pytest.approx(blur, abs=0.12)


def softened(ring, blur, *, size=200, noise=0.0):
    """What a ring encloses, blurred and noisy."""
    grey = GaussianBlur(255 * (1 - inked(ring, size=size)), (0, 0), blur)
    grey += np.random.default_rng(4).normal(0, noise, grey.shape)
    return np.round(grey).clip(0, 255).astype(np.uint8)


@pytest.mark.parametrize(("blur", "pixel"), [(0.7, 1.0), (1.1, 1.0), (1.6, 1.0), (2.5, 2.0), (4.0, 4.0)])
def test_only_very_soft_pictures_are_looked_at_in_fewer_pixels(blur, pixel):
    grey = softened(spun(np.array([[-60.0, -60], [60, -60], [60, 60], [-60, 60]]), 0.3, (100, 100)), blur)
    found = settled(grey, ink=0, paper=255)
    assert found.pixel_px == pixel
    # A pixel's own square is a twelfth of its area, squared deviation; a size tried in between is a fifth off.
    softness = math.sqrt(found.blur_px**2 + found.pixel_px**2 / 12)
    assert softness == pytest.approx(math.sqrt(blur**2 + 1 / 12), rel=0.2)


@pytest.mark.parametrize("blur", [0.7, 1.0, 1.5])
@pytest.mark.parametrize("noise", [0.0, 4.0])
def test_soft_stars_keep_their_tips(blur, noise):
    """Their edges used to be looked at in fewer pixels than they have, which cost one corner in four."""
    angle = np.arange(10) * math.pi / 5
    size = np.where(np.arange(10) % 2 == 0, 80.0, 40.0)
    ring = spun(size[:, None] * np.column_stack([np.cos(angle), np.sin(angle)]), 0.2, (100.3, 99.6))
    grey = softened(ring, blur, noise=noise)
    (path,) = trace(Picture(np.repeat(grey[..., None], 3, axis=2)), TraceSettings()).drawing.paths
    assert len(path.segments) == 10
    gaps = np.hypot(*(path.segments[:, None, 0] - ring).transpose(2, 0, 1)).min(axis=0)
    assert gaps.max() < 0.5 and gaps.mean() < 0.25


@pytest.mark.parametrize("tone", [175, 195, 220])
@pytest.mark.parametrize("level", [None, 110])
def test_a_light_area_within_a_dark_one_has_its_true_rim(tone, level):
    """Grey on one side, dark on the other: half-way between these two is not half-way between ink and paper."""
    dark = disc_mask(160, (80.2, 79.7), 62.0, fine=16)
    inner = disc_mask(160, (80.2, 79.7), 34.0, fine=16)
    grey = 255 - 215 * dark + (tone - 40) * inner
    picture = Picture(np.repeat(np.round(grey).astype(np.uint8)[..., None], 3, axis=2))
    rims = trace(picture, TraceSettings(level=level)).drawing.shapes[0].paths
    assert all(len(path.segments) <= 4 for path in rims) and len(rims) == 2
    radii = [math.sqrt(abs(path.area) / math.pi) for path in rims]
    if level is None:
        assert radii == pytest.approx([62.0, 34.0], abs=0.02)
    else:
        # Where a box of one pixel across the edge holds that much of either tone.
        wanted = [62.0 + (0.5 - (255 - level) / 215), 34.0 - (0.5 - (tone - level) / (tone - 40))]
        assert radii == pytest.approx(wanted, abs=0.06)


def test_the_tones_beside_an_edge_are_those_on_either_side():
    grey = np.full((40, 40), 210.0)
    grey[:, 20:] = 60.0
    points = np.array([[20.0, 12.3], [20.0, 25.5], [20.0, 1.0]])
    normal = np.tile([1.0, 0.0], (3, 1))
    tones = tones_beside(grey, points, normal, 0.3)
    assert np.allclose(tones, [60.0, 210.0])
    assert np.isnan(tones_beside(grey, points + np.array([3.0, 0.0]), normal, 0.3)).all()
    bridged = with_gaps_bridged(np.array([[1.0, 9.0], [np.nan, np.nan], [3.0, 7.0]] + [[np.nan, np.nan]] * 9))
    assert bridged[1].tolist() == [2.0, 8.0] and np.isnan(bridged[-1]).all()
    # The picture's own tones are no others; nor is an edge the wrong way round, or hardly any.
    assert not plainly_other(tones, 60.0, 210.0).any()
    assert plainly_other(tones, 20.0, 250.0).all()
    assert not plainly_other(tones[:, ::-1], 20.0, 250.0).any()
    assert not plainly_other(np.array([[60.0, 100.0]]), 60.0, 255.0).any()


def blur_of_a_disc(blur: float) -> tuple[float, float]:
    """A large disc, blurred ten times as finely as its pixels and then summed up to them."""
    fine = 10
    big = np.full((64 * fine, 64 * fine), 255, np.uint8)
    circle(big, (32 * fine + 3, 31 * fine), 20 * fine, 0, -1)
    soft = GaussianBlur(big.astype(np.float32), (0, 0), blur * fine)
    grey = np.round(soft.reshape(64, fine, 64, fine).mean(axis=(1, 3))).astype(np.uint8)
    contours = find_contours(grey, level=127)
    n = len(contours.points)
    edges = Edges(
        grey[:, :, None],
        np.empty((0, 0), np.int32),
        np.array([[0.0], [255.0]]),
        contours.starts,
        np.ones(len(contours), np.bool_),
        np.zeros(n, np.int64),
        np.ones(n, np.int64),
    )
    return edges.estimate_blur(contours.points)


@pytest.mark.parametrize("blur", [0.25, 0.35, 0.55])
def test_a_little_blur_is_found_to_the_next_one_tried(blur):
    found, unexplained = blur_of_a_disc(blur)
    near = BLURS_PX.index(blur)
    assert BLURS_PX[near - 1] <= found <= BLURS_PX[near + 1] and unexplained < 0.02


@pytest.mark.parametrize("blur", [0.62, 0.7, 0.83, 1.0, 1.2, 1.5, 1.83, 2.25])
def test_more_is_found_between_those_tried(blur):
    found, unexplained = blur_of_a_disc(blur)
    assert found == pytest.approx(blur, rel=0.08) and unexplained < 0.02


@given(st.floats(0, 1))
def test_a_slants_share_of_an_eighth_is_its_angle_to_half_a_percent(slant):
    assert _share_of_eighth(slant) == pytest.approx(math.atan(slant) / (math.pi / 4), abs=0.005)
