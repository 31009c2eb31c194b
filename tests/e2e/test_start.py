"""A new data folder without the demo: the app greets with three ways in, and each leads to work."""

import re
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, expect

from samples import circle, drawing, rose_picture
from server import serving
from zeichen.core.formats.svg import write_svg

LONG = 90_000


@contextmanager
def empty_app(browser: Browser, folder):
    with serving(folder) as running:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        try:
            page.goto(running.url)
            yield page, running
        finally:
            page.close()


def test_the_first_collection_is_started_from_an_empty_app(browser: Browser, tmp_path):
    with empty_app(browser, tmp_path) as (page, running):
        page.get_by_role("button", name="Write subjects").click()
        page.get_by_label("Name").fill("Wet weather")
        page.get_by_role("button", name="Start it").click()
        page.get_by_label("Subjects").fill("Umbrella")
        page.get_by_label("Subjects").blur()
        expect(page.get_by_role("button", name="Collection: Wet weather")).to_be_visible()
        expect(page.get_by_text("Laser engraving").first).to_be_visible()
        (made,) = running.client.get("/collections").json()
        assert made["name"] == "Wet weather"


@pytest.mark.parametrize("way", ["pictures", "a drawing"])
def test_files_are_a_way_in_and_name_their_motifs(browser: Browser, tmp_path, way):
    with empty_app(browser, tmp_path) as (page, _):
        files = (
            [{"name": f"garden_rose-{k}.png", "mimeType": "image/png", "buffer": rose_picture(160)} for k in (1, 2)]
            if way == "pictures"
            else [{"name": "tea_sign.svg", "mimeType": "image/svg+xml",
                   "buffer": write_svg(drawing(circle(100, 100, 80))).encode()}]
        )  # fmt: skip
        page.get_by_label(f"I have {way}: choose files").set_input_files(files)
        if way == "pictures":
            region = page.get_by_role("region", name="Sketches of Garden rose 1")
            expect(region.get_by_role("button", name=re.compile("^Sketch"))).to_have_count(1, timeout=LONG)
            expect(page.get_by_role("region", name="Sketches of Garden rose 2")).to_be_visible(timeout=LONG)
        else:
            expect(page.get_by_role("button", name="Tea sign")).to_be_visible(timeout=LONG)
            expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=LONG)
