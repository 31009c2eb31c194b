"""Collections, briefs, motifs and yardsticks."""

import unicodedata
from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from zeichen.core.briefing.file_names import motif_name
from zeichen.core.errors import ConflictError, InvalidInputError, NotFoundError
from zeichen.core.proofing.yardstick import Limits, Process, Yardstick
from zeichen.store.models import (
    CollectionRow,
    DrawingRow,
    MotifRow,
    PackRow,
    RevisionRow,
    SketchRow,
    TicketRow,
    TracingRow,
    YardstickRow,
)
from zeichen.store.records import Collection, FileMotif, Motif, NamedYardstick

_Row = TypeVar("_Row")
# SQLite's integers have 64 bits with a sign.
_LARGEST_ID = 2**63 - 1

# As wide are figures, and the square plate they are made on, by the yardstick a new data folder starts with, mm.
_FIRST_WIDTH_MM, _FIRST_BLANK_MM = 80.0, 100.0


def add_yardstick(session: Session, name: str, yardstick: Yardstick) -> int:
    """Keep a yardstick; returns its id."""
    row = YardstickRow(**_yardstick_columns(name, yardstick))
    session.add(row)
    session.flush()
    return row.id


def change_yardstick(session: Session, yardstick_id: int, name: str, yardstick: Yardstick) -> None:
    """Replace the values of a yardstick."""
    row = require_row(session, YardstickRow, yardstick_id, "yardstick")
    for column, value in _yardstick_columns(name, yardstick).items():
        setattr(row, column, value)


def yardsticks(session: Session) -> list[NamedYardstick]:
    """Return all yardsticks, oldest first."""
    return [_to_yardstick(row) for row in session.scalars(select(YardstickRow).order_by(YardstickRow.id))]


def yardstick(session: Session, yardstick_id: int) -> NamedYardstick:
    """Return one yardstick."""
    return _to_yardstick(require_row(session, YardstickRow, yardstick_id, "yardstick"))


def yardstick_of_motif(session: Session, motif_id: int) -> Yardstick:
    """Return what a motif's collection is judged by."""
    chosen = collection(session, motif(session, motif_id).collection_id)
    return yardstick(session, chosen.yardstick_id).yardstick


def add_collection(session: Session, name: str, yardstick_id: int | None) -> int:
    """Make an empty collection; returns its id. Without a yardstick's id it gets the first there is, or a usual one."""
    clean = _clean_name(name, "collection")
    if session.scalar(select(CollectionRow).where(CollectionRow.name == clean)):
        raise ConflictError(f"There is a collection “{clean}” already. Choose another name.")
    if yardstick_id is None:
        yardstick_id = _first_yardstick(session)
    require_row(session, YardstickRow, yardstick_id, "yardstick")
    row = CollectionRow(name=clean, yardstick_id=yardstick_id)
    session.add(row)
    session.flush()
    return row.id


def _first_yardstick(session: Session) -> int:
    """Return the id of the first yardstick, made here in a new data folder."""
    known: int | None = session.scalar(select(func.min(YardstickRow.id)))
    if known is not None:
        return known
    usual = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=_FIRST_WIDTH_MM)
    # A blank that is large enough for anything would fill no screen.
    plate = replace(usual, blank="plate", blank_width_mm=_FIRST_BLANK_MM, blank_height_mm=_FIRST_BLANK_MM)
    return add_yardstick(session, "Laser engraving", plate)


def rename_collection(session: Session, collection_id: int, name: str) -> None:
    """Give a collection another name; ConflictError if another one has it."""
    row = require_row(session, CollectionRow, collection_id, "collection")
    clean = _clean_name(name, "collection")
    taken = session.scalar(
        select(CollectionRow.id).where(CollectionRow.name == clean, CollectionRow.id != collection_id)
    )
    if taken is not None:
        raise ConflictError(f"There is a collection “{clean}” already. Choose another name.")
    row.name = clean


def collections(session: Session) -> list[Collection]:
    """Return all collections, oldest first."""
    rows = session.scalars(select(CollectionRow).order_by(CollectionRow.id))
    return [Collection(row.id, row.name, row.yardstick_id) for row in rows]


def collection(session: Session, collection_id: int) -> Collection:
    """Return one collection."""
    row = require_row(session, CollectionRow, collection_id, "collection")
    return Collection(row.id, row.name, row.yardstick_id)


def choose_yardstick(session: Session, collection_id: int, yardstick_id: int) -> None:
    """Judge a collection by another yardstick."""
    row = require_row(session, CollectionRow, collection_id, "collection")
    require_row(session, YardstickRow, yardstick_id, "yardstick")
    row.yardstick_id = yardstick_id


def add_motif(session: Session, collection_id: int, name: str) -> int:
    """Add a motif at the end of a collection; returns its id."""
    clean = _clean_name(name, "motif")
    require_row(session, CollectionRow, collection_id, "collection")
    last = session.scalar(select(func.max(MotifRow.position)).where(MotifRow.collection_id == collection_id))
    row = MotifRow(collection_id=collection_id, name=clean[:1].upper() + clean[1:], position=(last or 0) + 1)
    session.add(row)
    session.flush()
    return row.id


def motifs(session: Session, collection_id: int) -> list[Motif]:
    """Return the motifs of a collection in order, with the counts the set rail shows."""
    rows = session.scalars(
        select(MotifRow).where(MotifRow.collection_id == collection_id).order_by(MotifRow.position)
    )
    packed: dict[int, int] = {}
    for ids in session.scalars(select(PackRow.motif_ids).where(PackRow.collection_id == collection_id)):
        for motif_id in ids:
            packed[motif_id] = packed.get(motif_id, 0) + 1
    return [_to_motif(session, row, packed.get(row.id, 0)) for row in rows]


def motifs_of_files(
    session: Session, collection_id: int, file_names: Sequence[str], *, create: bool
) -> list[FileMotif]:
    """Return the motif that each picture file belongs to by its name, in their order.

    create: add motifs for names that none has; files of one name share it.
    """
    require_row(session, CollectionRow, collection_id, "collection")
    known = {_same_name(each.name): (each.name, each.id) for each in motifs(session, collection_id)}
    found = []
    for file_name in file_names:
        name = motif_name(file_name)
        motif_id: int | None = None
        if _same_name(name) in known:
            name, motif_id = known[_same_name(name)]
        elif create:
            motif_id = add_motif(session, collection_id, name)
            known[_same_name(name)] = name, motif_id
        found.append(FileMotif(file_name, name, motif_id))
    return found


def _same_name(name: str) -> str:
    """Return a name as it is compared: "Tea-pot" is "tea pot"."""
    return motif_name(unicodedata.normalize("NFC", name)).casefold()


def motif(session: Session, motif_id: int) -> Motif:
    """Return one motif."""
    return _to_motif(session, require_row(session, MotifRow, motif_id, "motif"), 0)


def rename_motif(session: Session, motif_id: int, name: str) -> None:
    """Give a motif another name; ConflictError if another of its collection has it."""
    row = require_row(session, MotifRow, motif_id, "motif")
    clean = _clean_name(name, "motif")
    for other in session.scalars(select(MotifRow).where(MotifRow.collection_id == row.collection_id)):
        if other.id != motif_id and other.name.lower() == clean.lower():
            raise ConflictError(f"The collection has a motif “{other.name}” already. Choose another name.")
    row.name = clean[:1].upper() + clean[1:]


def _clean_name(name: str, what: str) -> str:
    """Return a name in one form (NFC) and without needless spaces; InvalidInputError if nothing is left."""
    clean = " ".join(unicodedata.normalize("NFC", name).split())
    if not clean:
        raise InvalidInputError(f"The {what} needs a name.")
    return clean


def _to_motif(session: Session, row: MotifRow, pack_count: int) -> Motif:
    def count(table: type, *where: object) -> int:
        return session.scalar(select(func.count()).select_from(table).where(*where)) or 0  # type: ignore[arg-type]

    thumb = session.scalar(
        select(SketchRow.thumb_sha)
        .where(SketchRow.motif_id == row.id)
        .order_by(SketchRow.kept.desc(), SketchRow.id)
        .limit(1)
    )
    drawing = session.scalar(
        select(DrawingRow).where(DrawingRow.motif_id == row.id).order_by(DrawingRow.id.desc()).limit(1)
    )
    tracings = (
        session.scalar(
            select(func.count())
            .select_from(TracingRow)
            .join(SketchRow, TracingRow.sketch_id == SketchRow.id)
            .where(SketchRow.motif_id == row.id)
        )
        or 0
    )
    return Motif(
        id=row.id,
        collection_id=row.collection_id,
        name=row.name,
        position=row.position,
        sketch_count=count(SketchRow, SketchRow.motif_id == row.id),
        kept_count=count(SketchRow, SketchRow.motif_id == row.id, SketchRow.kept.is_(True)),
        tracing_count=tracings,
        revision_count=count(RevisionRow, RevisionRow.drawing_id == drawing.id) if drawing else 0,
        ticket_count=count(TicketRow, TicketRow.motif_id == row.id),
        pack_count=pack_count,
        thumb_sha=thumb,
        drawing_id=drawing.id if drawing else None,
    )


def _yardstick_columns(name: str, y: Yardstick) -> dict[str, object]:
    if not name.strip():
        raise InvalidInputError("The yardstick needs a name.")
    return {
        "name": name.strip(),
        "process": y.process.value,
        "width_mm": y.width_mm,
        "blank": y.blank,
        "blank_width_mm": y.blank_width_mm,
        "blank_height_mm": y.blank_height_mm,
        "thin_mm": y.limits.thin_mm,
        "gap_mm": y.limits.gap_mm,
        "speck_mm2": y.limits.speck_mm2,
        "one_piece": y.limits.one_piece,
        "cut_away": y.limits.cut_away,
        "corner_mm": y.limits.corner_mm,
        "colours": y.limits.colours,
    }


def _to_yardstick(row: YardstickRow) -> NamedYardstick:
    limits = Limits(
        row.thin_mm, row.gap_mm, row.speck_mm2, row.one_piece, row.cut_away, row.corner_mm, row.colours
    )
    value = Yardstick(
        Process(row.process), row.width_mm, row.blank, row.blank_width_mm, row.blank_height_mm, limits
    )
    return NamedYardstick(row.id, row.name, value)


def require_row(session: Session, table: type[_Row], key: int, name: str) -> _Row:
    """Return one row; NotFoundError if there is none, whatever the number."""
    row = session.get(table, key) if 0 <= key <= _LARGEST_ID else None
    if row is None:
        raise NotFoundError(f"There is no {name} {key}. It may have been deleted; reload the page.")
    return row
