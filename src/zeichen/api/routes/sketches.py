"""Sketches: drawn, brought in, kept, forecast, traced."""

import asyncio
import secrets
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from zeichen.api.files import BYTES_BODY, download, read_body
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
from zeichen.core.errors import ConflictError
from zeichen.core.raster.clean import steps_from_data, steps_to_data
from zeichen.core.raster.style_reading import StyleReading
from zeichen.jobs import tasks
from zeichen.jobs.cleaning import keep_cleaned
from zeichen.jobs.forecasts import ForecastData
from zeichen.jobs.kinds import trace_settings
from zeichen.jobs.ordering import Wish, draw_params
from zeichen.standins.studio import Studio
from zeichen.store import collections, sketches, uploads
from zeichen.store.records import Job, Motif, Sketch, Upload

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


@router.post("/motifs/{motif_id}/import", status_code=202, openapi_extra=BYTES_BODY)
async def bring_in_picture(
    motif_id: int, request: Request, place: Place, name: Annotated[str, Query(max_length=255)] = "picture"
) -> Job:
    """Take a picture file as the request's body; it is read whole before anything is kept, and then kept as it came."""
    with place.database.read() as session:
        motif = collections.motif(session, motif_id)
    data = await read_body(request, most_mb=place.settings.largest_upload_mb)
    pixels = await place.foreign.run_plain(tasks.pixel_count, data)
    async with place.runner.large.turn(pixels):
        await place.foreign.run_plain(tasks.require_readable, data)

    def keep() -> Upload:
        sha = place.database.files.put(data)
        with place.database.write() as session:
            kept = uploads.add_upload(session, motif_id, file_name=name, sha=sha, size_bytes=len(data))
            return uploads.upload(session, kept)

    return await _prepare(place, motif, await asyncio.to_thread(keep), pixels=pixels)


async def _prepare(place: Workplace, motif: Motif, upload: Upload, *, pixels: int = 0) -> Job:
    params = {
        "motif_id": motif.id,
        "upload_id": upload.id,
        "original_sha": upload.sha,
        "file_name": upload.file_name,
        "pixels": pixels,
    }
    label = f"Bring in {upload.file_name} for {motif.name.lower()}"
    return await place.runner.submit("import", label[:200], params)


@router.get("/motifs/{motif_id}/uploads")
def list_waiting_uploads(motif_id: int, place: Place) -> list[Upload]:
    """Return the pictures brought in for a motif that have not become sketches, oldest first."""
    with place.database.read() as session:
        return uploads.waiting_uploads(session, motif_id)


@router.get(
    "/uploads/{upload_id}/file",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_upload(upload_id: int, place: Place) -> Response:
    """Download a brought-in picture as it came."""
    with place.database.read() as session:
        upload = uploads.upload(session, upload_id)
    return download(place.database.files.get(upload.sha), "application/octet-stream", upload.file_name)


@router.post("/uploads/{upload_id}/prepare", status_code=202)
async def prepare_upload(upload_id: int, place: Place) -> Job:
    """Make a sketch of a brought-in picture whose first job did not."""
    with place.database.read() as session:
        upload = uploads.upload(session, upload_id)
        motif = collections.motif(session, upload.motif_id)
    if upload.sketch_id is not None:
        raise ConflictError("This picture is a sketch already.")
    return await _prepare(place, motif, upload)


@router.delete("/uploads/{upload_id}", status_code=204)
def forget_upload(upload_id: int, place: Place) -> None:
    """Let go of a brought-in picture that has not become a sketch."""
    with place.database.write() as session:
        uploads.drop_upload(session, upload_id)


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

    async def traced() -> tasks.TraceData:
        async with place.runner.large.turn(sketch.width_px * sketch.height_px):
            return await place.live.run(tasks.trace_picture, path, settings, yardstick)

    result = await place.newest.run(key, traced)
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


@router.get("/pictures/{sha}.png", response_class=Response, responses={200: {"content": {"image/png": {}}}})
def get_picture(sha: str, place: Place) -> Response:
    """Return a stored picture. Its name is its content, so it may be kept forever."""
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(place.database.files.get(sha), media_type="image/png", headers=headers)


def _sketch(place: Workplace, sketch_id: int) -> Sketch:
    with place.database.read() as session:
        return sketches.sketch(session, sketch_id)
