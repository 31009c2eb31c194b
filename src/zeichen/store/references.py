"""Which stored files are pointed to, by whatever row and in whatever column: nothing else may ever be swept."""

import re
from collections.abc import Iterator
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.store.files import FileStore
from zeichen.store.models import Base

_DIGEST = re.compile("[0-9a-f]{64}")


def referenced_files(session: Session, files: FileStore) -> dict[str, str]:
    """Return the hashes of all files that something points to, each with the table it is first pointed to from.

    Every text and every JSON value of every table is looked at, so that a new column cannot be forgotten. A state
    of a drawing that is told by another points to that one.
    """
    found: dict[str, str] = {}
    for table in Base.metadata.sorted_tables:
        for row in session.execute(select(table)):
            for digest in digests_in(tuple(row)):
                found.setdefault(digest, table.name)
    for digest in list(found):
        base = files.base_of(digest)
        if base is not None:
            found.setdefault(base, "states of drawings")
    return found


def digests_in(value: Any) -> Iterator[str]:
    """Yield every hash of a file in a value, however deep."""
    if isinstance(value, str):
        if _DIGEST.fullmatch(value):
            yield value
    elif isinstance(value, dict):
        for part in value.values():
            yield from digests_in(part)
    elif isinstance(value, list | tuple):
        for part in value:
            yield from digests_in(part)
