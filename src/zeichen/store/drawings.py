"""Drawings and their immutable revisions: undo and redo walk them."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.core.errors import ConflictError, NotFoundError
from zeichen.store.collections import require_row
from zeichen.store.models import DrawingRow, MotifRow, RevisionRow, TracingRow, VariantRow
from zeichen.store.records import DrawingHead, Revision, Variant


def keep_trace(session: Session, motif_id: int, *, svg_sha: str, tracing_id: int) -> int:
    """Keep a trace as the motif's drawing; returns the drawing's id.

    A motif that has a drawing gets a new revision of it, so that undo brings back what was there before.
    """
    row = _newest(session, motif_id)
    if row is None:
        return add_drawing(session, motif_id, svg_sha=svg_sha, tracing_id=tracing_id, note="traced")
    _append(session, row, svg_sha, "traced again", tracing_id)
    return row.id


def add_drawing(session: Session, motif_id: int, *, svg_sha: str, tracing_id: int | None, note: str) -> int:
    """Start a motif's drawing with a first revision; returns the drawing's id."""
    require_row(session, MotifRow, motif_id, "motif")
    row = DrawingRow(motif_id=motif_id)
    session.add(row)
    session.flush()
    _append(session, row, svg_sha, note, tracing_id)
    return row.id


def keep_foreign(
    session: Session, motif_id: int, *, svg_sha: str, note: str, brought_in: dict[str, Any]
) -> int:
    """Keep a drawing from elsewhere as the motif's; one that was there is a revision before it."""
    row = _newest(session, motif_id)
    if row is None:
        drawing_id = add_drawing(session, motif_id, svg_sha=svg_sha, tracing_id=None, note=note)
        _head(session, require_row(session, DrawingRow, drawing_id, "drawing")).brought_in = brought_in
        return drawing_id
    _append(session, row, svg_sha, note, None, brought_in)
    return row.id


def forget_not_taken(session: Session, drawing_id: int) -> None:
    """Say no more of what was not taken of the file a drawing came from."""
    _head(session, require_row(session, DrawingRow, drawing_id, "drawing")).brought_in = {}


def add_revision(
    session: Session,
    drawing_id: int,
    *,
    base_revision_id: int,
    svg_sha: str,
    note: str,
    tracing_id: int | None = None,
) -> None:
    """Add a revision after the head; one that was traced anew says so, others keep the head's tracing.

    Raises
    ------
    ConflictError
        If the head is no longer the revision that the change was made on.
    """
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    if row.head_id != base_revision_id:
        raise ConflictError(
            "The drawing was changed elsewhere meanwhile. Look at it again, then repeat the change."
        )
    head = _head(session, row)
    kept = {} if tracing_id else head.brought_in
    _append(session, row, svg_sha, note, tracing_id or head.tracing_id, kept)


def undo(session: Session, drawing_id: int) -> None:
    """Move the head to the revision before."""
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    head = _head(session, row)
    if head.parent_id is None:
        raise ConflictError("There is nothing to undo: this is the drawing as it was first traced.")
    row.head_id = head.parent_id


def redo(session: Session, drawing_id: int) -> None:
    """Move the head to the newest revision made from it."""
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    following = _following(session, _head(session, row).id)
    if following is None:
        raise ConflictError("There is nothing to redo.")
    row.head_id = following


def drawing_head(session: Session, drawing_id: int) -> DrawingHead:
    """Return a drawing at its current revision."""
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    head = _head(session, row)
    tracing = session.get(TracingRow, head.tracing_id) if head.tracing_id else None
    return DrawingHead(
        id=row.id,
        motif_id=row.motif_id,
        revision_id=head.id,
        svg_sha=head.svg_sha,
        note=head.note,
        can_undo=head.parent_id is not None,
        can_redo=_following(session, head.id) is not None,
        sketch_id=tracing.sketch_id if tracing else None,
        settings=tracing.settings if tracing else {},
        report=tracing.report if tracing else {},
        brought_in=head.brought_in,
    )


def motif_drawing(session: Session, motif_id: int) -> DrawingHead:
    """Return a motif's newest drawing; NotFoundError if it has none."""
    row = _newest(session, motif_id)
    if row is None:
        raise NotFoundError("This motif has no drawing yet. Take a sketch to Ink and trace it first.")
    return drawing_head(session, row.id)


def revision_file(session: Session, revision_id: int) -> str:
    """Return the hash of the SVG of any revision."""
    return require_row(session, RevisionRow, revision_id, "revision").svg_sha


def revisions(session: Session, drawing_id: int) -> list[Revision]:
    """Return every state a drawing was in, the newest first."""
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    found = session.scalars(
        select(RevisionRow).where(RevisionRow.drawing_id == drawing_id).order_by(RevisionRow.id.desc())
    )
    return [
        Revision(each.id, each.parent_id, each.note, each.name, each.created_at, each.id == row.head_id)
        for each in found
    ]


def name_revision(session: Session, revision_id: int, name: str) -> None:
    """Give a revision a name; '' takes it away."""
    require_row(session, RevisionRow, revision_id, "revision").name = name


def bring_back(session: Session, drawing_id: int, revision_id: int) -> None:
    """Make an earlier state the drawing's newest: a new revision, so that nothing in between is lost."""
    old = require_row(session, RevisionRow, revision_id, "revision")
    if old.drawing_id != drawing_id:
        raise NotFoundError("This drawing has no such revision.")
    row = require_row(session, DrawingRow, drawing_id, "drawing")
    called = old.name or f"rev. {old.id}"
    _append(session, row, old.svg_sha, f"brought back {called}", old.tracing_id, old.brought_in)


def variants(session: Session, drawing_id: int) -> list[Variant]:
    """Return a drawing's colour variants, the oldest first."""
    require_row(session, DrawingRow, drawing_id, "drawing")
    found = session.scalars(
        select(VariantRow).where(VariantRow.drawing_id == drawing_id).order_by(VariantRow.id)
    )
    return [Variant(row.id, row.name, row.svg_sha) for row in found]


def add_variant(session: Session, drawing_id: int, name: str, svg_sha: str) -> Variant:
    """Keep a drawing in other colours beside it; a name that is taken gets the new colours."""
    require_row(session, DrawingRow, drawing_id, "drawing")
    row = session.scalar(
        select(VariantRow).where(VariantRow.drawing_id == drawing_id, VariantRow.name == name)
    )
    if row is None:
        row = VariantRow(drawing_id=drawing_id, name=name, svg_sha=svg_sha)
        session.add(row)
    row.svg_sha = svg_sha
    session.flush()
    return Variant(row.id, row.name, row.svg_sha)


def variant(session: Session, variant_id: int) -> Variant:
    """Return one variant; NotFoundError if there is none."""
    row = require_row(session, VariantRow, variant_id, "variant")
    return Variant(row.id, row.name, row.svg_sha)


def drop_variant(session: Session, variant_id: int) -> None:
    """Forget a variant."""
    session.delete(require_row(session, VariantRow, variant_id, "variant"))


def _newest(session: Session, motif_id: int) -> DrawingRow | None:
    return session.scalar(
        select(DrawingRow).where(DrawingRow.motif_id == motif_id).order_by(DrawingRow.id.desc()).limit(1)
    )


def _append(
    session: Session,
    row: DrawingRow,
    svg_sha: str,
    note: str,
    tracing_id: int | None,
    brought_in: dict[str, Any] | None = None,
) -> None:
    revision = RevisionRow(
        drawing_id=row.id,
        parent_id=row.head_id,
        tracing_id=tracing_id,
        svg_sha=svg_sha,
        note=note,
        brought_in=brought_in or {},
    )
    session.add(revision)
    session.flush()
    row.head_id = revision.id


def _head(session: Session, row: DrawingRow) -> RevisionRow:
    return require_row(session, RevisionRow, row.head_id or 0, "revision")


def _following(session: Session, revision_id: int) -> int | None:
    return session.scalar(
        select(RevisionRow.id)
        .where(RevisionRow.parent_id == revision_id)
        .order_by(RevisionRow.id.desc())
        .limit(1)
    )
