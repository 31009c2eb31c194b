"""Briefs that were run stay, drafts do not; named steps, the workshop, and data folders from before all that."""

import pytest
from sqlalchemy import create_engine, text
from sqlalchemy.orm import Session

from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.proofing import Process, Yardstick
from zeichen.store import briefs, chains, collections, sketches, workshop
from zeichen.store.database import migrate
from zeichen.store.records import Brief

SHA = "a" * 64


@pytest.fixture
def collection_id(database) -> int:
    with database.write() as session:
        stick = collections.add_yardstick(
            session, "Laser", Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
        )
        return collections.add_collection(session, "Open day", stick)


def save(database, collection_id: int, brief: Brief) -> None:
    with database.write() as session:
        briefs.save_brief(session, collection_id, brief, brief.subjects.split())


def test_only_briefs_that_were_run_are_kept(database, collection_id):
    rich = Brief("Snail", "flat", ("margin",), {"colours": 3}, {"snail": "A snail."})
    save(database, collection_id, Brief("Sn", "line", ()))
    save(database, collection_id, rich)
    with database.write() as session:
        assert briefs.run_briefs(session, collection_id) == []
        briefs.mark_run(session, collection_id)
    save(database, collection_id, Brief("Snail Owl", "line", ()))
    with database.read() as session:
        (kept,) = briefs.run_briefs(session, collection_id)
        assert kept.brief == rich and kept.run_at is not None
        assert briefs.latest_brief(session, collection_id).subjects == "Snail Owl"


def test_nothing_can_be_run_without_a_brief_or_after_a_sketch_that_is_not_there(database, collection_id):
    with pytest.raises(InvalidInputError, match="no brief yet"), database.write() as session:
        briefs.mark_run(session, collection_id)
    with pytest.raises(NotFoundError):
        save(database, collection_id, Brief("Snail", "line", (), reference_id=77))


def test_steps_with_a_name_replace_those_that_had_it(database):
    with database.write() as session:
        first = chains.put_chain(session, "Pencil", [{"kind": "invert", "on": True}])
        again = chains.put_chain(session, " pencil ", [{"kind": "flip", "on": True}])
        assert first.id == again.id and [c.steps for c in chains.chains(session)] == [again.steps]
        chains.delete_chain(session, first.id)
        assert chains.chains(session) == []
        with pytest.raises(NotFoundError):
            chains.delete_chain(session, first.id)


def test_what_is_set_up_stays_set_up(database):
    with database.write() as session:
        assert workshop.workshop_value(session, "generator") == {}
        workshop.put_workshop_value(session, "generator", {"kind": "http"})
        workshop.put_workshop_value(session, "generator", {"kind": "studio", "faults": 2.0})
    with database.read() as session:
        assert workshop.workshop_value(session, "generator") == {"kind": "studio", "faults": 2.0}


def test_sketches_from_before_know_who_made_them(tmp_path):
    old = create_engine(f"sqlite:///{tmp_path / 'older.sqlite'}")
    migrate(old, "0003")
    with old.begin() as connection:
        for row in (
            "yardsticks VALUES (1, 'Laser', 'laser-engrave', 80, 'slate', 100, 60, .15, .15, .33, 0, 0)",
            "collections VALUES (1, 'Open day', 1, '2026-01-01 00:00:00')",
            "motifs VALUES (1, 1, 'snail', 1, '2026-01-01 00:00:00')",
            "briefs (id, collection_id, subjects, look, rules, created_at) "
            "VALUES (1, 1, 'snail', 'line', '[\"margin\"]', '2026-01-01 00:00:00')",
            *(
                "sketches (id, motif_id, picture_sha, thumb_sha, width_px, height_px, source, generator, wording, "
                f"look, file_name, kept, created_at) VALUES ({number}, 1, '{SHA}', '{SHA}', 10, 12, '{source}', "
                "'', '', '', '', 1, '2026-01-01 00:00:00')"
                for number, source in ((1, "generator"), (2, "upload"))
            ),
        ):
            connection.execute(text(f"INSERT INTO {row}"))
    migrate(old)
    with Session(old) as session:
        made = [sketches.sketch(session, number) for number in (1, 2)]
        assert [(s.machine_made, s.licence, s.order) for s in made] == [(True, "", {}), (False, "", {})]
        assert briefs.latest_brief(session, 1) == Brief("snail", "line", ("margin",))
        sketches.tell_origin(session, 2, machine_made=True, licence=" bought \n there ")
        assert sketches.sketch(session, 2).licence == "bought there"
    old.dispose()
