"""Looking after a data folder: what can be swept, and whether all that was kept is there and whole."""

from dataclasses import dataclass, field

from sqlalchemy import text

from zeichen.core.errors import DamagedError, NotFoundError
from zeichen.store.database import Database
from zeichen.store.references import referenced_files


@dataclass(frozen=True, slots=True)
class Unused:
    """Files that nothing points to."""

    digests: tuple[str, ...]
    size_bytes: int


def unused_files(database: Database) -> Unused:
    """Return the files that nothing points to; nothing is removed."""
    with database.read() as session:
        held = referenced_files(session, database.files)
    loose = [(digest, size_bytes) for digest, size_bytes in database.files.all() if digest not in held]
    return Unused(tuple(digest for digest, _ in loose), sum(size_bytes for _, size_bytes in loose))


def remove_unused(database: Database) -> Unused:
    """Remove the files that nothing points to, for good. No other app may have the folder open."""
    unused = unused_files(database)
    for digest in unused.digests:
        database.files.remove(digest)
    return unused


@dataclass(frozen=True, slots=True)
class Health:
    """How a data folder stands: one line for each thing that is wrong, and how much was looked at."""

    file_count: int
    size_bytes: int
    problems: tuple[str, ...] = field(default=())


def check_data(database: Database) -> Health:
    """Hold every file against its name, every reference against the files, and the tables against their own rules."""
    problems: list[str] = []
    with database.read() as session:
        for (line,) in session.execute(text("PRAGMA integrity_check")):
            if line != "ok":
                problems.append(f"database: {line}")
        for table, row_id, parent, _ in session.execute(text("PRAGMA foreign_key_check")):
            problems.append(f"{table} {row_id} points to a row of {parent} that is not there")
        heads = text(
            "SELECT d.id FROM drawings d LEFT JOIN revisions r ON r.id = d.head_id AND r.drawing_id = d.id "
            "WHERE r.id IS NULL"
        )
        problems += [f"drawing {row_id} has no current state" for (row_id,) in session.execute(heads)]
        held = referenced_files(session, database.files)
    count = size_bytes = 0
    for digest, size in database.files.all():
        count, size_bytes = count + 1, size_bytes + size
        try:
            database.files.get(digest)
        except (DamagedError, NotFoundError) as error:
            used = f" It is used by {held[digest]}." if digest in held else " Nothing uses it."
            problems.append(f"{error}{used}")
    problems += [
        f"The file {digest[:12]} is missing. It is used by {table}."
        for digest, table in held.items()
        if not database.files.has(digest)
    ]
    return Health(count, size_bytes, tuple(problems))
