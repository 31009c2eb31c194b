"""Nothing lost, nothing hidden, on the screen: pictures not ready yet, jobs not done, drawings that cannot be shown,
names, and a collection handed to a friend."""

import io
import shutil
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from samples import svg_file
from server import Server, serving
from zeichen.store import drawings, jobs, uploads
from zeichen.store.database import Database

expect.set_options(timeout=30_000)


def picture() -> bytes:
    canvas = np.full((300, 300, 3), 255, np.uint8)
    canvas[60:240, 90:210] = 20
    out = io.BytesIO()
    Image.fromarray(canvas).save(out, "PNG")
    return out.getvalue()


@pytest.fixture(scope="module")
def bad_day(tmp_path_factory) -> Path:
    """The data folder of an app that had a bad day."""
    folder = tmp_path_factory.mktemp("bad-day")
    with serving(folder) as server:
        made = server.client.post("/collections", json={"name": "Allotment Open Day"}).json()["id"]
        for name in ("snail", "beetroot"):
            server.client.post(f"/collections/{made}/motifs", json={"name": name})
        square = svg_file('<path d="M10 10H90V90H10Z"/>')
        server.client.post("/motifs/2/import-drawing?name=square.svg", content=square).raise_for_status()
    database = Database(folder)
    with database.write() as session:
        data = picture()
        sha = database.files.put(data)
        kept = uploads.add_upload(session, 1, file_name="Käfer.png", sha=sha, size_bytes=len(data))
        params = {"motif_id": 1, "upload_id": kept, "original_sha": sha, "file_name": "Käfer.png"}
        job = jobs.add_job(session, "import", "Bring in Käfer.png for snail", params)
        jobs.change_job(session, job, state="running")
        head = drawings.motif_drawing(session, 2)
        broken = database.files.put(svg_file('<path id="a" fill="#24272b" d="M0 0L1e20 0L5 5Z"/>'))
        drawings.add_revision(
            session, head.id, base_revision_id=head.revision_id, svg_sha=broken, note="set “Open”"
        )
    database.close()
    return folder


@pytest.fixture
def left_behind(bad_day: Path, tmp_path: Path, browser):
    """An app that comes back after a bad day: an upload and a trace interrupted, a drawing that cannot be shown."""
    shutil.copytree(bad_day, tmp_path / "data")
    with serving(tmp_path / "data") as server:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        opened = context.new_page()
        opened.set_default_timeout(30_000)
        yield server, opened
        context.close()


def test_what_a_bad_day_left_is_in_reach_and_made_good(left_behind: tuple[Server, Page]):
    server, page = left_behind
    page.goto(f"{server.url}#/collection/1/motif/1/sketch")
    expect(page.get_by_text("Brought in, not ready yet")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="download").click()
    assert (
        saved.value.suggested_filename == "Käfer.png" and Path(saved.value.path()).read_bytes() == picture()
    )
    page.get_by_role("button", name="Activity").click()
    expect(page.get_by_text("1 job not done")).to_be_visible()
    page.get_by_role("button", name="run it again").click()
    expect(page.get_by_text("1 job not done")).to_be_hidden()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Brought in, not ready yet")).to_be_hidden()
    expect(page.get_by_role("navigation", name="Motifs").locator("img")).to_have_count(1)
    assert len(server.client.get("/motifs/1/sketches").json()) == 1
    assert server.client.get("/jobs/undone").json() == []


def test_a_drawing_that_cannot_be_shown_says_so_with_undo_beside_it(left_behind: tuple[Server, Page]):
    server, page = left_behind
    page.goto(f"{server.url}#/collection/1/motif/2/proof")
    expect(page.get_by_role("heading", name="Beetroot cannot be shown as it is now")).to_be_visible()
    expect(page.get_by_role("alert")).to_contain_text("no drawing is as large as that")
    expect(
        page.get_by_role("navigation", name="Motifs").get_by_role("button", name="Beetroot")
    ).to_have_attribute("aria-label", "Beetroot: cannot be shown")
    page.keyboard.press("5")
    expect(page.get_by_role("button", name="Go back from it in Proof")).to_be_visible()
    page.keyboard.press("4")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("cannot be shown")).to_have_count(0)
    expect(page.get_by_role("status").filter(has_text="cut-ready")).to_be_visible()


def test_names_are_changed_where_they_are_shown(left_behind: tuple[Server, Page]):
    server, page = left_behind
    page.goto(f"{server.url}#/collection/1/motif/1/sketch")
    rail = page.get_by_role("navigation", name="Motifs")
    rail.get_by_role("button", name="Snail").dblclick()
    page.get_by_role("textbox", name="Name").fill("beetroot")
    page.get_by_role("button", name="Rename", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("has a motif “Beetroot” already")
    page.get_by_role("textbox", name="Name").fill("Weinbergschnecke")
    page.keyboard.press("Enter")
    expect(rail.get_by_text("Weinbergschnecke")).to_be_visible()
    page.keyboard.press("F2")
    page.get_by_role("textbox", name="Name").fill("Снегирь")
    page.keyboard.press("Enter")
    expect(rail.get_by_text("Снегирь")).to_be_visible()
    page.get_by_role("button", name="Collection: Allotment Open Day").click()
    page.get_by_role("menuitem", name="Rename this one").click()
    page.get_by_role("textbox", name="Name").fill("Tag der offenen Tür")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Collection: Tag der offenen Tür")).to_be_visible()


def test_a_collection_goes_out_as_a_file_and_comes_in_again(left_behind: tuple[Server, Page], tmp_path: Path):
    server, page = left_behind
    page.goto(f"{server.url}#/collection/1/motif/2/proof")
    page.get_by_role("button", name="Collection: Allotment Open Day").click()
    with page.expect_download() as saved:
        page.get_by_role("menuitem", name="Hand this one out").click()
    assert saved.value.suggested_filename == "allotment-open-day.zeichen.zip"
    saved.value.save_as(tmp_path / "set.zip")
    page.get_by_label("Collection file").set_input_files(tmp_path / "set.zip")
    expect(page.get_by_role("button", name="Collection: Allotment Open Day (2)")).to_be_visible()
    expect(page.get_by_role("navigation", name="Motifs").get_by_role("button")).to_have_count(2)
    (tmp_path / "bad.zip").write_bytes(b"no zip")
    page.get_by_label("Collection file").set_input_files(tmp_path / "bad.zip")
    expect(page.get_by_text("This is no collection of Zeichen")).to_be_visible()
    with sqlite3.connect(tmp_path / "data" / "zeichen.sqlite") as read:
        assert read.execute("SELECT count(*) FROM collections").fetchone()[0] == 2
