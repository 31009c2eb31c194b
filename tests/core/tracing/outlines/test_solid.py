"""Solid tracing: closed curves, corners kept, smooth parts smooth, holes right, specks dropped."""

import dataclasses
import math

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import (
    circle,
    disc_mask,
    drawing,
    examples,
    picture_of,
    polygon,
    rectangle,
    rendered,
    ring,
    star_drawings,
)
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.errors import InvalidInputError, StoppedError
from zeichen.core.geometry import bezier, drawing_area
from zeichen.core.raster import Picture
from zeichen.core.tracing.outlines.non_crossing_fit import count_crossings
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import SUBJECTS, Studio


def traced(draw, *, width_px=400, **settings_):
    return trace(
        picture_of(rendered(draw, width_px=width_px) / rendered(draw, width_px=width_px).max()),
        TraceSettings(**settings_),
    )


@examples(11)
@given(star_drawings())
def test_a_rendered_drawing_comes_back(draw):
    """The symmetric difference of truth and trace, spread along the outline, is a small part of a pixel thick."""
    result = traced(draw)
    truth = drawing_area(draw, tolerance=0.01)
    scale = 200 / 400
    answer = drawing_area(result.drawing.moved(lambda p: p * scale, width=200, height=200), tolerance=0.01)
    off_px = truth.symmetric_difference(answer).area / scale**2 / (truth.length / scale)
    assert off_px < 0.15
    assert result.self_crossings == 0
    assert all(path.closed and path.end_gap < 1e-9 for path in result.drawing.paths)


def test_a_square_is_four_lines():
    result = traced(drawing(rectangle(40, 50, 100, 80)))
    (path,) = result.drawing.paths
    assert len(path.segments) == 4
    assert bezier.is_straight(path.segments, tolerance=0.02).all()
    corners = path.segments[:, 0] / 2
    for true in ((40, 50), (140, 50), (140, 130), (40, 130)):
        assert np.linalg.norm(corners - true, axis=1).min() < 0.15


def test_a_circle_is_a_few_smooth_curves():
    result = traced(drawing(circle(100, 100, 70)))
    (path,) = result.drawing.paths
    assert 4 <= len(path.segments) <= 8
    after, before = path.segments, np.roll(path.segments, 1, axis=0)
    leaving, arriving = after[:, 1] - after[:, 0], before[:, 3] - before[:, 2]
    cosine = (leaving * arriving).sum(1) / np.linalg.norm(leaving, axis=1) / np.linalg.norm(arriving, axis=1)
    assert np.degrees(np.arccos(np.clip(cosine, -1, 1))).max() < 1.5


def test_a_ring_is_one_shape_with_its_hole_wound_back():
    result = traced(drawing(ring(100, 100, 80, 40)))
    (shape,) = result.drawing.shapes
    outer, inner = shape.paths
    assert outer.area > 0 > inner.area
    assert shape.area * 0.25 == pytest.approx(math.pi * (80**2 - 40**2), rel=0.002)


def test_an_island_in_a_hole_is_a_shape_of_its_own():
    both = drawing(ring(100, 100, 80, 60), circle(100, 100, 20))
    result = traced(both)
    assert sorted(len(shape.paths) for shape in result.drawing.shapes) == [1, 2]


def test_specks_and_pin_holes_under_the_area_are_dropped():
    spotted = drawing(circle(100, 100, 60), circle(20, 20, 2))
    kept = traced(spotted, min_spot_px2=16.0)
    dropped = traced(spotted, min_spot_px2=100.0)
    assert (len(kept.drawing.shapes), kept.dropped_spots) == (2, 0)
    assert (len(dropped.drawing.shapes), dropped.dropped_spots) == (1, 1)


def test_a_higher_level_makes_lines_thicker():
    """Common practice, no source: the level is slid until lines are thick enough."""
    mask = disc_mask(200, (100, 100), 50, fine=8)
    soft = picture_of(np.clip(mask, 0, 1))
    areas = [trace(soft, TraceSettings(level=level)).drawing.shapes[0].area for level in (40, 127, 220)]
    assert areas[0] < areas[1] < areas[2]


@examples(10)
@given(st.floats(0.06, 4.0))
def test_smooth_outlines_stay_within_the_tolerance(tolerance_px):
    picture = picture_of(disc_mask(200, (101.3, 98.6), 71, fine=8) - disc_mask(200, (90, 95), 30, fine=8))
    result = trace(picture, TraceSettings(tolerance_px=tolerance_px))
    assert result.deviation.largest_px <= tolerance_px + 0.1


@examples(8)
@given(st.floats(0.1, 4.0))
def test_a_wider_tolerance_takes_no_more_nodes_than_a_tight_one(tolerance_px):
    picture = Studio(faults=0).draw(SketchOrder("beetroot", Look.SILHOUETTE, 3, size_px=256))
    wide = trace(picture, TraceSettings(tolerance_px=tolerance_px))
    # Where wide fits would cross each other the contour itself is followed, and that takes a few more.
    tight = trace(picture, TraceSettings(tolerance_px=0.05)).drawing.node_count
    assert wide.drawing.node_count <= 1.2 * tight


# Every fourth subject in one look (`make bench` takes all), and what is in the demo as a silhouette, too.
DRAWN = [(subject, list(Look)[k % len(Look)]) for k, subject in enumerate(list(SUBJECTS)[::4])] + [
    (subject, Look.SILHOUETTE) for subject in ("hedgehog", "watering can", "wheat ear")
]


@pytest.mark.parametrize(("subject", "look"), DRAWN)
def test_every_demo_motif_traces_to_closed_curves_that_cross_nothing(subject, look):
    result = trace(Studio(faults=2).draw(SketchOrder(subject, look, 11)), TraceSettings(tolerance_px=0.5))
    assert result.self_crossings == 0
    assert count_crossings(result.drawing.paths) == 0
    # Sharp corners reach beyond the boundary, which the pixels round; an ear of wheat is nearly all corners.
    assert result.deviation.p95_px < 0.95 and result.deviation.mean_px < 0.25
    # A picture in flat colours has no true grey level: its border wavers, and that takes nodes.
    assert result.drawing.node_count < (1500 if look is Look.FLAT else 600)


def test_a_small_round_at_a_slender_end_is_no_corner():
    """A tip rounded by 3 px used to come out as a point 14 px beyond the picture's own boundary."""
    wedge = shapely.Polygon([(20, 60), (20, 80), (190, 70)])
    shape = wedge.buffer(-3).buffer(3, quad_segs=32).union(wedge.intersection(shapely.box(0, 0, 90, 140)))
    canvas = np.zeros((140 * 8, 220 * 8), np.uint8)
    cv2.fillPoly(canvas, [np.round(np.array(shape.exterior.coords) * 8).astype(np.int32)], 255)
    ink = cv2.GaussianBlur(cv2.resize(canvas, (220, 140), interpolation=cv2.INTER_AREA), (0, 0), 0.7)
    picture = Picture(np.repeat((255 - ink)[..., None], 3, axis=2))
    result = trace(picture, TraceSettings())
    assert result.deviation.p95_px < 0.5
    x_max = result.drawing.bounds()[2]
    assert x_max == pytest.approx(shape.bounds[2], abs=0.5)
    sharp = trace(picture_of(np.asarray(ink_of_wedge())), TraceSettings()).drawing.bounds()[2]
    assert sharp == pytest.approx(190, abs=3), "a wedge that was drawn sharp keeps its point"


def ink_of_wedge() -> np.ndarray:
    canvas = np.zeros((140 * 8, 220 * 8), np.uint8)
    cv2.fillPoly(canvas, [np.array([(20, 60), (20, 80), (190, 70)]) * 8], 255)
    return cv2.resize(canvas, (220, 140), interpolation=cv2.INTER_AREA) / 255.0


def test_lines_as_thin_as_the_blur_are_curves_not_polygons():
    """A scribbled signature used to come out as hundreds of straight bits."""
    picture = Studio(faults=1).draw(SketchOrder("watering can", Look.SILHOUETTE, 402))
    assert trace(picture, TraceSettings()).drawing.node_count < 250


def test_light_on_dark_is_traced_inverted():
    dark = picture_of(disc_mask(120, (60, 60), 40, fine=8))
    light = Picture(255 - dark.rgb)
    straight = trace(dark, TraceSettings()).drawing.shapes[0]
    inverted = trace(light, TraceSettings(invert=True)).drawing.shapes[0]
    assert inverted.area == pytest.approx(straight.area, rel=1e-3)


def test_the_same_picture_gives_the_same_drawing(snail, snail_trace):
    again = trace(snail, TraceSettings())
    assert all(
        np.array_equal(a.segments, b.segments)
        for a, b in zip(again.drawing.paths, snail_trace.drawing.paths, strict=True)
    )


@pytest.mark.parametrize(
    ("settings_", "message"),
    [
        pytest.param({"level": 300}, "Level must be at least 0 and at most 255; got 300", id="level"),
        pytest.param({"tolerance_px": 0}, "Tolerance must be at least", id="no tolerance"),
        pytest.param({"tolerance_px": math.nan}, "Tolerance must be", id="tolerance not a number"),
        pytest.param({"min_spot_px2": -1}, "Smallest spot must be at least 0", id="negative spot"),
        pytest.param({"corner_deg": 200}, "Corner angle must be", id="corner"),
    ],
)
def test_impossible_settings_are_refused(settings_, message):
    with pytest.raises(InvalidInputError, match=message):
        TraceSettings(**settings_)


def test_nothing_left_says_what_to_change():
    spot = picture_of(disc_mask(60, (30, 30), 3, fine=8))
    with pytest.raises(
        InvalidInputError, match=r"all 1 spots are smaller than 500 px².*lower the smallest spot"
    ):
        trace(spot, TraceSettings(min_spot_px2=500))


def test_noise_is_refused_rather_than_fitted_for_minutes():
    noise = np.random.default_rng(5).integers(0, 2, (1000, 1000), dtype=np.uint8) * 255
    with pytest.raises(InvalidInputError, match="texture or noise"):
        trace(Picture(np.repeat(noise[..., None], 3, axis=2)), TraceSettings(min_spot_px2=0))


def test_tracing_tells_its_progress_and_can_be_stopped(snail):
    relevant_points = []
    trace(snail, TraceSettings(), step=relevant_points.append)
    assert relevant_points[0] == 0 and relevant_points[-1] == 1 and relevant_points == sorted(relevant_points)

    def stop(share):
        if share > 0.1:
            raise StoppedError("Cancelled.")

    with pytest.raises(StoppedError):
        trace(snail, TraceSettings(), step=stop)


def test_a_pointed_star_keeps_its_tips():
    tips = [(100 + 90 * math.cos(a), 100 + 90 * math.sin(a)) for a in np.arange(5) * 2 * math.pi / 5 + 0.2]
    valleys = [
        (100 + 45 * math.cos(a), 100 + 45 * math.sin(a))
        for a in np.arange(5) * 2 * math.pi / 5 + 0.2 + math.pi / 5
    ]
    star = polygon(*[point for pair in zip(tips, valleys, strict=True) for point in pair])
    nodes = np.vstack([p.segments[:, 0] for p in traced(drawing(star)).drawing.paths]) / 2
    off = [np.linalg.norm(nodes - tip, axis=1).min() for tip in tips]
    # A tip of 36 degrees is blunted by the picture's own pixels; 1.1 px is what stays of it today (measured).
    assert max(off) < 0.6


def test_settings_are_values(snail_trace):
    assert dataclasses.replace(TraceSettings(), level=9) == TraceSettings(level=9)
    assert 0 <= snail_trace.level <= 255
