"""One collection as a single file to hand to a friend, and taken in again: rows as JSON, files under their hashes.

Every id is given anew when it is taken in, so that a file can be taken in twice, and into any data folder. Nothing
in the file is trusted: tables, columns, references and hashes are held against what they must be.
"""

import json
import zipfile
import zlib
from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import Table, insert, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from zeichen.core.errors import FormatError, NotFoundError, ZeichenError
from zeichen.store import collections
from zeichen.store.database import Database
from zeichen.store.files import FileStore
from zeichen.store.models import (
    Base,
    BriefRow,
    CollectionRow,
    DrawingRow,
    MotifRow,
    PackRow,
    RevisionRow,
    SketchRow,
    TicketRow,
    TracingRow,
    UploadRow,
    UtcDateTime,
    VariantRow,
    YardstickRow,
)
from zeichen.store.references import digests_in

_KIND, _EDITION = "zeichen-collection", 1
_CONTENT = "collection.json"
_LARGEST_BYTES = 4_000_000_000
_LARGEST_FILE_BYTES = 400_000_000

# Parents first. What points to a row of the same table is set once all of them are there.
_TABLES: tuple[Table, ...] = tuple(
    Base.metadata.tables[row.__tablename__]
    for row in (
        YardstickRow, CollectionRow, BriefRow, MotifRow, SketchRow, UploadRow, TracingRow, DrawingRow,
        RevisionRow, VariantRow, TicketRow, PackRow,
    )
)  # fmt: skip
# Columns that point to rows without a rule of the database.
_LOOSE = {("drawings", "head_id"): "revisions", ("briefs", "reference_id"): "sketches"}
_WITHIN = {("sketches", "parent_id"): "sketches", ("revisions", "parent_id"): "revisions"}
_LOOSE_LISTS = {("packs", "motif_ids"): "motifs"}


def write_collection(database: Database, collection_id: int, target: Path) -> None:
    """Write a collection with all that was made in it into one ZIP file.

    Raises
    ------
    NotFoundError
        If there is no such collection, or one of its files is missing.
    DamagedError
        If one of its files is damaged.
    """
    with database.read() as session:
        rows = _rows_of(session, collection_id)
    digests = sorted({digest for table in rows.values() for row in table for digest in digests_in(row)})
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bundle:
        content = {"kind": _KIND, "edition": _EDITION, "tables": rows}
        bundle.writestr(_CONTENT, json.dumps(content, ensure_ascii=False))
        for digest in digests:
            bundle.writestr(f"files/{digest}", database.files.get(digest))


def _rows_of(session: Session, collection_id: int) -> dict[str, list[dict[str, Any]]]:
    chosen = collections.collection(session, collection_id)
    held: dict[str, set[int]] = {"yardsticks": {chosen.yardstick_id}, "collections": {chosen.id}}
    out: dict[str, list[dict[str, Any]]] = {}
    for table in _TABLES:
        wanted = select(table)
        if table.name in held:
            wanted = wanted.where(table.c.id.in_(held[table.name]))
        else:
            owner = _owner(table)
            wanted = wanted.where(table.c[owner].in_(held[_parent(table, owner)]))
        rows = [dict(row) for row in session.execute(wanted.order_by(table.c.id)).mappings()]
        held[table.name] = {row["id"] for row in rows}
        out[table.name] = [{key: _plain(value) for key, value in row.items()} for row in rows]
    return out


def _owner(table: Table) -> str:
    """Return the column by which a row belongs to another: the first that goes with it when that one goes."""
    return next(
        column.name for column in table.columns for key in column.foreign_keys if key.ondelete == "CASCADE"
    )


def _parent(table: Table, column: str) -> str:
    return next(iter(table.c[column].foreign_keys)).column.table.name


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def read_collection(database: Database, source: Path) -> int:
    """Take a collection in from a file; returns its id. If its name is taken, a number is put behind it.

    Raises
    ------
    FormatError
        If the file is no collection of Zeichen, is damaged, or does not hold together. Nothing is kept then.
    """
    try:
        with zipfile.ZipFile(source) as bundle:
            tables, digests = _require_collection(bundle)
            for digest in digests:
                if database.files.put(bundle.read(f"files/{digest}")) != digest:
                    raise FormatError("The file is damaged: one of its pictures or drawings is not whole.")
        with database.write() as session:
            return _Taking(session, tables, database.files).collection_id
    except ZeichenError:
        raise
    except (zipfile.BadZipFile, zlib.error) as error:
        raise FormatError("This is no collection of Zeichen: it is no ZIP file, or a damaged one.") from error
    except (
        ValueError,
        KeyError,
        TypeError,
        AttributeError,
        RecursionError,
        EOFError,
        NotImplementedError,
    ) as error:
        raise FormatError(f"The collection in this file does not hold together: {error!r}.") from error
    except SQLAlchemyError as error:
        raise FormatError(
            "The collection in this file does not hold together: a row does not fit."
        ) from error


def _require_collection(bundle: zipfile.ZipFile) -> tuple[dict[str, list[dict[str, Any]]], list[str]]:
    sizes = {entry.filename: entry.file_size for entry in bundle.infolist()}
    if _CONTENT not in sizes:
        raise FormatError("This is no collection of Zeichen: the ZIP file holds something else.")
    if sum(sizes.values()) > _LARGEST_BYTES or max(sizes.values()) > _LARGEST_FILE_BYTES:
        raise FormatError(
            "The collection in this file is larger than Zeichen takes in (4 GB, a file of it 400 MB)."
        )
    content = json.loads(bundle.read(_CONTENT))
    if content.get("kind") != _KIND:
        raise FormatError("This is no collection of Zeichen: the ZIP file holds something else.")
    if content.get("edition") != _EDITION:
        raise FormatError("The collection was written by a newer version of Zeichen than this one.")
    digests = sorted(set(digests_in(content["tables"])))
    missing = [digest for digest in digests if f"files/{digest}" not in sizes]
    if missing:
        raise FormatError(f"The file is not whole: {len(missing)} of its pictures or drawings are missing.")
    return content["tables"], digests


def _each(ids: dict[int, int], old: list[int]) -> list[int]:
    return [ids[each] for each in old if each in ids]


class _Taking:
    """Rows taken in one table after the other, with new ids and references that follow them."""

    def __init__(self, session: Session, tables: dict[str, list[dict[str, Any]]], files: FileStore) -> None:
        self._session, self._tables = session, tables
        self._ids: dict[str, dict[int, int]] = {table.name: {} for table in _TABLES}
        if len(tables["collections"]) != 1 or len(tables["yardsticks"]) != 1:
            raise FormatError("The file does not hold one collection.")
        for table in _TABLES:
            for row in tables[table.name]:
                self._take(table, row)
        for (name, column), target in {**_LOOSE, **_WITHIN}.items():
            self._point(name, column, self._ids[target].get)
        for (name, column), target in _LOOSE_LISTS.items():
            self._point(name, column, partial(_each, self._ids[target]))
        (self.collection_id,) = self._ids["collections"].values()
        self._require_sound()

    def _take(self, table: Table, row: dict[str, Any]) -> None:
        known = {column.name for column in table.columns}
        if set(row) - known:
            raise FormatError(
                f"The file holds something this Zeichen does not know: {sorted(set(row) - known)[0]}."
            )
        values = {key: self._value(table, key, value) for key, value in row.items() if key != "id"}
        if table.name == "collections":
            values["name"] = self._free_name(str(values["name"]))
        added = self._session.execute(insert(table).values(values).returning(table.c.id))
        self._ids[table.name][row["id"]] = added.scalar_one()

    def _value(self, table: Table, key: str, value: Any) -> Any:
        column = table.c[key]
        later = (table.name, key) in _LOOSE or (table.name, key) in _LOOSE_LISTS
        if value is None or (later and (table.name, key) in _LOOSE):
            if value is None and not column.nullable:
                raise FormatError(f"The file does not hold together: {key} of {table.name} is missing.")
            return None
        if later:
            return []
        if isinstance(column.type, UtcDateTime):
            return datetime.fromisoformat(value)
        target = next((each.column.table.name for each in column.foreign_keys), None)
        if target == table.name:
            return None
        if target is not None:
            if value not in self._ids[target]:
                raise FormatError(f"The file does not hold together: {table.name} points to nothing.")
            return self._ids[target][value]
        kind = column.type.python_type
        fits = isinstance(value, int | float) if kind is float else isinstance(value, kind)
        if kind is not bool and not fits and not (kind is dict and isinstance(value, list)):
            raise FormatError(f"The file does not hold together: {key} of {table.name} is {value!r:.60}.")
        return value

    def _point(self, name: str, column: str, found: Callable[[Any], Any]) -> None:
        table = Base.metadata.tables[name]
        for row in self._tables[name]:
            if row.get(column) is not None:
                values = {column: found(row[column])}
                self._session.execute(
                    table.update().where(table.c.id == self._ids[name][row["id"]]).values(values)
                )

    def _free_name(self, name: str) -> str:
        clean = " ".join(name.split())[:100] or "Collection"
        taken = {each.name for each in collections.collections(self._session)}
        number, free = 2, clean
        while free in taken:
            free, number = f"{clean} ({number})", number + 1
        return free

    def _require_sound(self) -> None:
        """Read what was taken in as it will be read: what cannot be, is not kept."""
        self._session.flush()
        chosen = collections.collection(self._session, self.collection_id)
        collections.yardstick(self._session, chosen.yardstick_id)
        collections.motifs(self._session, self.collection_id)
        heads = select(DrawingRow.id).where(
            DrawingRow.id.in_(self._ids["drawings"].values()), DrawingRow.head_id.is_(None)
        )
        if self._session.scalar(heads) is not None:
            raise NotFoundError("A drawing in this file has no current state.")
