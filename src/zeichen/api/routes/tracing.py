"""Around the trace: a quick look first, the ladder, the veil, doubtful places, recipes."""

import asyncio
from collections.abc import AsyncIterator
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from zeichen.api.schemas import (
    LadderEnd,
    PreviewBody,
    PreviewPart,
    RecipeBody,
    RungPart,
    TraceAllBody,
    TraceBody,
    TracePreview,
)
from zeichen.api.workplace import Place, Workplace
from zeichen.core.errors import ConflictError, InvalidInputError, ZeichenError
from zeichen.core.proofing import Yardstick
from zeichen.core.tracing.doubts import Doubt
from zeichen.core.tracing.ladder import suggested
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.values import require_number
from zeichen.jobs import tasks, veils
from zeichen.jobs.kinds import trace_settings
from zeichen.jobs.veils import VeilData
from zeichen.store import collections, recipes, sketches
from zeichen.store.records import Job, Recipe, Sketch

router = APIRouter(tags=["tracing"])
# A trace that takes longer than this is shown roughly first.
PATIENCE_S = 0.15
# Of the thinnest part a machine can make, the share by which a rung may be off the sketch.
_ALLOWED_SHARE = 0.25
_LINES = "application/x-ndjson"


@router.post(
    "/sketches/{sketch_id}/preview-parts",
    response_class=StreamingResponse,
    responses={200: {"model": PreviewPart}},
)
async def preview_parts(sketch_id: int, body: PreviewBody, place: Place) -> StreamingResponse:
    """Trace without keeping, as lines of JSON: a rough trace first if the full one takes its time."""
    settings = trace_settings(body.settings.model_dump())
    path, yardstick = _on_yardstick(place, sketch_id)

    async def parts() -> AsyncIterator[str]:
        key = f"parts/{body.client}/{sketch_id}"
        full = asyncio.ensure_future(
            place.newest.run(key, lambda: place.live.run(tasks.trace_picture, path, settings, yardstick))
        )
        try:
            done, _ = await asyncio.wait({full}, timeout=PATIENCE_S)
            if not done:
                rough = await _rough(place, path, settings, yardstick)
                if rough is not None and not full.done():
                    yield _line(PreviewPart(rough=True, trace=TracePreview.model_validate(rough)))
            yield _line(PreviewPart(rough=False, trace=TracePreview.model_validate(await full)))
        except ZeichenError as error:
            yield _line(PreviewPart(rough=False, code=error.code, message=str(error)))
        finally:
            full.cancel()

    return StreamingResponse(parts(), media_type=_LINES)


async def _rough(
    place: Workplace, path: Path, settings: TraceSettings, yardstick: Yardstick
) -> tasks.TraceData | None:
    try:
        return await place.live.run(tasks.trace_rough, path, settings, yardstick)
    except InvalidInputError:
        # What is wrong will be said of the full picture.
        return None


@router.post(
    "/sketches/{sketch_id}/ladder",
    response_class=StreamingResponse,
    responses={200: {"model": RungPart | LadderEnd}},
)
async def climb_ladder(sketch_id: int, body: PreviewBody, place: Place) -> StreamingResponse:
    """Trace the sketch from plain to detailed, one line of JSON for each rung as it is ready."""
    settings = trace_settings(body.settings.model_dump())
    path, yardstick = _on_yardstick(place, sketch_id)

    async def lines() -> AsyncIterator[str]:
        nodes: list[int] = []
        off_mm: list[float] = []
        try:
            for number, each in enumerate(await place.live.run(tasks.rungs, path, settings)):
                try:
                    result = await place.live.run(tasks.trace_picture, path, each, yardstick)
                except InvalidInputError:
                    continue
                nodes.append(sum(shape.node_count for shape in result.drawing.shapes))
                off_mm.append(result.p95_px * result.drawing.mm_per_px)
                part = RungPart(
                    rung=number,
                    settings=TraceBody.model_validate(each),
                    trace=TracePreview.model_validate(result),
                    nodes=nodes[-1],
                    off_mm=off_mm[-1],
                    findings=len(result.drawing.proof.findings),
                )
                yield _line(part)
        except ConflictError as error:
            yield _line(LadderEnd(suggested=None, message=str(error)))
            return
        if not nodes:
            yield _line(
                LadderEnd(suggested=None, message="Nothing is left on any rung. Lower the smallest spot.")
            )
            return
        allowed = _ALLOWED_SHARE * yardstick.limits.thin_mm
        yield _line(LadderEnd(suggested=suggested(nodes, off_mm, allowed_mm=allowed), message=""))

    return StreamingResponse(lines(), media_type=_LINES)


@router.post("/sketches/{sketch_id}/veil")
async def lift_veil(sketch_id: int, body: TraceBody, place: Place) -> VeilData:
    """Return where and how far a trace departs from the sketch."""
    settings = trace_settings(body.model_dump())
    path, yardstick = _on_yardstick(place, sketch_id)
    return await place.live.run(veils.veil, path, settings, yardstick)


@router.get("/sketches/{sketch_id}/doubts")
async def list_doubts(sketch_id: int, place: Place) -> list[Doubt]:
    """Return the places of the sketch that will not trace well."""
    return await place.live.run(tasks.doubts, place.file(_sketch(place, sketch_id).picture_sha))


@router.get("/collections/{collection_id}/palette")
async def common_colours(collection_id: int, place: Place, colours: int | None = None) -> list[str]:
    """Return the colours of all kept sketches of the set together, ground included."""
    if colours is not None:
        require_number(colours, "Number of colours", least=1, most=30)
    with place.database.read() as session:
        motifs = collections.motifs(session, collection_id)
        drawn = [sketches.sketches(session, motif.id) for motif in motifs]
    kept = [next((s for s in each if s.kept), None) for each in drawn]
    paths = [place.file(sketch.picture_sha) for sketch in kept if sketch is not None]
    return await place.live.run(tasks.common_colours, paths, colours)


@router.get("/recipes")
def list_recipes(place: Place) -> list[Recipe]:
    """Return the recipes for tracing, by name."""
    with place.database.read() as session:
        return recipes.recipes(session)


@router.post("/recipes", status_code=201)
def add_recipe(body: RecipeBody, place: Place) -> Recipe:
    """Keep settings under a name; a name that is taken gets the new settings."""
    trace_settings(body.settings.model_dump())
    with place.database.write() as session:
        return recipes.put_recipe(session, body.name, body.settings.model_dump(mode="json"))


@router.delete("/recipes/{recipe_id}", status_code=204)
def delete_recipe(recipe_id: int, place: Place) -> None:
    """Forget a recipe; drawings made with it stay."""
    with place.database.write() as session:
        recipes.delete_recipe(session, recipe_id)


@router.post("/collections/{collection_id}/trace-all", status_code=202)
async def trace_all(collection_id: int, body: TraceAllBody, place: Place) -> list[Job]:
    """Trace every motif's first kept sketch with the same settings; each is a job of its own."""
    trace_settings(body.settings.model_dump())
    with place.database.read() as session:
        motifs = collections.motifs(session, collection_id)
        chosen = [(motif, sketches.sketches(session, motif.id)) for motif in motifs]
    jobs = []
    for motif, drawn in chosen:
        kept = next((sketch for sketch in drawn if sketch.kept), None)
        if kept is None:
            continue
        params = {
            "sketch_id": kept.id,
            "motif_id": motif.id,
            "settings": body.settings.model_dump(mode="json"),
        }
        jobs.append(await place.runner.submit("trace", f"Trace {motif.name.lower()}", params))
    if not jobs:
        raise InvalidInputError("No motif of the set has a kept sketch. Keep one in Sketch first.")
    return jobs


def _sketch(place: Workplace, sketch_id: int) -> Sketch:
    with place.database.read() as session:
        return sketches.sketch(session, sketch_id)


def _on_yardstick(place: Workplace, sketch_id: int) -> tuple[Path, Yardstick]:
    """Return a sketch's picture file and the yardstick it is judged by."""
    sketch = _sketch(place, sketch_id)
    return place.file(sketch.picture_sha), place.yardstick_of_motif(sketch.motif_id)


def _line(part: PreviewPart | RungPart | LadderEnd) -> str:
    return part.model_dump_json() + "\n"
