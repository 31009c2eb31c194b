"""The kernels made ready as a job, with a stand-in for the compiler."""

import asyncio

import pytest

from zeichen.core.tracing import warming
from zeichen.jobs import preparing
from zeichen.jobs.kinds import PLAIN, job_kinds
from zeichen.jobs.limits import WorkLimits
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.workers import ProgressChannel, WorkerPool
from zeichen.store.jobs import unfinished_jobs


async def measure(context):
    """A job whose work needs no kernels, in the pool."""
    return {"length": await context.pool.run_plain(len, "four")}


async def wait_for_none(context):
    """A job that, but for its kind, could begin at once."""
    return {}


@pytest.fixture
def run(database):
    """Run something with a runner whose pool loads no kernels."""

    def run(work):
        async def inside():
            channel = ProgressChannel()
            pool = WorkerPool(1, WorkLimits(20, 1500), channel)
            kinds = {**job_kinds(), "measure": measure, "trace": wait_for_none}
            runner = JobRunner(
                database, pool, channel, kinds, prepares=preparing.KIND, plain=PLAIN | {"measure"}
            )
            await runner.start()
            try:
                return await work(runner)
            finally:
                await runner.close()
                pool.close()

        return asyncio.run(inside())

    return run


def stand_in(monkeypatch, tmp_path, code: str) -> None:
    """Let a module of some code be what is run in place of the compiler."""
    (tmp_path / "stand_in_compiler.py").write_text(code)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    monkeypatch.setattr(warming, "__name__", "stand_in_compiler")
    monkeypatch.setattr(warming, "is_ready", lambda: False)


async def prepared(runner):
    """The job that makes ready what is missing, once it has ended."""
    job = await preparing.prepare_if_needed(runner)
    return await runner.wait(job.id)


def test_nothing_is_prepared_where_all_is_there(run, monkeypatch):
    monkeypatch.setattr(warming, "is_ready", lambda: True)
    assert run(preparing.prepare_if_needed) is None


def test_what_is_missing_is_a_job_that_ends(run, monkeypatch, tmp_path):
    stand_in(monkeypatch, tmp_path, "import time; time.sleep(1.5)")

    job = run(prepared)
    assert (job.kind, job.state) == ("prepare", "done")


def test_a_compiler_that_fails_is_said(run, monkeypatch, tmp_path):
    stand_in(monkeypatch, tmp_path, "raise SystemExit(3)")

    job = run(prepared)
    assert job.state == "failed" and "could not be made ready" in job.message


def test_what_needs_no_kernels_is_done_while_they_are_prepared(run, monkeypatch, tmp_path):
    go_on = tmp_path / "go-on"
    wait = f"import pathlib, time\nwhile not pathlib.Path({str(go_on)!r}).exists(): time.sleep(0.05)"
    stand_in(monkeypatch, tmp_path, wait)

    async def side_by_side(runner):
        first = await preparing.prepare_if_needed(runner)
        waits = await runner.submit("trace", "Trace", {})
        plain = await runner.wait((await runner.submit("measure", "Measure", {})).id)
        with runner.database.read() as session:
            states = {job.id: job.state for job in unfinished_jobs(session)}
        go_on.touch()
        return plain, states, [first.id, waits.id], await runner.wait(waits.id)

    plain, states, (first, waits), waited = run(side_by_side)
    assert plain.state == "done" and plain.result == {"length": 4}
    assert states == {first: "running", waits: "queued"}
    assert waited.state == "done"


def test_the_share_done_is_between_none_and_all():
    assert 0.0 < warming.share_done() <= 1.0
