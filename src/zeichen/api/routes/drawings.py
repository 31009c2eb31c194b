"""A motif's drawing: looked at, mended, undone and redone."""

import asyncio
from collections.abc import Callable

from fastapi import APIRouter
from fastapi.responses import Response
from sqlalchemy.orm import Session

from zeichen.api.schemas import CurrentDrawing, RevisionBody, ShapesBody, TraceBody
from zeichen.api.workplace import Place, Workplace
from zeichen.core.packing import file_stem
from zeichen.jobs import tasks
from zeichen.store import collections, drawings, sketches
from zeichen.store.records import DrawingHead

router = APIRouter(tags=["drawings"])


@router.get("/motifs/{motif_id}/drawing")
async def get_drawing(motif_id: int, place: Place) -> CurrentDrawing:
    """Return the motif's drawing at its current revision, judged."""
    with place.database.read() as session:
        head = drawings.motif_drawing(session, motif_id)
    return await _judged(place, head)


@router.get("/motifs/{motif_id}/drawing.svg")
def get_drawing_file(motif_id: int, place: Place) -> Response:
    """Return the drawing as an SVG file in its own units."""
    with place.database.read() as session:
        head = drawings.motif_drawing(session, motif_id)
        name = file_stem(collections.motif(session, motif_id).name)
    headers = {"Content-Disposition": f'attachment; filename="{name}.svg"'}
    return Response(place.database.files.get(head.svg_sha), media_type="image/svg+xml", headers=headers)


@router.post("/drawings/{drawing_id}/delete-shapes")
async def delete_shapes(drawing_id: int, body: ShapesBody, place: Place) -> CurrentDrawing:
    """Delete shapes: one step that can be undone."""
    count = len(body.shape_ids)
    note = f"deleted {count} shape{'s' * (count != 1)}"
    return await _mend(place, drawing_id, body.revision_id, body.shape_ids, note)


@router.post("/drawings/{drawing_id}/drop-specks")
async def drop_specks(drawing_id: int, body: RevisionBody, place: Place) -> CurrentDrawing:
    """Drop all specks at the yardstick's size: one step that can be undone."""
    return await _mend(place, drawing_id, body.revision_id, None, "dropped specks")


@router.post("/drawings/{drawing_id}/undo")
async def undo_change(drawing_id: int, place: Place) -> CurrentDrawing:
    """Go back one revision."""
    return await _walk(place, drawing_id, drawings.undo)


@router.post("/drawings/{drawing_id}/redo")
async def redo_change(drawing_id: int, place: Place) -> CurrentDrawing:
    """Go forward one revision."""
    return await _walk(place, drawing_id, drawings.redo)


async def _mend(
    place: Workplace, drawing_id: int, base_revision_id: int, shape_ids: list[str] | None, note: str
) -> CurrentDrawing:
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
    yardstick = place.yardstick_of_motif(head.motif_id)
    svg = await place.live.run(tasks.mend_drawing, place.file(head.svg_sha), yardstick, shape_ids)

    def keep() -> DrawingHead:
        sha = place.database.files.put(svg.encode())
        with place.database.write() as session:
            drawings.add_revision(
                session, drawing_id, base_revision_id=base_revision_id, svg_sha=sha, note=note
            )
            return drawings.drawing_head(session, drawing_id)

    return await _judged(place, await asyncio.to_thread(keep))


async def _walk(place: Workplace, drawing_id: int, step: Callable[[Session, int], None]) -> CurrentDrawing:
    def walk() -> DrawingHead:
        with place.database.write() as session:
            step(session, drawing_id)
            return drawings.drawing_head(session, drawing_id)

    return await _judged(place, await asyncio.to_thread(walk))


async def _judged(place: Workplace, head: DrawingHead) -> CurrentDrawing:
    data = await place.drawing(head.svg_sha, place.yardstick_of_motif(head.motif_id))
    # The picture as it was traced: the sketch may have been cleaned up differently since.
    picture_sha = head.report.get("picture_sha")
    if picture_sha is None and head.sketch_id is not None:
        with place.database.read() as session:
            picture_sha = sketches.sketch(session, head.sketch_id).picture_sha
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
    )
