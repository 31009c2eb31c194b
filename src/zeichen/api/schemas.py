"""What requests carry and what composed replies look like. Plain core values are described from themselves."""

import unicodedata
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from zeichen.core.briefing import Detail, Look, PictureFormat, Reach
from zeichen.core.editing.operations import Operation
from zeichen.core.formats.taken import LiveText
from zeichen.core.methods import (
    CORNER_DEG,
    MIN_SPOT_PX2,
    TOLERANCE_PX,
    UNDERLAY_PX,
    AreaTone,
    Borders,
    Figure,
    Inside,
    Method,
    Shading,
    Strokes,
)
from zeichen.core.proofing import How, Kind, Limits, Process, Yardstick
from zeichen.core.proofing.mending import Bridge
from zeichen.core.tracing.inside_places import InsideAt, InsidePlace
from zeichen.jobs.tasks import DrawingData, ShapeData
from zeichen.store.records import Brief, Collection, Motif, NamedYardstick


class Body(BaseModel):
    """A request body: unknown fields are an error, not a surprise."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class LimitsBody(Body):
    thin_mm: float
    gap_mm: float
    speck_mm2: float
    one_piece: bool = False
    cut_away: bool = False
    corner_mm: float = 0.0
    colours: int = 24


class YardstickBody(Body):
    name: str = Field(max_length=120)
    process: Process
    width_mm: float
    blank: str = Field("", max_length=120)
    blank_width_mm: float
    blank_height_mm: float
    limits: LimitsBody

    def value(self) -> Yardstick:
        """Return the core value."""
        return Yardstick(
            self.process,
            self.width_mm,
            self.blank,
            self.blank_width_mm,
            self.blank_height_mm,
            Limits(**self.limits.model_dump()),
        )


class CollectionBody(Body):
    name: str = Field(max_length=120)
    yardstick_id: int | None = None


class ChosenYardstickBody(Body):
    yardstick_id: int


class StyleBody(Body):
    """A house style but for its look; None leaves it to the look. line_mm: on the finished piece."""

    line_mm: float | None = None
    detail: Detail = Detail.SOME
    colours: int | None = None
    palette: list[str] = Field(default_factory=list, max_length=12)
    format: PictureFormat = PictureFormat.SQUARE


class BriefBody(Body):
    subjects: str = Field(max_length=40_000)
    look: Look
    rules: list[str] = Field(max_length=50)
    style: StyleBody = Field(default_factory=StyleBody)
    edits: dict[str, str] = Field(
        default_factory=dict, description="Wordings written by hand, by subject in small letters."
    )
    reference_id: int | None = None

    def value(self) -> Brief:
        """Return the stored form."""
        return Brief(
            self.subjects,
            self.look.value,
            tuple(self.rules),
            self.style.model_dump(mode="json"),
            {
                unicodedata.normalize("NFC", key).lower(): text
                for key, text in self.edits.items()
                if text.strip()
            },
            self.reference_id,
        )


class SubjectWording(BaseModel):
    """One subject of a brief, the wording composed for it, and whether the stand-in studio can draw it."""

    subject: str
    pose: str
    note: str
    on: bool
    wording: str
    edited: bool
    drawable: bool


class WordingPreview(BaseModel):
    """The wordings of a brief, and the subjects that are in it more than once."""

    lines: list[SubjectWording]
    repeated: list[str]


class RunBody(Body):
    count: int = Field(4, ge=1, le=12)
    confirmed: bool = Field(
        False, description="The maker has agreed to what a generator with an allowance spends."
    )


class DemandRow(BaseModel):
    """A subject proposed from what sells at the stall."""

    model_config = ConfigDict(from_attributes=True)

    subject: str
    views_day: int
    favourites: int
    price: float
    rivals: int
    gap: float
    history: list[int]
    drawable: bool = False


class GeneratorBody(Body):
    """Who draws: the stand-in studio, or a generator that listens at an address.

    An address on this machine needs nothing more. One elsewhere is asked only once the maker has confirmed that the
    wording leaves the machine, over plain http only within the house, and never if it is link-local.
    """

    kind: Literal["studio", "http"] = "studio"
    faults: float = Field(1.0, ge=0, le=3, description="How often the studio's pictures have faults.")
    address: str = Field("", max_length=400)
    name: str = Field("local generator", max_length=80)
    licence: str = Field("", max_length=500)
    timeout_s: float = Field(60.0, description="For one picture, from the first question to its last byte.")
    tries: int = 3
    allowance: int | None = None
    outside_confirmed: bool = Field(
        False,
        description="The maker agrees that the wording leaves this machine; needed for an address elsewhere.",
    )


class OriginBody(Body):
    machine_made: bool
    licence: str = Field("", max_length=500)


class ChainBody(Body):
    name: str = Field(max_length=120)
    steps: list[dict[str, Any]]


class CleanAllBody(Body):
    steps: list[dict[str, Any]]


class MotifBody(Body):
    name: str = Field(max_length=120)


class FilesBody(Body):
    """Picture files that are to come in, one motif each."""

    file_names: list[Annotated[str, Field(max_length=255)]] = Field(min_length=1, max_length=2000)
    create: bool = Field(False, description="Add motifs for names that none has.")


class DrawBody(Body):
    """look None is the brief's. reach: how far from the parent; without it the parent is only remembered."""

    look: Look | None = None
    count: int = Field(4, ge=1, le=12)
    seed: int | None = Field(None, ge=0, le=2**31 - 1)
    parent_id: int | None = None
    reach: Reach | None = None
    reference_id: int | None = None
    confirmed: bool = False


class KeptBody(Body):
    kept: bool


class TraceBody(Body):
    """Settings of a trace, lengths in picture pixels. level and colours None are found."""

    model_config = ConfigDict(from_attributes=True)

    method: Method = Method.SOLID
    level: int | None = None
    min_spot_px2: float = MIN_SPOT_PX2
    tolerance_px: float = TOLERANCE_PX
    corner_deg: float = CORNER_DEG
    invert: bool = False
    even_light: bool = False
    colours: int | None = None
    palette: tuple[str, ...] = ()
    keep_ground: bool = False
    borders: Borders = Borders.SIDE_BY_SIDE
    underlay_px: float = UNDERLAY_PX
    shading: Shading = Shading.AUTO
    tone: AreaTone = AreaTone.MIDDLE
    strokes: Strokes = Strokes.SINGLE
    figure: Figure = Figure.AUTO
    inside: Inside = Inside.AUTO
    turned_inside: tuple[InsideAt, ...] = Field(
        default=(), max_length=1000, description="Points in the places inside that are to be the other way."
    )


class CleaningBody(Body):
    steps: list[dict[str, Any]] = Field(
        description="Clean-up steps in order: kind, on, and the kind's settings."
    )


class PreviewBody(Body):
    settings: TraceBody
    client: str = Field("", max_length=64, description="Who asks: a newer request of the same client wins.")


class TracePreview(BaseModel):
    """A trace that has not been kept."""

    model_config = ConfigDict(from_attributes=True)

    drawing: DrawingData
    level: int
    dropped_spots: int
    self_crossings: int
    mean_px: float
    p95_px: float
    largest_px: float
    gradient_share: float
    shading: Shading | None
    figure: Figure
    inside: list[InsidePlace]
    chosen: list[str]


class PreviewPart(BaseModel):
    """One line of a preview: a rough or the full trace, or what is wrong."""

    rough: bool
    trace: TracePreview | None = None
    code: str = ""
    message: str = ""


class RungPart(BaseModel):
    """One rung of the ladder as it is ready: 95 % of its boundary lies within off_mm of the sketch's."""

    rung: int
    settings: TraceBody
    trace: TracePreview
    nodes: int
    off_mm: float
    findings: int


class LadderEnd(BaseModel):
    """The last line of a ladder: which of the rungs that came to start from, or why there is none."""

    suggested: int | None
    message: str


class RecipeBody(Body):
    name: str = Field(max_length=120)
    settings: TraceBody


class TraceAllBody(Body):
    settings: TraceBody


class BroughtIn(BaseModel):
    """The file a drawing came from, and what was not taken of it: in words, and its live text word for word."""

    name: str
    not_taken: list[str]
    texts: list[LiveText]


class CurrentDrawing(BaseModel):
    """A motif's drawing at its current revision, judged by the collection's yardstick.

    A drawing that cannot be read or judged is None, and problem says why: undo leads back from it.
    """

    id: int
    motif_id: int
    revision_id: int
    note: str
    can_undo: bool
    can_redo: bool
    sketch_id: int | None
    picture_sha: str | None
    off_sketch_px: float | None
    settings: TraceBody
    drawing: DrawingData | None
    brought_in: BroughtIn | None = None
    problem: str = ""


class MendBody(Body):
    """One finding by its number in the proof of a revision, and how to mend it; alike mends all of its kind."""

    revision_id: int
    finding: int = Field(ge=0)
    how: How
    alike: bool = False


class MendAllBody(Body):
    revision_id: int
    only: tuple[Kind, ...] | None = None


class MendPreview(BaseModel):
    """What a mend would change: the shapes that would look different, as they would be, and what goes."""

    model_config = ConfigDict(from_attributes=True)

    shapes: tuple[ShapeData, ...]
    gone: tuple[str, ...]
    findings_before: int
    findings_after: int
    nodes_before: int
    nodes_after: int


class DoneLine(BaseModel):
    """What was mended, how, how often, and what it changed."""

    model_config = ConfigDict(from_attributes=True)

    kind: Kind
    how: How
    count: int
    area_mm2: float
    nodes: int
    bridges: list[Bridge] = Field(default_factory=list, description="Where bars were put in, and how large.")


class MendedDrawing(BaseModel):
    """A drawing after Mend all, and what was done."""

    current: CurrentDrawing
    done: list[DoneLine]


class Verdict(BaseModel):
    """How a motif's drawing stands: how much there is to mend, or why that cannot be said."""

    motif_id: int
    finding_count: int | None
    problem: str = ""


class TicketBody(Body):
    process: Literal["laser", "carve", "relief", "apparel"]
    width_mm: float
    settings: dict[str, float | str | bool] = Field(default_factory=dict)


class PackBody(Body):
    motif_ids: list[int] = Field(min_length=1, max_length=500)
    title: str = Field(max_length=200)
    description: str = Field("", max_length=5000)
    keywords: list[str] = Field(default_factory=list, max_length=60)
    licence: str = Field(max_length=1000)
    width_mm: float = 200.0
    machine_made: bool | None = Field(
        None,
        description="Whether a generator made the pictures of which nothing is known; needed if there are any.",
    )


class CollectionView(BaseModel):
    """A collection with all that the shell shows of it."""

    collection: Collection
    motifs: list[Motif]
    yardstick: NamedYardstick
    brief: Brief | None


class RuleView(BaseModel):
    key: str
    sentence: str


class ProcessView(BaseModel):
    process: Process
    limits: Limits


class Scene(BaseModel):
    """What the screens need to know once."""

    version: str
    subjects: list[str]
    looks: list[Look]
    details: list[Detail]
    formats: list[PictureFormat]
    figure_share: float = Field(description="How much of a picture's longer side a figure fills.")
    rules: list[RuleView]
    processes: list[ProcessView]
    licence: str


class EditBody(Body):
    """One operation by hand on a revision."""

    revision_id: int
    operation: Annotated[Operation, Field(discriminator="kind")]


class PaletteBody(Body):
    """A palette to propose: by harmony and seed, or by words."""

    harmony: str | None = None
    seed: int = 0
    words: str = Field("", max_length=200)


class NameBody(Body):
    name: str = Field(max_length=120)


class TitleBody(Body):
    title: str = Field(max_length=200)


class BringBackBody(Body):
    revision_id: int


class VariantBody(Body):
    revision_id: int
    name: str = Field(max_length=120)
    change: dict[str, str] = Field(default_factory=dict, max_length=256)


class ForeignDrawing(BaseModel):
    """A drawing that was brought in, and what was not taken of its file."""

    current: CurrentDrawing
    not_taken: list[str]
