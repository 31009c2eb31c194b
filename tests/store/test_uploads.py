"""Uploads of before become things of their own, whether they were made ready or not."""

import json

from sqlalchemy import create_engine, text
from sqlalchemy.orm import Session

from zeichen.store import jobs, uploads
from zeichen.store.database import migrate

READY, STRANDED, GONE = ("a" * 64, "b" * 64, "c" * 64)


def test_what_was_brought_in_before_comes_along(tmp_path):
    old = create_engine(f"sqlite:///{tmp_path / 'older.sqlite'}")
    migrate(old, "0006")
    day = "2026-01-01 00:00:00"
    rows = [
        "yardsticks (id, name, process, width_mm, blank, blank_width_mm, blank_height_mm, thin_mm, gap_mm, speck_mm2, "
        "one_piece, cut_away, corner_mm, colours) VALUES (1, 'L', 'carve', 80, '', 100, 60, .15, .15, .3, 0, 0, 0, 24)",
        f"collections VALUES (1, 'Open day', 1, '{day}')",
        f"motifs VALUES (1, 1, 'snail', 1, '{day}')",
        "sketches (id, motif_id, picture_sha, thumb_sha, original_sha, width_px, height_px, source, generator, "
        "wording, look, file_name, kept, licence, machine_made, created_at) VALUES "
        f"(7, 1, '{READY}', '{READY}', '{READY}', 9, 9, 'upload', '', '', '', 'ready.png', 1, '', 0, '{day}')",
        *(
            f"jobs (id, kind, label, state, progress, message, params, result, created_at) VALUES ({k}, 'import', 'x', "
            f"'{state}', 0, '', '{json.dumps(params)}', '{{}}', '{day}')"
            for k, state, params in (
                (1, "done", {"motif_id": 1, "original_sha": READY, "file_name": "ready.png"}),
                (2, "interrupted", {"motif_id": 1, "original_sha": STRANDED, "file_name": "käfer.png"}),
                (3, "failed", {"motif_id": 99, "original_sha": GONE, "file_name": "gone.png"}),
            )
        ),
    ]
    with old.begin() as connection:
        for row in rows:
            # A colon in JSON is no parameter.
            connection.execute(text(f"INSERT INTO {row}".replace(":", "\\:")))
    migrate(old)
    with Session(old) as session:
        (waiting,) = uploads.waiting_uploads(session, 1)
        assert (waiting.sha, waiting.file_name, waiting.created_at.utcoffset().total_seconds()) == (
            STRANDED, "käfer.png", 0,
        )  # fmt: skip
        assert uploads.upload(session, 1).sketch_id == 7
        assert jobs.job(session, 2).params["upload_id"] == waiting.id
        assert [job.id for job in jobs.undone_jobs(session)] == [2, 3]
    old.dispose()
