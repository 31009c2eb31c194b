"""Collections, their yardsticks, briefs and motifs."""

import asyncio
import os
import tempfile
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask

from zeichen.api.files import BYTES_BODY, body_as_file
from zeichen.api.schemas import (
    ChosenYardstickBody,
    CollectionBody,
    CollectionView,
    FilesBody,
    MotifBody,
    NameBody,
    Verdict,
    YardstickBody,
)
from zeichen.api.workplace import Place, Workplace
from zeichen.core.packing import file_stem
from zeichen.store import briefs, collections, drawings
from zeichen.store.exchange import read_collection, write_collection
from zeichen.store.records import Collection, FileMotif, Motif, NamedYardstick

router = APIRouter(tags=["collections"])


@router.get("/yardsticks")
def list_yardsticks(place: Place) -> list[NamedYardstick]:
    """Return all yardsticks."""
    with place.database.read() as session:
        return collections.yardsticks(session)


@router.post("/yardsticks", status_code=201)
def create_yardstick(body: YardstickBody, place: Place) -> NamedYardstick:
    """Keep a new yardstick."""
    with place.database.write() as session:
        return collections.yardstick(session, collections.add_yardstick(session, body.name, body.value()))


@router.put("/yardsticks/{yardstick_id}")
def replace_yardstick(yardstick_id: int, body: YardstickBody, place: Place) -> NamedYardstick:
    """Change a yardstick."""
    with place.database.write() as session:
        collections.change_yardstick(session, yardstick_id, body.name, body.value())
        return collections.yardstick(session, yardstick_id)


@router.get("/collections")
def list_collections(place: Place) -> list[Collection]:
    """Return all collections."""
    with place.database.read() as session:
        return collections.collections(session)


@router.post("/collections", status_code=201)
def create_collection(body: CollectionBody, place: Place) -> Collection:
    """Start an empty collection."""
    with place.database.write() as session:
        return collections.collection(
            session, collections.add_collection(session, body.name, body.yardstick_id)
        )


@router.get("/collections/{collection_id}")
def get_collection(collection_id: int, place: Place) -> CollectionView:
    """Return a collection with its motifs, yardstick and brief."""
    return collection_view(place, collection_id)


@router.patch("/collections/{collection_id}")
def rename_collection(collection_id: int, body: NameBody, place: Place) -> Collection:
    """Give a collection another name."""
    with place.database.write() as session:
        collections.rename_collection(session, collection_id, body.name)
        return collections.collection(session, collection_id)


@router.patch("/motifs/{motif_id}")
def rename_motif(motif_id: int, body: NameBody, place: Place) -> Motif:
    """Give a motif another name; the line of the brief that it stands for is changed with it."""
    with place.database.write() as session:
        briefs.rename_subject(session, motif_id, body.name)
        return collections.motif(session, motif_id)


@router.get(
    "/collections/{collection_id}/file",
    response_class=Response,
    responses={200: {"content": {"application/zip": {}}}},
)
def hand_out_collection(collection_id: int, place: Place) -> FileResponse:
    """Download a collection with all that was made in it as one file."""
    with place.database.read() as session:
        name = collections.collection(session, collection_id).name
    handle, written = tempfile.mkstemp(dir=place.database.folder, prefix=".part-")
    os.close(handle)
    target = Path(written)
    try:
        write_collection(place.database, collection_id, target)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return FileResponse(
        target,
        media_type="application/zip",
        filename=f"{file_stem(name)}.zeichen.zip",
        background=BackgroundTask(target.unlink),
    )


@router.post("/collections/take-in", status_code=201, openapi_extra=BYTES_BODY)
async def take_in_collection(request: Request, place: Place) -> Collection:
    """Take in a collection that was handed out as a file, as the request's body; nothing that is there is changed."""

    def take_in(source: Path) -> Collection:
        collection_id = read_collection(place.database, source)
        with place.database.read() as session:
            return collections.collection(session, collection_id)

    most_mb = place.settings.largest_collection_mb
    async with body_as_file(request, place.database.folder, most_mb=most_mb) as source:
        return await asyncio.to_thread(take_in, source)


@router.put("/collections/{collection_id}/yardstick")
def choose_yardstick(collection_id: int, body: ChosenYardstickBody, place: Place) -> CollectionView:
    """Judge the collection by another yardstick."""
    with place.database.write() as session:
        collections.choose_yardstick(session, collection_id, body.yardstick_id)
    return collection_view(place, collection_id)


@router.post("/collections/{collection_id}/motifs", status_code=201)
def create_motif(collection_id: int, body: MotifBody, place: Place) -> CollectionView:
    """Add a motif."""
    with place.database.write() as session:
        collections.add_motif(session, collection_id, body.name)
    return collection_view(place, collection_id)


@router.post("/collections/{collection_id}/file-motifs")
def motifs_of_files(collection_id: int, body: FilesBody, place: Place) -> list[FileMotif]:
    """Return the motif each picture file belongs to by its name; adds those that are missing if asked to."""
    with place.database.write() if body.create else place.database.read() as session:
        return collections.motifs_of_files(session, collection_id, body.file_names, create=body.create)


@router.get("/collections/{collection_id}/verdicts")
async def list_verdicts(collection_id: int, place: Place) -> list[Verdict]:
    """Judge the drawings of all motifs by the collection's yardstick."""
    view = collection_view(place, collection_id)
    with place.database.read() as session:
        heads = [
            drawings.drawing_head(session, m.drawing_id) for m in view.motifs if m.drawing_id is not None
        ]
    verdicts = []
    for head in heads:
        data, problem = await place.drawing_or_problem(head.svg_sha, view.yardstick.yardstick, unhurried=True)
        count = None if data is None else len(data.proof.findings)
        verdicts.append(Verdict(motif_id=head.motif_id, finding_count=count, problem=problem))
    return verdicts


def collection_view(place: Workplace, collection_id: int) -> CollectionView:
    with place.database.read() as session:
        chosen = collections.collection(session, collection_id)
        return CollectionView(
            collection=chosen,
            motifs=collections.motifs(session, collection_id),
            yardstick=collections.yardstick(session, chosen.yardstick_id),
            brief=briefs.latest_brief(session, collection_id),
        )
