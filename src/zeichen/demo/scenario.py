"""Seeding a new data folder with the scenario, by the same jobs that a maker starts from the screen."""

from dataclasses import dataclass
from typing import Any

from zeichen.core.briefing import ALL_RULES, HouseStyle, Look, compose_wording
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
_TRACE: dict[str, Any] = {
    "method": "solid",
    "level": None,
    "min_spot_px2": 16.0,
    "tolerance_px": 0.4,
    "corner_deg": 20.0,
    "invert": False,
}


async def seed_if_new(settings: Settings) -> bool:
    """Seed the scenario unless the data folder holds a collection already; returns whether it did."""
    database = Database(settings.data)
    try:
        with database.read() as session:
            if collections.collections(session):
                return False
        print("Setting out the demo: sketching, tracing and making for a minute or so ...", flush=True)
        channel = ProgressChannel()
        pool = WorkerPool(1, settings.job_limits(), channel)
        runner = JobRunner(database, pool, channel, job_kinds())
        await runner.start()
        try:
            await _seed(database, runner)
        finally:
            await runner.close()
            pool.close()
        return True
    finally:
        database.close()


async def _seed(database: Database, runner: JobRunner) -> None:
    rules = ALL_RULES
    with database.write() as session:
        ids = [collections.add_yardstick(session, name, value) for name, value in YARDSTICKS.items()]
        collection_id = collections.add_collection(session, COLLECTION, ids[0])
        brief = Brief("\n".join(SUBJECTS), Look.SILHOUETTE.value, rules)
        briefs.save_brief(session, collection_id, brief, list(SUBJECTS))
        motifs = collections.motifs(session, collection_id)
    by_name = {motif.name: motif.id for motif in motifs}
    for name, plan in _PLANS.items():
        await _sketch_and_trace(database, runner, by_name[name], name, plan, rules)
    await _make(database, runner, by_name)
    packed = [by_name[name] for name in ("Beetroot", "Watering can", "Teapot", "Bean pod")]
    await _finish(
        runner,
        "pack",
        {
            "collection_id": collection_id,
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
    )
    with database.write() as session:
        jobs.forget_finished(session)


async def _sketch_and_trace(
    database: Database, runner: JobRunner, motif_id: int, name: str, plan: _Plan, rules: tuple[str, ...]
) -> None:
    for look in plan.looks:
        wording = compose_wording(name, style=HouseStyle(look), rule_keys=rules)
        params = {
            "motif_id": motif_id,
            "subject": name,
            "look": look.value,
            "seed": plan.seed,
            "count": plan.count,
            "wording": wording,
        }
        await _finish(runner, "draw", params)
    with database.write() as session:
        first = sketches.sketches(session, motif_id)[0].id
        sketches.keep_sketch(session, first, True)
    if not plan.traced:
        return
    done = await _finish(runner, "trace", {"sketch_id": first, "motif_id": motif_id, "settings": _TRACE})
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


async def _make(database: Database, runner: JobRunner, by_name: dict[str, int]) -> None:
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
        await _finish(runner, "make", params)


async def _finish(runner: JobRunner, kind: str, params: dict[str, Any]) -> dict[str, Any]:
    job = await runner.wait((await runner.submit(kind, kind, params)).id)
    if job.state != "done":
        raise RuntimeError(f"The demo's {kind} job ended as {job.state}: {job.message}")
    return job.result
