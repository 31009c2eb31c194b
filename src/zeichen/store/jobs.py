"""Jobs as they stand; what was running when the app died is marked as interrupted."""

from typing import Any

from sqlalchemy import and_, delete, or_, select, update
from sqlalchemy.orm import Session

from zeichen.core.errors import ConflictError
from zeichen.store.collections import require_row
from zeichen.store.models import JobRow, now
from zeichen.store.records import Job

UNFINISHED = ("queued", "running")
# What these jobs were to make is not there: they stay until it is, or until the maker lets go of them.
UNDONE = ("failed", "interrupted")
PAGE = 60


def add_job(session: Session, kind: str, label: str, params: dict[str, Any]) -> int:
    """Queue a job; returns its id."""
    row = JobRow(kind=kind, label=label, state="queued", params=params, result={})
    session.add(row)
    session.flush()
    return row.id


def change_job(session: Session, job_id: int, **columns: Any) -> None:
    """Change how a job stands; a finished state stamps its end."""
    row = require_row(session, JobRow, job_id, "job")
    for column, value in columns.items():
        setattr(row, column, value)
    if "state" in columns and columns["state"] not in UNFINISHED:
        row.finished_at = now()


def job(session: Session, job_id: int) -> Job:
    """Return one job."""
    return _to_job(require_row(session, JobRow, job_id, "job"))


def recent_jobs(session: Session, *, before_id: int | None = None, most: int = PAGE) -> list[Job]:
    """Return the newest jobs, newest first; with before_id the next older ones."""
    wanted = select(JobRow).order_by(JobRow.id.desc()).limit(most)
    if before_id is not None:
        wanted = wanted.where(JobRow.id < before_id)
    return [_to_job(row) for row in session.scalars(wanted)]


def unfinished_jobs(session: Session) -> list[Job]:
    """Return the jobs that are queued or running, oldest first."""
    rows = session.scalars(select(JobRow).where(JobRow.state.in_(UNFINISHED)).order_by(JobRow.id))
    return [_to_job(row) for row in rows]


def undone_jobs(session: Session) -> list[Job]:
    """Return the jobs that failed or were interrupted and that no other has taken up, oldest first."""
    rows = session.scalars(
        select(JobRow).where(JobRow.state.in_(UNDONE), JobRow.again_id.is_(None)).order_by(JobRow.id)
    )
    return [_to_job(row) for row in rows]


def motifs_waited_for(session: Session) -> set[int]:
    """Return the ids of the motifs that a job not yet done is for."""
    rows = session.scalars(
        select(JobRow.params).where(JobRow.state.in_((*UNFINISHED, *UNDONE)), JobRow.again_id.is_(None))
    )
    return {params["motif_id"] for params in rows if isinstance(params.get("motif_id"), int)}


def drop_job(session: Session, job_id: int) -> None:
    """Let go of one job that has ended; what it made stays."""
    row = require_row(session, JobRow, job_id, "job")
    if row.state in UNFINISHED:
        raise ConflictError("The job is still under way. Cancel it first.")
    session.delete(row)


def interrupt_unfinished(session: Session) -> int:
    """Mark jobs that a dead app left behind; returns how many."""
    result = session.execute(
        update(JobRow)
        .where(JobRow.state.in_(UNFINISHED))
        .values(
            state="interrupted",
            finished_at=now(),
            message="The app was closed while this was running. Nothing was lost; run it again.",
        )
    )
    return int(getattr(result, "rowcount", 0))


def forget_finished(session: Session) -> None:
    """Remove the rows of jobs that were done or taken up by another; what they made stays, and so does the rest."""
    session.execute(
        delete(JobRow).where(
            or_(JobRow.state == "done", and_(JobRow.state.not_in(UNFINISHED), JobRow.again_id.is_not(None)))
        )
    )


def _to_job(row: JobRow) -> Job:
    return Job(
        row.id,
        row.kind,
        row.label,
        row.state,
        row.progress,
        row.message,
        row.params,
        row.result,
        row.created_at,
        row.finished_at,
        row.again_id,
    )
