"""Everything a maker can do to a drawing by hand, as data: what is sent, kept in the history's words, and done.

Lengths in mm are at the drawing's finished size; places and matrices are in drawing units.
"""

import json
from dataclasses import asdict, dataclass, field, replace
from typing import Literal

import numpy as np

from zeichen.core.colour import merged, recoloured, toned
from zeichen.core.colour.recolouring import fills
from zeichen.core.editing import arranging, exact, points, shaping
from zeichen.core.editing.simplify_together import simplified_together
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.geometry.extent import require_extent, require_numbers, require_reach, require_shape_sizes
from zeichen.core.geometry.placement import Scale
from zeichen.core.lettering import Bend, LetterOrder, lettered
from zeichen.core.values import require_number, require_palette

# New borders are this exact, mm.
_EXACT_MM = 0.002


@dataclass(frozen=True, slots=True)
class Transform:
    """Move, turn, scale or mirror by a matrix (a, b, c, d, e, f)."""

    ids: tuple[str, ...]
    matrix: tuple[float, ...]
    kind: Literal["transform"] = "transform"


@dataclass(frozen=True, slots=True)
class Duplicate:
    ids: tuple[str, ...]
    away_mm: float = 2.0
    kind: Literal["duplicate"] = "duplicate"


@dataclass(frozen=True, slots=True)
class Delete:
    ids: tuple[str, ...]
    kind: Literal["delete"] = "delete"


@dataclass(frozen=True, slots=True)
class Order:
    ids: tuple[str, ...]
    place: str
    kind: Literal["order"] = "order"


@dataclass(frozen=True, slots=True)
class Mark:
    """Group (a name, or '' to take apart), lock or hide, or not; None leaves it."""

    ids: tuple[str, ...]
    group: str | None = None
    locked: bool | None = None
    hidden: bool | None = None
    kind: Literal["mark"] = "mark"


@dataclass(frozen=True, slots=True)
class Align:
    ids: tuple[str, ...]
    to: str
    kind: Literal["align"] = "align"


@dataclass(frozen=True, slots=True)
class Distribute:
    ids: tuple[str, ...]
    along: str
    kind: Literal["distribute"] = "distribute"


@dataclass(frozen=True, slots=True)
class Combine:
    ids: tuple[str, ...]
    how: str
    kind: Literal["combine"] = "combine"


@dataclass(frozen=True, slots=True)
class OutlineStroke:
    ids: tuple[str, ...]
    kind: Literal["outline-stroke"] = "outline-stroke"


@dataclass(frozen=True, slots=True)
class Grow:
    ids: tuple[str, ...]
    distance_mm: float
    join: str = "round"
    kind: Literal["grow"] = "grow"


@dataclass(frozen=True, slots=True)
class Simplify:
    ids: tuple[str, ...]
    tolerance_mm: float = 0.02
    kind: Literal["simplify"] = "simplify"


@dataclass(frozen=True, slots=True)
class MakeSymmetric:
    ids: tuple[str, ...]
    kind: Literal["make-symmetric"] = "make-symmetric"


@dataclass(frozen=True, slots=True)
class Tidy:
    ids: tuple[str, ...]
    tolerance_mm: float = 0.1
    kind: Literal["tidy"] = "tidy"


@dataclass(frozen=True, slots=True)
class Patch:
    """A freehand area: join, cut or recolour what it covers."""

    line: tuple[tuple[float, float], ...]
    how: str
    fill: str = "#24272b"
    ids: tuple[str, ...] = ()
    kind: Literal["patch"] = "patch"


@dataclass(frozen=True, slots=True)
class NewForm:
    """A box, ellipse, polygon or star in a box x, y, width, height."""

    form: str
    box: tuple[float, float, float, float]
    sides: int = 6
    fill: str = "#24272b"
    kind: Literal["new-form"] = "new-form"


@dataclass(frozen=True, slots=True)
class Redraw:
    """A path's control points as they were moved: rows of four places."""

    shape: str
    path: int
    segments: tuple[tuple[tuple[float, float], ...], ...]
    closed: bool = True
    kind: Literal["redraw"] = "redraw"


@dataclass(frozen=True, slots=True)
class EditNodes:
    """insert (segment and t), remove, smooth, corner, straighten, round (radius_mm), cut, join (other path)."""

    shape: str
    path: int
    what: Literal["insert", "remove", "smooth", "corner", "straighten", "round", "cut", "join"]
    nodes: tuple[int, ...] = ()
    t: float = 0.5
    radius_mm: float = 1.0
    other: int | None = None
    kind: Literal["edit-nodes"] = "edit-nodes"


@dataclass(frozen=True, slots=True)
class Recolour:
    """Change colours everywhere (pairs of old and new), or give some shapes one colour."""

    change: dict[str, str] = field(default_factory=dict)
    ids: tuple[str, ...] = ()
    fill: str = ""
    kind: Literal["recolour"] = "recolour"


@dataclass(frozen=True, slots=True)
class Tone:
    lightness: float = 0.0
    chroma: float = 1.0
    kind: Literal["tone"] = "tone"


@dataclass(frozen=True, slots=True)
class MergeColours:
    most: int
    kind: Literal["merge-colours"] = "merge-colours"


@dataclass(frozen=True, slots=True)
class Letter:
    """Set letters with their middle at a place.

    replaces: letters that are set anew. clears: a box (x0, y0, x1, y1); traced letters and other small pieces
    that lie wholly in it go in the same step.
    """

    text: str
    font: str
    cap_height_mm: float
    x: float
    y: float
    bend: Bend = Bend.STRAIGHT
    bend_by: float = 0.0
    tracking: float = 0.0
    fill: str = "#24272b"
    replaces: str = ""
    clears: tuple[float, float, float, float] | None = None
    kind: Literal["letter"] = "letter"


Operation = (
    Transform
    | Duplicate
    | Delete
    | Order
    | Mark
    | Align
    | Distribute
    | Combine
    | OutlineStroke
    | Grow
    | Simplify
    | MakeSymmetric
    | Tidy
    | Patch
    | NewForm
    | Redraw
    | EditNodes
    | Recolour
    | Tone
    | MergeColours
    | Letter
)


def edited(drawing: Drawing, operation: Operation, scale: Scale) -> Drawing:
    """Return the drawing after one operation.

    Raises
    ------
    InvalidInputError, NotFoundError, ConflictError
        If it cannot be done; the sentence says why. What it makes is between 1 µm and 100 m.
    """
    require_numbers(operation)
    made = _done(drawing, operation, scale)
    require_extent(made, mm_per_unit=scale.mm_per_px)
    require_reach(made, mm_per_unit=scale.mm_per_px)
    known = set(map(id, drawing.shapes))
    fresh = [shape for shape in made.shapes if id(shape) not in known]
    require_shape_sizes(fresh, mm_per_unit=scale.mm_per_px)
    return made


def _done(drawing: Drawing, operation: Operation, scale: Scale) -> Drawing:
    exact_px = scale.to_px(_EXACT_MM)
    match operation:
        case Transform(ids, matrix):
            return arranging.transformed(drawing, ids, matrix)
        case Duplicate(ids, away_mm):
            away = scale.to_px(require_number(away_mm, "Distance of the copy", least=-10_000, most=10_000))
            return arranging.duplicated(drawing, ids, dx=away, dy=away)
        case Delete(ids):
            gone = {shape.id for shape in arranging.chosen(drawing, ids)}
            return arranging.with_shapes(
                drawing, [replace(shape, paths=()) for shape in drawing.shapes if shape.id in gone]
            )
        case Order(ids, place):
            return arranging.ordered(drawing, ids, place)
        case Mark(ids, group, locked, hidden):
            return arranging.marked(drawing, ids, group=group, locked=locked, hidden=hidden)
        case Align(ids, to):
            return arranging.aligned(drawing, ids, to)
        case Distribute(ids, along):
            return arranging.distributed(drawing, ids, along)
        case Combine(ids, how):
            return shaping.combined(drawing, ids, how)
        case OutlineStroke(ids):
            return shaping.outlined(drawing, ids, tolerance=exact_px)
        case Grow(ids, distance_mm, join):
            distance = scale.to_px(require_number(distance_mm, "Distance", least=-1000, most=1000, unit="mm"))
            return shaping.grown(drawing, ids, distance, join=join, tolerance=exact_px)
        case Simplify(ids, tolerance_mm):
            off = scale.to_px(require_number(tolerance_mm, "Tolerance", above=0, most=50, unit="mm"))
            chosen_ids = [shape.id for shape in arranging.chosen(drawing, ids)]
            return arranging.with_shapes(
                drawing, simplified_together(drawing.shapes, tolerance=off, ids=chosen_ids)
            )
        case MakeSymmetric(ids):
            return exact.symmetric(drawing, ids)
        case Tidy(ids, tolerance_mm):
            off = scale.to_px(require_number(tolerance_mm, "Tolerance", above=0, most=50, unit="mm"))
            return exact.tidied(drawing, ids, tolerance=off)
        case Patch(line, how, fill, ids):
            return shaping.patched(
                drawing, np.array(line).reshape(-1, 2), how, fill=fill, ids=ids, tolerance=scale.to_px(0.02)
            )
        case NewForm(form, box, sides, fill):
            return shaping.new_form(drawing, form, box, sides=sides, fill=fill)
        case Redraw(shape, path, segments, closed):
            return points.redrawn(drawing, shape, path, np.array(segments), closed=closed)
        case EditNodes():
            return _nodes(drawing, operation, scale)
        case Recolour(change, ids, fill):
            if ids:
                require_palette([fill], most=1)
                chosen = arranging.chosen(drawing, ids)
                return arranging.with_shapes(drawing, [replace(shape, fill=fill.lower()) for shape in chosen])
            return recoloured(drawing, change)
        case Tone(lightness, chroma):
            return recoloured(drawing, toned(list(fills(drawing)), lightness=lightness, chroma=chroma))
        case MergeColours(most):
            return merged(drawing, most=most)
        case Letter():
            return _letters(drawing, operation, scale)


def _nodes(drawing: Drawing, edit: EditNodes, scale: Scale) -> Drawing:
    shape, path, nodes = edit.shape, edit.path, edit.nodes
    match edit.what:
        case "insert":
            return points.with_node(drawing, shape, path, nodes[0] if nodes else 0, edit.t)
        case "remove":
            return points.without_nodes(drawing, shape, path, nodes)
        case "smooth" | "corner":
            return points.smoothed(drawing, shape, path, nodes, corner=edit.what == "corner")
        case "straighten":
            return points.straightened(drawing, shape, path, nodes)
        case "round":
            radius = require_number(edit.radius_mm, "Radius", above=0, most=1000, unit="mm")
            return points.rounded(drawing, shape, path, nodes, scale.to_px(radius))
        case "cut":
            return points.cut(drawing, shape, path, nodes[0] if nodes else 0)
        case "join":
            return points.joined(drawing, shape, path, edit.other)


def _letters(drawing: Drawing, order: Letter, scale: Scale) -> Drawing:
    wanted = LetterOrder(
        order.text, order.font, order.cap_height_mm, order.bend, order.bend_by, order.tracking, order.fill
    )
    made = lettered(wanted)
    per_mm = scale.to_px(1.0)
    middle = np.array([made.width / 2, made.height / 2])
    place = np.array([order.x, order.y])
    (letters,) = made.shapes
    shape = replace(
        letters,
        id=order.replaces or arranging.fresh_id(drawing, "letters"),
        paths=tuple(path.moved(lambda at: (at - middle) * per_mm + place) for path in letters.paths),
        stroke_width=None if letters.stroke_width is None else letters.stroke_width * per_mm,
        letters=json.dumps({**asdict(wanted), "x": order.x, "y": order.y}, ensure_ascii=False),
    )
    if order.clears is not None:
        drawing = _cleared(drawing, order.clears)
    # The sheet grows with what is set below or beside the figure.
    _, _, x1, y1 = shape.bounds()
    drawing = replace(drawing, width=max(drawing.width, x1), height=max(drawing.height, y1))
    if order.replaces:
        arranging.chosen(drawing, [order.replaces])
        return arranging.with_shapes(drawing, [shape])
    return replace(drawing, shapes=(*drawing.shapes, shape))


def _cleared(drawing: Drawing, box: tuple[float, float, float, float]) -> Drawing:
    """Return the drawing without the paths that lie wholly in a box; locked shapes stay."""
    x0, y0, x1, y1 = box

    def lies_in(path: Path) -> bool:
        if not len(path.segments):
            return False
        left, top, right, bottom = bezier.bounds(path.segments)
        return left >= x0 and top >= y0 and right <= x1 and bottom <= y1

    shapes = []
    for shape in drawing.shapes:
        paths = shape.paths if shape.locked else tuple(path for path in shape.paths if not lies_in(path))
        if paths == shape.paths:
            shapes.append(shape)
        elif paths:
            shapes.append(replace(shape, paths=paths, letters=""))
    return replace(drawing, shapes=tuple(shapes))


def in_words(operation: Operation) -> str:
    """Return what an operation did, for the history."""
    words = {
        Transform: "moved or scaled",
        Duplicate: "duplicated",
        Delete: "deleted",
        Order: "reordered",
        Mark: "grouped, locked or hid",
        Align: "aligned",
        Distribute: "distributed",
        OutlineStroke: "outlined strokes",
        Simplify: "thinned out nodes",
        MakeSymmetric: "made symmetric",
        Tidy: "tidied lines and circles",
        Redraw: "moved nodes",
        Recolour: "recoloured",
        Tone: "changed the tone",
        MergeColours: "merged colours",
    }
    match operation:
        case Combine(how=how):
            return {"join": "joined", "subtract": "subtracted", "intersect": "intersected", "split": "split"}[
                how
            ]
        case Grow(distance_mm=distance):
            return f"{'grew' if distance > 0 else 'shrank'} by {abs(distance):g} mm"
        case Patch(how=how):
            return {"join": "patched", "cut": "cut a patch out", "recolour": "recoloured a patch"}[how]
        case NewForm(form=form):
            return f"drew a {form}"
        case EditNodes(what=what):
            return f"nodes: {what}"
        case Letter(text=text):
            return f"set “{text[:40]}”"
        case _:
            return words[type(operation)]
