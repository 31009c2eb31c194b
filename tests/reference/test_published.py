"""Numbers against published sources and reference libraries, each named beside its check."""

import math

import numpy as np
import pytest
from skimage.filters import threshold_otsu

from samples import circle, disc_mask, drawing, picture_of, rectangle
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.geometry import bezier
from zeichen.core.making.relief import PLA_G_CM3, ReliefSettings, make_relief
from zeichen.core.raster import otsu_level
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import SUBJECTS, Studio


@pytest.mark.parametrize("subject", sorted(SUBJECTS))
def test_otsu_agrees_with_scikit_image(subject):
    """N. Otsu 1979; reference: skimage.filters.threshold_otsu."""
    grey = Studio(faults=2).draw(SketchOrder(subject, Look.FLAT, 21, size_px=256)).grey()
    assert otsu_level(grey) == threshold_otsu(grey)


@pytest.mark.parametrize("seed", range(20))
def test_otsu_agrees_on_noise_too(seed):
    rng = np.random.default_rng(seed)
    dark, light = rng.integers(20, 110), rng.integers(140, 240)
    grey = np.where(
        rng.random((60, 60)) < rng.uniform(0.1, 0.9),
        rng.normal(dark, 12, (60, 60)),
        rng.normal(light, 12, (60, 60)),
    )
    grey = grey.clip(0, 255).astype(np.uint8)
    assert otsu_level(grey) == threshold_otsu(grey)


def test_the_circle_constant_and_its_error():
    """The cubic circle: handles of 0.5522847 radii, at most 0.0273 % too large (published, from memory)."""
    assert pytest.approx(0.5522847, abs=5e-8) == bezier.CIRCLE_HANDLE
    points = bezier.evaluate(bezier.circle_segments((0, 0), radius=1), np.linspace(0, 1, 4001)).reshape(-1, 2)
    radius = np.hypot(points[:, 0], points[:, 1])
    assert radius.max() - 1 == pytest.approx(0.000273, abs=2e-6)
    assert radius.min() >= 1 - 1e-12
    area = bezier.signed_area(bezier.circle_segments((3, -2), radius=7))
    assert area == pytest.approx(math.pi * 49, rel=3e-4)


@pytest.mark.parametrize("radius", [8, 20, 60, 150])
def test_a_traced_disc_has_the_area_and_roundness_of_a_disc(radius):
    """pi r^2, and every node's and handle's curve within a tenth of a pixel of the circle."""
    size = 2 * radius + 40
    result = trace(
        picture_of(disc_mask(size, (size / 2 + 0.3, size / 2 - 0.2), radius, fine=8)), TraceSettings()
    )
    (path,) = result.drawing.paths
    assert path.area == pytest.approx(math.pi * radius**2, rel=0.02 if radius < 10 else 0.004)
    points = bezier.flatten(path.segments, tolerance=0.01, longest=0.5)
    off = np.hypot(points[:, 0] - size / 2 - 0.3, points[:, 1] - size / 2 + 0.2) - radius
    assert np.abs(off).max() < 0.2 and abs(off.mean()) < 0.08
    isoperimetric = 4 * math.pi * path.area / bezier.arc_lengths(path.segments).sum() ** 2
    assert isoperimetric > 0.999 if radius > 10 else isoperimetric > 0.995


def test_mass_of_a_known_block():
    """PLA 1.24 g/cm³ (from memory: data sheets): 40 x 20 x 3 mm = 2.4 cm³ = 2.976 g."""
    assert PLA_G_CM3 == 1.24
    settings = ReliefSettings(base_mm=2, raised_mm=1, margin_mm=0)
    product = make_relief(drawing(rectangle(0, 0, 40, 20)), settings, width_mm=40, title="block")
    readings = {reading.label: reading.value for reading in product.readings}
    # The plate under it has corners rounded by 0.5 mm.
    lost = (4 - math.pi) * 0.5**2 * 2 / 1000
    assert readings["Volume"] == pytest.approx(2.4 - lost, rel=2e-4)
    assert readings["Mass, printed solid"] == pytest.approx(2.976 - lost * 1.24, rel=2e-4)


def test_filament_weighs_what_the_data_sheet_says():
    """1.75 mm filament weighs 2.98 g/m at 1.24 g/cm³ (derived)."""
    assert math.pi / 4 * 0.175**2 * 100 * PLA_G_CM3 == pytest.approx(2.98, abs=0.005)


def test_steiner_formula_for_grown_shapes():
    """A + P r + pi r^2 for convex shapes (Steiner): the tag around a figure."""
    from shapely.geometry import Polygon

    from zeichen.core.making.laser import LaserSettings, plan_laser

    plan = plan_laser(drawing(rectangle(0, 0, 100, 50)), LaserSettings(margin_mm=6, kerf_mm=0), width_mm=100)
    (tag,) = plan.cuts
    assert Polygon(tag).area == pytest.approx(5000 + 300 * 6 + math.pi * 36, rel=2e-4)


def test_a_circle_drawn_by_us_is_round_for_others():
    from svgelements import Path as OtherPath

    from zeichen.core.formats.svg import path_data

    other = OtherPath(path_data(circle(50, 50, 40)))
    assert other.length(error=1e-4) == pytest.approx(2 * math.pi * 40, rel=3e-4)
