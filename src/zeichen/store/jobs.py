"""Jobs as they stand; what was running when the app died is marked as interrupted."""

from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from zeichen.store.collections import require_row
from zeichen.store.models import JobRow, now
from zeichen.store.records import Job

UNFINISHED = ("queued", "running")
_SHOWN = 60


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
    if columns.get("state", "running") not in UNFINISHED:
        row.finished_at = now()


def job(session: Session, job_id: int) -> Job:
    """Return one job."""
    return _to_job(require_row(session, JobRow, job_id, "job"))


def recent_jobs(session: Session) -> list[Job]:
    """Return the newest jobs, newest first."""
    return [_to_job(row) for row in session.scalars(select(JobRow).order_by(JobRow.id.desc()).limit(_SHOWN))]


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
    """Remove the rows of jobs that have ended; what they made stays."""
    session.execute(delete(JobRow).where(JobRow.state.not_in(UNFINISHED)))


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
    )
