"""Ink by hand and by key: three methods, the ladder, the veil, recipes."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from e2e_steps import bring_in, choose_stage, new_collection
from samples import png
from zeichen.core.formats.svg_reading import read_svg


def plum_picture(size: int = 500) -> bytes:
    """A two-coloured plum with a dark stalk: flats, lines and solid all find something in it."""
    canvas = np.full((size * 4, size * 4, 3), 255, np.uint8)
    s = size * 4 // 200
    cv2.circle(canvas, (100 * s, 110 * s), 62 * s, (120, 60, 120), -1)
    cv2.ellipse(canvas, (100 * s, 110 * s), (62 * s, 62 * s), 0, -70, 110, (190, 90, 140), -1)
    cv2.line(canvas, (100 * s, 48 * s), (118 * s, 18 * s), (40, 50, 40), 7 * s)
    return png(cv2.resize(canvas, (size, size), interpolation=cv2.INTER_AREA))


@pytest.fixture
def ink(page: Page, request) -> Page:
    new_collection(page, request.node.name[:80])
    page.get_by_label("Subjects").fill("Plum")
    page.get_by_label("Subjects").blur()
    choose_stage(page, "Sketch")
    bring_in(page, "plum.png", plum_picture())
    sketch = page.get_by_role("region", name="Sketches of Plum").get_by_role(
        "button", name=re.compile("^Sketch")
    )
    expect(sketch).to_have_count(1, timeout=60_000)
    sketch.first.click()
    choose_stage(page, "Ink")
    expect(nodes(page)).to_have_text(re.compile(r"^\d+$"), timeout=60_000)
    return page


def nodes(page: Page):
    return page.get_by_role("row", name=re.compile("^Nodes")).get_by_role("cell").first


def settled(page: Page) -> None:
    expect(page.get_by_text("tracing …")).to_have_count(0, timeout=90_000)


def test_the_method_is_the_pictures_own_until_one_is_picked(ink: Page):
    """A plum of three colours wants flats; what is picked by hand stays, until the picture is asked again."""
    auto = ink.get_by_label("Method", exact=True).get_by_role("radio", name="Auto")
    expect(auto).to_be_checked()
    expect(
        ink.get_by_text(re.compile(r"^Flats: 3 flat colours; solid would lose \d+ % of the figure\.$"))
    ).to_be_visible()
    settled(ink)
    expect(ink.get_by_role("slider", name="Colours")).to_be_visible()
    ink.get_by_role("radio", name="Solid").click()
    expect(ink.get_by_role("slider", name="Dark up to")).to_be_visible()
    expect(ink.get_by_text(re.compile("^Flats: 3"))).to_have_count(0)
    ink.get_by_role("slider", name="Stay within").press("ArrowRight")
    expect(ink.get_by_role("radio", name="Solid")).to_be_checked()
    auto.click()
    expect(ink.get_by_role("slider", name="Colours")).to_be_visible()


def test_flats_are_traced_kept_and_written_with_their_colours(ink: Page):
    ink.get_by_role("radio", name="Flats").click()
    expect(ink.get_by_text(re.compile(r"auto, 3"))).to_be_visible(timeout=60_000)
    settled(ink)
    ink.get_by_role("button", name="Keep this trace").click()
    expect(ink.get_by_role("heading", name="Findings")).to_be_visible(timeout=60_000)
    expect(ink.get_by_text(re.compile("Reading the drawing|No drawing yet"))).to_have_count(0, timeout=60_000)
    motif_id = int(re.search(r"/motif/(\d+)", ink.url)[1])
    path = f"/api/motifs/{motif_id}/drawing.svg"
    drawing = read_svg(ink.evaluate("path => fetch(path).then((reply) => reply.text())", path))
    assert len({shape.fill for shape in drawing.shapes}) == 3


def test_centrelines_are_strokes(ink: Page):
    ink.get_by_role("radio", name="Centreline").click()
    expect(ink.get_by_role("radio", name="Centreline")).to_be_checked()
    settled(ink)
    expect(nodes(ink)).to_have_text(re.compile(r"^\d+$"), timeout=60_000)
    expect(ink.get_by_role("slider", name="Colours")).to_have_count(0)


def test_the_ladder_climbs_and_a_rung_sets_the_knobs(ink: Page):
    ink.get_by_role("radio", name="Solid").click()
    settled(ink)
    ink.keyboard.press("t")
    ladder = ink.get_by_role("group", name="Ladder")
    expect(ladder.get_by_text("start here")).to_be_visible(timeout=90_000)
    rungs = ladder.get_by_role("button", name=re.compile("nodes"))
    assert 5 <= rungs.count() <= 7
    stay = ink.get_by_role("slider", name="Stay within")
    before = stay.get_attribute("aria-valuenow")
    rungs.first.click()
    expect(rungs.first).to_have_attribute("aria-pressed", "true")
    assert stay.get_attribute("aria-valuenow") != before
    canvas = ink.get_by_role("img", name=re.compile("Trace of Plum"))
    settled(ink)
    alone = canvas.screenshot()
    ladder.get_by_role("button", name="put beside").last.click()
    expect(ink.get_by_text(re.compile(r"rung \d, left, with this trace"))).to_be_visible()
    assert canvas.screenshot() != alone
    ink.get_by_label("divider").fill("0")
    ink.get_by_label("fade").fill("0.6")
    ladder.get_by_role("button", name="take away").click()
    expect(ink.get_by_label("fade")).to_have_count(0)
    ladder.get_by_role("button", name="close the ladder").click()
    expect(ladder).to_have_count(0)
    expect(ink.get_by_role("listbox", name="Sketch to trace")).to_be_visible()


def test_the_veil_lies_over_the_sketch_and_says_how_far_off(ink: Page):
    canvas = ink.get_by_role("img", name=re.compile("Trace of Plum"))
    plain = canvas.screenshot()
    ink.keyboard.press("v")
    veil = ink.get_by_role("region", name="Veil")
    expect(veil).to_contain_text(re.compile(r"Off the sketch.*mean0\.\d+"), timeout=60_000)
    ink.wait_for_timeout(400)
    whole = canvas.screenshot()
    assert whole != plain
    bar = veil.get_by_role("button", disabled=False).first
    bar.click()
    expect(bar).to_have_attribute("aria-pressed", "true")
    assert canvas.screenshot() != whole
    ink.keyboard.press("v")
    expect(veil).to_have_count(0)


def test_a_recipe_is_kept_taken_up_again_and_forgotten(ink: Page):
    name = ink.get_by_label("Name of the recipe")
    ink.get_by_role("slider", name="Stay within").press("Home")
    settled(ink)
    name.fill("as close as can be")
    ink.get_by_role("button", name="Keep", exact=True).click()
    recipe = ink.get_by_role("button", name="as close as can be", exact=True)
    expect(recipe).to_be_visible()
    stay = ink.get_by_role("slider", name="Stay within")
    kept = stay.get_attribute("aria-valuenow")
    stay.press("End")
    assert stay.get_attribute("aria-valuenow") != kept
    recipe.click()
    expect(stay).to_have_attribute("aria-valuenow", kept)
    ink.get_by_role("button", name="Forget as close as can be").click()
    expect(recipe).to_have_count(0)
