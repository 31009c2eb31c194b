"""Forecasts: readings of pictures with known facts, and what follows from them."""

import cv2
import numpy as np
import pytest

from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.proofing import Yardstick
from zeichen.core.proofing.forecast import Verdict, forecast
from zeichen.core.proofing.yardstick import Process
from zeichen.core.raster.clean import cleaned
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import thinnest_px
from zeichen.standins.studio import Studio

CUT = Yardstick.usual(Process.LASER_CUT, width_mm=100)


def plate(*, ink=20, paper=250, size=600, thin=30):
    """A broad cross whose right arm is a bar of some width, finely antialiased."""
    big = np.full((size * 4, size * 4), paper, np.uint8)
    cv2.rectangle(big, (size * 2 - 200, 400), (size * 2 + 200, size * 4 - 400), ink, -1)
    cv2.rectangle(big, (400, size * 2 - 200), (size * 2, size * 2 + 200), ink, -1)
    cv2.rectangle(big, (size * 2, size * 2 - 2 * thin), (size * 4 - 401, size * 2 + 2 * thin - 1), ink, -1)
    grey = cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)
    return Picture(np.repeat(grey[:, :, None], 3, axis=2))


def kinds(found):
    return {reason.kind for reason in found.reasons}


def marked(picture, box, value):
    rgb = picture.rgb.copy()
    y0, y1, x0, x1 = box
    rgb[y0:y1, x0:x1] = value
    return Picture(rgb)


def test_a_sound_picture_traces_well():
    found = forecast(plate(), CUT)
    assert found.verdict is Verdict.TRACES_WELL and found.reasons == () and found.suggested == ()
    readings = found.readings
    assert readings.ground == "plain" and readings.dark_on_light and not readings.touches_border
    assert readings.pieces == 1 and readings.specks == 0 and not readings.signature
    # The figure is 400 px wide and made 100 mm wide.
    assert readings.pixels_per_mm == pytest.approx(4.0, rel=0.01)


@pytest.mark.parametrize("width", [3, 5, 8, 12, 20])
def test_the_thinnest_part_is_measured_within_a_pixel(width):
    share = (250.0 - plate(thin=width).grey()) / 230.0
    found = thinnest_px(share, least=1.0, most=40.0)
    assert found is not None and found[0] == pytest.approx(width, abs=0.6)
    x, y = found[1]
    assert 300 < x < 505 and abs(y - 300) < width


@pytest.mark.parametrize("angle", [0.0, 17.0, 45.0])
def test_the_thinnest_part_does_not_depend_on_its_direction(angle):
    matrix = cv2.getRotationMatrix2D((300, 300), angle, 1.0)
    grey = cv2.warpAffine(plate(thin=9).grey(), matrix, (600, 600), borderValue=250)
    found = thinnest_px((250.0 - grey) / 230.0, least=1.0, most=40.0)
    assert found is not None and found[0] == pytest.approx(9, abs=0.8)


def test_corners_are_not_thin_parts():
    square = np.zeros((200, 200))
    square[50:150, 50:150] = 1.0
    assert thinnest_px(square, least=1.0, most=30.0) is None


def test_what_is_too_thin_is_said_in_millimetres_with_its_limit():
    found = forecast(plate(thin=5), CUT)
    (reason,) = [reason for reason in found.reasons if reason.kind == "thin"]
    assert reason.measured == pytest.approx(1.25, abs=0.25) and reason.limit == 1.5 and reason.unit == "mm"
    assert found.verdict is Verdict.NEEDS_CLEAN_UP
    assert forecast(plate(thin=2), CUT).verdict is Verdict.TOO_FINE


@pytest.mark.parametrize(
    ("spoil", "kind"),
    [
        (lambda p: Picture(255 - p.rgb), "light-on-dark"),
        (lambda p: marked(p, (60, 63, 80, 83), 20), "specks"),
        (lambda p: marked(p, (290, 310, 0, 120), 20), "border"),
        (lambda p: Picture((p.rgb * np.linspace(1, 0.85, 600)[None, :, None]).astype(np.uint8)), "ground"),
        (lambda p: Picture((118 + p.rgb / 8).astype(np.uint8)), "contrast"),
    ],
)  # fmt: skip
def test_each_fault_is_found_and_its_cure_cures_it(spoil, kind):
    spoiled = spoil(plate())
    found = forecast(spoiled, CUT)
    assert kind in kinds(found) and found.verdict is Verdict.NEEDS_CLEAN_UP
    assert found.suggested
    after = forecast(cleaned(spoiled, found.suggested), CUT)
    # A figure that was cut off stays cut off; everything else is cured.
    assert kind not in kinds(after)
    assert after.verdict is Verdict.TRACES_WELL


def test_a_signature_is_found_where_there_is_one_and_wiped():
    found = [
        forecast(Studio(faults=0).draw(SketchOrder("teapot", Look.SILHOUETTE, k)), CUT) for k in range(4)
    ]
    assert not any(each.readings.signature for each in found)
    signed = Studio(faults=0).draw(SketchOrder("teapot", Look.SILHOUETTE, 1)).rgb.copy()
    t = np.linspace(0, 1, 60)
    x, y = (0.80 + 0.13 * t) * 1024, (0.945 + 0.012 * np.sin(t * 25)) * 1024
    cv2.polylines(
        signed, [np.column_stack([x, y]).round().astype(np.int32)], False, (70, 70, 70), 2, cv2.LINE_AA
    )
    seen = forecast(Picture(signed), CUT)
    assert "signature" in kinds(seen)
    assert "signature" not in kinds(forecast(cleaned(Picture(signed), seen.suggested), CUT))


def test_photos_and_noise_are_the_wrong_kind():
    rng = np.random.default_rng(4)
    noise = Picture(rng.integers(0, 256, (300, 300, 3), dtype=np.uint8))
    assert forecast(noise, CUT).verdict is Verdict.WRONG_KIND
    blank = Picture(np.full((300, 300, 3), 244, np.uint8))
    assert forecast(blank, CUT).verdict is Verdict.WRONG_KIND


def test_a_small_picture_needs_a_larger_one_not_an_enlarged_one():
    small = cv2.resize(plate().rgb, (150, 150), interpolation=cv2.INTER_AREA)
    found = forecast(Picture(small), Yardstick.usual(Process.LASER_ENGRAVE, width_mm=200))
    assert "small" in kinds(found)
    assert not any(step.kind == "enlarge" for step in found.suggested)


def test_the_same_picture_always_has_the_same_forecast():
    picture = Studio().draw(SketchOrder("hedgehog", Look.FLAT, 5))
    assert forecast(picture, CUT) == forecast(picture, CUT)
