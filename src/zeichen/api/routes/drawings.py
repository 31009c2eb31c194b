"""A motif's drawing: looked at, mended, undone and redone."""

import asyncio
from collections.abc import Callable
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import Response
from sqlalchemy.orm import Session

from zeichen.api.files import download
from zeichen.api.schemas import (
    BroughtIn,
    CurrentDrawing,
    DoneLine,
    MendAllBody,
    MendBody,
    MendedDrawing,
    MendPreview,
    TraceBody,
)
from zeichen.api.workplace import Place, Workplace
from zeichen.core.errors import ConflictError
from zeichen.core.packing import file_stem
from zeichen.core.proofing import Yardstick
from zeichen.jobs import mending, veils
from zeichen.jobs.kinds import trace_settings
from zeichen.jobs.mending import Changed
from zeichen.jobs.veils import VeilData
from zeichen.store import collections, drawings, sketches
from zeichen.store.records import DrawingHead, Job

router = APIRouter(tags=["drawings"])


@router.get("/motifs/{motif_id}/drawing")
async def get_drawing(motif_id: int, place: Place) -> CurrentDrawing:
    """Return the motif's drawing at its current revision, judged."""
    with place.database.read() as session:
        head = drawings.motif_drawing(session, motif_id)
    return await judged(place, head)


@router.get("/motifs/{motif_id}/drawing.svg")
def get_drawing_file(motif_id: int, place: Place) -> Response:
    """Return the drawing as an SVG file in its own units."""
    with place.database.read() as session:
        head = drawings.motif_drawing(session, motif_id)
        name = file_stem(collections.motif(session, motif_id).name)
    return download(place.database.files.get(head.svg_sha), "image/svg+xml", f"{name}.svg")


@router.get("/drawings/{drawing_id}/veil")
async def get_veil(drawing_id: int, place: Place, revision: int | None = None) -> VeilData:
    """Return where and how far the drawing departs from its sketch, or from one of its earlier revisions."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
        earlier = None if revision is None else drawings.revision_file(session, revision)
        picture_sha = _picture_of(session, head)
    if earlier is None and picture_sha is None:
        raise ConflictError(
            "This drawing came without a sketch. Look at an earlier revision to compare it with that."
        )
    return await place.live.run(
        veils.veil_of_drawing,
        place.file(head.svg_sha),
        place.yardstick_of_motif(head.motif_id),
        place.file(earlier or picture_sha or ""),
        None if earlier else trace_settings(TraceBody(**head.settings).model_dump()),
    )


@router.post("/drawings/{drawing_id}/mend")
async def mend_finding(drawing_id: int, body: MendBody, place: Place) -> CurrentDrawing:
    """Mend one finding, or all of its kind, in one way: one step that can be undone."""
    path, yardstick = at_revision(place, drawing_id, body.revision_id)
    made = await place.live.run(mending.mend_one, path, yardstick, body.finding, body.how, body.alike)
    note = f"mended: {body.how.value.replace('_', ' ')}"
    return await kept(place, drawing_id, body.revision_id, made, note)


@router.post("/drawings/{drawing_id}/mend/preview")
async def preview_mend(drawing_id: int, body: MendBody, place: Place) -> MendPreview:
    """Return what a mend would change; nothing is kept."""
    path, yardstick = at_revision(place, drawing_id, body.revision_id)
    look = await place.live.run(mending.look_at_mend, path, yardstick, body.finding, body.how, body.alike)
    return MendPreview.model_validate(look)


@router.post("/drawings/{drawing_id}/mend-all")
async def mend_everything(drawing_id: int, body: MendAllBody, place: Place) -> MendedDrawing:
    """Mend everything that can be without asking: one step that can be undone."""
    path, yardstick = at_revision(place, drawing_id, body.revision_id)
    made = await place.live.run(mending.mend_everything, path, yardstick, body.only)
    current = await kept(place, drawing_id, body.revision_id, made, "mended all")
    return MendedDrawing(current=current, done=[DoneLine.model_validate(line) for line in made.done])


@router.post("/drawings/{drawing_id}/mend-all/job", status_code=202)
async def mend_in_background(drawing_id: int, body: MendAllBody, place: Place) -> Job:
    """Mend everything that can be without asking, as a job: for large drawings, with progress, and to be stopped."""
    at_revision(place, drawing_id, body.revision_id)
    with place.database.read() as session:
        motif = collections.motif(session, drawings.drawing_head(session, drawing_id).motif_id)
    only = None if body.only is None else [kind.value for kind in body.only]
    params = {"drawing_id": drawing_id, "motif_id": motif.id, "only": only}
    return await place.runner.submit("mend", f"Mend {motif.name.lower()}", params)


@router.post("/drawings/{drawing_id}/undo")
async def undo_change(drawing_id: int, place: Place) -> CurrentDrawing:
    """Go back one revision."""
    return await _walk(place, drawing_id, drawings.undo)


@router.post("/drawings/{drawing_id}/redo")
async def redo_change(drawing_id: int, place: Place) -> CurrentDrawing:
    """Go forward one revision."""
    return await _walk(place, drawing_id, drawings.redo)


async def kept(
    place: Workplace, drawing_id: int, base_revision_id: int, made: Changed, note: str
) -> CurrentDrawing:
    """Keep a changed drawing, judged already, as a revision and return it."""

    def keep() -> DrawingHead:
        with place.database.read() as session:
            base = drawings.revision_file(session, base_revision_id)
        sha = place.database.files.put_state(made.svg.encode(), like=base)
        with place.database.write() as session:
            drawings.add_revision(
                session, drawing_id, base_revision_id=base_revision_id, svg_sha=sha, note=note
            )
            return drawings.drawing_head(session, drawing_id)

    head = await asyncio.to_thread(keep)
    place.remember_drawing(head.svg_sha, place.yardstick_of_motif(head.motif_id), made.data)
    return await judged(place, head)


def at_revision(place: Workplace, drawing_id: int, revision_id: int) -> tuple[Path, Yardstick]:
    """Return the file a change is made on and what judges it; ConflictError if it is no longer the newest."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
    if head.revision_id != revision_id:
        raise ConflictError(
            "The drawing was changed elsewhere meanwhile. Look at it again, then repeat the change."
        )
    return place.file(head.svg_sha), place.yardstick_of_motif(head.motif_id)


async def _walk(place: Workplace, drawing_id: int, step: Callable[[Session, int], None]) -> CurrentDrawing:
    def walk() -> DrawingHead:
        with place.database.write() as session:
            step(session, drawing_id)
            return drawings.drawing_head(session, drawing_id)

    return await judged(place, await asyncio.to_thread(walk))


async def judged(place: Workplace, head: DrawingHead) -> CurrentDrawing:
    """Return a drawing as it stands; one that cannot be read or judged is shown as what it is."""
    data, problem = await place.drawing_or_problem(head.svg_sha, place.yardstick_of_motif(head.motif_id))
    with place.database.read() as session:
        picture_sha = _picture_of(session, head)
    return CurrentDrawing(
        id=head.id,
        motif_id=head.motif_id,
        revision_id=head.revision_id,
        note=head.note,
        can_undo=head.can_undo,
        can_redo=head.can_redo,
        sketch_id=head.sketch_id,
        picture_sha=picture_sha,
        off_sketch_px=head.report.get("p95_px"),
        settings=TraceBody(**head.settings),
        drawing=data,
        brought_in=BroughtIn(**head.brought_in) if head.brought_in else None,
        problem=problem,
    )


def _picture_of(session: Session, head: DrawingHead) -> str | None:
    """Return the picture as it was traced: the sketch may have been cleaned up differently since."""
    traced: str | None = head.report.get("picture_sha")
    if traced is None and head.sketch_id is not None:
        return sketches.sketch(session, head.sketch_id).picture_sha
    return traced
