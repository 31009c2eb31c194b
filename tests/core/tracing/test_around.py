"""Around the trace: ladder, veil, doubtful places."""

import math

import cv2
import numpy as np
import pytest

from samples import circle, disc_mask, drawing, picture_of, rectangle
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import circle_segments, flatten
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.deviation import measure_veil, veil_between
from zeichen.core.tracing.doubts import DoubtKind, find_doubts
from zeichen.core.tracing.ladder import rung_settings, suggested
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def test_a_ladder_goes_from_plain_to_detailed(snail):
    small = Picture(np.ascontiguousarray(cv2.resize(snail.rgb, (300, 300), interpolation=cv2.INTER_AREA)))
    rungs = rung_settings(TraceSettings())
    plainest, finest = (trace(small, rungs[k]) for k in (0, -1))
    assert 5 <= len(rungs) <= 7
    assert plainest.drawing.node_count < finest.drawing.node_count
    assert plainest.deviation.mean_px > finest.deviation.mean_px
    tolerances = [each.tolerance_px for each in rungs]
    assert tolerances == sorted(tolerances, reverse=True)


def test_the_ladder_of_flats_varies_the_number_of_colours():
    settings = TraceSettings(method=Method.FLATS)
    counts = [each.colours for each in rung_settings(settings, found_colours=4)]
    assert counts == sorted(set(counts)) and 4 in counts and 5 <= len(counts) <= 7
    assert (
        max(each.colours or 0 for each in rung_settings(TraceSettings(method=Method.FLATS, colours=30))) == 30
    )


def test_the_knee_is_suggested_and_only_within_what_is_allowed():
    nodes, off = [10, 20, 40, 400], [2.0, 0.2, 0.15, 0.1]
    assert suggested(nodes, off, allowed_mm=9) == 1
    assert suggested(nodes, off, allowed_mm=0.16) == 2
    assert suggested(nodes, off, allowed_mm=0.01) == 1
    assert suggested([10], [1.0], allowed_mm=9) == 0
    assert suggested([10, 10, 10], [1.0, 1.0, 1.0], allowed_mm=9) == 0


@pytest.mark.parametrize(("grown", "sign"), [(0.5, 1), (-0.5, -1)])
def test_the_veil_is_positive_where_the_drawing_is_fuller(grown, sign):
    points = flatten(circle_segments((50.0, 50.0), radius=30.0), tolerance=0.001, longest=0.7)[:-1]
    veil = measure_veil([Path(circle_segments((50.0, 50.0), radius=30.0 + grown))], [points])
    assert sign * veil.off_px == pytest.approx(np.full(len(points), 0.5), abs=0.02)


def test_a_veil_is_thinned_without_losing_its_worst_place():
    points = flatten(rectangle(10, 10, 50, 50).segments, tolerance=0.01, longest=0.5)[:-1]
    points[17] += 3
    veil = measure_veil([rectangle(10, 10, 50, 50)], [points])
    few = veil.thinned(12)
    assert len(few.off_px) <= 13 and np.abs(few.off_px).max() == np.abs(veil.off_px).max()
    assert len(measure_veil([], []).off_px) == 0


def test_a_traces_veil_agrees_with_its_deviation():
    result = trace(picture_of(disc_mask(120, (60, 60), 40, fine=8)), TraceSettings())
    assert np.abs(result.veil().off_px).max() <= result.deviation.largest_px + 1e-6


def test_the_veil_of_an_edited_drawing_shows_what_was_added_and_what_was_taken_away():
    before = drawing(circle(50, 50, 30), size=(200.0, 100.0))
    grown = drawing(circle(50, 50, 31), size=(200.0, 100.0))
    assert np.abs(veil_between(before, before).off_px).max() < 0.02
    for one, other, sign in ((grown, before, 1), (before, grown, -1)):
        assert sign * veil_between(one, other).off_px == pytest.approx(1.0, abs=0.03)
    added = Drawing(200.0, 100.0, (*before.shapes, Shape("patch", (circle(150, 50, 10),))))
    for one, other, sign in ((added, before, 1), (before, added, -1)):
        veil = veil_between(one, other)
        worst = int(np.abs(veil.off_px).argmax())
        # The patch's far side is 80 px from the disc.
        assert veil.off_px[worst] == pytest.approx(sign * 80.0, abs=0.1)
        assert veil.places_px[worst] == pytest.approx((160, 50), abs=0.5)


def test_the_veil_of_a_drawing_as_traced_is_the_traces():
    result = trace(picture_of(disc_mask(120, (60, 60), 40, fine=8)), TraceSettings())
    veil = veil_between(result.drawing, result.drawing, list(result.boundary))
    assert np.abs(veil.off_px).max() <= result.deviation.largest_px + 0.02
    nothing = Drawing(120.0, 120.0, ())
    assert len(veil_between(nothing, result.drawing).off_px) == 0


def page(size: int = 320) -> np.ndarray:
    return np.full((size, size), 250, np.uint8)


def picture(grey: np.ndarray) -> Picture:
    return Picture(np.repeat(grey[..., None], 3, axis=2))


def test_small_lettering_is_marked_where_it_is():
    grey = page()
    cv2.putText(grey, "Pippin Row", (40, 200), cv2.FONT_HERSHEY_SIMPLEX, 0.7, 20, 2, cv2.LINE_AA)
    (doubt,) = find_doubts(picture(grey))
    assert doubt.kind is DoubtKind.LETTERING
    assert 36 < doubt.x_min < 50 and 170 < doubt.y_min < 190 and doubt.x_max > 130


def test_hatching_is_texture_and_a_steady_tone_is_a_gradient():
    grey = page()
    grey[100:220, 100:220][:, ::4] = 30
    kinds = {doubt.kind for doubt in find_doubts(picture(grey))}
    assert kinds == {DoubtKind.TEXTURE}
    ramp = page()
    ramp[60:260, 60:260] = np.linspace(60, 240, 200).astype(np.uint8)
    assert DoubtKind.GRADIENT in {doubt.kind for doubt in find_doubts(picture(ramp))}


@pytest.mark.parametrize("spacing", [5, 8, 10])
@pytest.mark.parametrize("turn_deg", [0, 30, 45])
def test_hatching_is_texture_whichever_way_it_runs(spacing, turn_deg):
    grey = page()
    along = np.array([math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))])
    for off in np.arange(-60.0, 60.1, spacing):
        middle = 160.0 + off * np.array([-along[1], along[0]])
        ends = [tuple(np.round((middle + side * 60 * along) * 16).astype(int).tolist()) for side in (-1, 1)]
        cv2.line(grey, *ends, 30, 2, cv2.LINE_AA, 4)
    found = find_doubts(picture(grey))
    texture = [doubt for doubt in found if doubt.kind is DoubtKind.TEXTURE]
    assert max((d.x_max - d.x_min) * (d.y_max - d.y_min) for d in texture) > 80 * 80


@pytest.mark.parametrize("width", [2, 3, 5, 7, 9, 13])
def test_lines_that_wind_and_meet_are_no_texture(width):
    """A spiral, three that meet, a step and a grid of single lines."""
    grey = page()
    turns = np.linspace(0.0, 5 * math.pi, 300)
    reach = 2 * width + 5.0 * turns
    spiral = np.column_stack([110 + reach * np.cos(turns), 110 + reach * np.sin(turns)])
    lines = [spiral, [(230, 60), (260, 100)], [(290, 60), (260, 100)], [(260, 100), (260, 150)]]
    lines += [
        [(200, 200), (240, 200), (240, 220), (290, 220)],
        [(60, 250), (140, 250)],
        [(100, 220), (100, 290)],
    ]
    for line in lines:
        ends = [np.round(np.array(line) * 16).astype(np.int32)]
        cv2.polylines(grey, ends, False, 20, width, cv2.LINE_AA, 4)
    assert [doubt for doubt in find_doubts(picture(grey)) if doubt.kind is DoubtKind.TEXTURE] == []


def test_a_plain_figure_raises_no_doubts():
    grey = page()
    cv2.circle(grey, (160, 160), 90, 20, -1, cv2.LINE_AA)
    cv2.line(grey, (40, 290), (280, 290), 20, 9, cv2.LINE_AA)
    assert find_doubts(picture(grey)) == []
    assert find_doubts(picture(page())) == []
    assert circle(0, 0, 1).closed
