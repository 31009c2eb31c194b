"""The profile of an edge against numeric integration and a reference library."""

import math

import numpy as np
import pytest
from scipy.special import ndtr
from scipy.stats import norm

from zeichen.core.tracing.edges.edge_spread import BLURS_PX, PER_PX, SLANTS, _below, edge_spread


def test_the_normal_distribution_is_the_reference_librarys():
    """Reference: scipy.special.ndtr."""
    z = np.linspace(-30, 30, 4001)
    assert np.abs(_below(z) - ndtr(z)).max() < 1e-15


@pytest.mark.parametrize("blur_px", [0.15, 0.75, 2.0])
@pytest.mark.parametrize("slant", [0, 5, SLANTS - 1])
def test_a_profile_is_a_step_seen_through_square_and_blur(blur_px, slant):
    """The square's points at even steps, each seeing the step through the Gaussian (scipy.stats.norm)."""
    profile = edge_spread(blur_px)
    angle = math.pi / 4 * slant / (SLANTS - 1)
    side = (np.arange(200) + 0.5) / 200 - 0.5
    x, y = np.meshgrid(side, side)
    depth = x * math.cos(angle) + y * math.sin(angle)
    for k in range(0, profile.share.shape[1], 17):
        d = k / PER_PX - profile.reach_px
        assert profile.share[slant, k] == pytest.approx(norm.cdf((d + depth) / blur_px).mean(), abs=2e-3)


@pytest.mark.parametrize("blur_px", BLURS_PX)
def test_a_profile_rises_from_paper_to_ink_and_is_its_own_mirror_image(blur_px):
    profile = edge_spread(blur_px)
    assert (np.diff(profile.share, axis=1) > -1e-9).all()
    assert np.allclose(profile.share + profile.share[:, ::-1], 1.0, atol=1e-6)
    assert profile.share[:, 0].max() < 0.01 and profile.share[:, -1].min() > 0.99
    middle = profile.share.shape[1] // 2
    steps = np.gradient(profile.share, 1.0 / PER_PX, axis=1)
    assert profile.slope[:, middle] == pytest.approx(steps[:, middle], rel=0.05)
