"""Sketches: drawn, brought in, kept, forecast, traced."""

import asyncio
import secrets
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, Response

from zeichen.api.schemas import (
    CleaningBody,
    DrawBody,
    KeptBody,
    OriginBody,
    PreviewBody,
    TraceBody,
    TracePreview,
)
from zeichen.api.workplace import Place, Workplace
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean import steps_from_data, steps_to_data
from zeichen.core.raster.style_reading import StyleReading
from zeichen.jobs import tasks
from zeichen.jobs.cleaning import keep_cleaned
from zeichen.jobs.forecasts import ForecastData
from zeichen.jobs.kinds import trace_settings
from zeichen.jobs.ordering import Wish, draw_params
from zeichen.standins.studio import Studio
from zeichen.store import collections, sketches
from zeichen.store.records import Job, Sketch

router = APIRouter(tags=["sketches"])


@router.get("/motifs/{motif_id}/sketches")
def list_sketches(motif_id: int, place: Place) -> list[Sketch]:
    """Return the sketches of a motif, oldest first."""
    with place.database.read() as session:
        collections.motif(session, motif_id)
        return sketches.sketches(session, motif_id)


@router.post("/motifs/{motif_id}/draw", status_code=202)
async def draw_sketches(motif_id: int, body: DrawBody, place: Place) -> Job:
    """Have the generator draw several sketches: new ones, variations, or ones after a reference."""
    seed = secrets.randbelow(2**31) if body.seed is None else body.seed
    wish = Wish(body.count, seed, body.look, body.parent_id, body.reach, body.reference_id)

    def order() -> tuple[str, dict[str, Any]]:
        with place.database.read() as session:
            params = draw_params(session, motif_id, wish)
        # Variations need what only the stand-in knows of its pictures.
        by_stand_in = body.reach is not None or not place.draws_by_address()
        if by_stand_in:
            Studio().require_known(params["subject"])
            return params["subject"], {**params, "faults": place.generator().get("faults", 1.0)}
        return params["subject"], {**params, **place.spend(body.count, confirmed=body.confirmed)}

    subject, params = await asyncio.to_thread(order)
    return await place.runner.submit("draw", f"Draw {subject.lower()}", params)


BYTES_BODY = {"requestBody": {"required": True, "content": {"application/octet-stream": {
    "schema": {"type": "string", "format": "binary"}}}}}  # fmt: skip


@router.post("/motifs/{motif_id}/import", status_code=202, openapi_extra=BYTES_BODY)
async def bring_in_picture(
    motif_id: int, request: Request, place: Place, name: Annotated[str, Query(max_length=255)] = "picture"
) -> Job:
    """Take a picture file as the request's body; it is read whole before anything is kept."""
    with place.database.read() as session:
        motif = collections.motif(session, motif_id)
    data = await read_body(request, most_mb=place.settings.largest_upload_mb)
    await place.foreign.run(tasks.require_readable, data)
    sha = await asyncio.to_thread(place.database.files.put, data)
    params = {"motif_id": motif_id, "original_sha": sha, "file_name": name}
    return await place.runner.submit("import", f"Bring in {name} for {motif.name.lower()}", params)


@router.patch("/sketches/{sketch_id}")
def keep_sketch(sketch_id: int, body: KeptBody, place: Place) -> Sketch:
    """Keep a sketch or set it aside."""
    with place.database.write() as session:
        sketches.keep_sketch(session, sketch_id, body.kept)
        return sketches.sketch(session, sketch_id)


@router.get("/sketches/{sketch_id}")
def get_sketch(sketch_id: int, place: Place) -> Sketch:
    """Return one sketch."""
    return _sketch(place, sketch_id)


@router.put("/sketches/{sketch_id}/origin")
def tell_origin(sketch_id: int, body: OriginBody, place: Place) -> Sketch:
    """Note who drew a sketch and what may be done with it; this follows it to its pack."""
    with place.database.write() as session:
        sketches.tell_origin(session, sketch_id, machine_made=body.machine_made, licence=body.licence)
        return sketches.sketch(session, sketch_id)


@router.get("/sketches/{sketch_id}/hand")
async def read_hand(sketch_id: int, place: Place) -> StyleReading:
    """Return the hand a sketch is drawn in, measured."""
    return await place.live.run(tasks.read_hand, place.file(_sketch(place, sketch_id).picture_sha))


@router.get("/sketches/{sketch_id}/forecast")
async def get_forecast(sketch_id: int, place: Place) -> ForecastData:
    """Return how well the sketch will trace at the yardstick's size."""
    sketch = _sketch(place, sketch_id)
    return await place.forecast(sketch.picture_sha, place.yardstick_of_motif(sketch.motif_id))


@router.put("/sketches/{sketch_id}/cleaning")
async def clean_sketch(sketch_id: int, body: CleaningBody, place: Place) -> Sketch:
    """Set a sketch's clean-up steps; of several changes made quickly, only the newest is worth doing."""
    steps = steps_to_data(steps_from_data(body.steps))
    raw = place.file(_sketch(place, sketch_id).raw_sha)
    made = await place.newest.run(
        f"clean/{sketch_id}", lambda: place.live.run(tasks.clean_picture, raw, steps)
    )

    return await asyncio.to_thread(keep_cleaned, place.database, sketch_id, steps, made)


@router.post(
    "/sketches/{sketch_id}/cleaning/preview",
    response_class=Response,
    responses={200: {"content": {"image/png": {}}}},
)
async def preview_cleaning(sketch_id: int, body: CleaningBody, place: Place) -> Response:
    """Return what clean-up steps would make of the sketch, at the size of a screen; nothing is kept."""
    steps = steps_to_data(steps_from_data(body.steps))
    raw = place.file(_sketch(place, sketch_id).raw_sha)
    png = await place.newest.run(
        f"look/{sketch_id}", lambda: place.live.run(tasks.preview_cleaning, raw, steps)
    )
    return Response(png, media_type="image/png")


@router.post("/sketches/{sketch_id}/preview")
async def preview_trace(sketch_id: int, body: PreviewBody, place: Place) -> TracePreview:
    """Trace without keeping: of several requests of one client, only the newest is worth answering."""
    settings = trace_settings(body.settings.model_dump())
    sketch = _sketch(place, sketch_id)
    yardstick = place.yardstick_of_motif(sketch.motif_id)
    path = place.file(sketch.picture_sha)
    key = f"{body.client}/{sketch_id}"
    result = await place.newest.run(
        key, lambda: place.live.run(tasks.trace_picture, path, settings, yardstick)
    )
    return TracePreview.model_validate(result)


@router.post("/sketches/{sketch_id}/trace", status_code=202)
async def trace_sketch(sketch_id: int, body: TraceBody, place: Place) -> Job:
    """Trace and keep the result as the motif's drawing."""
    trace_settings(body.model_dump())
    sketch = _sketch(place, sketch_id)
    with place.database.read() as session:
        motif = collections.motif(session, sketch.motif_id)
    params = {"sketch_id": sketch_id, "motif_id": sketch.motif_id, "settings": body.model_dump(mode="json")}
    return await place.runner.submit("trace", f"Trace {motif.name.lower()}", params)


@router.get("/pictures/{sha}.png", response_class=FileResponse)
def get_picture(sha: str, place: Place) -> FileResponse:
    """Return a stored picture. Its name is its content, so it may be kept forever."""
    place.database.files.require(sha)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return FileResponse(place.file(sha), media_type="image/png", headers=headers)


def _sketch(place: Workplace, sketch_id: int) -> Sketch:
    with place.database.read() as session:
        return sketches.sketch(session, sketch_id)


async def read_body(request: Request, *, most_mb: int) -> bytes:
    most = most_mb * 1_000_000
    data = bytearray()
    async for chunk in request.stream():
        data += chunk
        if len(data) > most:
            raise InvalidInputError(
                f"The file is larger than {most_mb} MB. Make the picture smaller; 2000 px across is plenty for tracing."
            )
    return bytes(data)
