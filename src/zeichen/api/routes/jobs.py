"""Background work: the list, the stream of changes, cancel, run again."""

from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import TypeAdapter
from sse_starlette import EventSourceResponse, ServerSentEvent

from zeichen.api.workplace import Place
from zeichen.store import jobs
from zeichen.store.records import Job

router = APIRouter(tags=["jobs"])
_JOB = TypeAdapter(Job)


@router.get("/jobs")
def list_jobs(
    place: Place,
    before: Annotated[
        int | None, Query(ge=0, le=2**63 - 1, description="Only jobs older than this id.")
    ] = None,
    most: Annotated[int, Query(ge=1, le=500)] = jobs.PAGE,
) -> list[Job]:
    """Return the newest jobs, newest first, or the next page of older ones."""
    with place.database.read() as session:
        return jobs.recent_jobs(session, before_id=before, most=most)


@router.get("/jobs/undone")
def list_undone_jobs(place: Place) -> list[Job]:
    """Return every job that failed or was interrupted and that no other has taken up, oldest first."""
    with place.database.read() as session:
        return jobs.undone_jobs(session)


@router.post("/jobs/undone/again", status_code=202)
async def run_undone_again(place: Place) -> list[Job]:
    """Queue all of them once more, but for those that would ask a generator at an address for pictures."""
    return await place.runner.again_all()


@router.get("/jobs/events", response_class=EventSourceResponse)
async def watch_jobs(place: Place) -> EventSourceResponse:
    """Stream every change of every job, beginning with what is under way."""

    async def events() -> AsyncIterator[ServerSentEvent]:
        watcher = place.runner.watch()
        try:
            with place.database.read() as session:
                under_way = jobs.unfinished_jobs(session)
            yield ServerSentEvent(event="hello", data="{}")
            for job in under_way:
                yield _event(job)
            while True:
                yield _event(await watcher.get())
        finally:
            place.runner.unwatch(watcher)

    return EventSourceResponse(events(), ping=15)


@router.post("/jobs/{job_id}/cancel")
async def cancel_job(job_id: int, place: Place) -> Job:
    """Ask a job to stop."""
    return await place.runner.cancel(job_id)


@router.post("/jobs/{job_id}/again", status_code=202)
async def run_job_again(job_id: int, place: Place) -> Job:
    """Queue a finished, failed or interrupted job once more."""
    return await place.runner.again(job_id)


@router.delete("/jobs/finished", status_code=204)
def forget_finished_jobs(place: Place) -> None:
    """Clear the list of what was done; what the jobs made stays, and so do those that were not done."""
    with place.database.write() as session:
        jobs.forget_finished(session)


@router.delete("/jobs/{job_id}", status_code=204)
def forget_job(job_id: int, place: Place) -> None:
    """Let go of one job that has ended; what it made stays."""
    with place.database.write() as session:
        jobs.drop_job(session, job_id)


def _event(job: Job) -> ServerSentEvent:
    return ServerSentEvent(event="job", data=_JOB.dump_json(job).decode())
