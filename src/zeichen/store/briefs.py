"""Briefs: the one being written, and those that pictures were drawn from."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.core.briefing.subjects import renamed_subject
from zeichen.core.errors import InvalidInputError
from zeichen.store.collections import add_motif, motif, motifs, rename_motif, require_row
from zeichen.store.jobs import motifs_waited_for
from zeichen.store.models import BriefRow, CollectionRow, MotifRow, SketchRow, UploadRow, now
from zeichen.store.records import Brief, KeptBrief


def save_brief(session: Session, collection_id: int, brief: Brief, subjects: list[str]) -> None:
    """Keep a new state of the brief and let the motifs follow it.

    Every subject has a motif, in the brief's order. A motif whose subject was taken out goes with it as
    long as nothing was made of it (a word half typed, for example) and nothing is on its way to it; otherwise
    it stays, at the end.
    States that nothing was drawn from are not kept but for the newest.
    """
    require_row(session, CollectionRow, collection_id, "collection")
    if brief.reference_id is not None:
        require_row(session, SketchRow, brief.reference_id, "sketch")
    last = _latest(session, collection_id)
    row = last if last is not None and last.run_at is None else BriefRow(collection_id=collection_id)
    row.subjects, row.look, row.rules = brief.subjects, brief.look, list(brief.rules)
    row.style, row.edits, row.reference_id = brief.style, brief.edits, brief.reference_id
    session.add(row)
    wanted = {subject.lower(): position for position, subject in enumerate(subjects, 1)}
    held = motifs_waited_for(session) | set(session.scalars(select(UploadRow.motif_id)))
    for known in motifs(session, collection_id):
        empty = known.sketch_count == 0 and known.drawing_id is None and known.id not in held
        if known.name.lower() not in wanted and empty:
            session.delete(require_row(session, MotifRow, known.id, "motif"))
    names = {each.name.lower() for each in motifs(session, collection_id)}
    for subject in subjects:
        if subject.lower() not in names:
            add_motif(session, collection_id, subject)
    for motif_row in session.scalars(select(MotifRow).where(MotifRow.collection_id == collection_id)):
        motif_row.position = wanted.get(motif_row.name.lower(), len(wanted) + motif_row.id)


def latest_brief(session: Session, collection_id: int) -> Brief | None:
    """Return the newest brief of a collection, if it has one."""
    row = _latest(session, collection_id)
    return _to_brief(row) if row else None


def run_briefs(session: Session, collection_id: int) -> list[KeptBrief]:
    """Return the briefs that pictures were drawn from, newest first."""
    rows = session.scalars(
        select(BriefRow)
        .where(BriefRow.collection_id == collection_id, BriefRow.run_at.is_not(None))
        .order_by(BriefRow.id.desc())
    )
    return [KeptBrief(row.id, _to_brief(row), row.run_at) for row in rows if row.run_at is not None]


def rename_subject(session: Session, motif_id: int, name: str) -> None:
    """Give a motif another name, and the line of its collection's newest brief that it stands for."""
    old = motif(session, motif_id)
    rename_motif(session, motif_id, name)
    row = _latest(session, old.collection_id)
    if row is not None:
        new = motif(session, motif_id).name
        row.subjects = renamed_subject(row.subjects, old.name, new)
        edits = dict(row.edits or {})
        if old.name.lower() in edits:
            edits[new.lower()] = edits.pop(old.name.lower())
            row.edits = edits


def mark_run(session: Session, collection_id: int) -> None:
    """Note that pictures are drawn from the newest brief, so that it is kept."""
    row = _latest(session, collection_id)
    if row is None:
        raise InvalidInputError("The collection has no brief yet. Write what to draw first.")
    row.run_at = now()


def _latest(session: Session, collection_id: int) -> BriefRow | None:
    return session.scalar(
        select(BriefRow).where(BriefRow.collection_id == collection_id).order_by(BriefRow.id.desc()).limit(1)
    )


def _to_brief(row: BriefRow) -> Brief:
    return Brief(row.subjects, row.look, tuple(row.rules), row.style or {}, row.edits or {}, row.reference_id)
