"""A data folder backed up while it is written to, restored, checked, swept; a collection handed to a friend."""

import json
import shutil
import sqlite3
import threading
import zipfile
from pathlib import Path

import pytest

from samples import drawing, rectangle
from zeichen.core.errors import DamagedError, FormatError, NotFoundError, OutsideError
from zeichen.core.formats.svg import write_svg
from zeichen.core.proofing import Process, Yardstick
from zeichen.store import collections, drawings, jobs, products, sketches, uploads
from zeichen.store.backup import back_up, restore
from zeichen.store.database import Database
from zeichen.store.exchange import read_collection, write_collection
from zeichen.store.upkeep import check_data, remove_unused, unused_files

STICK = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)


def filled(database: Database, name: str = "Open day") -> int:
    """A collection with one of everything; its id."""
    files = database.files
    with database.write() as session:
        stick = collections.add_yardstick(session, "Slate", STICK)
        made = collections.add_collection(session, name, stick)
        motif = collections.add_motif(session, made, "Schnecke")
        picture = {"thumb_sha": files.put(b"thumb"), "width_px": 9, "height_px": 9, "source": "upload"}
        first = sketches.add_sketch(session, motif, picture_sha=files.put(b"picture"), **picture)
        second = sketches.add_sketch(
            session,
            motif,
            picture_sha=files.put(b"near"),
            parent_id=first,
            original_sha=files.put(b"raw"),
            **picture,
        )
        kept = uploads.add_upload(session, motif, file_name="ä.png", sha=files.put(b"raw"), size_bytes=3)
        uploads.became(session, kept, second)
        tracing = sketches.add_tracing(
            session, second, {"method": "solid"}, {"picture_sha": files.put(b"traced")}
        )
        states = [write_svg(drawing(*(rectangle(k, j, 5, 5) for j in range(40)))).encode() for k in range(3)]
        base = files.put_state(states[0])
        own = drawings.add_drawing(session, motif, svg_sha=base, tracing_id=tracing, note="traced")
        for state in states[1:]:
            head = drawings.drawing_head(session, own)
            drawings.add_revision(
                session,
                own,
                base_revision_id=head.revision_id,
                svg_sha=files.put_state(state, like=base),
                note="moved",
            )
        drawings.undo(session, own)
        drawings.add_variant(session, own, "red", files.put_state(states[0].replace(b"#24272b", b"#ff0000")))
        head = drawings.drawing_head(session, own)
        products.add_ticket(
            session, motif, revision_id=head.revision_id, process="laser", width_mm=80, settings={}, readings=[],
            files=[{"name": "a.svg", "media_type": "image/svg+xml", "sha": files.put(b"cut"), "size_bytes": 3}],
            rehearsal={"preview_sha": files.put(b"burned")},
        )  # fmt: skip
        products.add_pack(
            session, made, title="Pack", listing={}, motif_ids=[motif], zip_sha=files.put(b"zip"), size_bytes=3,
            contents=[],
        )  # fmt: skip
        jobs.add_job(session, "import", "Bring in", {"original_sha": files.put(b"on its way")})
    return made


def everything(database: Database, collection_id: int) -> dict:
    """All that a collection shows, without ids."""
    with database.read() as session:
        (motif,) = collections.motifs(session, collection_id)
        head = drawings.motif_drawing(session, motif.id)
        drawn = sketches.sketches(session, motif.id)
        (ticket,) = products.tickets(session, motif.id)
        (pack,) = products.packs(session, collection_id)
        chosen = collections.collection(session, collection_id)
        return {
            "yardstick": collections.yardstick(session, chosen.yardstick_id).yardstick,
            "motif": (motif.name, motif.sketch_count, motif.revision_count, motif.pack_count),
            "sketches": [(each.picture_sha, each.original_sha, each.created_at) for each in drawn],
            "parents": [
                drawn.index(next(s for s in drawn if s.id == e.parent_id)) for e in drawn if e.parent_id
            ],
            "drawing": database.files.get(head.svg_sha),
            "undo": (head.note, head.can_undo, head.can_redo, head.report),
            "of": [each.id == head.sketch_id for each in drawn],
            "variants": [(each.name, each.svg_sha) for each in drawings.variants(session, head.id)],
            "ticket": (ticket.files, ticket.revision_id == head.revision_id),
            "pack": (pack.title, pack.zip_sha, list(pack.motif_ids) == [motif.id]),
        }


def test_a_backup_comes_back_whole(database, tmp_path):
    made = filled(database)
    target = tmp_path / "deep" / "all.zip"
    assert back_up(database.folder, target).file_count == sum(1 for _ in database.files.all())
    health = restore(target, tmp_path / "new")
    assert health.problems == () and health.file_count > 8
    again = Database(tmp_path / "new")
    assert everything(again, made) == everything(database, made)
    again.close()
    with pytest.raises(OutsideError, match="nothing is overwritten"):
        back_up(database.folder, target)
    with pytest.raises(OutsideError, match="is not empty"):
        restore(target, tmp_path / "new")
    with pytest.raises(OutsideError, match="There is no data"):
        back_up(tmp_path / "nowhere", tmp_path / "b.zip")
    with pytest.raises(OutsideError, match="There is no file"):
        restore(tmp_path / "nothing.zip", tmp_path / "other")


def test_a_backup_taken_while_others_write_is_consistent(database, tmp_path):
    filled(database)
    stopped = threading.Event()

    def write() -> None:
        number = 0
        while not stopped.is_set():
            number += 1
            filled(database, f"Set {number}")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for k in range(5):
            back_up(database.folder, tmp_path / f"{k}.zip")
    finally:
        stopped.set()
        writer.join()
    counts = []
    for k in range(5):
        assert restore(tmp_path / f"{k}.zip", tmp_path / f"r{k}").problems == ()
        with sqlite3.connect(tmp_path / f"r{k}" / "zeichen.sqlite") as read:
            counts.append(read.execute("SELECT count(*) FROM collections").fetchone()[0])
    assert counts == sorted(counts) and counts[-1] > 1


def hostile_zips(tmp_path: Path, whole: Path) -> list[tuple[Path, str]]:
    made = []
    for name, words in (("../out", "holds what no backup"), ("files/zz/x", "holds what no backup")):
        path = tmp_path / f"h{len(made)}.zip"
        shutil.copy(whole, path)
        with zipfile.ZipFile(path, "a") as bundle:
            bundle.writestr(name, b"x")
        made.append((path, words))
    cut = tmp_path / "cut.zip"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    other = tmp_path / "other.zip"
    with zipfile.ZipFile(other, "w") as bundle:
        bundle.writestr("readme.txt", b"hello")
    text = tmp_path / "text.zip"
    text.write_bytes(b"not a zip")
    broken = tmp_path / "broken.zip"
    with zipfile.ZipFile(broken, "w") as bundle:
        bundle.writestr("backup.json", json.dumps({"kind": "zeichen-backup"}))
        bundle.writestr("zeichen.sqlite", b"SQLite format 3\0" + b"rubbish" * 999)
    return [*made, (cut, "damaged"), (other, "no data folder"), (text, "damaged"), (broken, "cannot be used")]


def test_a_bad_backup_is_refused_and_leaves_nothing(database, tmp_path):
    filled(database)
    back_up(database.folder, tmp_path / "whole.zip")
    for path, words in hostile_zips(tmp_path, tmp_path / "whole.zip"):
        with pytest.raises(FormatError, match=words):
            restore(path, tmp_path / "target")
        assert not (tmp_path / "target").exists() and not (tmp_path / "out").exists()


def test_only_what_nothing_points_to_is_swept(database):
    made = filled(database)
    loose = {database.files.put(b"loose"), database.files.put_state(b"<svg>loose</svg>")}
    assert set(unused_files(database).digests) == loose
    before = everything(database, made)
    assert remove_unused(database).size_bytes > 0 and unused_files(database).digests == ()
    assert everything(database, made) == before and check_data(database).problems == ()
    with database.write() as session:
        jobs.change_job(session, 1, state="done")
        jobs.forget_finished(session)
    (gone,) = unused_files(database).digests
    assert database.files.get(gone) == b"on its way"


def test_what_is_missing_or_damaged_is_found_and_said(database):
    made = filled(database)
    head = everything(database, made)
    picture, thumb = (database.files.path(head["sketches"][k][0]) for k in (0, 1))
    picture.unlink()
    thumb.write_bytes(b"something else")
    with database.read() as session:
        (motif,) = collections.motifs(session, made)
        svg = database.files.path(drawings.motif_drawing(session, motif.id).svg_sha)
    state = svg.with_name(svg.name + ".z")
    state.write_bytes(state.read_bytes()[:40] + b"\0\0\0")
    with pytest.raises(NotFoundError, match="is missing from the data folder"):
        database.files.get(head["sketches"][0][0])
    for digest in (head["sketches"][1][0], svg.parent.name + svg.name):
        with pytest.raises(DamagedError, match="is damaged"):
            database.files.get(digest)
    problems = check_data(database).problems
    assert len(problems) == 3 and sum("used by sketches" in line for line in problems) == 2
    assert any("used by revisions" in line for line in problems)


def test_a_collection_handed_to_a_friend_is_the_same_there(database, tmp_path):
    made = filled(database)
    write_collection(database, made, tmp_path / "set.zip")
    friend = Database(tmp_path / "friend")
    try:
        filled(friend, "Other things")
        for name in ("Open day", "Open day (2)"):
            taken = read_collection(friend, tmp_path / "set.zip")
            assert everything(friend, taken) == everything(database, made)
            with friend.read() as session:
                assert collections.collection(session, taken).name == name
        assert check_data(friend).problems == ()
    finally:
        friend.close()
    with pytest.raises(NotFoundError):
        write_collection(database, 999, tmp_path / "none.zip")


def rewritten(source: Path, target: Path, change) -> Path:
    """A handed-out collection with its content changed."""
    with zipfile.ZipFile(source) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "collection.json":
                content = json.loads(data)
                change(content)
                data = json.dumps(content).encode()
            new.writestr(name, data)
    return target


def spoilt(content: dict) -> dict:
    def put(table: str, column: str, value: object):
        return lambda c: c["tables"][table][0].update({column: value})

    return {
        "another kind": lambda c: c.update(kind="zip"),
        "newer": lambda c: c.update(edition=99),
        "no tables": lambda c: c.update(tables={}),
        "two collections": lambda c: c["tables"]["collections"].append(c["tables"]["collections"][0]),
        "unknown column": put("motifs", "shell", 1),
        "wrong kind": put("motifs", "name", 7),
        "wrong number": put("yardsticks", "width_mm", "wide"),
        "impossible": put("yardsticks", "width_mm", -4),
        "impossible process": put("yardsticks", "process", "welding"),
        "points to nothing": put("sketches", "motif_id", 999),
        "no such day": put("motifs", "created_at", "yesterday"),
        "missing file": put("sketches", "picture_sha", "0" * 64),
        "no id": lambda c: c["tables"]["motifs"][0].pop("id"),
        "no name": put("collections", "name", None),
        "no head": put("drawings", "head_id", None),
        "rows are words": lambda c: c["tables"].update(motifs=["a"]),
    }


@pytest.mark.parametrize("what", list(spoilt({})))
def test_a_spoilt_collection_is_refused_and_nothing_is_kept(database, tmp_path, what):
    made = filled(database)
    write_collection(database, made, tmp_path / "set.zip")
    bad = rewritten(tmp_path / "set.zip", tmp_path / "bad.zip", spoilt({})[what])
    with pytest.raises((FormatError, NotFoundError, ValueError)):
        read_collection(database, bad)
    with database.read() as session:
        assert len(collections.collections(session)) == 1 and len(collections.yardsticks(session)) == 1


def test_a_damaged_collection_file_is_refused(database, tmp_path):
    made = filled(database)
    write_collection(database, made, tmp_path / "set.zip")
    whole = (tmp_path / "set.zip").read_bytes()
    for data in (b"", b"no zip", whole[: len(whole) // 2], whole[:200] + b"\xff" * 9 + whole[209:]):
        (tmp_path / "bad.zip").write_bytes(data)
        with pytest.raises(FormatError):
            read_collection(database, tmp_path / "bad.zip")
