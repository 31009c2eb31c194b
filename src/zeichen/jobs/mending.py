"""What workers do to drawings: mends, edits and their previews, from stored files and values to values.

Hidden shapes are neither judged nor mended; they stay as they are.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from zeichen.core.colour import contrast, fills, harmonised, proposals_from_words
from zeichen.core.colour.words import Proposal, Proposals
from zeichen.core.editing.operations import Operation, edited
from zeichen.core.errors import ConflictError
from zeichen.core.formats.drawing_file import read_drawing_file
from zeichen.core.formats.svg import shape_data, write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.formats.taken import LiveText
from zeichen.core.geometry import Drawing
from zeichen.core.proofing import Finding, How, Kind, Yardstick, mend, mend_all, proof
from zeichen.core.proofing.mending import Bridge, Done, Step
from zeichen.core.proofing.yardstick import finished_scale
from zeichen.core.values import require_palette
from zeichen.jobs.tasks import MEMORY, DrawingData, ShapeData, judged, shapes_data
from zeichen.store.files import read_stored

# So many palettes of a harmony are proposed at once.
_WAYS = 6


@dataclass(frozen=True, slots=True)
class DoneCount:
    """What was mended, how, how often, and what it changed in all."""

    kind: Kind
    how: How
    count: int
    area_mm2: float
    nodes: int
    bridges: tuple[Bridge, ...] = ()


@dataclass(frozen=True, slots=True)
class MendLook:
    """What a mend would change: the shapes as they would be, the ids that go, findings and nodes before and after."""

    shapes: tuple[ShapeData, ...]
    gone: tuple[str, ...]
    findings_before: int
    findings_after: int
    nodes_before: int
    nodes_after: int


@dataclass(frozen=True, slots=True)
class Changed:
    """A drawing after a change: as SVG, judged, and what was mended. Only what could be judged is kept."""

    svg: str
    data: DrawingData
    done: tuple[DoneCount, ...] = ()


def _changed(drawing: Drawing, yardstick: Yardstick, done: tuple[DoneCount, ...] = ()) -> Changed:
    svg = write_svg(drawing)
    # What is kept is what will be read, not what was computed.
    return Changed(svg, judged(read_svg(svg), yardstick), done)


def mend_one(path: Path, yardstick: Yardstick, number: int, how: How, alike: bool) -> Changed:
    """Return the drawing with one finding mended, or all of its kind.

    Raises
    ------
    ConflictError
        If the drawing has no such finding any more, or nothing would be left of it.
    """
    whole = read_svg(read_stored(path))
    drawing = whole.shown()
    mended = mend(drawing, yardstick, _chosen(drawing, yardstick, number, how, alike), how)
    return _changed(mended.with_hidden_of(whole), yardstick)


def look_at_mend(path: Path, yardstick: Yardstick, number: int, how: How, alike: bool) -> MendLook:
    """Return what a mend would change."""
    drawing = read_svg(read_stored(path)).shown()
    mended = mend(drawing, yardstick, _chosen(drawing, yardstick, number, how, alike), how)
    before = {shape.id: shape_data(shape, decimals=2) for shape in drawing.shapes}
    changed = tuple(shape for shape in mended.shapes if before.get(shape.id) != shape_data(shape, decimals=2))
    left = {shape.id for shape in mended.shapes}
    return MendLook(
        shapes_data(changed),
        tuple(name for name in before if name not in left),
        len(proof(drawing, yardstick, MEMORY).findings),
        len(proof(mended, yardstick, MEMORY).findings),
        drawing.node_count,
        mended.node_count,
    )


def mend_everything(
    path: Path, yardstick: Yardstick, only: tuple[Kind, ...] | None, step: Step | None = None
) -> Changed:
    """Return the drawing after Mend all, and what was done; ConflictError if there was nothing to do."""
    whole = read_svg(read_stored(path))
    mended = mend_all(whole.shown(), yardstick, only=only, step=step)
    if not mended.changed:
        left = len(mended.proof.findings)
        raise ConflictError(
            f"Nothing could be mended without asking: {left} findings are left for you to decide."
            if left
            else "There is nothing to mend."
        )
    return _changed(mended.drawing.with_hidden_of(whole), yardstick, tuple(counted(mended.done)))


def drop_specks(path: Path, yardstick: Yardstick) -> str:
    """Return the drawing as SVG without its specks and pin holes; as it was if it has none."""
    whole = read_svg(read_stored(path))
    mended = mend_all(whole.shown(), yardstick, only=(Kind.SPECK, Kind.PIN_HOLE))
    return write_svg(mended.drawing.with_hidden_of(whole))


def counted(done: Iterable[Done]) -> list[DoneCount]:
    """Return what was done, alike things together, in the order they began."""
    groups: dict[tuple[Kind, How], list[Done]] = {}
    for each in done:
        groups.setdefault((each.finding.kind, each.how), []).append(each)
    return [
        DoneCount(
            kind,
            how,
            len(group),
            sum(d.area_mm2 for d in group),
            sum(d.nodes for d in group),
            tuple(bridge for d in group for bridge in d.bridges),
        )
        for (kind, how), group in groups.items()
    ]


def _chosen(drawing: Drawing, yardstick: Yardstick, number: int, how: How, alike: bool) -> list[Finding]:
    findings = proof(drawing, yardstick, MEMORY).findings
    if number >= len(findings):
        raise ConflictError("This finding is gone: the drawing or its size has changed. Look at it again.")
    one = findings[number]
    return [each for each in findings if each.kind is one.kind and how in each.mends] if alike else [one]


def edit(path: Path, yardstick: Yardstick, operation: Operation) -> Changed:
    """Return the drawing after one operation by hand."""
    drawing = read_svg(read_stored(path))
    shown = drawing.shown()
    scale = finished_scale(shown, yardstick)
    return _changed(edited(drawing, operation, scale), yardstick)


@dataclass(frozen=True, slots=True)
class PathPoints:
    """A path's control points, drawing units: rows of four places."""

    closed: bool
    segments: list[list[list[float]]]


def shape_points(path: Path, shape_id: str) -> list[PathPoints]:
    """Return the control points of a shape's paths."""
    shape = read_svg(read_stored(path)).shape(shape_id)
    return [PathPoints(each.closed, each.segments.tolist()) for each in shape.paths]


@dataclass(frozen=True, slots=True)
class Swatch:
    """A colour of a drawing, its share of the painted area, and its contrast on a ground."""

    colour: str
    share: float
    contrast: float


def swatches(path: Path, ground: str) -> list[Swatch]:
    """Return a drawing's colours, the largest area first."""
    require_palette([ground], most=1)
    shares = fills(read_svg(read_stored(path)).shown())
    return [Swatch(colour, share, contrast(colour, ground)) for colour, share in shares.items()]


def propose(path: Path, harmony: str, seed: int, words: str) -> Proposals:
    """Return several ways to colour a drawing, by harmony (from a seed on) or by words."""
    colours = list(fills(read_svg(read_stored(path))))
    if words:
        return proposals_from_words(colours, words)
    ways = (harmonised(colours, harmony, seed=seed + k) for k in range(_WAYS))
    return Proposals(tuple(Proposal(f"{harmony} {seed + k}", change) for k, change in enumerate(ways)), ())


@dataclass(frozen=True, slots=True)
class Foreign:
    """A drawing from elsewhere: as SVG, judged, and what of the file it does not hold."""

    svg: str
    data: DrawingData
    not_taken: list[str]
    texts: list[LiveText]


def read_foreign(data: bytes, name: str, yardstick: Yardstick) -> Foreign:
    """Return the drawing in an SVG or DXF file from elsewhere, judged; raises as read_drawing_file does."""
    taken = read_drawing_file(data, name)
    made = _changed(taken.drawing, yardstick)
    return Foreign(made.svg, made.data, taken.not_taken, list(taken.texts))
