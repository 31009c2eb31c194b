"""Tickets and packs: made by jobs, downloaded as files."""

import asyncio
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from zeichen.api.files import download
from zeichen.api.schemas import PackBody, TicketBody, TitleBody
from zeichen.api.workplace import Place, Workplace
from zeichen.core.errors import NotFoundError
from zeichen.core.packing import Listing, file_stem
from zeichen.jobs.kinds import declared_origin
from zeichen.jobs.products import SolidData, relief_mesh, require_order
from zeichen.store import collections, drawings, products
from zeichen.store.records import Job, Motif, Pack, Ticket

router = APIRouter(tags=["products"])


@router.get("/motifs/{motif_id}/tickets")
def list_tickets(motif_id: int, place: Place) -> list[Ticket]:
    """Return the tickets of a motif, newest first."""
    with place.database.read() as session:
        return products.tickets(session, motif_id)


@router.post("/motifs/{motif_id}/tickets", status_code=202)
async def make_ticket(motif_id: int, body: TicketBody, place: Place) -> Job:
    """Write the files of one process and rehearse it."""
    require_order(body.process, body.width_mm, body.settings)
    motif = await asyncio.to_thread(_drawn_motif, place, motif_id)
    params = {"motif_id": motif_id, **body.model_dump(mode="json"), "on_blank": body.process == "laser"}
    return await place.runner.submit(
        "make", f"{body.process.capitalize()} files of {motif.name.lower()}", params
    )


@router.get("/tickets/{ticket_id}/files/{name}", response_class=Response)
def get_ticket_file(ticket_id: int, name: str, place: Place) -> Response:
    """Download one file of a ticket."""
    with place.database.read() as session:
        ticket = products.ticket(session, ticket_id)
    for made in ticket.files:
        if made.name == name:
            return download(place.database.files.get(made.sha), made.media_type, made.name)
    raise NotFoundError(f"The ticket has no file {name}.")


@router.get("/tickets/{ticket_id}/solid")
async def get_solid(ticket_id: int, place: Place) -> SolidData:
    """Return the parts of a relief ticket for the screen."""
    with place.database.read() as session:
        ticket = products.ticket(session, ticket_id)
        if ticket.process != "relief":
            raise NotFoundError("Only relief tickets have a solid.")
        svg_sha = drawings.revision_file(session, ticket.revision_id)
    return await place.live.run(relief_mesh, place.file(svg_sha), ticket.width_mm, ticket.settings)


@router.get("/collections/{collection_id}/packs")
def list_packs(collection_id: int, place: Place) -> list[Pack]:
    """Return the packs of a collection, newest first."""
    with place.database.read() as session:
        return products.packs(session, collection_id)


@router.post("/collections/{collection_id}/packs", status_code=202)
async def make_pack(collection_id: int, body: PackBody, place: Place) -> Job:
    """Bundle drawings of the collection into one ZIP."""
    values: dict[str, Any] = body.model_dump(exclude={"motif_ids", "width_mm", "machine_made"})
    Listing(**{**values, "keywords": tuple(values["keywords"])})
    await asyncio.to_thread(_require_drawn, place, collection_id, body.motif_ids)
    await asyncio.to_thread(declared_origin, place.database, body.motif_ids, body.machine_made)
    params = {
        "collection_id": collection_id,
        "motif_ids": body.motif_ids,
        "width_mm": body.width_mm,
        "machine_made": body.machine_made,
        "listing": values,
    }
    return await place.runner.submit("pack", f"Pack “{body.title.strip()}”", params)


@router.get("/packs/{pack_id}/zip", response_class=Response)
def get_pack(pack_id: int, place: Place) -> Response:
    """Download a pack."""
    with place.database.read() as session:
        pack = products.pack(session, pack_id)
    return download(place.database.files.get(pack.zip_sha), "application/zip", f"{file_stem(pack.title)}.zip")


@router.patch("/packs/{pack_id}")
def rename_pack(pack_id: int, body: TitleBody, place: Place) -> Pack:
    """Give a pack another title; what is in its ZIP stays as it was written."""
    with place.database.write() as session:
        products.rename_pack(session, pack_id, body.title)
        return products.pack(session, pack_id)


def _drawn_motif(place: Workplace, motif_id: int) -> Motif:
    with place.database.read() as session:
        drawings.motif_drawing(session, motif_id)
        return collections.motif(session, motif_id)


def _require_drawn(place: Workplace, collection_id: int, motif_ids: list[int]) -> None:
    with place.database.read() as session:
        inside = {motif.id for motif in collections.motifs(session, collection_id)}
        for motif_id in motif_ids:
            if motif_id not in inside:
                raise NotFoundError(f"The collection has no motif {motif_id}.")
            drawings.motif_drawing(session, motif_id)
