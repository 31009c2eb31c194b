"""What the repositories hand out: plain frozen values."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from zeichen.core.proofing.yardstick import Yardstick


@dataclass(frozen=True, slots=True)
class NamedYardstick:
    """A yardstick with its name and id."""

    id: int
    name: str
    yardstick: Yardstick


@dataclass(frozen=True, slots=True)
class Brief:
    """Subjects one a line, look and house style, the keys of the rules that are on.

    style: line_mm, detail, colours, palette, format. edits: wordings written by hand, by subject in small
    letters. reference_id: the sketch whose hand the set follows.
    """

    subjects: str
    look: str
    rules: tuple[str, ...]
    style: dict[str, Any] = field(default_factory=dict)
    edits: dict[str, str] = field(default_factory=dict)
    reference_id: int | None = None


@dataclass(frozen=True, slots=True)
class KeptBrief:
    """A brief as it was when pictures were drawn from it."""

    id: int
    brief: Brief
    run_at: datetime


@dataclass(frozen=True, slots=True)
class FileMotif:
    """Which motif a picture's file belongs to by its name; motif_id None if there is none of that name."""

    file_name: str
    name: str
    motif_id: int | None


@dataclass(frozen=True, slots=True)
class Motif:
    """One subject and how far it has come: counts of what was made of it."""

    id: int
    collection_id: int
    name: str
    position: int
    sketch_count: int = 0
    kept_count: int = 0
    tracing_count: int = 0
    revision_count: int = 0
    ticket_count: int = 0
    pack_count: int = 0
    thumb_sha: str | None = None
    drawing_id: int | None = None


@dataclass(frozen=True, slots=True)
class Collection:
    """A set of motifs."""

    id: int
    name: str
    yardstick_id: int


@dataclass(frozen=True, slots=True)
class Recipe:
    """Settings for tracing with a name."""

    id: int
    name: str
    settings: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Chain:
    """Clean-up steps with a name."""

    id: int
    name: str
    steps: tuple[dict[str, Any], ...]


@dataclass(frozen=True, slots=True)
class Sketch:
    """A picture of a motif and where it came from.

    picture_sha, thumb_sha, width_px, height_px: as its clean-up steps leave it; raw_sha: before them.
    licence: a note on rights; machine_made: a picture generator drew it. order: what it takes to draw it again.
    """

    id: int
    motif_id: int
    parent_id: int | None
    picture_sha: str
    thumb_sha: str
    width_px: int
    height_px: int
    source: str
    generator: str
    wording: str
    look: str
    seed: int | None
    file_name: str
    kept: bool
    created_at: datetime
    raw_sha: str
    original_sha: str | None = None
    clean_steps: tuple[dict[str, Any], ...] = ()
    licence: str = ""
    machine_made: bool = False
    order: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Upload:
    """A file that was brought in, as it came. sketch_id: what was made of it; None as long as nothing was."""

    id: int
    motif_id: int
    file_name: str
    sha: str
    size_bytes: int
    sketch_id: int | None
    created_at: datetime


@dataclass(frozen=True, slots=True)
class DrawingHead:
    """A drawing at its current revision."""

    id: int
    motif_id: int
    revision_id: int
    svg_sha: str
    note: str
    can_undo: bool
    can_redo: bool
    sketch_id: int | None
    settings: dict[str, Any] = field(default_factory=dict)
    report: dict[str, Any] = field(default_factory=dict)
    brought_in: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class StoredFile:
    """One file of a ticket."""

    name: str
    media_type: str
    sha: str
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Ticket:
    """Something that was made ready for a machine."""

    id: int
    motif_id: int
    revision_id: int
    process: str
    width_mm: float
    settings: dict[str, Any]
    files: tuple[StoredFile, ...]
    readings: tuple[dict[str, Any], ...]
    rehearsal: dict[str, Any]
    created_at: datetime


@dataclass(frozen=True, slots=True)
class Pack:
    """A finished pack."""

    id: int
    collection_id: int
    title: str
    listing: dict[str, Any]
    motif_ids: tuple[int, ...]
    zip_sha: str
    size_bytes: int
    contents: tuple[dict[str, Any], ...]
    created_at: datetime


@dataclass(frozen=True, slots=True)
class Job:
    """Background work and how it stands."""

    id: int
    kind: str
    label: str
    state: str
    progress: float
    message: str
    params: dict[str, Any]
    result: dict[str, Any]
    created_at: datetime
    finished_at: datetime | None
    again_id: int | None = None


@dataclass(frozen=True, slots=True)
class Revision:
    """A state that a drawing was in. head: it is the one that counts now."""

    id: int
    parent_id: int | None
    note: str
    name: str
    created_at: datetime
    head: bool


@dataclass(frozen=True, slots=True)
class Variant:
    """A drawing in other colours, kept beside it."""

    id: int
    name: str
    svg_sha: str
