"""Files that makers brought in: kept as they came from the moment that was confirmed."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from zeichen.store.collections import require_row
from zeichen.store.models import MotifRow, UploadRow
from zeichen.store.records import Upload


def add_upload(session: Session, motif_id: int, *, file_name: str, sha: str, size_bytes: int) -> int:
    """Keep a brought-in file of a motif; returns its id."""
    require_row(session, MotifRow, motif_id, "motif")
    row = UploadRow(motif_id=motif_id, file_name=file_name, sha=sha, size_bytes=size_bytes)
    session.add(row)
    session.flush()
    return row.id


def upload(session: Session, upload_id: int) -> Upload:
    """Return one brought-in file."""
    return _to_upload(require_row(session, UploadRow, upload_id, "upload"))


def waiting_uploads(session: Session, motif_id: int) -> list[Upload]:
    """Return the brought-in files of a motif that have not become sketches, oldest first."""
    require_row(session, MotifRow, motif_id, "motif")
    rows = session.scalars(
        select(UploadRow)
        .where(UploadRow.motif_id == motif_id, UploadRow.sketch_id.is_(None))
        .order_by(UploadRow.id)
    )
    return [_to_upload(row) for row in rows]


def became(session: Session, upload_id: int, sketch_id: int) -> None:
    """Note the sketch that a brought-in file became."""
    require_row(session, UploadRow, upload_id, "upload").sketch_id = sketch_id


def drop_upload(session: Session, upload_id: int) -> None:
    """Forget a brought-in file, by the maker's own word."""
    session.delete(require_row(session, UploadRow, upload_id, "upload"))


def _to_upload(row: UploadRow) -> Upload:
    return Upload(row.id, row.motif_id, row.file_name, row.sha, row.size_bytes, row.sketch_id, row.created_at)
