"""Background work: queued, run, told about, cancelled, run again; the newest live request wins."""

import asyncio
import time
from pathlib import Path

import pytest

from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.errors import ConflictError, InvalidInputError, OutsideError, StoppedError, TooMuchError
from zeichen.core.formats.picture import write_png
from zeichen.core.proofing import Process, Yardstick
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.jobs import tasks
from zeichen.jobs.kinds import job_kinds
from zeichen.jobs.limits import WorkLimits
from zeichen.jobs.live import NewestWins, SupersededError
from zeichen.jobs.products import make_product, pack_drawings, product_settings, relief_mesh
from zeichen.jobs.runner import JobContext, JobRunner
from zeichen.jobs.settings import Settings
from zeichen.jobs.workers import ProgressChannel, Reporter, WorkerPool
from zeichen.standins.studio import Fault, Studio
from zeichen.store import jobs
from zeichen.store.files import FileStore

LIMITS = WorkLimits(60, 1500)
YARDSTICK = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=60)


class Office:
    """A job runner on a data folder, with kinds of jobs of the test's own."""

    def __init__(self, database, kinds):
        self.database = database
        self.channel = ProgressChannel()
        self.pool = WorkerPool(1, LIMITS, self.channel)
        self.runner = JobRunner(database, self.pool, self.channel, kinds)

    async def __aenter__(self) -> JobRunner:
        await self.runner.start()
        return self.runner

    async def __aexit__(self, *_):
        await self.runner.close()
        self.pool.close()


def run_with(database, kinds, work):
    async def main():
        async with Office(database, kinds) as runner:
            return await work(runner)

    return asyncio.run(main())


async def add(context: JobContext):
    return {"sum": context.params["a"] + context.params["b"]}


def test_a_job_is_a_row_then_work_then_a_result(database):
    async def work(runner):
        watcher = runner.watch()
        submitted = await runner.submit("add", "Add", {"a": 2, "b": 3})
        done = await runner.wait(submitted.id)
        states = [watcher.get_nowait().state for _ in range(watcher.qsize())]
        return submitted, done, states

    submitted, done, states = run_with(database, {"add": add}, work)
    assert submitted.state == "queued"
    assert (done.state, done.result, done.progress) == ("done", {"sum": 5}, 1.0) and done.finished_at
    assert states == ["queued", "running", "done"]


def test_the_last_news_of_a_job_is_its_end_however_slowly_its_progress_is_read(database, monkeypatch):
    read = jobs.job

    def read_slowly(session, job_id):
        found = read(session, job_id)
        if found.state == "running" and found.progress == 1.0:
            time.sleep(0.1)
        return found

    monkeypatch.setattr(jobs, "job", read_slowly)

    async def report(context):
        await context.pool.run(report_the_end, context.step)
        return {}

    async def work(runner):
        watcher = runner.watch()
        submitted = [await runner.submit("report", "Report", {}) for _ in range(4)]
        for job in submitted:
            await runner.wait(job.id)
        await asyncio.sleep(0.3)
        news = [watcher.get_nowait() for _ in range(watcher.qsize())]
        return [[each.state for each in news if each.id == job.id] for job in submitted]

    for told in run_with(database, {"report": report}, work):
        assert "running" in told and told[-1] == "done"


def report_the_end(step):
    step(1.0)


def test_an_expected_failure_is_told_in_its_own_words_and_another_in_ours(database, caplog):
    async def refuse(context):
        raise InvalidInputError("The picture is all white.")

    async def break_down(context):
        raise ZeroDivisionError

    async def work(runner):
        return [await runner.wait((await runner.submit(kind, kind, {})).id) for kind in ("refuse", "break")]

    first, second = run_with(database, {"refuse": refuse, "break": break_down}, work)
    assert (first.state, first.message) == ("failed", "The picture is all white.")
    assert second.state == "failed" and "inside Zeichen" in second.message and "Zero" not in second.message


def test_a_waiting_job_stops_when_cancelled_and_can_be_run_again(database):
    async def slow(context):
        for _ in range(200):
            context.stopped()
            await asyncio.sleep(0.01)
        return {}

    async def work(runner):
        running = await runner.submit("slow", "Slow", {})
        waiting = await runner.submit("add", "Add", {"a": 1, "b": 1})
        with pytest.raises(ConflictError, match="still under way"):
            await runner.again(running.id)
        await runner.cancel(waiting.id)
        await runner.cancel(running.id)
        stopped = [await runner.wait(job.id) for job in (running, waiting)]
        with pytest.raises(ConflictError, match="nothing to cancel"):
            await runner.cancel(running.id)
        again = await runner.wait((await runner.again(waiting.id)).id)
        return stopped, again

    stopped, again = run_with(database, {"slow": slow, "add": add}, work)
    assert [job.state for job in stopped] == ["cancelled", "cancelled"]
    assert (again.state, again.result) == ("done", {"sum": 2})


def count_slowly(step: Reporter) -> int:
    """Work of a worker process that can be stopped."""
    for number in range(400):
        step(number / 400)
        time.sleep(0.01)
    return 400


def test_work_in_a_worker_reports_progress_and_stops_when_asked(database):
    async def slow(context):
        return {"count": await context.pool.run(count_slowly, context.step)}

    async def work(runner):
        watcher = runner.watch()
        job = await runner.submit("slow", "Slow", {})
        while (seen := await asyncio.wait_for(watcher.get(), 120)).progress == 0:
            assert seen.state in ("queued", "running"), seen.message
        await runner.cancel(job.id)
        return await runner.wait(job.id)

    ended = run_with(database, {"slow": slow}, work)
    assert ended.state == "cancelled" and 0 < ended.progress < 1


def test_unknown_kinds_are_refused(database):
    async def work(runner):
        with pytest.raises(InvalidInputError, match="no job of the kind dance"):
            await runner.submit("dance", "Dance", {})

    run_with(database, {}, work)


def test_what_a_dead_app_left_is_marked_when_the_next_one_starts(database):
    with database.write() as session:
        left = jobs.add_job(session, "add", "Add", {"a": 1, "b": 2})
        jobs.change_job(session, left, state="running")

    async def work(runner):
        with database.read() as session:
            marked = jobs.job(session, left)
        return marked, await runner.wait((await runner.again(left)).id)

    marked, again = run_with(database, {"add": add}, work)
    assert marked.state == "interrupted" and again.result == {"sum": 3}


def die() -> None:
    import os

    os._exit(9)


def test_a_dead_worker_is_said_and_replaced(database):
    async def main():
        pool = WorkerPool(1, LIMITS)
        try:
            with pytest.raises(OutsideError, match="worker process died"):
                await pool.run(die)
            return await pool.run(sum, [1, 2])
        finally:
            pool.close()

    assert asyncio.run(main()) == 3


def spin(seconds: float) -> None:
    """Work that listens to nobody: one long call of compiled code."""
    import numpy as np

    ended = time.monotonic() + seconds
    while time.monotonic() < ended:
        np.sort(np.random.default_rng(1).random(6_000_000))


def hoard(megabytes: int) -> int:
    import numpy as np

    return sum(int(block[-1]) for block in [np.ones(1_000_000) for _ in range(megabytes // 8)])


def worker_id() -> int:
    import os

    return os.getpid()


def loaded_of() -> tuple[int, bool, int]:
    import os
    import sys

    import cv2

    return os.getppid(), "zeichen.core.tracing.trace" in sys.modules, cv2.getNumThreads()


def test_a_worker_is_a_copy_of_one_that_has_all_loaded_and_so_is_the_one_in_its_place():
    async def main():
        pool, other = WorkerPool(1, LIMITS), WorkerPool(1, LIMITS)
        try:
            first = await pool.run(loaded_of)
            with pytest.raises(OutsideError):
                await pool.run(die)
            return first, await pool.run(loaded_of), await other.run(loaded_of)
        finally:
            pool.close()
            other.close()

    parents, loaded, threads = zip(*asyncio.run(main()), strict=True)
    assert len(set(parents)) == 1 and all(loaded) and min(threads) >= 1


@pytest.mark.parametrize(
    ("work", "limits", "words"),
    [
        ((spin, 600), WorkLimits(2, 1500), "longer than 2 s and was ended"),
        ((hoard, 4000), WorkLimits(600, 500), "more than 500 MB of memory"),
    ],
)
def test_work_past_its_limits_is_ended_and_said_and_the_others_go_on(work, limits, words):
    async def main():
        pool = WorkerPool(2, limits)
        try:
            await asyncio.gather(pool.run(worker_id), pool.run(worker_id))
            calm = asyncio.create_task(pool.run(time.sleep, 0.5))
            with pytest.raises(TooMuchError, match=words):
                await pool.run(*work)
            await calm
            return await asyncio.gather(*(pool.run(sum, [k, 2]) for k in range(4)))
        finally:
            pool.close()

    assert asyncio.run(main()) == [2, 3, 4, 5]


def test_what_nobody_waits_for_any_more_ends_with_its_worker():
    async def main():
        pool = WorkerPool(1, LIMITS)
        try:
            first = await pool.run(worker_id)
            long = asyncio.create_task(pool.run(spin, 60))
            await asyncio.sleep(0.3)
            long.cancel()
            return first, await pool.run(worker_id)
        finally:
            pool.close()

    first, second = asyncio.run(main())
    assert first != second and not Path(f"/proc/{first}").exists()


def test_a_job_that_does_not_listen_is_cancelled_all_the_same(database):
    async def deaf(context):
        await context.pool.run(spin, 60)
        return {}

    async def work(runner):
        job = await runner.submit("deaf", "Deaf", {})
        while (await asyncio.to_thread(runner._get, job.id)).state == "queued":
            await asyncio.sleep(0.01)
        await runner.cancel(job.id)
        ended = await runner.wait(job.id)
        return ended, await runner.wait((await runner.submit("add", "Add", {"a": 1, "b": 2})).id)

    ended, after = run_with(database, {"deaf": deaf, "add": add}, work)
    assert ended.state == "cancelled" and after.result == {"sum": 3}


def test_only_the_newest_request_is_answered():
    started: list[int] = []

    async def main():
        live = NewestWins()

        async def work(number):
            started.append(number)
            await asyncio.sleep(0.02)
            return number

        async def ask(number, key="a"):
            try:
                return await live.run(key, lambda: work(number))
            except SupersededError:
                return None

        return await asyncio.gather(*(ask(k) for k in range(6)), ask(99, "b")), live

    answers, live = asyncio.run(main())
    assert answers == [0, None, None, None, None, 5, 99]
    assert sorted(started) == [0, 5, 99]
    assert not live._locks and not live._newest and not live._waiting


def test_all_kinds_have_a_name():
    assert set(job_kinds()) == {"draw", "import", "clean", "trace", "mend", "make", "pack", "prepare"}


@pytest.fixture
def traced(tmp_path, snail_trace):
    from zeichen.core.formats.svg import write_svg

    files = FileStore(tmp_path)
    return files.path(files.put_state(write_svg(snail_trace.drawing).encode()))


def no_step(share: float) -> None:
    assert 0 <= share <= 1


@pytest.mark.parametrize(
    ("process", "values", "names"),
    [
        ("laser", {"cut": "none", "spacing_mm": 0.5}, ["laser.svg", "laser.gcode"]),
        ("carve", {"entity": "polyline"}, ["carve.dxf"]),
        ("relief", {"form": "outline"}, ["relief.stl", "relief.3mf"]),
        ("apparel", {"resolution_dpi": 72}, ["apparel.png"]),
    ],
)
def test_products_are_made_from_loose_values(traced, process, values, names):
    product, rehearsal, preview = make_product(traced, process, 60.0, "Snail", values, (100, 100), no_step)
    assert [made.name for made in product.files] == names and preview.startswith(b"\x89PNG")
    assert (rehearsal.get("page_mm") == (100, 100)) is (process == "laser")


@pytest.mark.parametrize(
    ("process", "values", "message"),
    [
        ("sew", {}, "no process sew. Use laser, carve, relief, apparel"),
        ("laser", {"colour": "red"}, "no setting colour for laser. The settings are: engrave, cut"),
        ("laser", {"cut": "half"}, "Cut: Input should be 'none', 'shapes' or 'around'"),
        ("laser", {"kerf_mm": "wide"}, "Kerf mm: Input should be a valid number"),
        ("laser", {"kerf_mm": -1}, "Kerf must be at least 0 mm"),
        ("laser", {"cut_passes": 1.5}, "Cut passes: Input should be a valid integer"),
        ("relief", {"base_mm": 2.1}, "multiple of the 0.2 mm layer height"),
    ],
)
def test_impossible_settings_are_refused_before_any_work(process, values, message):
    with pytest.raises(InvalidInputError, match=message):
        product_settings(process, values)


def test_whole_numbers_that_come_as_fractions_are_whole():
    assert product_settings("laser", {"cut_passes": 2.0}).cut_passes == 2


def test_a_relief_is_handed_to_the_screen_in_little_endian(traced):
    import base64

    import numpy as np

    solid = relief_mesh(traced, 60.0, {})
    base = next(part for part in solid.parts if part.name == "base")
    positions = np.frombuffer(base64.b64decode(base.positions), "<f4").reshape(-1, 3)
    triangles = np.frombuffer(base64.b64decode(base.triangles), "<u4").reshape(-1, 3)
    assert positions[:, 2].max() == pytest.approx(2) and triangles.max() < len(positions)


def test_a_pack_is_a_zip(traced):
    from zeichen.core.packing import Listing

    assert pack_drawings([("Snail", traced)], Listing("Snail"), 60.0, no_step).startswith(b"PK")


def spoilt(fault: Fault) -> Picture:
    """The first snail of the studio with this fault and no other."""
    for seed in range(400):
        # Faults do not depend on the size, so small pictures are enough to look for them.
        if Studio().draw_openly(SketchOrder("snail", Look.SILHOUETTE, seed, size_px=64)).faults == {fault}:
            return Studio().draw(SketchOrder("snail", Look.SILHOUETTE, seed))
    raise AssertionError(f"no snail has only {fault}")


@pytest.fixture
def pictures(tmp_path) -> dict[str, Path]:
    import numpy as np

    made = {
        "clean": Studio(faults=0).draw(SketchOrder("teapot", Look.SILHOUETTE, 46)).rgb,
        "signed": spoilt(Fault.SIGNATURE).rgb,
        "speck": spoilt(Fault.SPECKS).rgb,
        "white": np.full((64, 64, 3), 255, np.uint8),
    }
    files = FileStore(tmp_path)
    return {name: files.path(files.put(write_png(Picture(rgb).rgb))) for name, rgb in made.items()}


def test_forecasts_follow_their_rule(pictures):
    verdicts = {name: tasks.forecast(path, YARDSTICK).verdict for name, path in pictures.items()}
    assert verdicts["clean"] == "traces-well" and verdicts["white"] == "wrong-kind"
    assert verdicts["signed"] == "needs-clean-up" and verdicts["speck"] == "needs-clean-up"


def test_a_trace_for_the_screen_carries_its_proof(pictures):
    data = tasks.trace_picture(pictures["speck"], TraceSettings(), YARDSTICK)
    assert data.drawing.proof.findings and data.svg.startswith("<?xml")
    assert data.drawing.mm_per_px * (
        data.drawing.figure_px.x_max - data.drawing.figure_px.x_min
    ) == pytest.approx(60)
    assert set(data.report()) == {"level", "dropped_spots", "mean_px", "p95_px", "largest_px"}


def test_a_stop_file_stops_a_reporter(tmp_path):
    reporter = Reporter(1, tmp_path / "1")
    reporter(0.5)
    (tmp_path / "1").touch()
    with pytest.raises(StoppedError):
        reporter(0.6)


def test_settings_are_read_from_the_environment_and_documented(monkeypatch):
    monkeypatch.setenv("ZEICHEN_PORT", "9000")
    monkeypatch.setenv("ZEICHEN_DATA", "/tmp/elsewhere")
    settings = Settings()
    assert (settings.port, settings.data) == (9000, Path("/tmp/elsewhere"))
    readme = (Path(__file__).parents[2] / "README.md").read_text()
    for name, field in Settings.model_fields.items():
        assert field.description and f"ZEICHEN_{name.upper()}" in readme
