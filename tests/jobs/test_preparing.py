"""The kernels made ready as a job, with a stand-in for the compiler."""

import asyncio

import pytest

from zeichen.core.tracing import warming
from zeichen.jobs import preparing
from zeichen.jobs.kinds import job_kinds
from zeichen.jobs.limits import WorkLimits
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.workers import ProgressChannel, WorkerPool


@pytest.fixture
def run(database):
    """Run something with a runner whose pool is never used."""

    def run(work):
        async def inside():
            channel = ProgressChannel()
            pool = WorkerPool(1, WorkLimits(20, 1500), channel)
            runner = JobRunner(database, pool, channel, job_kinds())
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


def test_the_share_done_is_between_none_and_all():
    assert 0.0 < warming.share_done() <= 1.0
