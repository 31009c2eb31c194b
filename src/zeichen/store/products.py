"""Tickets and packs."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.core.errors import InvalidInputError
from zeichen.store.collections import require_row
from zeichen.store.models import CollectionRow, MotifRow, PackRow, TicketRow
from zeichen.store.records import Pack, StoredFile, Ticket


def add_ticket(session: Session, motif_id: int, **columns: Any) -> int:
    """Keep a ticket; returns its id."""
    require_row(session, MotifRow, motif_id, "motif")
    row = TicketRow(motif_id=motif_id, **columns)
    session.add(row)
    session.flush()
    return row.id


def tickets(session: Session, motif_id: int) -> list[Ticket]:
    """Return the tickets of a motif, newest first."""
    rows = session.scalars(
        select(TicketRow).where(TicketRow.motif_id == motif_id).order_by(TicketRow.id.desc())
    )
    return [_to_ticket(row) for row in rows]


def ticket(session: Session, ticket_id: int) -> Ticket:
    """Return one ticket."""
    return _to_ticket(require_row(session, TicketRow, ticket_id, "ticket"))


def add_pack(session: Session, collection_id: int, **columns: Any) -> int:
    """Keep a pack; returns its id."""
    require_row(session, CollectionRow, collection_id, "collection")
    row = PackRow(collection_id=collection_id, **columns)
    session.add(row)
    session.flush()
    return row.id


def rename_pack(session: Session, pack_id: int, title: str) -> None:
    """Give a pack another title; what its files say stays as it was written."""
    row = require_row(session, PackRow, pack_id, "pack")
    clean = " ".join(title.split())
    if not clean:
        raise InvalidInputError("The pack needs a title.")
    row.title = clean


def packs(session: Session, collection_id: int) -> list[Pack]:
    """Return the packs of a collection, newest first."""
    rows = session.scalars(
        select(PackRow).where(PackRow.collection_id == collection_id).order_by(PackRow.id.desc())
    )
    return [_to_pack(row) for row in rows]


def pack(session: Session, pack_id: int) -> Pack:
    """Return one pack."""
    return _to_pack(require_row(session, PackRow, pack_id, "pack"))


def _to_ticket(row: TicketRow) -> Ticket:
    return Ticket(
        id=row.id,
        motif_id=row.motif_id,
        revision_id=row.revision_id,
        process=row.process,
        width_mm=row.width_mm,
        settings=row.settings,
        files=tuple(StoredFile(**made) for made in row.files),
        readings=tuple(row.readings),
        rehearsal=row.rehearsal,
        created_at=row.created_at,
    )


def _to_pack(row: PackRow) -> Pack:
    return Pack(
        id=row.id,
        collection_id=row.collection_id,
        title=row.title,
        listing=row.listing,
        motif_ids=tuple(row.motif_ids),
        zip_sha=row.zip_sha,
        size_bytes=row.size_bytes,
        contents=tuple(row.contents),
        created_at=row.created_at,
    )
