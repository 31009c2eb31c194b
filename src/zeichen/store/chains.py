"""Clean-up chains: steps with a name, to be used again."""

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from zeichen.core.errors import InvalidInputError
from zeichen.store.collections import require_row
from zeichen.store.models import ChainRow
from zeichen.store.records import Chain


def chains(session: Session) -> list[Chain]:
    """Return all chains by name."""
    rows = session.scalars(select(ChainRow).order_by(func.lower(ChainRow.name)))
    return [Chain(row.id, row.name, tuple(row.steps)) for row in rows]


def put_chain(session: Session, name: str, steps: list[dict[str, Any]]) -> Chain:
    """Keep steps under a name, in place of those that had it."""
    clean = " ".join(name.split())
    if not clean:
        raise InvalidInputError("The steps need a name, for example: pencil on grey paper.")
    if not steps:
        raise InvalidInputError("There are no steps to keep. Add one first.")
    # SQLite's own lower() knows ASCII alone.
    row = next((row for row in session.scalars(select(ChainRow)) if row.name.lower() == clean.lower()), None)
    if row is None:
        row = ChainRow(name=clean)
        session.add(row)
    row.steps = steps
    session.flush()
    return Chain(row.id, row.name, tuple(row.steps))


def delete_chain(session: Session, chain_id: int) -> None:
    """Forget a chain; pictures cleaned with it stay as they are."""
    session.delete(require_row(session, ChainRow, chain_id, "chain"))
