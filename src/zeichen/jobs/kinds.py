"""The kinds of jobs: read what is needed, compute in a worker, keep the result."""

import asyncio
import io
import zipfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

from zeichen.core.briefing import manner_after
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.methods import AreaTone, Borders, Figure, Inside, Method, Shading, Strokes
from zeichen.core.packing import Listing, Origin, file_stem, pack_origin
from zeichen.core.proofing import Kind, Yardstick
from zeichen.core.tracing.inside_places import InsideAt
from zeichen.core.tracing.settings import TraceSettings
from zeichen.jobs import preparing, tasks
from zeichen.jobs.cleaning import keep_cleaned
from zeichen.jobs.http_generator import HttpGenerator, HttpGeneratorSettings
from zeichen.jobs.mending import mend_everything
from zeichen.jobs.ordering import manner_of, order_data, order_of
from zeichen.jobs.products import make_product, pack_drawings
from zeichen.jobs.runner import JobContext, Work
from zeichen.standins.studio import Studio
from zeichen.store import collections, drawings, products, sketches, uploads
from zeichen.store.database import Database
from zeichen.store.files import read_stored
from zeichen.store.records import DrawingHead, Sketch

# What needs no kernels.
PLAIN = frozenset({"draw", "import"})


def job_kinds() -> dict[str, Work]:
    """Return all kinds of jobs by name."""
    return {
        "draw": draw,
        "import": bring_in,
        "clean": clean,
        "trace": trace,
        "mend": mend,
        "make": make,
        "pack": pack,
        preparing.KIND: preparing.prepare,
    }


async def draw(context: JobContext) -> dict[str, Any]:
    """Draw several sketches, keeping each as soon as it is drawn."""
    p = dict(context.params)
    if p.get("reference_sha"):
        path = context.database.files.path(p["reference_sha"])
        reading = await context.pool.run(tasks.read_hand, path)
        p["manner"] = asdict(manner_after(reading, manner_of(p.get("manner") or {})))
    generator = p.get("generator")
    ids = []
    for number in range(p["count"]):
        context.stopped()
        await context.progress(number / p["count"], f"{number + 1} of {p['count']}")
        order = order_of(p, number)
        if generator is None:
            made = await context.pool.run_plain(tasks.draw_sketch, order, p.get("faults", 1.0))
            name, licence = Studio.name, Studio.licence
        else:
            settings = HttpGeneratorSettings(**generator)
            png = await HttpGenerator(settings).draw_png(order)
            made = await context.pool.run_plain(tasks.prepare_bytes, png)
            name, licence = settings.name, settings.licence
        ids.append(
            await asyncio.to_thread(
                _keep_sketch,
                context,
                made,
                source="generator",
                generator=name,
                licence=licence,
                machine_made=True,
                wording=order.wording,
                look=order.look.value,
                seed=order.seed,
                order=order_data(order),
                parent_id=p.get("parent_id") or p.get("reference_id"),
            )
        )
    return {"sketch_ids": ids, "motif_id": p["motif_id"]}


async def bring_in(context: JobContext) -> dict[str, Any]:
    """Make a brought-in picture ready. Its bytes were kept before the job began."""
    p = context.params

    def became() -> int | None:
        with context.database.read() as session:
            return uploads.upload(session, p["upload_id"]).sketch_id if "upload_id" in p else None

    sketch_id = await asyncio.to_thread(became)
    if sketch_id is None:
        path = context.database.files.path(p["original_sha"])
        async with context.large.turn(p.get("pixels", 0)):
            made = await context.pool.run_plain(tasks.prepare_picture, path, context.step)
        sketch_id = await asyncio.to_thread(
            _keep_sketch,
            context,
            made,
            upload_id=p.get("upload_id"),
            source="upload",
            file_name=p["file_name"],
            original_sha=p["original_sha"],
            machine_made=made.origin is Origin.MACHINE,
            kept=True,
        )
    return {"sketch_ids": [sketch_id], "motif_id": p["motif_id"]}


async def clean(context: JobContext) -> dict[str, Any]:
    """Clean several sketches up with the same steps; each is kept as soon as it is clean."""
    p = context.params
    ids = p["sketch_ids"]
    for number, sketch_id in enumerate(ids):
        context.stopped()
        await context.progress(number / len(ids), f"{number + 1} of {len(ids)}")

        def load(sketch_id: int = sketch_id) -> Path:
            with context.database.read() as session:
                return context.database.files.path(sketches.sketch(session, sketch_id).raw_sha)

        made = await context.pool.run(tasks.clean_picture, await asyncio.to_thread(load), p["steps"])

        await asyncio.to_thread(keep_cleaned, context.database, sketch_id, p["steps"], made)
    return {"sketch_ids": ids, "collection_id": p["collection_id"]}


async def trace(context: JobContext) -> dict[str, Any]:
    """Trace a sketch and keep the result as the motif's drawing."""
    p = context.params
    settings = trace_settings(p["settings"])

    def load() -> tuple[Sketch, Yardstick]:
        with context.database.read() as session:
            sketch = sketches.sketch(session, p["sketch_id"])
            return sketch, collections.yardstick_of_motif(session, sketch.motif_id)

    sketch, yardstick = await asyncio.to_thread(load)
    path = context.database.files.path(sketch.picture_sha)
    async with context.large.turn(sketch.width_px * sketch.height_px):
        result = await context.pool.run(tasks.trace_picture, path, settings, yardstick, context.step)

    def keep() -> int:
        svg_sha = context.database.files.put_state(result.svg.encode())
        with context.database.write() as session:
            tracing_id = sketches.add_tracing(
                session, sketch.id, p["settings"], {**result.report(), "picture_sha": sketch.picture_sha}
            )
            sketches.keep_sketch(session, sketch.id, True)
            return drawings.keep_trace(session, sketch.motif_id, svg_sha=svg_sha, tracing_id=tracing_id)

    return {"drawing_id": await asyncio.to_thread(keep), "motif_id": sketch.motif_id}


async def mend(context: JobContext) -> dict[str, Any]:
    """Mend everything in a drawing that can be without asking, as one revision."""
    p = context.params

    def load() -> tuple[DrawingHead, Yardstick]:
        with context.database.read() as session:
            head = drawings.drawing_head(session, p["drawing_id"])
            return head, collections.yardstick_of_motif(session, head.motif_id)

    head, yardstick = await asyncio.to_thread(load)
    path = context.database.files.path(head.svg_sha)
    only = None if p["only"] is None else tuple(Kind(kind) for kind in p["only"])
    made = await context.pool.run(mend_everything, path, yardstick, only, context.step)

    def keep() -> None:
        sha = context.database.files.put_state(made.svg.encode(), like=head.svg_sha)
        with context.database.write() as session:
            drawings.add_revision(
                session, head.id, base_revision_id=head.revision_id, svg_sha=sha, note="mended all"
            )

    await asyncio.to_thread(keep)
    lines = [{**asdict(line), "kind": line.kind.value, "how": line.how.value} for line in made.done]
    return {"drawing_id": head.id, "motif_id": head.motif_id, "done": lines}


async def make(context: JobContext) -> dict[str, Any]:
    """Write the files of a ticket and rehearse it."""
    p = context.params

    def load() -> tuple[DrawingHead, str, tuple[float, float]]:
        with context.database.read() as session:
            motif = collections.motif(session, p["motif_id"])
            blank = collections.yardstick_of_motif(session, motif.id)
            return (
                drawings.motif_drawing(session, motif.id),
                motif.name,
                (blank.blank_width_mm, blank.blank_height_mm),
            )

    head, name, blank_mm = await asyncio.to_thread(load)
    path = context.database.files.path(head.svg_sha)
    product, rehearsal, preview = await context.pool.run(
        make_product,
        path,
        p["process"],
        p["width_mm"],
        name,
        p["settings"],
        blank_mm if p.get("on_blank") else None,
        context.step,
    )

    def keep() -> int:
        files = context.database.files
        rows = [
            {
                "name": f"{file_stem(name)}-{made.name}",
                "media_type": made.media_type,
                "sha": files.put(made.data),
                "size_bytes": len(made.data),
            }
            for made in product.files
        ]
        stored_rehearsal = {**rehearsal, "preview_sha": files.put(preview)}
        with context.database.write() as session:
            return products.add_ticket(
                session,
                p["motif_id"],
                revision_id=head.revision_id,
                process=p["process"],
                width_mm=p["width_mm"],
                settings=p["settings"],
                files=rows,
                readings=[asdict(reading) for reading in product.readings],
                rehearsal=stored_rehearsal,
            )

    return {"ticket_id": await asyncio.to_thread(keep), "motif_id": p["motif_id"]}


async def pack(context: JobContext) -> dict[str, Any]:
    """Bundle drawings into one ZIP, with a declaration of how their sketches came about."""
    p = context.params

    def load() -> tuple[list[tuple[str, Path]], Listing]:
        items: list[tuple[str, Path]] = []
        sources: list[Sketch] = []
        with context.database.read() as session:
            for motif_id in p["motif_ids"]:
                head = drawings.motif_drawing(session, motif_id)
                name = collections.motif(session, motif_id).name
                items.append((name, context.database.files.path(head.svg_sha)))
                if head.sketch_id is not None:
                    sources.append(sketches.sketch(session, head.sketch_id))
        origin = declared_origin(context.database, p["motif_ids"], p.get("machine_made"))
        return items, _listing(p["listing"], sources, origin)

    items, listing = await asyncio.to_thread(load)
    data = await context.pool.run(pack_drawings, items, listing, p["width_mm"], context.step)

    def keep() -> int:
        with zipfile.ZipFile(io.BytesIO(data)) as bundle:
            contents = [
                {"name": entry.filename, "size_bytes": entry.file_size} for entry in bundle.infolist()
            ]
        zip_sha = context.database.files.put(data)
        with context.database.write() as session:
            return products.add_pack(
                session,
                p["collection_id"],
                title=listing.title,
                listing={
                    **asdict(listing),
                    "keywords": list(listing.keywords),
                    "origin": listing.origin.value,
                },
                motif_ids=p["motif_ids"],
                zip_sha=zip_sha,
                size_bytes=len(data),
                contents=contents,
            )

    return {"pack_id": await asyncio.to_thread(keep), "collection_id": p["collection_id"]}


def declared_origin(database: Database, motif_ids: list[int], machine_made: bool | None) -> Origin:
    """Return how a pack is declared: one generated sketch is enough for the whole of it.

    machine_made: what the maker says of the pictures of which nothing is known.

    Raises
    ------
    InvalidInputError
        If there are such pictures and the maker said nothing.
    """
    noted: list[Origin | None] = []
    with database.read() as session:
        for motif_id in motif_ids:
            head = drawings.motif_drawing(session, motif_id)
            made = head.sketch_id is not None and sketches.sketch(session, head.sketch_id).machine_made
            file = database.files.path(head.svg_sha)
            noted.append(Origin.MACHINE if made else read_svg(read_stored(file)).origin)
    told = None if machine_made is None else Origin.MACHINE if machine_made else Origin.HAND
    origin = pack_origin(noted, told=told)
    if origin is None:
        raise InvalidInputError(
            "Of a picture that was brought in nobody said how it came about. Say whether a picture generator was used."
        )
    return origin


def _listing(values: dict[str, Any], sources: list[Sketch], origin: Origin) -> Listing:
    drawn = [sketch for sketch in sources if sketch.machine_made]
    return Listing(
        **{**values, "keywords": tuple(values["keywords"])},
        origin=origin,
        generator=", ".join(sorted({sketch.generator for sketch in drawn if sketch.generator})),
        wording=" / ".join(sketch.wording for sketch in drawn if sketch.wording),
        sources=tuple(_source_line(sketch) for sketch in sources),
        made_on=max((sketch.created_at.date().isoformat() for sketch in drawn), default=""),
    )


def _source_line(sketch: Sketch) -> str:
    """Return where a sketch came from in one line."""
    name = sketch.order.get("subject") or sketch.file_name or f"sketch {sketch.id}"
    hand = "machine-made" if sketch.machine_made else "hand-made"
    seed = f"seed {sketch.seed}" if sketch.seed is not None else ""
    parts = (hand, sketch.generator, seed, sketch.created_at.date().isoformat(), sketch.licence)
    return f"{name}: {', '.join(part for part in parts if part)}"


def trace_settings(values: dict[str, Any]) -> TraceSettings:
    """Return trace settings from stored values."""
    return TraceSettings(
        **{
            **values,
            "method": Method(values.get("method", "solid")),
            "borders": Borders(values.get("borders", "side-by-side")),
            "palette": tuple(values.get("palette", ())),
            "shading": Shading(values.get("shading", "auto")),
            "strokes": Strokes(values.get("strokes", "single")),
            "tone": AreaTone(values.get("tone", "middle")),
            "figure": Figure(values.get("figure", "auto")),
            "inside": Inside(values.get("inside", "auto")),
            "turned_inside": tuple(InsideAt(**place) for place in values.get("turned_inside", ())),
        }
    )


def _keep_sketch(
    context: JobContext, made: tasks.SketchFiles, *, upload_id: int | None = None, **columns: Any
) -> int:
    files = context.database.files
    picture_sha, thumb_sha = files.put(made.png), files.put(made.thumb)
    with context.database.write() as session:
        sketch_id = sketches.add_sketch(
            session,
            context.params["motif_id"],
            picture_sha=picture_sha,
            thumb_sha=thumb_sha,
            width_px=made.width_px,
            height_px=made.height_px,
            **columns,
        )
        if upload_id is not None:
            uploads.became(session, upload_id, sketch_id)
        return sketch_id
