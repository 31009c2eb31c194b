"""A drawing's states and colour variants: nothing is ever overwritten, and each can be brought back."""

import pytest

from zeichen.core.errors import ConflictError, NotFoundError
from zeichen.core.proofing import Process, Yardstick
from zeichen.store import collections, drawings
from zeichen.store.database import Database


@pytest.fixture
def database(tmp_path):
    opened = Database(tmp_path)
    yield opened
    opened.close()


@pytest.fixture
def drawing_id(database) -> int:
    with database.write() as session:
        stick = collections.add_yardstick(
            session, "Laser", Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
        )
        made = collections.add_collection(session, "Open day", stick)
        motif = collections.add_motif(session, made, "Snail")
        return drawings.keep_foreign(session, motif, svg_sha="a" * 64, note="brought in a.svg", brought_in={})


def step(database, drawing_id: int, letter: str, note: str) -> int:
    with database.write() as session:
        head = drawings.drawing_head(session, drawing_id)
        drawings.add_revision(
            session, drawing_id, base_revision_id=head.revision_id, svg_sha=letter * 64, note=note
        )
        return drawings.drawing_head(session, drawing_id).revision_id


def test_states_are_listed_newest_first_and_survive_a_reopened_database(database, drawing_id, tmp_path):
    second = step(database, drawing_id, "b", "recoloured")
    with database.write() as session:
        drawings.name_revision(session, second, "red")
        drawings.undo(session, drawing_id)
    database.close()
    again = Database(tmp_path)
    with again.read() as session:
        listed = drawings.revisions(session, drawing_id)
        head = drawings.drawing_head(session, drawing_id)
    assert [(each.note, each.name, each.head) for each in listed] == [
        ("recoloured", "red", False),
        ("brought in a.svg", "", True),
    ]
    assert head.can_redo and not head.can_undo
    with again.write() as session:
        drawings.redo(session, drawing_id)
        assert drawings.drawing_head(session, drawing_id).svg_sha == "b" * 64
    again.close()


def test_bringing_back_is_a_new_state_and_can_itself_be_undone(database, drawing_id):
    with database.read() as session:
        first = drawings.drawing_head(session, drawing_id).revision_id
    second = step(database, drawing_id, "b", "recoloured")
    with database.write() as session:
        drawings.bring_back(session, drawing_id, first)
        head = drawings.drawing_head(session, drawing_id)
        assert (head.svg_sha, head.note) == ("a" * 64, f"brought back rev. {first}")
        drawings.undo(session, drawing_id)
        assert drawings.drawing_head(session, drawing_id).revision_id == second
        assert len(drawings.revisions(session, drawing_id)) == 3


def test_a_change_on_an_old_state_is_refused(database, drawing_id):
    with database.read() as session:
        first = drawings.drawing_head(session, drawing_id).revision_id
    step(database, drawing_id, "b", "recoloured")
    with pytest.raises(ConflictError, match="changed elsewhere"), database.write() as session:
        drawings.add_revision(session, drawing_id, base_revision_id=first, svg_sha="c" * 64, note="late")


def test_another_drawings_state_is_not_brought_back(database, drawing_id):
    with database.write() as session:
        motif = collections.add_motif(session, 1, "Beetroot")
        other = drawings.keep_foreign(
            session, motif, svg_sha="d" * 64, note="brought in d.svg", brought_in={}
        )
        foreign = drawings.drawing_head(session, other).revision_id
        with pytest.raises(NotFoundError, match="no such revision"):
            drawings.bring_back(session, drawing_id, foreign)


def test_a_drawing_from_elsewhere_is_a_revision_of_the_one_that_was_there(database, drawing_id):
    with database.write() as session:
        motif_id = drawings.drawing_head(session, drawing_id).motif_id
        same = drawings.keep_foreign(
            session, motif_id, svg_sha="e" * 64, note="brought in e.dxf", brought_in={}
        )
        assert same == drawing_id and len(drawings.revisions(session, drawing_id)) == 2
        drawings.undo(session, drawing_id)
        assert drawings.drawing_head(session, drawing_id).svg_sha == "a" * 64


def test_variants_are_kept_replaced_by_name_and_forgotten(database, drawing_id):
    with database.write() as session:
        first = drawings.add_variant(session, drawing_id, "moss", "1" * 64)
        drawings.add_variant(session, drawing_id, "plum", "2" * 64)
        again = drawings.add_variant(session, drawing_id, "moss", "3" * 64)
        assert again.id == first.id
        kept = [(each.name, each.svg_sha[0]) for each in drawings.variants(session, drawing_id)]
        assert kept == [("moss", "3"), ("plum", "2")]
        assert drawings.variant(session, first.id).svg_sha == "3" * 64
        drawings.drop_variant(session, first.id)
        assert [each.name for each in drawings.variants(session, drawing_id)] == ["plum"]
        with pytest.raises(NotFoundError):
            drawings.variant(session, first.id)


def test_a_yardstick_keeps_its_tool_and_its_colours(database):
    from zeichen.core.proofing import Limits

    stick = Yardstick(Process.CARVE, 200, "oak", 300, 300, Limits(0.4, 0.4, 0.6, corner_mm=1.5, colours=3))
    with database.write() as session:
        made = collections.add_yardstick(session, "End mill", stick)
    with database.read() as session:
        assert collections.yardstick(session, made).yardstick == stick
