"""The workshop: who draws the pictures."""

from fastapi import APIRouter

from zeichen.api.schemas import GeneratorBody
from zeichen.api.workplace import Place

router = APIRouter(tags=["workshop"])


@router.get("/workshop/generator")
def get_generator(place: Place) -> GeneratorBody:
    """Return who draws the pictures."""
    return GeneratorBody.model_validate(place.generator())


@router.put("/workshop/generator")
def put_generator(body: GeneratorBody, place: Place) -> GeneratorBody:
    """Choose who draws the pictures; an address is checked at once, and what its name stands for at each use."""
    place.set_generator(body.model_dump())
    return body
