"""Each mend takes its finding away and touches nothing else; Mend all leaves nothing it would mend again."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import blob, circle, drawing, examples, hole, polygon, rectangle, ring, star_drawings
from zeichen.core.colour.merging import merged_colours
from zeichen.core.errors import ConflictError, InvalidInputError
from zeichen.core.geometry import Drawing, Path, Scale, Shape, drawing_area
from zeichen.core.geometry.bezier import circle_segments, evaluate, line_segments, split
from zeichen.core.proofing import How, Kind, Limits, Process, Yardstick, mend, mend_all, proof

ENGRAVE = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=100)
CUT = Yardstick.usual(Process.LASER_CUT, width_mm=100)
STENCIL = Yardstick.usual(Process.STENCIL, width_mm=100)
CARVE = Yardstick.usual(Process.CARVE, width_mm=100)
END_MILL = Yardstick("carve", 100, "", 1e4, 1e4, Limits(0.4, 0.4, 0.6, corner_mm=1.5))  # type: ignore[arg-type]


def many_nodes() -> Path:
    segments = circle_segments((100.0, 100.0), radius=10)
    for k in range(6):
        for at in range(len(segments) - 1, -1, -1):
            segments = split(segments, at, 0.4 + 0.02 * k)
    return Path(segments)


TAB = (rectangle(0, 0, 80, 100), rectangle(120, 0, 80, 100), rectangle(80, 49.9, 40, 0.2))
CASES = {
    "open path": (
        drawing(Path(line_segments(np.array([[0.0, 0], [200, 0], [200, 150], [0, 150]])), closed=False)),
        ENGRAVE, Kind.OPEN_PATH, How.CLOSE,
    ),
    "crossing": (drawing(polygon((0, 0), (200, 100), (200, 0), (0, 100))), ENGRAVE, Kind.SELF_CROSSING, How.UNTANGLE),
    "doubled": (
        drawing(rectangle(0, 0, 200, 90), rectangle(0, 0, 200, 90)), ENGRAVE, Kind.DUPLICATE_OUTLINE, How.KEEP_ONE,
    ),
    "ground": (
        drawing(Shape("g", (rectangle(0, 0, 200, 200),), "#ffffff"), circle(100, 100, 60)),
        ENGRAVE, Kind.GROUND, How.DROP,
    ),
    "signature": (
        Drawing(200, 200, (
            Shape("figure", (circle(90, 80, 60),)),
            Shape("scribble", (rectangle(160, 186, 22, 4),)),
        )), ENGRAVE, Kind.SIGNATURE, How.DROP,
    ),
    "hidden": (
        drawing(Shape("below", (circle(100, 100, 20),), "#884422"), circle(100, 100, 80)),
        ENGRAVE, Kind.HIDDEN_SHAPE, How.DROP,
    ),
    "overlap": (
        drawing(rectangle(0, 0, 100, 100), Shape("t", (circle(100, 50, 40),), "#884422")),
        ENGRAVE, Kind.OVERLAP, How.SUBTRACT,
    ),
    "overlap of one colour": (drawing(rectangle(0, 0, 100, 100), circle(100, 50, 40)), ENGRAVE, Kind.OVERLAP, How.JOIN),
    "border gap": (
        drawing(
            Shape("a", (rectangle(0, 0, 100, 100),), "#335588"), Shape("b", (rectangle(100.1, 0, 100, 100),), "#cc8844")
        ), ENGRAVE, Kind.BORDER_GAP, How.SHARE_BORDER,
    ),
    "speck": (drawing(circle(100, 100, 80), circle(5, 5, 0.5)), ENGRAVE, Kind.SPECK, How.DROP),
    "speck on its like": (
        drawing(Shape("a", (circle(100, 100, 80),), "#335588"), Shape("b", (circle(100, 40, 0.5),), "#3a5b8c")),
        ENGRAVE, Kind.SPECK, How.ABSORB,
    ),
    "pin hole": (
        drawing(Shape("p", (circle(100, 100, 80), hole(circle(90, 90, 0.5))))),
        ENGRAVE, Kind.PIN_HOLE, How.FILL),
    "nodes": (drawing(Shape("n", (many_nodes(),)), circle(20, 20, 19)), ENGRAVE, Kind.NODES, How.SIMPLIFY),
    "tight corner": (drawing(rectangle(0, 0, 200, 100)), END_MILL, Kind.TIGHT_CORNER, How.RELIEVE),
    "fine tip": (drawing(polygon((0, 45), (200, 50), (0, 55))), ENGRAVE, Kind.FINE_TIP, How.BLUNT),
    "thin part": (drawing(*TAB), ENGRAVE, Kind.THIN_PART, How.THICKEN),
    "thin stroke": (
        drawing(circle(40, 40, 40), Shape(
            "line", (Path(line_segments(np.array([[90.0, 10], [200, 10]])), closed=False),), stroke_width=0.1
        )), ENGRAVE, Kind.THIN_PART, How.THICKEN,
    ),
    "small gap": (
        drawing(rectangle(0, 0, 99.9, 100), rectangle(100.1, 0, 99.9, 100)), ENGRAVE, Kind.SMALL_GAP, How.OPEN,
    ),
    "loose piece": (drawing(rectangle(0, 0, 80, 100), rectangle(90, 0, 110, 100)), CUT, Kind.LOOSE_PIECE, How.BRIDGE),
    "island": (drawing(ring(100, 100, 90, 40)), STENCIL, Kind.LOOSE_PIECE, How.BRIDGE),
    "off the sheet": (drawing(circle(100, 100, 40), circle(205, 50, 20)), ENGRAVE, Kind.OFF_SHEET, How.MOVE_IN),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_a_mend_takes_its_finding_away(name):
    draw, yardstick, kind, how = CASES[name]
    before = proof(draw, yardstick).findings
    of_kind = [finding for finding in before if finding.kind is kind]
    assert of_kind, [finding.kind for finding in before]
    assert all(finding.mends[0] is how for finding in of_kind)
    after = proof(mend(draw, yardstick, of_kind, how), yardstick).findings
    assert kind not in {finding.kind for finding in after}
    assert {finding.kind for finding in after} <= {finding.kind for finding in before} - {kind}


@pytest.mark.parametrize("name", CASES)
def test_mend_all_makes_it_cut_ready_and_a_second_run_changes_nothing(name):
    draw, yardstick, kind, how = CASES[name]
    mended = mend_all(draw, yardstick)
    assert mended.proof.cut_ready
    assert (kind, how) in {(done.finding.kind, done.how) for done in mended.done}
    again = mend_all(mended.drawing, yardstick)
    assert not again.changed and again.drawing == mended.drawing


def far_points(path: Path, place: tuple[float, float], away: float) -> np.ndarray:
    points = evaluate(path.segments, np.linspace(0, 1, 40)).reshape(-1, 2)
    return points[np.hypot(*(points - place).T) > away]


def test_thickening_leaves_everything_else_where_it_was():
    draw, yardstick, *_ = CASES["thin part"]
    (thin,) = [f for f in proof(draw, yardstick).findings if f.kind is Kind.THIN_PART]
    mended = mend(draw, yardstick, [thin], How.THICKEN)
    for before, after in zip(draw.shapes[:2], mended.shapes[:2], strict=True):
        assert after.paths == before.paths or before == after
    bar = mended.shapes[2]
    # 0.15 mm at 100 mm is 0.3 px: the bar is that high now, and no more than 2 % more.
    x0, y0, x1, y1 = bar.bounds()
    assert 0.3 <= y1 - y0 <= 0.31 and x0 >= 79.5 and x1 <= 120.5


LOCAL = [
    "open path", "border gap", "pin hole", "speck", "tight corner", "fine tip", "thin part", "thin stroke",
    "small gap", "nodes",
]  # fmt: skip


@pytest.mark.parametrize("turned_deg", [0.0, 31.0])
@pytest.mark.parametrize("name", LOCAL)
def test_outside_the_mended_places_nothing_moves_by_a_hundredth_of_a_millimetre(name, turned_deg):
    draw, yardstick, kind, how = CASES[name]
    angle = math.radians(turned_deg)
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    draw = draw.moved(lambda points: points @ turn + (300, 300), width=800, height=800)
    mm_per_px = Scale.from_width(draw, width_mm=yardstick.finished_width_mm(draw)).mm_per_px
    found = [finding for finding in proof(draw, yardstick).findings if finding.kind is kind]
    before, after = (drawing_area(each, tolerance=1e-3) for each in (draw, mend(draw, yardstick, found, how)))
    places = []
    for finding in found:
        middles = [(point.x, point.y) for point in finding.trail_px] or [(finding.x_px, finding.y_px)]
        wide = max(finding.limit, finding.measured if finding.unit == "mm" else 0.0, 0.3)
        places.append(shapely.MultiPoint(middles).buffer(2.0 * wide / mm_per_px))
    elsewhere = before.symmetric_difference(after).difference(shapely.union_all(places))
    assert elsewhere.buffer(-0.005 / mm_per_px).is_empty


def test_opening_a_gap_takes_no_more_than_it_needs():
    draw, yardstick, *_ = CASES["small gap"]
    mended = mend(draw, yardstick, list(proof(draw, yardstick).findings), How.OPEN)
    lost = sum(shape.area for shape in draw.shapes) - sum(shape.area for shape in mended.shapes)
    assert lost == pytest.approx(100 * (0.3 * 1.02 - 0.2), rel=0.02)


def test_sharing_a_border_makes_it_one_curve():
    draw, yardstick, *_ = CASES["border gap"]
    mended = mend(draw, yardstick, list(proof(draw, yardstick).findings), How.SHARE_BORDER)
    first, second = (shape.paths[0].segments[:, 0, 0] for shape in mended.shapes)
    assert first.max() == pytest.approx(second.min(), abs=1e-6)


def test_a_bridge_is_as_wide_as_the_process_holds_and_goes_the_short_way():
    draw, yardstick, *_ = CASES["loose piece"]
    (loose,) = [f for f in proof(draw, yardstick).findings if f.kind is Kind.LOOSE_PIECE]
    mended = mend(draw, yardstick, [loose], How.BRIDGE)
    added = sum(shape.area for shape in mended.shapes) - sum(shape.area for shape in draw.shapes)
    # 10 px between the pieces, a bar of 1.5 mm and a tenth, that is 3.3 px.
    assert added == pytest.approx(10 * 3.3, rel=0.03)
    assert len(mended.shapes) == 1


def test_a_large_island_hangs_on_two_bridges():
    draw, yardstick, *_ = CASES["island"]
    mended = mend_all(draw, yardstick).drawing
    assert len(mended.shapes[0].paths) == 2


def test_a_stray_crumb_is_dropped_and_a_large_piece_far_away_is_for_the_maker():
    crumb = drawing(circle(80, 100, 70), circle(190, 190, 3))
    assert [d.how for d in mend_all(crumb, CUT).done if d.finding.kind is Kind.LOOSE_PIECE] == [How.DROP]
    far = drawing(rectangle(0, 0, 50, 100), rectangle(150, 0, 50, 100))
    left = mend_all(far, CUT)
    assert not left.changed and [f.kind for f in left.proof.findings] == [Kind.LOOSE_PIECE]
    held = mend(far, CUT, list(left.proof.findings), How.BRIDGE)
    assert proof(held, CUT).cut_ready


def test_a_pin_hole_made_by_a_light_shape_on_top_is_seen_and_filled():
    disc = Shape("d", (circle(100, 100, 80),))
    dot, eye = Shape("w", (circle(60, 80, 0.4),), "#ffffff"), Shape("e", (circle(130, 80, 12),), "#ffffff")
    pierced = Drawing(200, 200, (disc, dot, eye))
    (finding,) = [each for each in proof(pierced, ENGRAVE).findings if each.kind is Kind.PIN_HOLE]
    assert finding.shape == "w" and finding.mends == (How.FILL,)
    mended = mend_all(pierced, ENGRAVE)
    assert mended.proof.cut_ready and [shape.id for shape in mended.drawing.shapes] == ["d", "e"]


def test_only_the_kinds_asked_for_are_mended():
    pierced = Shape("p", (circle(100, 195, 4), hole(circle(100, 195, 0.4))))
    both = drawing(circle(100, 100, 80), circle(5, 5, 0.5), pierced)
    mended = mend_all(both, ENGRAVE, only=[Kind.PIN_HOLE])
    assert {done.finding.kind for done in mended.done} == {Kind.PIN_HOLE}
    assert [finding.kind for finding in mended.proof.findings] == [Kind.SPECK]


def test_what_has_no_such_mend_is_refused():
    draw, yardstick, *_ = CASES["speck"]
    (speck,) = proof(draw, yardstick).findings
    with pytest.raises(InvalidInputError, match=r"thicken does not mend a speck\. Its mends: drop"):
        mend(draw, yardstick, [speck], How.THICKEN)


def test_the_last_shape_is_not_dropped():
    alone = drawing(polygon((0, 0), (200, 100), (200, 0), (0, 100)))
    (crossing,) = proof(alone, ENGRAVE).findings
    with pytest.raises(ConflictError, match="last shape"):
        mend(alone, ENGRAVE, [crossing], How.DROP)


def test_too_large_and_likely_letters_are_said_and_left():
    small_blank = Yardstick(Process.LASER_ENGRAVE, 100, "tag", 60, 60, ENGRAVE.limits)
    found = proof(drawing(rectangle(0, 0, 200, 50)), small_blank).findings
    assert [(f.kind, f.limit, f.mends) for f in found] == [(Kind.TOO_LARGE, 60, ())]
    letters = [rectangle(20 + 8 * k, 150, 3 + k % 3, 6) for k in range(6)]
    drawn = drawing(circle(100, 70, 70), circle(0.5, 70, 0.5), *letters)
    (likely,) = [f for f in proof(drawn, ENGRAVE).findings if f.kind is Kind.LETTERING]
    assert not likely.sure and likely.mends == ()


def test_the_nearest_colours_are_merged_and_the_larger_keeps_its_own():
    areas = {"#335588": 100.0, "#3a5b8c": 10.0, "#cc8844": 60.0, "#202020": 40.0}
    into = merged_colours(areas, most=3)
    assert into["#3a5b8c"] == "#335588" and len(set(into.values())) == 3
    assert set(merged_colours(areas, most=1).values()) == {"#335588"}
    relief = Yardstick("relief", 100, "", 1e4, 1e4, Limits(0.8, 0.4, 1.0, colours=2))  # type: ignore[arg-type]
    shapes = [Shape(name, (rectangle(50 * k, 0, 48, 100),), name) for k, name in enumerate(areas)]
    mended = mend_all(drawing(*shapes), relief)
    assert len({shape.fill for shape in mended.drawing.shapes}) == 2 and mended.proof.cut_ready


@st.composite
def spoiled(draw) -> Drawing:
    """A sound figure with things a machine would stumble over."""
    whole = draw(star_drawings())
    extra: list[Shape] = []
    if draw(st.booleans()):
        extra.append(Shape("speck", (circle(draw(st.floats(1, 8)), draw(st.floats(1, 8)), 0.4),)))
    if draw(st.booleans()):
        x = draw(st.floats(60, 120))
        extra.append(Shape("bow", (polygon((x, 60), (x + 40, 80), (x + 40, 60), (x, 80)),)))
    if draw(st.booleans()):
        extra.append(Shape("twice", whole.shapes[0].paths, whole.shapes[0].fill))
    if draw(st.booleans()):
        extra.append(Shape("hair", (rectangle(100, 0, draw(st.floats(0.05, 0.25)), 100),)))
    if draw(st.booleans()):
        extra.append(Shape("under", (circle(100, 100, 10),), "#c07040"))
    return Drawing(200, 200, (*extra[-1:], *whole.shapes, *extra[:-1]))


@examples(10)
@given(spoiled(), st.sampled_from([ENGRAVE, CARVE]))
def test_a_spoiled_drawing_becomes_sound_or_says_what_is_left(draw, yardstick):
    before = proof(draw, yardstick)
    mended = mend_all(draw, yardstick)
    assert len(mended.proof.findings) <= len(before.findings)
    assert not mend_all(mended.drawing, yardstick).changed
    sound = {Kind.SELF_CROSSING, Kind.DUPLICATE_OUTLINE, Kind.HIDDEN_SHAPE, Kind.OPEN_PATH}
    assert not sound & {finding.kind for finding in mended.proof.findings}


@pytest.mark.parametrize("angle", [20.0, 45.0, 90.0])
def test_a_relieved_corner_is_the_tools_circle(angle):
    """The arc begins radius / tan(angle / 2) from the corner (derived), and is that circle's."""
    half = math.radians(angle) / 2
    x, y = 90 * math.cos(half), 90 * math.sin(half)
    wedge = polygon((100, 50), (100 + x, 50 + y), (100 + x, 50 - y))
    wedge = Path(wedge.segments[::-1, ::-1]) if wedge.area < 0 else wedge
    draw = drawing(wedge)
    corners = [f for f in proof(draw, END_MILL).findings if f.kind is Kind.TIGHT_CORNER]
    assert len(corners) == 3
    at_tip = [f for f in corners if math.hypot(f.x_px - 100, f.y_px - 50) < 1e-6]
    mended = mend(draw, END_MILL, at_tip, How.RELIEVE)
    radius = 1.5 * 1.02 / (100 / (90 * math.cos(half)))
    (path,) = mended.shapes[0].paths
    starts = path.segments[:, 0]
    reach = np.sort(np.hypot(*(starts - (100, 50)).T))[:2]
    assert reach == pytest.approx([radius / math.tan(half)] * 2, rel=1e-3)


def pen(*points: tuple[float, float], name: str, width: float = 8.0) -> Shape:
    line = Path(line_segments(np.array(points, float)), closed=False)
    return Shape(name, (line,), "#222222", "nonzero", width)


CROSS = Drawing(200, 200, (pen((20, 100), (180, 100), name="a"), pen((100, 20), (100, 180), name="b")))


def test_crossing_strokes_are_no_fault_where_a_tool_draws_them():
    assert proof(CROSS, ENGRAVE).cut_ready and proof(CROSS, CARVE).cut_ready
    assert [finding.kind for finding in proof(CROSS, CUT).findings] == [Kind.OVERLAP]


def test_strokes_joined_for_cutting_become_the_area_of_their_pens():
    mended = mend_all(CROSS, CUT)
    (shape,) = mended.drawing.shapes
    # Two bars with round ends, and the square of their crossing once.
    bar = 160 * 8 + math.pi * 16
    assert mended.proof.cut_ready and shape.stroke_width is None
    assert shape.area == pytest.approx(2 * bar - 64, rel=1e-4)


def test_a_loose_stroke_is_held_by_a_bridge_of_one_outline():
    loose = Drawing(200, 200, (pen((20, 60), (180, 60), name="a"), pen((20, 100), (180, 100), name="b")))
    mended = mend_all(loose, CUT)
    (shape,) = mended.drawing.shapes
    assert mended.proof.cut_ready and shape.stroke_width is None and mended.proof.readings.pieces == 1
    assert area_added(loose, mended.drawing) < 0.12 * drawing_area(loose, tolerance=0.01).area


def area_added(before: Drawing, after: Drawing) -> float:
    return float(drawing_area(after, tolerance=0.01).difference(drawing_area(before, tolerance=0.01)).area)


def test_strokes_are_not_made_areas_unasked_where_a_tool_draws_them():
    near = Drawing(200, 200, (pen((20, 60), (180, 60), name="a"), pen((20, 68.1), (180, 68.1), name="b")))
    (finding,) = proof(near, ENGRAVE).findings
    assert finding.kind is Kind.SMALL_GAP
    assert not mend_all(near, ENGRAVE).changed
    opened = mend(near, ENGRAVE, [finding], How.OPEN)
    assert {shape.stroke_width for shape in opened.shapes} == {None}
    # Between round ends it stays a hair narrower: their middles are measured less far out.
    assert proof(opened, ENGRAVE).readings.smallest_gap_mm == pytest.approx(0.15, abs=0.006)


def test_a_crumb_beside_a_shape_is_a_speck_and_an_eye_on_it_is_not():
    # The crumb lies in the corner that the shape leaves free: in its box, not on it.
    around = Shape("around", (polygon((0, 0), (200, 0), (200, 99), (6, 99), (6, 200), (0, 200)),), "#aa5500")
    crumb = Shape("crumb", (rectangle(100, 103, 2, 0.3),), "#345678")
    mended = mend_all(Drawing(200, 200, (around, crumb)), CARVE)
    assert [(done.finding.kind, done.how) for done in mended.done] == [(Kind.SPECK, How.DROP)]
    eye = Shape("eye", (circle(100, 99, 0.85),), "#345678")
    assert Kind.SPECK not in {each.kind for each in proof(Drawing(200, 200, (around, eye)), CARVE).findings}


@pytest.mark.parametrize("fills", [("#222222", "#222222"), ("#aa5500", "#335577")])
def test_a_bridge_has_no_nick_where_it_meets_the_rest(fills):
    for seed in (15, 35, 88, 109):
        rng = np.random.default_rng(seed)
        pieces = [
            blob(seed * 10 + k, *at, radius=rng.uniform(25, 35))
            for k, at in enumerate(((70, 70), (122, 122)))
        ]
        two = Drawing(200, 200, tuple(Shape(f"s{k}", (pieces[k],), fills[k]) for k in range(2)))
        mended = mend_all(two, CUT)
        assert mended.proof.cut_ready and mended.proof.readings.pieces == 1


def test_a_hairline_between_two_colours_closes_without_crumbs():
    t = np.linspace(0, 200, 60)
    wave = 100 + 6 * np.sin(t / 15)
    left = np.vstack([[0, 0], *np.stack([wave - 0.04 * (1 + np.sin(t)), t], axis=1), [0, 200], [0, 0]])
    right = np.vstack([[200, 0], [200, 200], *np.stack([wave, t], axis=1)[::-1], [200, 0]])
    two = Drawing(200, 200, (
        Shape("l", (Path(line_segments(left)),), "#aa5500"), Shape("r", (Path(line_segments(right)),), "#335577"),
    ))  # fmt: skip
    assert Kind.BORDER_GAP in {finding.kind for finding in proof(two, ENGRAVE).findings}
    mended = mend_all(two, ENGRAVE)
    assert mended.proof.cut_ready
    assert sum(shape.area for shape in mended.drawing.shapes) == pytest.approx(40_000, rel=1e-5)
