"""The data folder from the command line: backed up, restored, checked, swept, handed out and taken in."""

import pytest

from zeichen.core.proofing import Process, Yardstick
from zeichen.store import collections
from zeichen.store.database import Database


@pytest.fixture
def folder(tmp_path, monkeypatch):
    place = tmp_path / "data"
    monkeypatch.setenv("ZEICHEN_DATA", str(place))
    database = Database(place)
    with database.write() as session:
        stick = collections.add_yardstick(session, "S", Yardstick.usual(Process.CARVE, width_mm=80))
        made = collections.add_collection(session, "Open day", stick)
        collections.add_motif(session, made, "Schnecke")
    database.files.put(b"loose")
    database.close()
    return place


def test_backup_restore_and_check(run, folder, tmp_path):
    code, out, _ = run("backup", tmp_path / "b.zip")
    assert code == 0 and out.startswith(f"{tmp_path}/b.zip: 1 files and the database, 0.")
    assert run("restore", tmp_path / "b.zip", "--into", tmp_path / "again")[0] == 0
    assert run("restore", tmp_path / "b.zip")[0] == 2
    assert run("check-data") == (0, "1 files, 0.0 MB: no problems\n", "")
    next((folder / "files").glob("??/*")).write_bytes(b"changed")
    code, out, _ = run("check-data")
    assert code == 3 and "is damaged" in out and "Nothing uses it" in out


def test_tidy_says_first_and_removes_only_when_told(run, folder):
    code, out, _ = run("tidy")
    assert code == 0 and "Nothing points to 1 files" in out and "zeichen tidy --remove" in out
    assert run("tidy", "--remove") == (0, "Removed 1 files, 0.0 MB.\n", "")
    assert run("tidy")[1].startswith("Nothing points to 0 files")


def test_a_collection_goes_out_and_comes_in(run, folder, tmp_path, monkeypatch):
    assert run("hand-out", "Open day", "--out", tmp_path / "set.zip")[0] == 0
    code, _, err = run("hand-out", "Closed day", "--out", tmp_path / "no.zip")
    assert code == 2 and "There are: Open day" in err and not (tmp_path / "no.zip").exists()
    monkeypatch.setenv("ZEICHEN_DATA", str(tmp_path / "friend"))
    assert run("take-in", tmp_path / "set.zip") == (0, "Open day: 1 motifs\n", "")
    assert run("take-in", tmp_path / "nothing.zip")[0] == 2


def test_a_folder_without_data_is_said(run, tmp_path, monkeypatch):
    monkeypatch.setenv("ZEICHEN_DATA", str(tmp_path / "empty"))
    for words in (
        ("backup", tmp_path / "b.zip"),
        ("check-data",),
        ("tidy",),
        ("hand-out", "1", "--out", "x"),
    ):
        code, _, err = run(*words)
        assert code == 2 and "There is no data in" in err and err.count("\n") == 1


@pytest.mark.parametrize(("name", "value"), [("PORT", "doorbell"), ("WORKERS", "0"), ("LIVE_MEMORY_MB", "9")])
def test_settings_that_cannot_be_are_one_line(run, monkeypatch, name, value):
    monkeypatch.setenv(f"ZEICHEN_{name}", value)
    for words in (("serve",), ("check-data",)):
        code, _, err = run(*words)
        assert code == 2 and f"ZEICHEN_{name} cannot be “{value}”" in err and err.count("\n") == 1


@pytest.mark.parametrize("spoil", ["newer", "damaged", "no database"])
def test_a_database_that_cannot_be_used_is_one_line(run, folder, spoil):
    path = folder / "zeichen.sqlite"
    if spoil == "newer":
        import sqlite3

        with sqlite3.connect(path) as edit:
            edit.execute("UPDATE alembic_version SET version_num = '9999'")
    else:
        path.write_bytes(b"SQLite format 3\0" + b"rubbish" * 900 if spoil == "damaged" else b"Dear diary")
    for words in (("check-data",), ("tidy",), ("serve",)):
        code, _, err = run(*words)
        assert code == 2 and err.startswith("zeichen: ") and err.count("\n") == 1, err
        assert ("newer version" in err) == (spoil == "newer")
