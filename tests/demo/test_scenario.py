"""The shipped scenario: seeded once, complete, and what it shows is real."""

import asyncio

import pytest

from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.proofing import proof
from zeichen.demo import seed_if_new
from zeichen.demo.scenario import COLLECTION, SUBJECTS, YARDSTICKS
from zeichen.jobs.settings import Settings
from zeichen.store import briefs, collections, drawings, jobs, products
from zeichen.store.database import Database


@pytest.fixture(scope="module")
def seeded(tmp_path_factory):
    settings = Settings(data=tmp_path_factory.mktemp("demo"))
    assert asyncio.run(seed_if_new(settings, most_sketches=2)) is True
    assert asyncio.run(seed_if_new(settings)) is False
    database = Database(settings.data)
    yield database
    database.close()


def test_the_collection_has_all_its_motifs_and_yardsticks(seeded):
    with seeded.read() as session:
        (collection,) = collections.collections(session)
        motifs = collections.motifs(session, collection.id)
        assert collection.name == COLLECTION and [motif.name for motif in motifs] == list(SUBJECTS)
        assert {each.name: each.yardstick for each in collections.yardsticks(session)} == YARDSTICKS
        assert briefs.latest_brief(session, collection.id) is not None
        assert all(motif.sketch_count >= 2 and motif.kept_count == 1 for motif in motifs)
        assert jobs.recent_jobs(session) == []


def test_some_drawings_are_ready_and_one_has_something_to_mend(seeded):
    slate = YARDSTICKS["Laser on slate marker"]
    counts = {}
    with seeded.read() as session:
        for motif in collections.motifs(session, 1):
            if motif.drawing_id is not None:
                head = drawings.drawing_head(session, motif.drawing_id)
                counts[motif.name] = len(proof(read_svg(seeded.files.get(head.svg_sha)), slate).findings)
    assert counts["Teapot"] == counts["Watering can"] == 0
    assert counts["Hedgehog"] > 0 and counts["Snail"] > 0


def test_every_process_has_a_ticket_whose_files_are_there_and_a_pack(seeded):
    with seeded.read() as session:
        tickets = [t for motif in collections.motifs(session, 1) for t in products.tickets(session, motif.id)]
        (pack,) = products.packs(session, 1)
    assert {ticket.process for ticket in tickets} == {"laser", "carve", "relief", "apparel"}
    for ticket in tickets:
        assert all(len(seeded.files.get(made.sha)) == made.size_bytes for made in ticket.files)
    assert len(pack.contents) == 25 and pack.listing["origin"] == "machine"
    assert pack.listing["generator"] == "stand-in studio"
