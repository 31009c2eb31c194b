"""Forecasts: readings of pictures with known facts, and what follows from them."""

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
import resvg_py
import skimage.data
from PIL import Image

from samples import thinned
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.forecasting.forecast import Verdict, forecast
from zeichen.core.methods import Method
from zeichen.core.proofing import Kind, Yardstick, proof
from zeichen.core.proofing.yardstick import Process
from zeichen.core.raster.clean import cleaned
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
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


@pytest.mark.parametrize("width", [3, 5, 8, 12])
def test_the_thinnest_part_is_measured_within_half_a_pixel(width):
    found = forecast(plate(thin=width), CUT)
    assert found.readings.thinnest_mm * found.readings.pixels_per_mm == pytest.approx(width, abs=0.5)


@pytest.mark.parametrize("angle", [17.0, 45.0])
def test_the_thinnest_part_does_not_depend_on_its_direction(angle):
    matrix = cv2.getRotationMatrix2D((300, 300), angle, 1.0)
    grey = cv2.warpAffine(plate(thin=9).grey(), matrix, (600, 600), borderValue=250)
    found = forecast(Picture(np.repeat(grey[:, :, None], 3, axis=2)), CUT)
    assert found.readings.thinnest_mm * found.readings.pixels_per_mm == pytest.approx(9, abs=0.6)


def on_sheet(*polygons, size=800):
    """A sheet with polygons of some colours on it, finely antialiased."""
    big = np.full((4 * size, 4 * size, 3), 250, np.uint8)
    for colour, points in polygons:
        cv2.fillPoly(big, [np.round(np.array(points) * 4).astype(np.int32)], colour)
    return Picture(np.ascontiguousarray(cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)))


def square(x, y, half):
    return [(x - half, y - half), (x + half, y - half), (x + half, y + half), (x - half, y + half)]


def test_notches_and_pointed_ends_are_neither_gaps_nor_thin_parts():
    star = [
        (400 + r * np.cos(a), 400 + r * np.sin(a))
        for a, r in zip(np.arange(10) * np.pi / 5, [330, 130] * 5, strict=True)
    ]
    # A notch cut into a plate, wide at its mouth.
    notched = [(150, 150), (320, 150), (400, 420), (480, 150), (650, 150), (650, 650), (150, 650)]
    for points in (star, notched):
        found = forecast(on_sheet(((20, 20, 20), points)), CUT)
        assert found.verdict is Verdict.TRACES_WELL, found.reasons


def test_loose_pieces_count_where_they_would_fall_out():
    two = on_sheet(((20, 20, 20), square(250, 400, 130)), ((20, 20, 20), square(600, 400, 100)))
    assert "loose" in kinds(forecast(two, CUT)) and forecast(two, CUT).readings.loose == 1
    engraved = forecast(two, Yardstick.usual(Process.LASER_ENGRAVE, width_mm=100))
    assert engraved.verdict is Verdict.TRACES_WELL and engraved.readings.pieces == 2
    # Of a stencil the island falls out, not the second opening.
    ring = on_sheet(((20, 20, 20), square(400, 400, 300)), ((250, 250, 250), square(400, 400, 150)))
    stencil = Yardstick.usual(Process.STENCIL, width_mm=100)
    assert "loose" in kinds(forecast(ring, stencil)) and "loose" not in kinds(forecast(two, stencil))


def test_colours_are_held_against_what_the_process_makes():
    inks = [(200, 40, 40), (40, 160, 60), (40, 60, 200), (230, 190, 40), (30, 30, 30), (160, 60, 170)]
    picture = on_sheet(*((ink, square(130 + 110 * k, 400, 55)) for k, ink in enumerate(inks)))
    found = forecast(picture, Yardstick.usual(Process.RELIEF, width_mm=100))
    (reason,) = [reason for reason in found.reasons if reason.kind == "colours"]
    assert (reason.measured, reason.limit) == (6, 4) and found.verdict is Verdict.NEEDS_CLEAN_UP
    printed = forecast(picture, Yardstick.usual(Process.APPAREL, width_mm=100))
    assert printed.verdict is Verdict.TRACES_WELL and printed.readings.colours == 6


def test_the_method_and_why():
    dark = forecast(plate(), CUT)
    assert dark.method is Method.SOLID and dark.readings.solid_loss == 0.0
    two = on_sheet(((200, 40, 40), square(300, 400, 150)), ((40, 60, 200), square(560, 400, 110)))
    flat = forecast(two, CUT)
    assert flat.method is Method.FLATS and "2 flat colours" in flat.why and "solid would lose" in flat.why
    # One tone would be the blue, which stands out more; the red square is lost.
    assert flat.readings.solid_loss == pytest.approx(150**2 / (110**2 + 150**2), abs=0.02)
    ring = Picture(
        cv2.circle(np.full((600, 600, 3), 250, np.uint8), (300, 300), 220, (20, 20, 20), 12, cv2.LINE_AA)
    )
    engraved = forecast(ring, Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80))
    assert engraved.method is Method.CENTRELINE and "lines" in engraved.why
    # A line is cut as the band that it covers.
    assert forecast(ring, CUT).method is Method.SOLID


def test_eye_whites_that_vanish_are_a_note():
    face = on_sheet(
        ((230, 180, 90), square(400, 400, 300)),
        ((60, 30, 20), square(400, 560, 60)),
        ((250, 250, 250), square(300, 300, 35)),
        ((250, 250, 250), square(500, 300, 35)),
    )
    found = forecast(face, Yardstick.usual(Process.APPAREL, width_mm=200))
    (note,) = [reason for reason in found.reasons if reason.kind == "whites"]
    assert note.measured == 2 and note.verdict is Verdict.TRACES_WELL and found.verdict is Verdict.TRACES_WELL


def test_single_noisy_pixels_are_no_specks():
    noisy = plate().rgb.copy()
    rng = np.random.default_rng(3)
    noisy[rng.integers(0, 600, 300), rng.integers(0, 600, 300)] = 20
    assert "specks" not in kinds(forecast(Picture(noisy), CUT))


def test_a_page_of_writing_is_the_wrong_kind():
    page = np.full((900, 900, 3), 250, np.uint8)
    for row in range(60, 860, 36):
        cv2.putText(page, "set in small letters row by row", (60, row), 0, 0.9, (20, 20, 20), 2, cv2.LINE_AA)
    found = forecast(Picture(page), CUT)
    assert found.verdict is Verdict.WRONG_KIND and "writing" in found.reasons[0].words


@pytest.mark.parametrize("name", ["astronaut", "coffee", "chelsea", "camera"])
def test_photographs_are_the_wrong_kind(name):
    # scikit-image's own photographs; of ten, bench.forecasts has nine.
    rgb = getattr(skimage.data, name)()
    rgb = np.repeat(rgb[:, :, None], 3, axis=2) if rgb.ndim == 2 else rgb
    assert forecast(Picture(np.ascontiguousarray(rgb)), CUT).verdict is Verdict.WRONG_KIND


@pytest.mark.parametrize("process", [Process.LASER_ENGRAVE, Process.LASER_CUT, Process.RELIEF])
def test_the_draft_says_what_the_trace_then_shows(process):
    """On open drawings (their licences lie beside them) what a trace's proof finds is foretold, but for one."""
    yardstick = Yardstick.usual(process, width_mm=100)
    deciding = {Kind.THIN_PART, Kind.SMALL_GAP, Kind.LOOSE_PIECE, Kind.COLOURS, Kind.SPECK}
    files = sorted((Path(__file__).parents[2] / "open").glob("[mts][adtw]*.svg"))
    assert len(files) >= 20
    files = thinned(files, 3)
    wrong = []
    for file in files:
        picture = rendered(file)
        found = forecast(picture, yardstick)
        drawing = trace(picture, TraceSettings(method=found.method)).drawing
        shown = {finding.kind for finding in proof(drawing, yardstick).findings} & deciding
        if (found.verdict is Verdict.TRACES_WELL) != (not shown):
            wrong.append((file.name, found.verdict, shown))
    assert len(wrong) <= 1, wrong


def rendered(file):
    """Return an open drawing on white, 1000 px wide with a margin."""
    png = resvg_py.svg_to_bytes(svg_string=file.read_text().replace("currentColor", "#000"), width=900)
    rgba = np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGBA")).astype(float)
    alpha = rgba[..., 3:] / 255.0
    flat = np.round(rgba[..., :3] * alpha + 255.0 * (1 - alpha)).astype(np.uint8)
    return Picture(np.pad(flat, ((50, 50), (50, 50), (0, 0)), constant_values=255))


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
        (lambda p: marked(p, (60, 65, 80, 85), 20), "specks"),
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
