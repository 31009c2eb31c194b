"""Every operation by hand: what it changes, what it leaves, what it refuses."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import blob, circle, drawing, examples, hole, polygon, rectangle, ring
from zeichen.core.editing import operations as ops
from zeichen.core.editing.arranging import transformed
from zeichen.core.editing.exact import find_axis
from zeichen.core.errors import ConflictError, InvalidInputError, NotFoundError
from zeichen.core.geometry import Drawing, Path, Scale, Shape
from zeichen.core.geometry.bezier import evaluate, line_segments

MM = Scale(0.5)


def do(draw: Drawing, operation: ops.Operation) -> Drawing:
    return ops.edited(draw, operation, MM)


def three() -> Drawing:
    return drawing(rectangle(0, 0, 20, 20), circle(60, 30, 10), rectangle(100, 90, 40, 10))


def area(draw: Drawing) -> float:
    return sum(path.area for path in draw.paths)


def box(draw: Drawing, name: str) -> tuple[float, ...]:
    return draw.shape(name).bounds()


@given(st.floats(-3, 3).filter(lambda v: abs(v) > 0.1), st.floats(-2, 2), st.floats(-50, 50))
def test_a_change_of_place_scales_area_by_its_determinant_and_keeps_it_positive(a, b, shift):
    draw = drawing(ring(50, 50, 30, 10))
    matrix = (a, b, -b, a, shift, 2 * shift)
    mirrored = transformed(draw, ["ring"], (-a, -b, -b, a, 0.0, 0.0))
    for made in (transformed(draw, ["ring"], matrix), mirrored):
        assert area(made) == pytest.approx((a * a + b * b) * area(draw), rel=1e-9)
        assert made.shapes[0].paths[0].area > 0 > made.shapes[0].paths[1].area


def test_moving_there_and_back_is_nothing_and_pens_scale():
    draw = three()
    there = do(draw, ops.Transform(("s2",), (1, 0, 0, 1, 13, -4)))
    back = do(there, ops.Transform(("s2",), (1, 0, 0, 1, -13, 4)))
    assert np.allclose(back.shapes[1].paths[0].segments, draw.shapes[1].paths[0].segments)
    line = Shape("l", (Path(line_segments(np.array([[0.0, 0], [9, 0]])), closed=False),), stroke_width=2.0)
    assert do(drawing(line), ops.Transform(("l",), (3, 0, 0, 3, 0, 0))).shapes[0].stroke_width == 6.0


@pytest.mark.parametrize("matrix", [(1, 0, 0, 0, 0, 0), (1, 0, 0), (float("nan"),) * 6])
def test_impossible_places_are_refused(matrix):
    with pytest.raises(InvalidInputError):
        do(three(), ops.Transform(("s1",), matrix))


def test_copies_have_ids_of_their_own_and_lie_aside():
    made = do(three(), ops.Duplicate(("s1", "s2"), away_mm=5))
    assert len({shape.id for shape in made.shapes}) == 5
    assert box(made, made.shapes[3].id) == pytest.approx((10, 10, 30, 30))


def test_the_last_shape_stays():
    with pytest.raises(ConflictError, match="Keep at least one"):
        do(three(), ops.Delete(("s1", "s2", "s3")))
    assert [shape.id for shape in do(three(), ops.Delete(("s2",))).shapes] == ["s1", "s3"]


@pytest.mark.parametrize(
    ("place", "order"),
    [("front", "s2 s3 s1"), ("up", "s2 s1 s3"), ("back", "s1 s2 s3"), ("down", "s1 s2 s3")],
)
def test_order(place, order):
    assert " ".join(shape.id for shape in do(three(), ops.Order(("s1",), place)).shapes) == order


def test_locked_shapes_are_left_alone_and_hidden_ones_do_not_count():
    locked = do(three(), ops.Mark(("s1",), locked=True))
    with pytest.raises(ConflictError, match="s1 is locked"):
        do(locked, ops.Delete(("s1",)))
    hidden = do(three(), ops.Mark(("s3",), hidden=True))
    assert len(hidden.shown().shapes) == 2 and hidden.shown().bounds()[3] == pytest.approx(40)
    with pytest.raises(ConflictError, match="hide everything"):
        do(three(), ops.Mark(("s1", "s2", "s3"), hidden=True))
    assert {s.group for s in do(three(), ops.Mark(("s1", "s2"), group="eyes")).shapes} == {"eyes", ""}


def test_shapes_line_up_and_spread_evenly():
    left = do(three(), ops.Align(("s1", "s2", "s3"), "left"))
    assert [box(left, name)[0] for name in ("s1", "s2", "s3")] == pytest.approx([0, 0, 0])
    middle = do(three(), ops.Align(("s1", "s2", "s3"), "middle"))
    assert [sum(box(middle, name)[1::2]) / 2 for name in ("s1", "s2", "s3")] == pytest.approx([50] * 3)
    alone = do(three(), ops.Align(("s2",), "centre"))
    assert sum(box(alone, "s2")[0::2]) / 2 == pytest.approx(70)
    spread = do(three(), ops.Distribute(("s1", "s2", "s3"), "across"))
    gaps = [box(spread, "s2")[0] - box(spread, "s1")[2], box(spread, "s3")[0] - box(spread, "s2")[2]]
    assert gaps[0] == pytest.approx(gaps[1])
    with pytest.raises(InvalidInputError, match="three"):
        do(three(), ops.Distribute(("s1", "s2"), "across"))


def pair() -> Drawing:
    return drawing(Shape("a", (circle(50, 50, 30),), "#aa5500"), Shape("b", (circle(80, 50, 30),), "#3e7b4f"))


def test_putting_shapes_together():
    lens = 2 * 900 * math.acos(0.5) - 15 * math.sqrt(4 * 900 - 900)
    disc = pair().shapes[0].area
    for how, truth in (("join", 2 * disc - lens), ("subtract", disc - lens), ("intersect", lens)):
        made = do(pair(), ops.Combine(("a", "b"), how))
        assert [shape.fill for shape in made.shapes] == ["#aa5500"]
        assert area(made) == pytest.approx(truth, rel=2e-3)
    parts = do(pair(), ops.Combine(("a", "b"), "split"))
    assert len(parts.shapes) == 3 and area(parts) == pytest.approx(2 * disc - lens, rel=2e-3)
    with pytest.raises(ConflictError, match="Nothing would be left"):
        do(three(), ops.Combine(("s1", "s2"), "intersect"))
    with pytest.raises(InvalidInputError, match="at least two"):
        do(pair(), ops.Combine(("a",), "join"))


def test_a_drawn_line_becomes_its_area_and_grows_by_its_pen():
    line = Shape("l", (Path(line_segments(np.array([[0.0, 0], [90, 0]])), closed=False),), stroke_width=4.0)
    made = do(drawing(line), ops.OutlineStroke(("l",)))
    assert made.shapes[0].stroke_width is None and area(made) == pytest.approx(360 + math.pi * 4, rel=1e-3)
    assert do(drawing(line), ops.Grow(("l",), 1.0)).shapes[0].stroke_width == 8.0
    with pytest.raises(InvalidInputError, match="drawn line"):
        do(pair(), ops.OutlineStroke(("a",)))


def test_growing_is_in_mm():
    """A square of 10 mm grown by 1 mm: A + P r + pi r^2 (Steiner), in px of half a millimetre."""
    made = do(drawing(rectangle(0, 0, 20, 20)), ops.Grow(("s1",), 1.0))
    assert area(made) * 0.25 == pytest.approx(100 + 40 + math.pi, rel=1e-4)
    with pytest.raises(ConflictError, match="Nothing would be left"):
        do(drawing(rectangle(0, 0, 20, 20)), ops.Grow(("s1",), -6.0))


def test_a_patch_joins_cuts_and_recolours_what_it_covers():
    board = drawing(Shape("board", (rectangle(0, 0, 100, 100),), "#aa5500"))
    loop = tuple((50 + 20 * math.cos(t), 50 + 20 * math.sin(t)) for t in np.linspace(0, 6.2, 60))
    cut = do(board, ops.Patch(loop, "cut"))
    assert area(cut) == pytest.approx(1e4 - math.pi * 400, rel=0.01)
    again = do(cut, ops.Patch(loop, "join", fill="#aa5500"))
    assert len(again.shapes) == 1 and area(again) == pytest.approx(1e4, rel=2e-3)
    other = do(board, ops.Patch(loop, "recolour", fill="#3e7b4f"))
    assert [shape.fill for shape in other.shapes] == ["#aa5500", "#3e7b4f"]
    assert area(other) == pytest.approx(1e4, rel=1e-6)
    fresh = do(board, ops.Patch(loop, "join", fill="#3e7b4f"))
    assert len(fresh.shapes) == 2
    with pytest.raises(InvalidInputError, match="encloses nothing"):
        do(board, ops.Patch(((0, 0), (5, 5)), "cut"))
    with pytest.raises(InvalidInputError, match="covers no shape"):
        do(board, ops.Patch(tuple((x + 300, y) for x, y in loop), "cut"))


@pytest.mark.parametrize(
    ("form", "share"),
    [
        ("box", 1.0),
        ("ellipse", math.pi / 4),
        ("polygon", 3 * math.sqrt(3) / 8),
        ("star", 3 * math.sqrt(3) / 8 / math.sqrt(3)),
    ],
)
def test_new_forms_fill_their_box_as_geometry_says(form, share):
    made = do(three(), ops.NewForm(form, (200, 0, 40, 40), 6))
    new = made.shapes[-1]
    assert new.area == pytest.approx(share * 1600, rel=2e-3 if form != "star" else 0.2)
    with pytest.raises(InvalidInputError):
        do(three(), ops.NewForm(form, (0, 0, 0, 10), 6))
    with pytest.raises(InvalidInputError, match="no form"):
        do(three(), ops.NewForm("spiral", (0, 0, 9, 9)))


def test_points_are_moved_put_in_and_taken_out():
    draw = drawing(Shape("b", (blob(4, 100, 100),)))
    path = draw.shapes[0].paths[0]
    more = do(draw, ops.EditNodes("b", 0, "insert", (3,), t=0.3))
    assert more.node_count == draw.node_count + 1 and area(more) == pytest.approx(area(draw), rel=1e-12)
    less = do(more, ops.EditNodes("b", 0, "remove", (4,)))
    assert less.node_count == draw.node_count and area(less) == pytest.approx(area(draw), rel=1e-4)
    moved = path.segments.copy()
    moved[0, 0] += 5
    moved[-1, 3] += 5
    rows = tuple(tuple(tuple(point) for point in segment) for segment in moved.tolist())
    redrawn = do(draw, ops.Redraw("b", 0, rows))
    assert redrawn.shapes[0].paths[0].segments[0, 0] == pytest.approx(path.segments[0, 0] + 5)
    with pytest.raises(InvalidInputError, match="follow on each other"):
        do(draw, ops.Redraw("b", 0, (rows[0], rows[5])))
    with pytest.raises(NotFoundError, match="no node 99"):
        do(draw, ops.EditNodes("b", 0, "remove", (99,)))


def test_a_corner_taken_out_between_straight_sides_leaves_a_straight_side():
    square = drawing(polygon((0, 0), (40, 0), (40, 40), (20, 60), (0, 40)))
    made = do(square, ops.EditNodes("s1", 0, "remove", (3,)))
    assert area(made) == pytest.approx(1600)


def test_smooth_corner_straight_round():
    draw = drawing(rectangle(0, 0, 40, 40))
    smooth = do(draw, ops.EditNodes("s1", 0, "smooth", (1,))).shapes[0].paths[0].segments
    before, after = smooth[1, 0] - smooth[0, 2], smooth[1, 1] - smooth[1, 0]
    assert abs(before[0] * after[1] - before[1] * after[0]) < 1e-9
    back = do(draw, ops.EditNodes("s1", 0, "corner", (1,)))
    assert area(back) == pytest.approx(1600)
    flat = do(drawing(circle(0, 0, 10)), ops.EditNodes("s1", 0, "straighten", (0, 1, 2, 3)))
    assert area(flat) == pytest.approx(200)
    # Four corners of a square lose (4 - pi) r^2 between them; 1 mm is 2 px.
    soft = do(draw, ops.EditNodes("s1", 0, "round", radius_mm=1.0))
    assert area(soft) == pytest.approx(1600 - (4 - math.pi) * 4, rel=1e-5) and soft.node_count == 8


def test_cut_and_join_again():
    draw = drawing(rectangle(0, 0, 40, 40))
    opened = do(draw, ops.EditNodes("s1", 0, "cut", (2,)))
    (path,) = opened.shapes[0].paths
    assert not path.closed and path.end_gap == 0
    two = do(opened, ops.EditNodes("s1", 0, "cut", (2,)))
    assert [len(p.segments) for p in two.shapes[0].paths] == [2, 2]
    one = do(two, ops.EditNodes("s1", 0, "join", other=1))
    whole = do(one, ops.EditNodes("s1", 0, "join"))
    assert whole.shapes[0].paths[0].closed and abs(area(whole)) == pytest.approx(1600)


@examples(12)
@given(st.floats(0.2, 2.9), st.integers(0, 30))
def test_the_axis_of_what_is_symmetric_is_found_and_made_exact(angle, seed):
    rng = np.random.default_rng(seed)
    t = np.linspace(0, math.pi, 9)
    r = 40 + 25 * rng.random(9)
    half = np.stack([r * np.cos(t), r * np.sin(t)], axis=1)
    ring_points = np.vstack([half, half[-2:0:-1] * (1, -1)])
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    draw = drawing(polygon(*map(tuple, (ring_points @ turn + 100).tolist())))
    if area(draw) < 0:
        draw = drawing(Path(draw.shapes[0].paths[0].segments[::-1, ::-1]))
    axis = find_axis(draw, ["s1"])
    assert axis.overlap > 0.985
    made = do(draw, ops.MakeSymmetric(("s1",)))
    corners = np.concatenate([path.segments[:, 0] for path in made.paths])
    image = find_axis(made, ["s1"])
    assert image.overlap == pytest.approx(1.0, abs=2e-3) or axis.overlap < 0.99
    mirrored = axis.mirrored(corners)
    off = np.hypot(*(mirrored[:, None] - corners[None]).transpose(2, 0, 1)).min(axis=1)
    assert off.max() < 1e-3
    assert area(made) == pytest.approx(area(draw), rel=0.03)


def test_what_is_not_nearly_symmetric_is_left():
    with pytest.raises(InvalidInputError, match="not nearly symmetric"):
        do(
            drawing(polygon((0, 0), (100, 0), (100, 10), (10, 10), (10, 60), (0, 60))),
            ops.MakeSymmetric(("s1",)),
        )


def test_nearly_true_becomes_true():
    rough = polygon((0, 0), (100, 0.1), (100.1, 50), (0, 50.1))
    made = do(drawing(rough), ops.Tidy(("s1",), 0.2)).shapes[0].paths[0].segments
    assert np.allclose(made[0, 0, 1], made[0, 3, 1]) and np.allclose(made[1, 0, 0], made[1, 3, 0])
    wobbly = circle(50, 50, 30)
    bent = Path(
        wobbly.segments
        + 0.05 * np.sin(np.arange(32).reshape(4, 4, 2)) * (np.arange(4) % 3 > 0)[None, :, None]
    )
    (round_one,) = do(drawing(bent), ops.Tidy(("s1",), 0.2)).paths
    far = evaluate(round_one.segments, np.linspace(0, 1, 20)).reshape(-1, 2)
    middle = far.mean(axis=0)
    assert np.ptp(np.hypot(*(far - middle).T)) < 0.02


def test_colours_of_all_or_of_some():
    both = pair()
    assert [s.fill for s in do(both, ops.Recolour({"#aa5500": "#102030"})).shapes] == ["#102030", "#3e7b4f"]
    assert [s.fill for s in do(both, ops.Recolour(ids=("b",), fill="#ABCDEF")).shapes] == [
        "#aa5500",
        "#abcdef",
    ]
    assert len({s.fill for s in do(both, ops.MergeColours(1)).shapes}) == 1
    assert do(both, ops.Tone(lightness=0.5)).shapes[0].fill != "#aa5500"
    with pytest.raises(InvalidInputError):
        do(both, ops.Recolour(ids=("b",), fill="green"))


def test_letters_are_set_where_asked_and_can_be_set_anew():
    made = do(three(), ops.Letter("Row", "oswald", 5.0, 70, 150))
    letters = made.shapes[-1]
    x0, y0, x1, y1 = box(made, letters.id)
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((70, 150))
    # 5 mm of capitals at half a millimetre a px.
    assert y1 - y0 == pytest.approx(10, rel=0.05)
    assert json.loads(letters.letters)["text"] == "Row"
    anew = do(made, ops.Letter("Plot", "oswald", 5.0, 70, 150, replaces=letters.id))
    assert len(anew.shapes) == 4 and json.loads(anew.shapes[-1].letters)["text"] == "Plot"
    moved = do(anew, ops.Transform((letters.id,), (1, 0, 0, 1, 5, 5)))
    assert moved.shapes[-1].letters == ""


def test_real_letters_take_the_place_of_traced_ones_in_one_step():
    pieces = [rectangle(100 + 8 * k, 160, 4, 6) for k in range(5)]
    figure = Shape("figure", (circle(80, 80, 60), *pieces[:2]))
    traced = drawing(figure, *(Shape(f"p{k}", (piece,)) for k, piece in enumerate(pieces[2:])))
    locked = replace(traced, shapes=(*traced.shapes[:-1], replace(traced.shapes[-1], locked=True)))
    made = do(locked, ops.Letter("Row", "oswald", 3.0, 120, 163, clears=(100, 160, 136, 166)))
    assert [shape.id for shape in made.shapes] == ["figure", "p2", "letters1"]
    assert len(made.shapes[0].paths) == 1, "two of its paths were letters"


def test_every_operation_has_words_for_the_history():
    samples = [
        ops.Transform((), ()), ops.Duplicate(()), ops.Delete(()), ops.Order((), "front"), ops.Mark(()),
        ops.Align((), "left"), ops.Distribute((), "across"), ops.OutlineStroke(()), ops.Grow((), -1.5),
        ops.Simplify(()), ops.MakeSymmetric(()), ops.Tidy(()), ops.NewForm("box", (0, 0, 1, 1)),
        ops.Redraw("s", 0, ()), ops.EditNodes("s", 0, "cut"), ops.Recolour(), ops.Tone(), ops.MergeColours(1),
        ops.Letter("Hi", "oswald", 5, 0, 0), 
        *(ops.Combine((), how) for how in ("join", "subtract", "intersect", "split")),
        *(ops.Patch((), how) for how in ("join", "cut", "recolour")),
    ]  # fmt: skip
    words = [ops.in_words(operation) for operation in samples]
    assert all(words) and "shrank by 1.5 mm" in words
    assert {type(sample) for sample in samples} == set(ops.Operation.__args__)


def test_a_hole_stays_a_hole_when_shapes_are_joined():
    made = do(
        drawing(Shape("r", (circle(50, 50, 40), hole(circle(50, 50, 20)))), circle(95, 50, 10)),
        ops.Combine(("r", "s2"), "join"),
    )
    assert sorted(path.area > 0 for path in made.paths) == [False, True]
