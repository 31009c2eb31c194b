"""What a maker has set up, by subject."""

from typing import Any

from sqlalchemy.orm import Session

from zeichen.store.models import WorkshopRow


def workshop_value(session: Session, key: str) -> dict[str, Any]:
    """Return what is set up under a key, empty if nothing is."""
    row = session.get(WorkshopRow, key)
    return dict(row.value) if row else {}


def put_workshop_value(session: Session, key: str, value: dict[str, Any]) -> None:
    """Set something up in place of what was there."""
    row = session.get(WorkshopRow, key)
    if row is None:
        session.add(WorkshopRow(key=key, value=value))
    else:
        row.value = value
