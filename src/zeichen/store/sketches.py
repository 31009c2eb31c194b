"""Sketches and their tracings."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.store.collections import require_row
from zeichen.store.models import MotifRow, SketchRow, TracingRow
from zeichen.store.records import Sketch


def add_sketch(session: Session, motif_id: int, **columns: Any) -> int:
    """Keep a sketch of a motif; returns its id."""
    require_row(session, MotifRow, motif_id, "motif")
    row = SketchRow(motif_id=motif_id, **columns)
    session.add(row)
    session.flush()
    return row.id


def sketches(session: Session, motif_id: int) -> list[Sketch]:
    """Return the sketches of a motif, oldest first."""
    rows = session.scalars(select(SketchRow).where(SketchRow.motif_id == motif_id).order_by(SketchRow.id))
    return [_to_sketch(row) for row in rows]


def sketch(session: Session, sketch_id: int) -> Sketch:
    """Return one sketch."""
    return _to_sketch(require_row(session, SketchRow, sketch_id, "sketch"))


def keep_sketch(session: Session, sketch_id: int, kept: bool) -> None:
    """Mark a sketch as kept, or set it aside again."""
    require_row(session, SketchRow, sketch_id, "sketch").kept = kept


def tell_origin(session: Session, sketch_id: int, *, machine_made: bool, licence: str) -> None:
    """Note who drew a sketch and what may be done with it."""
    row = require_row(session, SketchRow, sketch_id, "sketch")
    row.machine_made, row.licence = machine_made, " ".join(licence.split())


def clean_sketch(
    session: Session,
    sketch_id: int,
    steps: list[dict[str, Any]],
    *,
    picture_sha: str,
    thumb_sha: str,
    width_px: int,
    height_px: int,
) -> None:
    """Keep the clean-up steps of a sketch and what they made of it; the picture before them stays."""
    row = require_row(session, SketchRow, sketch_id, "sketch")
    row.raw_sha = row.raw_sha or row.picture_sha
    row.clean_steps = steps
    row.picture_sha, row.thumb_sha = picture_sha, thumb_sha
    row.width_px, row.height_px = width_px, height_px


def add_tracing(session: Session, sketch_id: int, settings: dict[str, Any], report: dict[str, Any]) -> int:
    """Keep how a sketch was traced; returns the tracing's id."""
    row = TracingRow(sketch_id=sketch_id, settings=settings, report=report)
    session.add(row)
    session.flush()
    return row.id


def _to_sketch(row: SketchRow) -> Sketch:
    return Sketch(
        id=row.id,
        motif_id=row.motif_id,
        parent_id=row.parent_id,
        picture_sha=row.picture_sha,
        thumb_sha=row.thumb_sha,
        width_px=row.width_px,
        height_px=row.height_px,
        source=row.source,
        generator=row.generator,
        wording=row.wording,
        look=row.look,
        seed=row.seed,
        file_name=row.file_name,
        kept=row.kept,
        created_at=row.created_at,
        raw_sha=row.raw_sha or row.picture_sha,
        original_sha=row.original_sha,
        clean_steps=tuple(row.clean_steps or ()),
        licence=row.licence,
        machine_made=row.machine_made,
        order=row.order or {},
    )
