"""Clean-up chains with a name, and one chain for a whole set."""

import asyncio

from fastapi import APIRouter

from zeichen.api.schemas import ChainBody, CleanAllBody
from zeichen.api.workplace import Place
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean import steps_from_data, steps_to_data
from zeichen.store import chains, collections, sketches
from zeichen.store.records import Chain, Job

router = APIRouter(tags=["clean-up"])


@router.get("/chains")
def list_chains(place: Place) -> list[Chain]:
    """Return the clean-up chains that were given a name."""
    with place.database.read() as session:
        return chains.chains(session)


@router.post("/chains", status_code=201)
def add_chain(body: ChainBody, place: Place) -> Chain:
    """Keep steps under a name; a name that is taken gets the new steps."""
    steps = steps_to_data(steps_from_data(body.steps))
    with place.database.write() as session:
        return chains.put_chain(session, body.name, steps)


@router.delete("/chains/{chain_id}", status_code=204)
def delete_chain(chain_id: int, place: Place) -> None:
    """Forget a chain; pictures cleaned with it stay as they are."""
    with place.database.write() as session:
        chains.delete_chain(session, chain_id)


@router.post("/collections/{collection_id}/clean-all", status_code=202)
async def clean_all(collection_id: int, body: CleanAllBody, place: Place) -> Job:
    """Clean every kept sketch of the set up with the same steps, in place of its own."""
    steps = steps_to_data(steps_from_data(body.steps))

    def load() -> list[int]:
        with place.database.read() as session:
            drawn = [sketches.sketches(session, m.id) for m in collections.motifs(session, collection_id)]
        return [sketch.id for each in drawn for sketch in each if sketch.kept]

    ids = await asyncio.to_thread(load)
    if not ids:
        raise InvalidInputError("No sketch of the set is kept. Keep some in Sketch first.")
    params = {"collection_id": collection_id, "sketch_ids": ids, "steps": steps}
    return await place.runner.submit("clean", f"Clean up {len(ids)} sketches", params)
