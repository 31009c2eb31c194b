"""Background work: the list, the stream of changes, cancel, run again."""

from collections.abc import AsyncIterator

from fastapi import APIRouter
from pydantic import TypeAdapter
from sse_starlette import EventSourceResponse, ServerSentEvent

from zeichen.api.workplace import Place
from zeichen.store import jobs
from zeichen.store.records import Job

router = APIRouter(tags=["jobs"])
_JOB = TypeAdapter(Job)


@router.get("/jobs")
def list_jobs(place: Place) -> list[Job]:
    """Return the newest jobs, newest first."""
    with place.database.read() as session:
        return jobs.recent_jobs(session)


@router.get("/jobs/events", response_class=EventSourceResponse)
async def watch_jobs(place: Place) -> EventSourceResponse:
    """Stream every change of every job, beginning with what is under way."""

    async def events() -> AsyncIterator[ServerSentEvent]:
        watcher = place.runner.watch()
        try:
            with place.database.read() as session:
                under_way = [job for job in jobs.recent_jobs(session) if job.state in jobs.UNFINISHED]
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
    """Clear the list of what has ended; what the jobs made stays."""
    with place.database.write() as session:
        jobs.forget_finished(session)


def _event(job: Job) -> ServerSentEvent:
    return ServerSentEvent(event="job", data=_JOB.dump_json(job).decode())
