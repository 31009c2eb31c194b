"""The data folder: migrated, write-ahead, immutable revisions, content-addressed files."""

import hashlib
import stat
import subprocess
import sys

import pytest
from sqlalchemy import create_engine, inspect, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from zeichen.core.errors import ConflictError, InvalidInputError, NotFoundError, OutsideError
from zeichen.core.proofing import Process, Yardstick
from zeichen.store import briefs, collections, drawings, jobs, products, sketches
from zeichen.store.database import Database, FolderLock, migrate
from zeichen.store.files import FileStore, write_atomically
from zeichen.store.models import Base
from zeichen.store.records import Brief

SHA = "a" * 64


def collection_with_motif(database, name="Open day"):
    with database.write() as session:
        stick = collections.add_yardstick(
            session, "Laser", Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
        )
        collection_id = collections.add_collection(session, name, stick)
        return collection_id, collections.add_motif(session, collection_id, "snail")


def sketch_of(session, motif_id, **changes):
    columns = {
        "picture_sha": SHA, "thumb_sha": SHA, "width_px": 10, "height_px": 10, "source": "generator",
        "generator": "stand-in studio", "wording": "A snail.", "look": "line", "seed": 3,
    }  # fmt: skip
    return sketches.add_sketch(session, motif_id, **{**columns, **changes})


def test_migrations_build_exactly_the_models(database):
    """Alembic compares what the migrations made with what the models say."""
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Base.metadata) == []
    assert set(inspect(database.engine).get_table_names()) >= {
        "collections", "motifs", "briefs", "sketches", "tracings", "drawings", "revisions", "yardsticks", "tickets",
        "packs", "jobs",
    }  # fmt: skip


def test_migrating_twice_is_harmless_and_keeps_what_is_there(database):
    collection_with_motif(database)
    migrate(database.engine)
    with database.read() as session:
        assert len(collections.collections(session)) == 1


def test_sqlite_is_set_up_for_crashes_and_crowds(database):
    with database.engine.connect() as connection:
        pragma = {
            name: connection.execute(text(f"PRAGMA {name}")).scalar()
            for name in ("journal_mode", "foreign_keys", "busy_timeout")
        }
    assert pragma == {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000}


def test_foreign_keys_hold(database):
    with pytest.raises(IntegrityError), database.write() as session:
        session.execute(
            text(
                "INSERT INTO motifs (collection_id, name, position, created_at) VALUES (99, 'x', 1, '2026-01-01')"
            )
        )


def test_a_failed_write_leaves_nothing_behind(database):
    with pytest.raises(RuntimeError), database.write() as session:
        collections.add_yardstick(session, "Laser", Yardstick.usual(Process.CARVE, width_mm=80))
        raise RuntimeError
    with database.read() as session:
        assert collections.yardsticks(session) == []


def test_yardsticks_come_back_as_they_were(database):
    value = Yardstick.usual(Process.STENCIL, width_mm=123.4)
    with database.write() as session:
        key = collections.add_yardstick(session, "Stencil", value)
    with database.read() as session:
        assert collections.yardstick(session, key).yardstick == value
    other = Yardstick.usual(Process.CARVE, width_mm=9)
    with database.write() as session:
        collections.change_yardstick(session, key, "Sign", other)
    with database.read() as session:
        named = collections.yardstick(session, key)
        assert (named.name, named.yardstick) == ("Sign", other)


def test_briefs_are_kept_one_after_the_other_and_make_motifs_once(database):
    collection_id, _ = collection_with_motif(database)
    with database.write() as session:
        briefs.save_brief(
            session, collection_id, Brief("Snail\nTeapot", "line", ("margin",)), ["Snail", "Teapot"]
        )
        briefs.save_brief(session, collection_id, Brief("teapot", "flat", ()), ["teapot"])
    with database.read() as session:
        assert [motif.name for motif in collections.motifs(session, collection_id)] == ["Teapot"]
        assert briefs.latest_brief(session, collection_id) == Brief("teapot", "flat", ())


def test_motifs_follow_the_brief_unless_something_was_made_of_them(database):
    collection_id, snail = collection_with_motif(database)

    def after(subjects: str) -> list[str]:
        with database.write() as session:
            briefs.save_brief(session, collection_id, Brief(subjects, "line", ()), subjects.split())
        with database.read() as session:
            return [motif.name for motif in collections.motifs(session, collection_id)]

    assert after("Snail Tea") == ["Snail", "Tea"]
    assert after("Teapot Snail") == ["Teapot", "Snail"]
    with database.write() as session:
        sketch_of(session, snail)
    assert after("Beetroot Teapot") == ["Beetroot", "Teapot", "Snail"]
    assert after("") == ["Snail"]


@pytest.mark.parametrize("name", ["", "   "])
def test_names_are_required(database, name):
    collection_id, _ = collection_with_motif(database)
    with database.write() as session:
        for add in (
            lambda: collections.add_collection(session, name, 1),
            lambda: collections.add_motif(session, collection_id, name),
            lambda: collections.add_yardstick(session, name, Yardstick.usual(Process.CARVE, width_mm=9)),
        ):
            with pytest.raises(InvalidInputError, match="needs a name"):
                add()


def test_two_collections_cannot_share_a_name(database):
    collection_with_motif(database)
    with pytest.raises(ConflictError, match="already"), database.write() as session:
        collections.add_collection(session, " Open  day", 1)


def test_what_is_not_there_is_said(database):
    with database.read() as session:
        for look in (
            lambda: collections.collection(session, 9),
            lambda: sketches.sketch(session, 9),
            lambda: drawings.drawing_head(session, 9),
            lambda: products.ticket(session, 9),
            lambda: products.pack(session, 9),
            lambda: jobs.job(session, 9),
        ):
            with pytest.raises(NotFoundError, match="There is no"):
                look()


def test_undo_and_redo_walk_revisions_and_survive_a_restart(tmp_path):
    database = Database(tmp_path)
    _, motif_id = collection_with_motif(database)
    with database.write() as session:
        drawing_id = drawings.add_drawing(session, motif_id, svg_sha="1" * 64, tracing_id=None, note="traced")
        for number in (2, 3):
            head = drawings.drawing_head(session, drawing_id)
            drawings.add_revision(
                session, drawing_id, base_revision_id=head.revision_id, svg_sha=str(number) * 64, note="n"
            )
        drawings.undo(session, drawing_id)
    database.close()
    again = Database(tmp_path)
    with again.write() as session:
        head = drawings.drawing_head(session, drawing_id)
        assert (head.svg_sha[0], head.can_undo, head.can_redo) == ("2", True, True)
        drawings.undo(session, drawing_id)
        assert drawings.drawing_head(session, drawing_id).svg_sha[0] == "1"
        with pytest.raises(ConflictError, match="nothing to undo"):
            drawings.undo(session, drawing_id)
        for expected in "23":
            drawings.redo(session, drawing_id)
            assert drawings.drawing_head(session, drawing_id).svg_sha[0] == expected
        with pytest.raises(ConflictError, match="nothing to redo"):
            drawings.redo(session, drawing_id)
    again.close()


def test_a_change_after_undo_starts_a_branch_and_loses_nothing(database):
    _, motif_id = collection_with_motif(database)
    with database.write() as session:
        drawing_id = drawings.add_drawing(session, motif_id, svg_sha="1" * 64, tracing_id=None, note="traced")
        first = drawings.drawing_head(session, drawing_id).revision_id
        drawings.add_revision(session, drawing_id, base_revision_id=first, svg_sha="2" * 64, note="a")
        drawings.undo(session, drawing_id)
        drawings.add_revision(session, drawing_id, base_revision_id=first, svg_sha="3" * 64, note="b")
        drawings.undo(session, drawing_id)
        drawings.redo(session, drawing_id)
        assert drawings.drawing_head(session, drawing_id).svg_sha[0] == "3"
        assert session.execute(text("SELECT count(*) FROM revisions")).scalar() == 3


def test_tracing_again_is_a_revision_that_undo_takes_back_with_its_sketch(database):
    _, motif_id = collection_with_motif(database)
    with database.write() as session:
        first, second = sketch_of(session, motif_id), sketch_of(session, motif_id)
        tracings = [
            sketches.add_tracing(session, sketch_id, {}, {"p95_px": 0.1 * sketch_id})
            for sketch_id in (first, second)
        ]
        drawing_id = drawings.keep_trace(session, motif_id, svg_sha="1" * 64, tracing_id=tracings[0])
        head = drawings.drawing_head(session, drawing_id)
        drawings.add_revision(
            session, drawing_id, base_revision_id=head.revision_id, svg_sha="2" * 64, note="mended"
        )
        assert drawings.drawing_head(session, drawing_id).sketch_id == first
        assert drawings.keep_trace(session, motif_id, svg_sha="3" * 64, tracing_id=tracings[1]) == drawing_id
        assert drawings.drawing_head(session, drawing_id).sketch_id == second
        drawings.undo(session, drawing_id)
        back = drawings.drawing_head(session, drawing_id)
        assert (back.svg_sha[0], back.sketch_id, back.can_redo) == ("2", first, True)


def test_a_change_on_an_old_revision_is_refused(database):
    _, motif_id = collection_with_motif(database)
    with database.write() as session:
        drawing_id = drawings.add_drawing(session, motif_id, svg_sha="1" * 64, tracing_id=None, note="traced")
        first = drawings.drawing_head(session, drawing_id).revision_id
        drawings.add_revision(session, drawing_id, base_revision_id=first, svg_sha="2" * 64, note="a")
        with pytest.raises(ConflictError, match="changed elsewhere"):
            drawings.add_revision(session, drawing_id, base_revision_id=first, svg_sha="3" * 64, note="b")


def test_a_motif_counts_how_far_it_has_come(database):
    collection_id, motif_id = collection_with_motif(database)
    with database.write() as session:
        first = sketch_of(session, motif_id)
        second = sketch_of(session, motif_id, thumb_sha="b" * 64, parent_id=first)
        sketches.keep_sketch(session, second, True)
        tracing = sketches.add_tracing(session, second, {"level": 9}, {"p95_px": 0.1})
        drawing_id = drawings.add_drawing(session, motif_id, svg_sha=SHA, tracing_id=tracing, note="traced")
        head = drawings.drawing_head(session, drawing_id)
        products.add_ticket(
            session,
            motif_id,
            revision_id=head.revision_id,
            process="laser",
            width_mm=80.0,
            settings={},
            files=[],
            readings=[],
            rehearsal={},
        )
        products.add_pack(
            session,
            collection_id,
            title="t",
            listing={},
            motif_ids=[motif_id],
            zip_sha=SHA,
            size_bytes=1,
            contents=[],
        )
    with database.read() as session:
        (motif,) = collections.motifs(session, collection_id)
        assert (
            motif.sketch_count,
            motif.kept_count,
            motif.tracing_count,
            motif.ticket_count,
            motif.pack_count,
        ) == (2, 1, 1, 1, 1)
        assert motif.thumb_sha == "b" * 64 and motif.drawing_id == drawing_id
        assert sketches.sketches(session, motif_id)[1].parent_id == first
        assert (head.sketch_id, head.settings, head.report) == (second, {"level": 9}, {"p95_px": 0.1})


def test_jobs_a_dead_app_left_behind_are_marked(database):
    with database.write() as session:
        running, done = (jobs.add_job(session, "trace", "t", {}) for _ in range(2))
        jobs.change_job(session, running, state="running", progress=0.4)
        jobs.change_job(session, done, state="done")
        assert jobs.interrupt_unfinished(session) == 1
        assert (
            jobs.job(session, running).state == "interrupted"
            and "run it again" in jobs.job(session, running).message
        )
        assert jobs.job(session, done).state == "done" and jobs.job(session, done).finished_at is not None
        jobs.forget_finished(session)
        # What was not done stays in reach, until another job takes it up.
        assert [job.id for job in jobs.recent_jobs(session)] == [running]
        assert [job.id for job in jobs.undone_jobs(session)] == [running]
        jobs.change_job(session, running, again_id=99)
        assert jobs.undone_jobs(session) == []
        jobs.forget_finished(session)
        assert jobs.recent_jobs(session) == []


def test_files_are_found_by_what_is_in_them(tmp_path):
    store = FileStore(tmp_path)
    digest = store.put(b"snail")
    assert digest == hashlib.sha256(b"snail").hexdigest() == store.put(b"snail")
    assert store.get(digest) == b"snail"
    assert stat.S_IMODE(store.path(digest).stat().st_mode) == 0o644
    with pytest.raises(NotFoundError, match="missing"):
        store.get("0" * 64)


@pytest.mark.parametrize("name", ["../../etc/passwd", "A" * 64, "", "0" * 63])
def test_names_that_are_no_hashes_lead_nowhere(tmp_path, name):
    with pytest.raises(NotFoundError):
        FileStore(tmp_path).path(name)


def test_a_file_is_never_written_over(tmp_path):
    store = FileStore(tmp_path)
    digest = store.put(b"snail")
    before = store.path(digest).stat().st_mtime_ns
    store.put(b"snail")
    assert store.path(digest).stat().st_mtime_ns == before


def test_a_failed_write_leaves_no_parts(tmp_path, monkeypatch):
    import os

    def full(_handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OutsideError, match=r"No space left on device.*disk has room"):
        write_atomically(tmp_path / "a.bin", b"x")
    assert list(tmp_path.iterdir()) == []


def test_a_data_folder_that_is_a_file_is_refused(tmp_path):
    (tmp_path / "data").write_text("in the way")
    with pytest.raises(OutsideError, match="cannot be written to"):
        Database(tmp_path / "data")


def test_a_read_only_folder_is_refused():
    """/proc takes no files, whoever asks."""
    from pathlib import Path

    with pytest.raises(OutsideError, match=r"cannot be written to.*ZEICHEN_DATA"):
        Database(Path("/proc/zeichen"))


def test_a_damaged_database_is_said(tmp_path):
    tmp_path.joinpath("zeichen.sqlite").write_bytes(b"this is no database" * 100)
    with pytest.raises(OutsideError, match="could not be used"):
        Database(tmp_path)


def test_a_locked_database_is_said(tmp_path):
    """Another process holds the file; the busy timeout is waited out, then the sentence comes."""
    import sqlite3

    Database(tmp_path).close()
    holder = sqlite3.connect(tmp_path / "zeichen.sqlite", isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    try:
        with pytest.raises(OutsideError, match=r"locked.*Close that program"):
            database = Database(tmp_path)
            with database.write() as session:
                collections.add_yardstick(session, "x", Yardstick.usual(Process.CARVE, width_mm=9))
    finally:
        holder.close()


def test_one_app_at_a_time_holds_a_folder(tmp_path):
    code = "import sys, pathlib, zeichen.store.database as d; d.FolderLock(pathlib.Path(sys.argv[1]))"
    with FolderLock(tmp_path):
        other = subprocess.run([sys.executable, "-c", code, str(tmp_path)], capture_output=True, text=True)
        assert other.returncode != 0 and "in use by another running Zeichen" in other.stderr
    assert subprocess.run([sys.executable, "-c", code, str(tmp_path)]).returncode == 0


CLEANED = {"picture_sha": "b" * 64, "thumb_sha": "c" * 64, "width_px": 8, "height_px": 9}


def test_a_cleaned_sketch_shows_the_cleaned_picture_and_keeps_the_one_before(database):
    _, motif_id = collection_with_motif(database)
    with database.write() as session:
        sketch_id = sketch_of(session, motif_id)
        assert sketches.sketch(session, sketch_id).clean_steps == ()
        sketches.clean_sketch(session, sketch_id, [{"kind": "invert", "on": True}], **CLEANED)
    with database.write() as session:
        once = sketches.sketch(session, sketch_id)
        assert (once.picture_sha, once.raw_sha, once.width_px, once.height_px) == ("b" * 64, SHA, 8, 9)
        assert once.clean_steps == ({"kind": "invert", "on": True},)
        # Cleaned again, the picture before all steps is still the first one.
        sketches.clean_sketch(session, sketch_id, [], **{**CLEANED, "picture_sha": "d" * 64})
    with database.read() as session:
        again = sketches.sketch(session, sketch_id)
        assert (again.picture_sha, again.raw_sha, again.clean_steps) == ("d" * 64, SHA, ())


def test_a_sketch_that_is_not_there_cannot_be_cleaned(database):
    with pytest.raises(NotFoundError), database.write() as session:
        sketches.clean_sketch(session, 99, [], **CLEANED)


def test_sketches_from_before_there_was_clean_up_come_along(tmp_path):
    old = create_engine(f"sqlite:///{tmp_path / 'older.sqlite'}")
    migrate(old, "0002")
    with old.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO yardsticks VALUES (1, 'Laser', 'laser-engrave', 80, 'slate', 100, 60, .15, .15, .33, 0, 0)"
            )
        )
        connection.execute(text("INSERT INTO collections VALUES (1, 'Open day', 1, '2026-01-01 00:00:00')"))
        connection.execute(text("INSERT INTO motifs VALUES (1, 1, 'snail', 1, '2026-01-01 00:00:00')"))
        connection.execute(
            text(
                "INSERT INTO sketches (id, motif_id, picture_sha, thumb_sha, width_px, height_px, source, generator, "
                "wording, look, file_name, kept, created_at) VALUES (7, 1, :sha, :sha, 10, 12, 'file', '', '', '', "
                "'a.png', 1, '2026-01-01 00:00:00')"
            ),
            {"sha": SHA},
        )
    migrate(old)
    with Session(old) as session:
        found = sketches.sketch(session, 7)
        assert (found.raw_sha, found.picture_sha, found.clean_steps) == (SHA, SHA, ())
        assert found.kept and (found.width_px, found.height_px) == (10, 12)
    old.dispose()


def test_a_collection_without_a_yardstick_gets_the_first_there_is_or_a_usual_one(database: Database):
    with database.write() as session:
        one = collections.add_collection(session, "Wet weather", None)
        other = collections.add_collection(session, "Dry weather", None)
    with database.read() as session:
        sticks = {collections.collection(session, made).yardstick_id for made in (one, other)}
        (stick,) = collections.yardsticks(session)
        assert sticks == {stick.id} and stick.yardstick.width_mm == 80 < stick.yardstick.blank_width_mm < 200
    with database.write() as session, pytest.raises(NotFoundError):
        collections.add_collection(session, "No weather", stick.id + 1)
