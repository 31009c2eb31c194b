"""Recipes for tracing: settings with a name."""

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from zeichen.core.errors import InvalidInputError
from zeichen.store.collections import require_row
from zeichen.store.models import RecipeRow
from zeichen.store.records import Recipe


def recipes(session: Session) -> list[Recipe]:
    """Return all recipes by name."""
    rows = session.scalars(select(RecipeRow).order_by(func.lower(RecipeRow.name)))
    return [Recipe(row.id, row.name, row.settings) for row in rows]


def put_recipe(session: Session, name: str, settings: dict[str, Any]) -> Recipe:
    """Keep settings under a name, in place of those that had it."""
    name = " ".join(name.split())
    if not name:
        raise InvalidInputError("A recipe needs a name, for example: birch tags.")
    # SQLite's own lower() knows ASCII alone.
    row = next((row for row in session.scalars(select(RecipeRow)) if row.name.lower() == name.lower()), None)
    if row is None:
        row = RecipeRow(name=name, settings=settings)
        session.add(row)
    row.settings = settings
    session.flush()
    return Recipe(row.id, row.name, row.settings)


def delete_recipe(session: Session, recipe_id: int) -> None:
    """Forget a recipe."""
    session.delete(require_row(session, RecipeRow, recipe_id, "recipe"))
