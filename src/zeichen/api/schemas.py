"""What requests carry and what composed replies look like. Plain core values are described from themselves."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from zeichen.core.briefing import Look
from zeichen.core.proofing import Limits, Process, Yardstick
from zeichen.core.tracing import Borders, Method
from zeichen.jobs.tasks import DrawingData
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
    yardstick_id: int


class ChosenYardstickBody(Body):
    yardstick_id: int


class BriefBody(Body):
    subjects: str = Field(max_length=20_000)
    look: Look
    rules: list[str] = Field(max_length=50)

    def value(self) -> Brief:
        """Return the stored form."""
        return Brief(self.subjects, self.look.value, tuple(self.rules))


class SubjectWording(BaseModel):
    """One subject of a brief, the wording composed for it, and whether the stand-in studio can draw it."""

    subject: str
    wording: str
    drawable: bool


class MotifBody(Body):
    name: str = Field(max_length=120)


class DrawBody(Body):
    look: Look
    count: int = Field(4, ge=1, le=12)
    seed: int | None = Field(None, ge=0, le=2**31)
    parent_id: int | None = None


class KeptBody(Body):
    kept: bool


class TraceBody(Body):
    """Settings of a trace, lengths in picture pixels. level and colours None are found."""

    model_config = ConfigDict(from_attributes=True)

    method: Method = Method.SOLID
    level: int | None = None
    min_spot_px2: float = 16.0
    tolerance_px: float = 0.2
    corner_deg: float = 20.0
    invert: bool = False
    even_light: bool = False
    colours: int | None = None
    palette: tuple[str, ...] = ()
    keep_ground: bool = False
    borders: Borders = Borders.SIDE_BY_SIDE
    underlay_px: float = 2.0


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


class CurrentDrawing(BaseModel):
    """A motif's drawing at its current revision, judged by the collection's yardstick."""

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
    drawing: DrawingData


class ShapesBody(Body):
    revision_id: int
    shape_ids: list[str] = Field(min_length=1, max_length=50_000)


class RevisionBody(Body):
    revision_id: int


class Verdict(BaseModel):
    """How a motif's drawing stands."""

    motif_id: int
    finding_count: int


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
    machine_made: bool = Field(
        False, description="A brought-in picture of the pack was made with a generator."
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
    rules: list[RuleView]
    processes: list[ProcessView]
    licence: str
