"""Changing a drawing by hand: operations, points, colours, letters, its earlier states and its variants."""

import asyncio
from dataclasses import asdict, dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from zeichen.api.files import BYTES_BODY, read_body
from zeichen.api.routes.drawings import at_revision, judged, kept
from zeichen.api.schemas import (
    BringBackBody,
    CurrentDrawing,
    EditBody,
    ForeignDrawing,
    NameBody,
    PaletteBody,
    VariantBody,
)
from zeichen.api.workplace import Place
from zeichen.core.colour.words import Proposals
from zeichen.core.editing.operations import Recolour, in_words
from zeichen.core.errors import InvalidInputError
from zeichen.core.lettering import FONTS, font_named
from zeichen.core.lettering.fonts import without_addresses
from zeichen.jobs import mending
from zeichen.jobs.mending import Changed, PathPoints, Swatch
from zeichen.jobs.tasks import DrawingData
from zeichen.store import collections, drawings
from zeichen.store.records import DrawingHead, Revision, Variant

router = APIRouter(tags=["editing"])


@dataclass(frozen=True, slots=True)
class FontView:
    """A font that letters can be set in."""

    key: str
    title: str
    good_for: str
    stencil: bool
    strokes: bool
    licence: str
    holder: str


@dataclass(frozen=True, slots=True)
class FontLicence:
    """A font's licence, word for word but for addresses."""

    name: str
    holder: str
    text: str


@router.post("/drawings/{drawing_id}/edit")
async def edit(drawing_id: int, body: EditBody, place: Place) -> CurrentDrawing:
    """Do one operation by hand: one step that can be undone."""
    path, yardstick = at_revision(place, drawing_id, body.revision_id)
    made = await place.live.run(mending.edit, path, yardstick, body.operation)
    return await kept(place, drawing_id, body.revision_id, made, in_words(body.operation))


@router.get("/drawings/{drawing_id}/shapes/{shape_id}/points")
async def get_points(drawing_id: int, shape_id: str, place: Place) -> list[PathPoints]:
    """Return the control points of a shape's paths."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
    return await place.live.run(mending.shape_points, place.file(head.svg_sha), shape_id)


@router.get("/drawings/{drawing_id}/swatches")
async def get_swatches(drawing_id: int, place: Place, ground: str = "#ffffff") -> list[Swatch]:
    """Return the drawing's colours with their shares, and how they stand out on a ground."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
    return await place.live.run(mending.swatches, place.file(head.svg_sha), ground)


@router.post("/drawings/{drawing_id}/palette")
async def propose_palettes(drawing_id: int, body: PaletteBody, place: Place) -> Proposals:
    """Return several ways to colour the drawing, by harmony or by words; nothing is kept."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
    return await place.live.run(
        mending.propose, place.file(head.svg_sha), body.harmony or "", body.seed, body.words
    )


@router.get("/fonts")
def list_fonts() -> list[FontView]:
    """Return the fonts that ship with Zeichen, with their licence and whose they are."""
    return [
        FontView(
            font.key,
            font.title,
            font.good_for,
            font.stencil,
            font.strokes,
            font.licence_name,
            font.holder(),
        )
        for font in FONTS
    ]


@router.get("/fonts/{key}/licence")
def get_font_licence(key: str) -> FontLicence:
    """Return a font's licence."""
    font = font_named(key)
    return FontLicence(font.licence_name, font.holder(), without_addresses(font.licence()))


@router.get("/drawings/{drawing_id}/revisions")
def list_revisions(drawing_id: int, place: Place) -> list[Revision]:
    """Return every state the drawing was in, the newest first."""
    with place.database.read() as session:
        return drawings.revisions(session, drawing_id)


@router.get("/drawings/{drawing_id}/revisions/{revision_id}")
async def get_revision(drawing_id: int, revision_id: int, place: Place) -> DrawingData:
    """Return one state as the screen draws it."""
    with place.database.read() as session:
        head = drawings.drawing_head(session, drawing_id)
        sha = drawings.revision_file(session, revision_id)
    return await place.drawing(sha, place.yardstick_of_motif(head.motif_id))


@router.put("/drawings/{drawing_id}/revisions/{revision_id}/name", status_code=204)
def name_revision(drawing_id: int, revision_id: int, body: NameBody, place: Place) -> None:
    """Give a state a name."""
    with place.database.write() as session:
        drawings.name_revision(session, revision_id, body.name.strip())


@router.post("/drawings/{drawing_id}/bring-back")
async def bring_back(drawing_id: int, body: BringBackBody, place: Place) -> CurrentDrawing:
    """Make an earlier state the newest: a new revision, so that undo returns from it."""

    def change() -> DrawingHead:
        with place.database.write() as session:
            drawings.bring_back(session, drawing_id, body.revision_id)
            return drawings.drawing_head(session, drawing_id)

    return await judged(place, await asyncio.to_thread(change))


@router.get("/drawings/{drawing_id}/variants")
def list_variants(drawing_id: int, place: Place) -> list[Variant]:
    """Return the drawing's colour variants."""
    with place.database.read() as session:
        return drawings.variants(session, drawing_id)


@router.post("/drawings/{drawing_id}/variants", status_code=201)
async def add_variant(drawing_id: int, body: VariantBody, place: Place) -> Variant:
    """Keep the drawing in other colours beside it; with no change, as it is."""
    name = body.name.strip()
    if not name:
        raise InvalidInputError("Give the variant a name.")
    path, yardstick = at_revision(place, drawing_id, body.revision_id)
    made = await place.live.run(mending.edit, path, yardstick, Recolour(change=body.change))

    def keep() -> Variant:
        with place.database.read() as session:
            base = drawings.revision_file(session, body.revision_id)
        sha = place.database.files.put_state(made.svg.encode(), like=base)
        with place.database.write() as session:
            return drawings.add_variant(session, drawing_id, name, sha)

    return await asyncio.to_thread(keep)


@router.post("/drawings/{drawing_id}/variants/{variant_id}/take")
async def take_variant(drawing_id: int, variant_id: int, body: BringBackBody, place: Place) -> CurrentDrawing:
    """Make a variant the drawing: one step that can be undone."""
    _, yardstick = at_revision(place, drawing_id, body.revision_id)
    with place.database.read() as session:
        chosen = drawings.variant(session, variant_id)
    data = await place.drawing(chosen.svg_sha, yardstick)
    made = Changed(place.database.files.get(chosen.svg_sha).decode(), data)
    return await kept(place, drawing_id, body.revision_id, made, f"took the colours of {chosen.name}")


@router.delete("/variants/{variant_id}", status_code=204)
def delete_variant(variant_id: int, place: Place) -> None:
    """Forget a variant."""
    with place.database.write() as session:
        drawings.drop_variant(session, variant_id)


@router.get("/variants/{variant_id}.svg")
def get_variant_file(variant_id: int, place: Place) -> Response:
    """Return a variant as an SVG file."""
    with place.database.read() as session:
        chosen = drawings.variant(session, variant_id)
    return Response(place.database.files.get(chosen.svg_sha), media_type="image/svg+xml")


@router.post("/motifs/{motif_id}/import-drawing", openapi_extra=BYTES_BODY)
async def bring_in_drawing(
    motif_id: int, request: Request, place: Place, name: Annotated[str, Query(max_length=255)] = "drawing"
) -> ForeignDrawing:
    """Take an SVG or DXF file as the request's body; it becomes the motif's drawing."""
    with place.database.read() as session:
        collections.motif(session, motif_id)
    data = await read_body(request, most_mb=place.settings.largest_upload_mb)
    yardstick = place.yardstick_of_motif(motif_id)
    foreign = await place.foreign.run(mending.read_foreign, data, name, yardstick)

    texts = [asdict(text) for text in foreign.texts]
    brought_in = {"name": name, "not_taken": foreign.not_taken, "texts": texts} if foreign.not_taken else {}

    def keep() -> DrawingHead:
        sha = place.database.files.put_state(foreign.svg.encode())
        with place.database.write() as session:
            drawing_id = drawings.keep_foreign(
                session, motif_id, svg_sha=sha, note=f"brought in {name}"[:200], brought_in=brought_in
            )
            return drawings.drawing_head(session, drawing_id)

    head = await asyncio.to_thread(keep)
    place.remember_drawing(head.svg_sha, yardstick, foreign.data)
    current = await judged(place, head)
    return ForeignDrawing(current=current, not_taken=foreign.not_taken)


@router.delete("/drawings/{drawing_id}/not-taken", status_code=204)
def forget_not_taken(drawing_id: int, place: Place) -> None:
    """Say no more of what was not taken of the file a drawing came from."""
    with place.database.write() as session:
        drawings.forget_not_taken(session, drawing_id)
