"""Seeding a new data folder with the scenario, by the same jobs that a maker starts from the screen."""

import contextlib
from dataclasses import dataclass, replace
from itertools import count
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from zeichen.core.briefing import ALL_RULES, HouseStyle, Look, compose_wording
from zeichen.core.errors import NotFoundError, OutsideError
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.proofing import Process, Yardstick, usual_limits
from zeichen.jobs import mending
from zeichen.jobs.kinds import job_kinds
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.settings import Settings
from zeichen.jobs.workers import ProgressChannel, WorkerPool
from zeichen.store import briefs, collections, drawings, jobs, sketches
from zeichen.store.database import Database
from zeichen.store.records import Brief

COLLECTION = "Allotment Open Day"
SUBJECTS = (
    "Snail",
    "Beetroot",
    "Watering can",
    "Teapot",
    "Hedgehog",
    "Bean pod",
    "Wheelbarrow",
    "Dragonfly",
)


def _yardstick(process: Process, width_mm: float, blank: str, size_mm: tuple[float, float]) -> Yardstick:
    return Yardstick(process, width_mm, blank, *size_mm, usual_limits(process))


YARDSTICKS: dict[str, Yardstick] = {
    "Laser on slate marker": _yardstick(Process.LASER_ENGRAVE, 80, "slate marker", (100, 60)),
    "Plywood key tag": _yardstick(Process.LASER_CUT, 50, "3 mm plywood", (80, 70)),
    "Oak shed sign": _yardstick(Process.CARVE, 260, "oak board", (340, 220)),
    "Seed-tin lid": _yardstick(Process.RELIEF, 74, "tin lid", (90, 90)),
    "Wall relief": _yardstick(Process.RELIEF, 150, "print bed", (180, 180)),
    "Apron": _yardstick(Process.APPAREL, 240, "apron front", (381, 457.2)),
}


@dataclass(frozen=True, slots=True)
class _Plan:
    """What is made ahead for one motif: pictures a look, and whether one is traced and mended."""

    seed: int
    looks: tuple[Look, ...] = (Look.SILHOUETTE,)
    count: int = 4
    traced: bool = False
    mended: bool = False


_PLANS = {
    "Snail": _Plan(9, (Look.SILHOUETTE, Look.LINE), traced=True),
    "Beetroot": _Plan(5, traced=True, mended=True),
    "Watering can": _Plan(6, (Look.SILHOUETTE, Look.FLAT), traced=True, mended=True),
    "Teapot": _Plan(8, traced=True, mended=True),
    "Hedgehog": _Plan(11, traced=True),
    "Bean pod": _Plan(10, traced=True, mended=True),
    "Wheelbarrow": _Plan(2),
    "Dragonfly": _Plan(1),
}
# As everywhere if nobody says otherwise.
_TRACE: dict[str, Any] = {}


@dataclass(frozen=True, slots=True)
class Begun:
    """A scenario whose collection is there: its number, and its motifs' by name."""

    collection_id: int
    by_name: dict[str, int]


async def seed_if_new(settings: Settings, *, most_sketches: int = 4) -> bool:
    """Set out the scenario unless the data folder holds a collection already; returns whether it did.

    most_sketches: of each motif in each look.
    """
    database = Database(settings.data)
    try:
        begun = begin_if_new(database)
        if begun is None:
            return False
        channel = ProgressChannel()
        pool = WorkerPool(1, settings.job_limits(), channel)
        runner = JobRunner(database, pool, channel, job_kinds())
        await runner.start()
        try:
            await set_out(database, runner, begun, most_sketches=most_sketches)
        finally:
            await runner.close()
            pool.close()
        return True
    finally:
        database.close()


def begin_if_new(database: Database) -> Begun | None:
    """Begin the scenario with its collection, brief and motifs; None if it is there already, or anything else is.

    One that was not finished is set out once more, beside what there is of it.
    """
    unfinished = _unfinished(database)
    with database.write() as session:
        if collections.collections(session) and not unfinished.exists():
            return None
        if unfinished.exists():
            ids = [each.id for each in collections.yardsticks(session)]
        else:
            ids = [collections.add_yardstick(session, name, value) for name, value in YARDSTICKS.items()]
        collection_id = collections.add_collection(session, _free_name(session), ids[0])
        brief = Brief("\n".join(SUBJECTS), Look.SILHOUETTE.value, ALL_RULES)
        briefs.save_brief(session, collection_id, brief, list(SUBJECTS))
        motifs = collections.motifs(session, collection_id)
        unfinished.touch()
    return Begun(collection_id, {motif.name: motif.id for motif in motifs})


def _unfinished(database: Database) -> Path:
    """Return the file that is there as long as the scenario is not complete."""
    return database.folder / "demo-unfinished"


def _free_name(session: Session) -> str:
    taken = {collection.name for collection in collections.collections(session)}
    names = (COLLECTION if k == 1 else f"{COLLECTION} {k}" for k in count(1))
    return next(name for name in names if name not in taken)


async def set_out(database: Database, runner: JobRunner, begun: Begun, *, most_sketches: int = 4) -> None:
    """Draw, trace, mend, make and pack what the scenario shows, by the jobs a maker would start."""
    seen: list[int] = []
    by_name = begun.by_name
    # All drawings first: at the first start on a machine, what traces them is being compiled meanwhile.
    for name, plan in _PLANS.items():
        few = replace(plan, count=min(plan.count, most_sketches))
        await _sketch(database, runner, by_name[name], name, few, seen)
    for name, plan in _PLANS.items():
        if plan.traced:
            await _trace(database, runner, by_name[name], plan, seen)
    await _make(database, runner, by_name, seen)
    packed = [by_name[name] for name in ("Beetroot", "Watering can", "Teapot", "Bean pod")]
    await _finish(
        runner,
        "pack",
        {
            "collection_id": begun.collection_id,
            "motif_ids": packed,
            "width_mm": 200.0,
            "machine_made": False,
            "listing": {
                "title": "Allotment clipart, set of four",
                "description": "Four bold garden silhouettes for slate, plywood, vinyl and print.",
                "keywords": ["allotment", "garden", "silhouette", "beetroot", "teapot", "laser", "stencil"],
                "licence": "Personal and small-business use, up to 500 products. Do not resell the files.",
            },
        },
        seen,
    )
    for job_id in seen:
        # A maker may have cleared the list by then.
        with contextlib.suppress(NotFoundError), database.write() as session:
            jobs.drop_job(session, job_id)
    _unfinished(database).unlink(missing_ok=True)


async def _sketch(
    database: Database, runner: JobRunner, motif_id: int, name: str, plan: _Plan, seen: list[int]
) -> None:
    for look in plan.looks:
        wording = compose_wording(name, style=HouseStyle(look), rule_keys=ALL_RULES)
        params = {
            "motif_id": motif_id,
            "subject": name,
            "look": look.value,
            "seed": plan.seed,
            "count": plan.count,
            "wording": wording,
        }
        await _finish(runner, "draw", params, seen)
    with database.write() as session:
        first = sketches.sketches(session, motif_id)[0].id
        sketches.keep_sketch(session, first, True)


async def _trace(database: Database, runner: JobRunner, motif_id: int, plan: _Plan, seen: list[int]) -> None:
    with database.read() as session:
        first = sketches.sketches(session, motif_id)[0].id
    done = await _finish(
        runner, "trace", {"sketch_id": first, "motif_id": motif_id, "settings": _TRACE}, seen
    )
    if plan.mended:
        with database.read() as session:
            head = drawings.drawing_head(session, done["drawing_id"])
        yardstick = next(iter(YARDSTICKS.values()))
        svg = mending.drop_specks(database.files.path(head.svg_sha), yardstick)
        sha = database.files.put_state(svg.encode(), like=head.svg_sha)
        if sha != head.svg_sha:
            with database.write() as session:
                drawings.add_revision(
                    session, head.id, base_revision_id=head.revision_id, svg_sha=sha, note="dropped specks"
                )


async def _make(database: Database, runner: JobRunner, by_name: dict[str, int], seen: list[int]) -> None:
    slate = {"cut": "none", "spacing_mm": 0.1}
    for name, process, yardstick_name, settings in (
        ("Snail", "laser", "Laser on slate marker", slate),
        ("Teapot", "laser", "Laser on slate marker", slate),
        ("Beetroot", "relief", "Seed-tin lid", {"form": "outline", "base_mm": 2.0, "raised_mm": 1.0}),
        ("Watering can", "carve", "Oak shed sign", {}),
        ("Bean pod", "apparel", "Apron", {}),
    ):
        with database.read() as session:
            head = drawings.motif_drawing(session, by_name[name])
        drawing = read_svg(database.files.get(head.svg_sha))
        width_mm = round(YARDSTICKS[yardstick_name].finished_width_mm(drawing), 1)
        params = {
            "motif_id": by_name[name],
            "process": process,
            "width_mm": width_mm,
            "settings": settings,
            "on_blank": process == "laser",
        }
        await _finish(runner, "make", params, seen)


async def _finish(runner: JobRunner, kind: str, params: dict[str, Any], seen: list[int]) -> dict[str, Any]:
    """Return the result of a job once it is done; its number is added to those seen."""
    job = await runner.wait((await runner.submit(kind, f"Demo: {kind}", params)).id)
    seen.append(job.id)
    if job.state != "done":
        raise OutsideError(f"The demo's {kind} job ended as {job.state}: {job.message}")
    return job.result
