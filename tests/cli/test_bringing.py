"""Pictures into a collection from the command line."""

import numpy as np
import pytest

from samples import rose_picture
from zeichen.core.formats.picture import write_png
from zeichen.store import collections, sketches
from zeichen.store.database import Database


@pytest.fixture
def folder(tmp_path, monkeypatch):
    place = tmp_path / "data"
    monkeypatch.setenv("ZEICHEN_DATA", str(place))
    (tmp_path / "tea_pot.png").write_bytes(rose_picture(200))
    (tmp_path / "Snail (2).png").write_bytes(write_png(np.full((40, 40, 3), 90, np.uint8)))
    (tmp_path / "notes.png").write_bytes(b"not a picture")
    return place


def kept(folder) -> dict[str, dict[str, int]]:
    """How many kept sketches each motif of each collection has."""
    database = Database(folder)
    try:
        with database.read() as session:
            return {
                each.name: {
                    motif.name: sum(sketch.kept for sketch in sketches.sketches(session, motif.id))
                    for motif in collections.motifs(session, each.id)
                }
                for each in collections.collections(session)
            }
    finally:
        database.close()


def test_each_picture_becomes_a_motif_named_after_it(run, folder, tmp_path):
    pictures = tmp_path / "tea_pot.png", tmp_path / "Snail (2).png"
    assert run("bring", *pictures, "--collection", "Open day")[:2] == (
        0,
        "Open day: 2 pictures brought in for 2 motifs\n",
    )
    assert kept(folder) == {"Open day": {"Tea pot": 1, "Snail": 1}}
    code, out, _ = run("bring", *pictures, "--collection", "open day")
    assert code == 0 and "0 pictures" in out and "2 there already" in out
    assert kept(folder) == {"Open day": {"Tea pot": 1, "Snail": 1}}


def test_all_may_become_sketches_of_one_motif(run, folder, tmp_path):
    pictures = tmp_path / "tea_pot.png", tmp_path / "Snail (2).png"
    assert run("bring", *pictures, "--collection", "Open day", "--motif", "gate")[0] == 0
    assert kept(folder) == {"Open day": {"Gate": 2}}


def test_what_is_no_picture_is_named_and_the_others_are_brought_in(run, folder, tmp_path):
    pictures = tmp_path / "notes.png", tmp_path / "tea_pot.png", tmp_path / "gone.png"
    code, _, err = run("bring", *pictures, "--collection", "Open day")
    assert code == 2 and "notes.png" in err and "gone.png" in err and "tea_pot" not in err
    assert kept(folder) == {"Open day": {"Tea pot": 1}}
