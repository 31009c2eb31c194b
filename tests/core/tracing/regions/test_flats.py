"""Flats: few true colours, borders that are one curve, every place covered once."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.methods import Borders, Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.regions.labelling import label_pixels, regions_of
from zeichen.core.tracing.regions.planar_map import map_of
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

GROUND, DARK, RED, GREEN = (252, 250, 245), (38, 42, 48), (200, 60, 50), (90, 150, 80)


def painted(draw, size: int = 200) -> Picture:
    """A picture drawn four times as large and averaged, so that its edges are antialiased."""
    canvas = np.full((size * 4, size * 4, 3), GROUND, np.uint8)
    draw(canvas, 4)
    return Picture(cv2.resize(canvas, (size, size), interpolation=cv2.INTER_AREA))


def plum(canvas, s):
    """A disc in two halves with a dark rim and a hole of ground."""
    cv2.circle(canvas, (100 * s, 100 * s), 80 * s, DARK, -1)
    cv2.circle(canvas, (100 * s, 100 * s), 70 * s, RED, -1)
    cv2.ellipse(canvas, (100 * s, 100 * s), (70 * s, 70 * s), 0, -60, 120, GREEN, -1)
    cv2.circle(canvas, (80 * s, 80 * s), 14 * s, GROUND, -1)


def flats(picture, **changes):
    return trace(picture, TraceSettings(method=Method.FLATS, **changes))


@pytest.fixture(scope="module")
def traced():
    return flats(painted(plum))


def test_the_figures_colours_are_found_and_the_ground_is_left_out(traced):
    fills = {shape.fill for shape in traced.drawing.shapes}
    assert len(fills) == 3
    for colour in (DARK, RED, GREEN):
        true = np.array(colour)
        assert min(np.abs(true - [int(f[k : k + 2], 16) for k in (1, 3, 5)]).max() for f in fills) <= 2


def test_neighbours_run_along_one_curve(traced):
    """Wherever two areas touch, the rim of one lies on the rim of the other to a thousandth of a pixel."""
    rims = [
        np.vstack([bezier.flatten(path.segments, tolerance=1e-4) for path in shape.paths])
        for shape in traced.drawing.shapes
    ]
    lines = [
        shapely.MultiLineString([bezier.flatten(path.segments, tolerance=1e-4) for path in shape.paths])
        for shape in traced.drawing.shapes
    ]
    shared = 0
    for k, rim in enumerate(rims):
        others = shapely.union_all([line for j, line in enumerate(lines) if j != k])
        gap = shapely.distance(shapely.points(rim), others)
        beside = gap < 0.3
        assert not ((gap > 1e-3) & (gap < 0.15)).any()
        shared += int(beside.sum())
    assert shared > 200


def test_no_gap_and_no_overlap_between_neighbours(traced):
    areas = [shape_area(shape, tolerance=1e-4) for shape in traced.drawing.shapes]
    together = shapely.union_all(areas)
    assert sum(area.area for area in areas) == pytest.approx(together.area, abs=0.01)
    disc = np.pi * 80**2 - np.pi * 14**2
    assert together.area == pytest.approx(disc, rel=3e-3)


def test_a_rim_on_which_borders_end_runs_on_smoothly(traced):
    """Two halves end on the inside of the dark ring: a circle all the same, with a node where each border ends."""
    dark = min(traced.drawing.shapes, key=lambda shape: int(shape.fill[1:], 16))
    inside = min(dark.paths, key=lambda path: path.area)
    assert inside.area == pytest.approx(-np.pi * 70**2, rel=3e-3)
    assert len(inside.segments) <= 6
    leave = inside.segments[:, 1] - inside.segments[:, 0]
    arrive = np.roll(inside.segments[:, 3] - inside.segments[:, 2], 1, axis=0)
    turn = np.abs(np.degrees(np.angle((leave @ [1, 1j]) / (arrive @ [1, 1j]))))
    assert turn.max() < 3


def test_neighbours_share_segments_to_a_ten_thousandth(traced):
    """Whoever flattens both sides of a border gets the same points."""
    rows = np.concatenate([path.segments.reshape(-1, 8) for path in traced.drawing.paths])
    back = np.concatenate([path.segments[:, ::-1].reshape(-1, 8) for path in traced.drawing.paths])
    gap = np.abs(rows[:, None] - back[None]).max(axis=2).min(axis=1)
    assert ((gap < 1e-4) | (gap > 1.0)).all() and (gap < 1e-4).sum() >= 8


@pytest.mark.parametrize("corner", [(100, 100), (90, 111)])
def test_where_areas_touch_at_a_corner_no_rim_touches_itself(corner):
    """Two fields of a board in a frame, and a frame that touches itself: rings that meet, each of them simple."""
    x, y = corner
    pixels = np.full((200, 200, 3), GROUND, np.uint8)
    pixels[30:170, 30:170] = DARK
    pixels[50:y, 50:x] = pixels[y:150, x:150] = RED
    traced = flats(Picture(pixels))
    assert traced.self_crossings == 0
    rings = [
        [shapely.Polygon(bezier.flatten(p.segments, tolerance=1e-3)) for p in shape.paths]
        for shape in traced.drawing.shapes
    ]
    assert all(ring.is_valid for found in rings for ring in found)
    frame, *holes = next(found for found in rings if len(found) == 3)
    assert [len(found) for found in rings].count(1) == 2
    assert frame.area == pytest.approx(140**2, rel=2e-3)
    fields = (y - 50) * (x - 50) + (150 - y) * (150 - x)
    assert sum(hole.area for hole in holes) == pytest.approx(fields, rel=5e-3)


def test_a_hole_of_ground_stays_a_hole_unless_the_ground_is_kept(traced):
    middle = shapely.Point(80, 80)
    assert not any(shape_area(s, tolerance=0.01).contains(middle) for s in traced.drawing.shapes)
    whole = flats(painted(plum), keep_ground=True)
    areas = [shape_area(shape, tolerance=0.001) for shape in whole.drawing.shapes]
    assert sum(area.area for area in areas) == pytest.approx(200 * 200, abs=0.05)
    assert any(area.contains(middle) for area in areas)


def test_a_colour_more_than_the_figure_has_makes_the_enclosed_ground_one():
    drawn = flats(painted(plum), colours=4)
    assert any(
        shape_area(s, tolerance=0.01).contains(shapely.Point(80, 80)) for s in drawn.drawing.shapes
    ) and not any(shape_area(s, tolerance=0.01).contains(shapely.Point(5, 5)) for s in drawn.drawing.shapes)


def test_antialiased_edges_leave_no_slivers_of_a_colour_between():
    """Black on white passes through every grey, also through one that is in the palette."""

    def draw(canvas, s):
        cv2.circle(canvas, (70 * s, 100 * s), 50 * s, (0, 0, 0), -1)
        cv2.rectangle(canvas, (140 * s, 60 * s), (180 * s, 140 * s), (128, 128, 128), -1)

    drawn = flats(painted(draw)).drawing
    assert len(drawn.shapes) == 2


def test_underlaid_colours_reach_under_their_neighbours_and_show_nothing_new():
    plain, under = flats(painted(plum)), flats(painted(plum), borders=Borders.UNDERLAID, underlay_px=3.0)
    count = len(plain.drawing.shapes)
    assert [s.fill for s in under.drawing.shapes[-count:]] == [s.fill for s in plain.drawing.shapes]
    strips = shapely.union_all([shape_area(s, tolerance=0.01) for s in under.drawing.shapes[:-count]])
    whole = shapely.union_all([shape_area(s, tolerance=0.01) for s in plain.drawing.shapes])
    assert strips.difference(whole.buffer(0.1)).area < 0.5
    seam = shapely.LineString([(40, 100), (160, 100)]).intersection(strips)
    assert seam.length > 6


def test_a_given_palette_is_used_as_it_is():
    drawn = flats(painted(plum), palette=("#202020", "#cc4030", "#508850"))
    assert {shape.fill for shape in drawn.drawing.shapes} == {"#202020", "#cc4030", "#508850"}


def test_a_picture_of_one_colour_is_refused():
    with pytest.raises(InvalidInputError, match="all ground"):
        flats(Picture(np.full((60, 60, 3), 200, np.uint8)))


def test_pure_noise_is_traced_or_refused_in_a_sentence():
    noise = np.random.default_rng(5).integers(0, 256, (120, 120, 3)).astype(np.uint8)
    try:
        assert flats(Picture(noise)).drawing.shapes
    except InvalidInputError as error:
        assert "." in str(error)


label_maps = st.integers(0, 2**32 - 1).map(
    lambda seed: cv2.resize(
        np.random.default_rng(seed).integers(0, 4, (7, 8)).astype(np.uint8),
        (23, 19),
        interpolation=cv2.INTER_NEAREST,
    ).astype(np.int32)
)


@examples(18)
@given(label_maps)
def test_a_planar_map_covers_the_sheet_exactly_once(labels):
    """The pixel areas of all regions, summed from the arcs around them, are those of the label map."""
    regions, count = regions_of(labels)
    planar = map_of(regions)
    area = np.zeros(count)
    for k in range(len(planar)):
        run = planar.corners(k)
        twice = float((run[:-1, 0] * run[1:, 1] - run[1:, 0] * run[:-1, 1]).sum())
        if planar.right[k] >= 0:
            area[planar.right[k]] += twice / 2
        if planar.left[k] >= 0:
            area[planar.left[k]] -= twice / 2
    assert area == pytest.approx(np.bincount(regions.ravel(), minlength=count))
    assert len(np.unique(planar.starts)) == len(planar.starts)


@examples(10)
@given(label_maps)
def test_every_arc_has_one_region_on_either_side_and_ends_at_junctions(labels):
    regions, _ = regions_of(labels)
    planar = map_of(regions)
    assert (planar.right != planar.left).all()
    for k in range(len(planar)):
        run = planar.corners(k)
        if planar.start[k] < 0:
            assert (run[0] == run[-1]).all()
        else:
            assert (run[0] == planar.junctions[planar.start[k]]).all()
            assert (run[-1] == planar.junctions[planar.end[k]]).all()


def test_mixed_pixels_go_to_one_of_the_two_areas_beside_them():
    picture = painted(plum)
    palette = np.array([GROUND, DARK, RED, GREEN, (150, 100, 70)], dtype=float)
    labels = label_pixels(picture.rgb, palette, min_spot_px2=4)
    assert 4 not in labels


def test_a_thin_dark_outline_stays_one_shape_of_even_width():
    """Three areas, each in an outline of 3 px, and the outlines joined by short lines."""
    width = 3.0

    def draw(canvas, s):
        for x, colour in ((40, RED), (95, GREEN), (150, (90, 110, 180))):
            corners = np.array([[x - 24, 60], [x + 20, 50], [x + 26, 140], [x - 20, 150]]) * s
            cv2.fillPoly(canvas, [corners], colour)
            cv2.polylines(canvas, [corners], True, DARK, round(width * s), cv2.LINE_AA)
        cv2.line(canvas, (63 * s, 100 * s), (73 * s, 100 * s), DARK, round(width * s))
        cv2.line(canvas, (118 * s, 100 * s), (128 * s, 100 * s), DARK, round(width * s))

    drawn = flats(painted(draw)).drawing
    dark = [s for s in drawn.shapes if max(int(s.fill[k : k + 2], 16) for k in (1, 3, 5)) < 80]
    assert len(dark) == 1
    area = shape_area(dark[0], tolerance=0.01)
    assert area.geom_type == "Polygon" or len(shapely.get_parts(area)) == 1
    # As thick as it was drawn everywhere: gone when pared by a little more than half, whole by a little less.
    assert area.buffer(-0.5 * width - 0.5).area < 0.03 * area.area
    assert len(shapely.get_parts(area.buffer(-0.5 * width + 0.55))) == 1


def test_a_junction_stays_where_three_colours_meet():
    def draw(canvas, s):
        for k, colour in enumerate((DARK, RED, GREEN)):
            cv2.ellipse(canvas, (97 * s, 103 * s), (70 * s, 70 * s), 10 + 120 * k, 0, 120, colour, -1)

    drawn = flats(painted(draw)).drawing
    ends = np.concatenate([path.segments[:, 0] for path in drawn.paths])
    # Drawing at four times the size puts the middle of a pixel, an eighth of ours, off.
    assert np.linalg.norm(ends - (97.1, 103.1), axis=1).min() < 0.3


def test_a_straight_rim_has_no_node_where_a_border_ends_on_it():
    """A frame around two halves: four lines inside, whatever meets them, and still no gap."""

    def draw(canvas, s):
        cv2.rectangle(canvas, (30 * s, 40 * s), (170 * s, 160 * s), DARK, -1)
        cv2.rectangle(canvas, (50 * s, 60 * s), (110 * s, 140 * s), RED, -1)
        cv2.rectangle(canvas, (110 * s, 60 * s), (150 * s, 140 * s), GREEN, -1)

    drawn = flats(painted(draw)).drawing
    dark = min(drawn.shapes, key=lambda shape: int(shape.fill[1:], 16))
    assert [len(path.segments) for path in dark.paths] == [4, 4]
    assert bezier.is_straight(np.concatenate([p.segments for p in drawn.paths]), tolerance=1e-6).all()
    areas = [shape_area(shape, tolerance=1e-4) for shape in drawn.shapes]
    together = shapely.union_all(areas)
    assert sum(area.area for area in areas) == pytest.approx(together.area, abs=1e-6)
    whole = shapely.Polygon(shapely.get_parts(together)[0].exterior)
    assert whole.area - together.area < 1e-6


@pytest.mark.parametrize("slant_deg", [22, 30, 45, 60, 90])
def test_a_border_ends_where_its_line_meets_the_rim_however_flatly(slant_deg):
    """Where three pixels touch may be several pixels from there."""
    slope = np.tan(np.radians(slant_deg))

    def draw(canvas, s):
        rows, columns = np.mgrid[0 : canvas.shape[0], 0 : canvas.shape[1]]
        x, y = (columns + 0.5) / s, (rows + 0.5) / s
        inside = (x > 20) & (x < 180) & (y > 20) & (y < 180)
        canvas[inside & (y < 100.3)] = DARK
        canvas[inside & (y >= 100.3)] = RED
        canvas[inside & (y >= 100.3) & (y - 100.3 < slope * (x - 60.6))] = GREEN

    drawn = flats(painted(draw)).drawing
    nodes = np.concatenate([path.segments[:, 0] for path in drawn.paths])
    assert np.linalg.norm(nodes - (60.6, 100.3), axis=1).min() < 0.35


def test_a_curved_rim_has_its_nodes_where_borders_end_on_it():
    """Six spokes end on a wavy rim: what lies between two of them is one curve."""

    def draw(canvas, s):
        rows, columns = np.mgrid[0 : canvas.shape[0], 0 : canvas.shape[1]]
        x, y = (columns + 0.5) / s - 100, (rows + 0.5) / s - 100
        away, turn = np.hypot(x, y), np.arctan2(y, x)
        canvas[away < 85] = DARK
        inside = away < 60 + 5 * np.sin(3 * turn)
        sixth = np.floor((turn + np.pi + 0.2) / (np.pi / 3)).astype(int) % 2
        canvas[inside & (sixth == 0)] = RED
        canvas[inside & (sixth == 1)] = GREEN
        # Six borders do not meet at one place: pixels have four corners.
        canvas[away < 8] = GROUND

    drawn = flats(painted(draw)).drawing
    dark = min(drawn.shapes, key=lambda shape: int(shape.fill[1:], 16))
    inside = min(dark.paths, key=lambda path: path.area)
    assert len(inside.segments) <= 9


@pytest.mark.parametrize("turn_deg", [1, 8, 23, 40])
@pytest.mark.parametrize("middle", [(97.3, 103.4), (100.5, 99.5)])
def test_four_areas_that_meet_in_one_place_have_a_corner_each_there(middle, turn_deg):
    """Pixels show two junctions beside each other there."""
    direction = np.radians(turn_deg)

    def draw(canvas, s):
        rows, columns = np.mgrid[0 : canvas.shape[0], 0 : canvas.shape[1]]
        x, y = (columns + 0.5) / s - middle[0], (rows + 0.5) / s - middle[1]
        u, v = x * np.cos(direction) + y * np.sin(direction), y * np.cos(direction) - x * np.sin(direction)
        inside = np.hypot(x, y) < 70
        for colour, part in zip(
            (DARK, RED, GREEN, (40, 90, 190)), ((1, 1), (-1, 1), (-1, -1), (1, -1)), strict=True
        ):
            canvas[inside & (u * part[0] > 0) & (v * part[1] > 0)] = colour

    drawn = flats(painted(draw)).drawing
    assert len(drawn.shapes) == 4
    for shape in drawn.shapes:
        assert len(shape.paths) == 1 and len(shape.paths[0].segments) <= 4
        away = np.linalg.norm(shape.paths[0].segments[:, 0] - middle, axis=1)
        assert (away < 0.2).sum() == 1
    areas = [shape_area(shape, tolerance=1e-4) for shape in drawn.shapes]
    together = shapely.union_all(areas)
    assert sum(area.area for area in areas) == pytest.approx(together.area, abs=1e-5)
    assert shapely.Polygon(shapely.get_parts(together)[0].exterior).area - together.area < 1e-5


@pytest.mark.parametrize("outer", [15.0, 24.0])
def test_a_small_star_in_a_soft_picture_keeps_its_tips(outer):
    """Its corners, so near to each other, are no noise, for which curves would be allowed to be off by pixels."""
    turn = np.pi * (np.arange(10) / 5 - 0.5)
    radius = np.where(np.arange(10) % 2, 0.47 * outer, outer)
    tips = np.array([60.2, 70.4]) + radius[:, None] * np.column_stack([np.cos(turn), np.sin(turn)])

    def draw(canvas, s):
        outline = [np.round(tips * s * 256).astype(np.int32)]
        cv2.fillPoly(canvas, outline, (251, 234, 43), cv2.LINE_8, 8)
        cv2.polylines(canvas, outline, True, (251, 234, 43), 4 * s, cv2.LINE_8, 8)
        # Kept apart by a rim of its own: borders that end on others are open runs.
        cv2.rectangle(canvas, (40 * s, 80 * s), (80 * s, 115 * s), GREEN, -1)

    small = cv2.resize(painted(draw, 128).rgb, (256, 256), interpolation=cv2.INTER_CUBIC).astype(float)
    noisy = small + np.random.default_rng(4).normal(0.0, 4.0, small.shape)
    traced = flats(Picture(np.clip(np.round(noisy), 0, 255).astype(np.uint8)), colours=2)
    star = next(shape for shape in traced.drawing.shapes if shape.fill.startswith("#f"))
    points = np.vstack([bezier.flatten(path.segments, tolerance=0.01) for path in star.paths])
    drawn = shapely.Polygon(2.0 * tips).buffer(4.0).difference(shapely.box(80, 160, 160, 230))
    assert shapely.distance(shapely.points(points), drawn.exterior).max() < 1.0
