"""What clean-up steps made of a sketch, kept with it."""

from typing import Any

from zeichen.jobs.tasks import SketchFiles
from zeichen.store import sketches
from zeichen.store.database import Database
from zeichen.store.records import Sketch


def keep_cleaned(
    database: Database, sketch_id: int, steps: list[dict[str, Any]], made: SketchFiles
) -> Sketch:
    """Keep a sketch's steps and the picture they made; returns the sketch as it is then."""
    picture_sha, thumb_sha = database.files.put(made.png), database.files.put(made.thumb)
    with database.write() as session:
        sketches.clean_sketch(
            session,
            sketch_id,
            steps,
            picture_sha=picture_sha,
            thumb_sha=thumb_sha,
            width_px=made.width_px,
            height_px=made.height_px,
        )
        return sketches.sketch(session, sketch_id)
