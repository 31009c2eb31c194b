"""Tables. Only the repositories of this package see these classes."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, DateTime, Dialect, ForeignKey, MetaData, String, TypeDecorator
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    """Return the time that rows are stamped with."""
    return datetime.now(UTC)


class UtcDateTime(TypeDecorator[datetime]):
    """A time that carries its zone; SQLite keeps it in UTC, without saying so."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """Base of all tables; constraints get fixed names, so that migrations can find them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {dict[str, Any]: JSON, list[Any]: JSON, datetime: UtcDateTime}  # noqa: RUF012


class YardstickRow(Base):
    __tablename__ = "yardsticks"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    process: Mapped[str] = mapped_column(String(40))
    width_mm: Mapped[float]
    blank: Mapped[str] = mapped_column(String(120))
    blank_width_mm: Mapped[float]
    blank_height_mm: Mapped[float]
    thin_mm: Mapped[float]
    gap_mm: Mapped[float]
    speck_mm2: Mapped[float]
    one_piece: Mapped[bool]
    cut_away: Mapped[bool]
    corner_mm: Mapped[float] = mapped_column(default=0.0)
    colours: Mapped[int] = mapped_column(default=24)


class CollectionRow(Base):
    __tablename__ = "collections"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    yardstick_id: Mapped[int] = mapped_column(ForeignKey("yardsticks.id"))
    created_at: Mapped[datetime] = mapped_column(default=now)


class BriefRow(Base):
    """One saved state of a collection's brief; the newest one counts."""

    __tablename__ = "briefs"
    id: Mapped[int] = mapped_column(primary_key=True)
    collection_id: Mapped[int] = mapped_column(ForeignKey("collections.id", ondelete="CASCADE"), index=True)
    subjects: Mapped[str]
    look: Mapped[str] = mapped_column(String(20))
    rules: Mapped[list[Any]]
    style: Mapped[dict[str, Any] | None]
    edits: Mapped[dict[str, Any] | None]
    # The sketch whose hand the set follows.
    reference_id: Mapped[int | None]
    created_at: Mapped[datetime] = mapped_column(default=now)
    run_at: Mapped[datetime | None]


class MotifRow(Base):
    __tablename__ = "motifs"
    id: Mapped[int] = mapped_column(primary_key=True)
    collection_id: Mapped[int] = mapped_column(ForeignKey("collections.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    position: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(default=now)


class SketchRow(Base):
    __tablename__ = "sketches"
    id: Mapped[int] = mapped_column(primary_key=True)
    motif_id: Mapped[int] = mapped_column(ForeignKey("motifs.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("sketches.id"))
    picture_sha: Mapped[str] = mapped_column(String(64))
    thumb_sha: Mapped[str] = mapped_column(String(64))
    original_sha: Mapped[str | None] = mapped_column(String(64))
    # The picture before its clean-up steps; picture_sha is what they made of it.
    raw_sha: Mapped[str | None] = mapped_column(String(64))
    clean_steps: Mapped[list[Any] | None]
    width_px: Mapped[int]
    height_px: Mapped[int]
    source: Mapped[str] = mapped_column(String(20))
    generator: Mapped[str] = mapped_column(String(80), default="")
    wording: Mapped[str] = mapped_column(default="")
    look: Mapped[str] = mapped_column(String(20), default="")
    seed: Mapped[int | None]
    file_name: Mapped[str] = mapped_column(String(255), default="")
    # Pose, format, hand and variations: what it takes to draw it again.
    order: Mapped[dict[str, Any] | None]
    licence: Mapped[str] = mapped_column(default="")
    machine_made: Mapped[bool] = mapped_column(default=False)
    kept: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(default=now)


class UploadRow(Base):
    """A file that a maker brought in, as it came; sketch_id: the sketch that was made of it, once there is one."""

    __tablename__ = "uploads"
    id: Mapped[int] = mapped_column(primary_key=True)
    motif_id: Mapped[int] = mapped_column(ForeignKey("motifs.id", ondelete="CASCADE"), index=True)
    file_name: Mapped[str] = mapped_column(String(255))
    sha: Mapped[str] = mapped_column(String(64))
    size_bytes: Mapped[int]
    sketch_id: Mapped[int | None] = mapped_column(ForeignKey("sketches.id", ondelete="SET NULL"))
    created_at: Mapped[datetime] = mapped_column(default=now)


class TracingRow(Base):
    __tablename__ = "tracings"
    id: Mapped[int] = mapped_column(primary_key=True)
    sketch_id: Mapped[int] = mapped_column(ForeignKey("sketches.id", ondelete="CASCADE"), index=True)
    settings: Mapped[dict[str, Any]]
    report: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class RecipeRow(Base):
    """Settings for tracing with a name."""

    __tablename__ = "recipes"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    settings: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class ChainRow(Base):
    """Clean-up steps with a name."""

    __tablename__ = "chains"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    steps: Mapped[list[Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class WorkshopRow(Base):
    """What a maker has set up, by subject: the picture generator, for example."""

    __tablename__ = "workshop"
    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[dict[str, Any]]


class DrawingRow(Base):
    """A motif's drawing; head_id is the revision that counts now."""

    __tablename__ = "drawings"
    id: Mapped[int] = mapped_column(primary_key=True)
    motif_id: Mapped[int] = mapped_column(ForeignKey("motifs.id", ondelete="CASCADE"), index=True)
    head_id: Mapped[int | None]
    created_at: Mapped[datetime] = mapped_column(default=now)


class RevisionRow(Base):
    """Never changed once written: undo and redo only move the drawing's head."""

    __tablename__ = "revisions"
    id: Mapped[int] = mapped_column(primary_key=True)
    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    tracing_id: Mapped[int | None] = mapped_column(ForeignKey("tracings.id"))
    svg_sha: Mapped[str] = mapped_column(String(64))
    note: Mapped[str] = mapped_column(String(200))
    # What the maker calls it; '' as long as nobody has.
    name: Mapped[str] = mapped_column(String(120), default="")
    # Of a drawing from elsewhere: the file's name and what was not taken of it; empty once the maker has seen to it.
    brought_in: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    created_at: Mapped[datetime] = mapped_column(default=now)


class VariantRow(Base):
    """A drawing in other colours, kept beside it."""

    __tablename__ = "variants"
    id: Mapped[int] = mapped_column(primary_key=True)
    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    svg_sha: Mapped[str] = mapped_column(String(64))
    created_at: Mapped[datetime] = mapped_column(default=now)


class TicketRow(Base):
    __tablename__ = "tickets"
    id: Mapped[int] = mapped_column(primary_key=True)
    motif_id: Mapped[int] = mapped_column(ForeignKey("motifs.id", ondelete="CASCADE"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    process: Mapped[str] = mapped_column(String(20))
    width_mm: Mapped[float]
    settings: Mapped[dict[str, Any]]
    files: Mapped[list[Any]]
    readings: Mapped[list[Any]]
    rehearsal: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class PackRow(Base):
    __tablename__ = "packs"
    id: Mapped[int] = mapped_column(primary_key=True)
    collection_id: Mapped[int] = mapped_column(ForeignKey("collections.id", ondelete="CASCADE"), index=True)
    title: Mapped[str] = mapped_column(String(200))
    listing: Mapped[dict[str, Any]]
    motif_ids: Mapped[list[Any]]
    zip_sha: Mapped[str] = mapped_column(String(64))
    size_bytes: Mapped[int]
    contents: Mapped[list[Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class JobRow(Base):
    __tablename__ = "jobs"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    label: Mapped[str] = mapped_column(String(200))
    state: Mapped[str] = mapped_column(String(20), index=True)
    progress: Mapped[float] = mapped_column(default=0.0)
    message: Mapped[str] = mapped_column(default="")
    params: Mapped[dict[str, Any]]
    result: Mapped[dict[str, Any]]
    # The job that does once more what this one did not.
    again_id: Mapped[int | None]
    created_at: Mapped[datetime] = mapped_column(default=now)
    finished_at: Mapped[datetime | None]
