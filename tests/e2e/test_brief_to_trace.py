"""From a list of subjects to traces: house style, references, variations, comparing, generators, clean-up by hand."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from e2e_steps import bring_in, choose_stage, new_collection
from generator_box import generator_box, images, sends
from zeichen.core.formats.picture import write_png

LONG = 90_000


def cards(page: Page, motif: str) -> Locator:
    return page.get_by_role("region", name=f"Sketches of {motif}").get_by_role(
        "button", name=re.compile("^Sketch")
    )


def write_subjects(page: Page, text: str) -> None:
    choose_stage(page, "Brief")
    page.get_by_label("Subjects").fill(text)
    page.get_by_label("Subjects").blur()
    expect(page.get_by_text("brief kept")).to_be_visible()


def heavy_drawing() -> bytes:
    """A gate drawn with lines of 30 px, as a maker's own picture; with specks that want cleaning up."""
    canvas = np.full((1000, 1000, 3), 255, np.uint8)
    for x in (200, 400, 600, 800):
        cv2.line(canvas, (x, 220), (x, 800), (20, 20, 20), 30, cv2.LINE_AA)
    for y in (300, 700):
        cv2.line(canvas, (200, y), (800, y), (20, 20, 20), 30, cv2.LINE_AA)
    for x, y in ((100, 120), (900, 150), (120, 900), (880, 880)):
        cv2.circle(canvas, (x, y), 3, (20, 20, 20), -1, cv2.LINE_AA)
    return write_png(canvas)


def api(page: Page, path: str) -> dict:
    return page.evaluate("path => fetch(`/api${path}`).then((reply) => reply.json())", path)


def test_a_list_in_the_style_of_an_uploaded_picture_to_a_clean_trace(page: Page):
    new_collection(page, "In one hand")
    write_subjects(page, "Gate\nKettle\nPear")
    choose_stage(page, "Sketch")
    bring_in(page, "gate.png", heavy_drawing())
    expect(cards(page, "Gate")).to_have_count(1, timeout=LONG)
    cards(page, "Gate").first.click()
    page.keyboard.press("r")
    expect(page.get_by_text("the set's reference")).to_be_visible()

    choose_stage(page, "Brief")
    reference = page.get_by_label("Reference", exact=True)
    # 30 px of 1000, the figure filling 0.84 of its picture: 2.9 mm on a piece 80 mm wide.
    expect(reference).to_contain_text(re.compile(r"line (2\.[789]|3\.0)\d? mm"), timeout=LONG)
    page.get_by_role("radio", name="Line", exact=True).click()
    page.get_by_label("Sketches of each").get_by_role("radio", name="2").click()
    expect(page.get_by_text("2 subjects × 2 = 4 sketches")).to_be_visible()
    page.get_by_role("button", name="Draw the sketches").click()
    expect(cards(page, "Kettle")).to_have_count(2, timeout=LONG)
    expect(cards(page, "Pear")).to_have_count(2, timeout=LONG)

    cards(page, "Kettle").first.click()
    parent = int(re.search(r"/sketch/(\d+)", page.url)[1])
    page.get_by_role("button", name="Near", exact=True).click()
    expect(cards(page, "Kettle")).to_have_count(6, timeout=LONG)
    family = page.get_by_role("list", name="Family").get_by_role("listitem")
    expect(family.filter(has_text="near")).to_have_count(4)
    hand = api(page, f"/sketches/{parent}/hand")
    assert hand["line_share"] == pytest.approx(0.03, rel=0.15)

    cards(page, "Gate").first.click()
    reasons = page.get_by_role("list", name="Reasons")
    expect(reasons).to_contain_text(re.compile("specks?", re.IGNORECASE), timeout=LONG)
    page.get_by_role("button", name="Take to Ink").click()
    page.get_by_role("button", name="Do what helps").click()
    expect(page.get_by_role("list", name="Clean-up steps").get_by_role("listitem")).not_to_have_count(0)
    expect(page.get_by_role("row", name=re.compile("Pieces"))).to_contain_text("1", timeout=LONG)
    expect(page.get_by_role("row", name=re.compile("Closed paths"))).to_contain_text("✓", timeout=LONG)
    page.get_by_role("button", name="Keep this trace").click()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=LONG)


def test_subjects_are_posed_ordered_switched_off_and_worded_by_hand(page: Page):
    new_collection(page, "Words")
    write_subjects(page, "Snail\nOwl\nsnail\nMug")
    wording = page.get_by_role("region", name="Wording")
    expect(wording.get_by_text("Twice in the list: snail")).to_be_visible()
    page.get_by_label("Pose of Owl").fill("facing left")
    page.get_by_label("Pose of Owl").press("Enter")
    expect(wording.get_by_text("An owl, facing left.")).to_be_visible()
    page.get_by_role("checkbox", name="Draw Mug").click()
    expect(page.get_by_text("2 subjects × 4 = 8 sketches")).to_be_visible()
    page.get_by_role("button", name="Move Owl up").click()
    expect(page.get_by_label("Subjects")).to_have_value("Owl | facing left\nSnail\nsnail\n# Mug")
    page.get_by_role("button", name="Edit the wording of Snail").click()
    page.get_by_label("Wording of Snail", exact=True).fill("A snail in a hurry.")
    page.get_by_label("Wording of Snail", exact=True).blur()
    expect(wording.get_by_text("written by hand")).to_be_visible()
    expect(wording.get_by_text("An owl, facing left.")).to_be_visible()
    page.get_by_role("button", name="copy the list").click()
    copied = page.evaluate("navigator.clipboard.readText()").splitlines()
    assert (
        len(copied) == 2
        and copied[0].startswith("An owl, facing left.")
        and copied[1] == "A snail in a hurry."
    )
    page.get_by_role("button", name="Compose the wording of Snail again").click()
    expect(wording.get_by_text("A snail. One solid")).to_be_visible()


def test_what_sells_is_proposed_and_an_earlier_brief_runs_again(page: Page):
    new_collection(page, "Autumn stall")
    choose_stage(page, "Brief")
    page.get_by_role("button", name="what sells").click()
    page.get_by_label("Theme").fill("submarines")
    page.get_by_role("button", name="Look it up").click()
    expect(page.get_by_text("The stall has nothing under “submarines”")).to_be_visible()
    page.get_by_label("Theme").fill("Tea")
    page.get_by_role("button", name="Look it up").click()
    page.get_by_role("button", name="rivals", exact=True).click()
    rivals = page.get_by_role("dialog").locator("tbody tr td:nth-child(6)").all_inner_texts()
    assert len(rivals) > 4 and [int(v) for v in rivals] == sorted(int(v) for v in rivals)
    for name in ("mug", "kettle"):
        page.get_by_role("checkbox", name=name, exact=True).check()
    page.get_by_role("button", name="Add 2 subjects to the brief").click()
    expect(page.get_by_label("Subjects")).to_have_value("Mug\nKettle")
    page.get_by_label("Sketches of each").get_by_role("radio", name="1").click()
    page.get_by_role("button", name="Draw the sketches").click()
    expect(cards(page, "Mug")).to_have_count(1, timeout=LONG)
    expect(cards(page, "Kettle")).to_have_count(1, timeout=LONG)
    write_subjects(page, "Candle")
    page.get_by_role("button", name="earlier briefs").click()
    page.get_by_role("dialog").get_by_role("button", name="Open").click()
    expect(page.get_by_label("Subjects")).to_have_value("Mug\nKettle")
    page.get_by_label("Subjects").fill("Mug\nCandle")
    page.get_by_label("Sketches of each").get_by_role("radio", name="1").click()
    page.get_by_role("button", name="Draw the sketches").click()
    expect(cards(page, "Mug")).to_have_count(2, timeout=LONG)
    expect(cards(page, "Candle")).to_have_count(1, timeout=LONG)


def test_sketches_are_gone_through_and_compared_by_keyboard(page: Page):
    new_collection(page, "Keys")
    write_subjects(page, "Acorn")
    page.get_by_role("button", name="Draw the sketches").click()
    expect(cards(page, "Acorn")).to_have_count(4, timeout=LONG)
    page.keyboard.press("ArrowRight")
    expect(cards(page, "Acorn").nth(0)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("k")
    expect(cards(page, "Acorn").nth(0)).to_have_accessible_name(re.compile(", kept"))
    page.keyboard.press("c")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("c")
    page.keyboard.press("x")
    compared = page.get_by_role("dialog", name="Compare")
    pictures = compared.get_by_role("img")
    expect(pictures).to_have_count(2)
    box = pictures.first.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.wheel(0, -900)
    expect(compared.get_by_text(re.compile(r"^[2-9]\d\d %$"))).to_be_visible()
    assert len({each.evaluate("e => e.style.transform") for each in pictures.all()}) == 1, "zoomed together"
    page.keyboard.press("Escape")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(cards(page, "Acorn").nth(0)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Clean-up")).to_be_visible()


def test_a_generator_at_an_address_asks_first_and_fails_in_words(page: Page):
    picture = heavy_drawing()
    new_collection(page, "Own generator")
    write_subjects(page, "Space rocket")
    expect(page.get_by_text("the stand-in can't draw it")).to_be_visible()
    with generator_box() as box:
        page.get_by_role("button", name="Workshop").click()
        page.get_by_role("radio", name="A generator at an address").click()
        page.get_by_label("Address").fill("shed")
        page.get_by_role("button", name="Set it up so").click()
        expect(page.get_by_text("“shed” is no address of a generator")).to_be_visible()
        page.get_by_label("Address").fill(box.address())
        page.get_by_label("Name, kept with each sketch").fill("shed box")
        page.get_by_role("button", name="Set it up so").click()
        expect(page.get_by_text("1 subject × 4 = 4 sketches by shed box.")).to_be_visible()

        box.answers = [sends(b"", 503), sends(images(picture)), sends(images(picture)), sends(b"no", 403)]
        page.get_by_role("button", name="Draw the sketches").click()
        question = page.get_by_role("dialog", name="Before anything is spent")
        expect(question).to_contain_text("shed box would be asked for 4 pictures")
        question.get_by_role("button", name="Do not draw").click()
        assert box.asked == []
        page.get_by_role("button", name="Draw the sketches").click()
        question.get_by_role("button", name="Agree and draw").click()
        # What was said of the address before may still be there.
        refused = page.get_by_role("alert").filter(has_text="refused with status 403: no")
        expect(refused).to_be_visible(timeout=LONG)
        expect(cards(page, "Space rocket")).to_have_count(2)
        assert box.orders()[0]["prompt"].startswith("A space rocket.")
    page.get_by_role("button", name="Workshop").click()
    page.get_by_role("radio", name="The stand-in studio").click()
    page.get_by_role("button", name="Set it up so").click()
    cards(page, "Space rocket").first.click()
    expect(page.get_by_text(re.compile("shed box, seed"))).to_be_visible()


def test_rubbing_out_by_hand_and_the_same_steps_for_the_whole_set(page: Page):
    new_collection(page, "By hand")
    write_subjects(page, "Gate\nFence")
    choose_stage(page, "Sketch")
    for motif in ("Gate", "Fence"):
        page.get_by_role("navigation", name="Motifs").get_by_role("button", name=re.compile(motif)).click()
        bring_in(page, f"{motif}.png", heavy_drawing())
        expect(cards(page, motif)).to_have_count(1, timeout=LONG)
    page.get_by_role("navigation", name="Motifs").get_by_role("button", name=re.compile("Gate")).click()
    choose_stage(page, "Ink")
    sheet = page.get_by_role("img", name=re.compile("Trace of Gate"))
    # As areas: lines all get one width, and what the brush leaves between its strokes is no line.
    page.get_by_role("radio", name="Solid").click()
    expect(page.get_by_role("row", name=re.compile("Closed paths"))).to_contain_text("✓", timeout=LONG)
    page.get_by_role("button", name="Rub out").click()
    box = sheet.bounding_box()
    assert box
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    # Across the middle of the gate, where its posts stand.
    for dy in (-10, 10):
        page.mouse.move(middle[0] - 260, middle[1] + dy)
        page.mouse.down()
        page.mouse.move(middle[0] + 260, middle[1] + dy, steps=12)
        page.mouse.up()
    steps = page.get_by_role("list", name="Clean-up steps").get_by_role("listitem")
    expect(steps).to_have_count(1)
    expect(steps.first).to_contain_text("Rub out by hand × 2")
    page.get_by_role("button", name="Rub out", exact=True).click()
    # Cut in two: an upper and a lower half instead of one grid.
    expect(page.get_by_role("row", name=re.compile("Pieces"))).to_contain_text("6", timeout=LONG)

    page.get_by_role("button", name="keep these steps").click()
    page.get_by_label("Name of the steps").fill("two strokes")
    page.get_by_label("Name of the steps").press("Enter")
    expect(page.get_by_role("button", name="two strokes", exact=True)).to_be_visible()
    choose_stage(page, "Sketch")
    cards(page, "Fence").first.click()
    if page.get_by_role("button", name="Keep", exact=True).is_visible():
        page.get_by_role("button", name="Keep", exact=True).click()
    page.get_by_role("navigation", name="Motifs").get_by_role("button", name=re.compile("Gate")).click()
    choose_stage(page, "Ink")
    page.get_by_role("button", name="use for the whole set").click()
    expect(page.get_by_role("button", name="Activity: Nothing under way")).to_be_visible(timeout=LONG)
    page.get_by_role("navigation", name="Motifs").get_by_role("button", name=re.compile("Fence")).click()
    expect(steps.first).to_contain_text("Rub out by hand × 2", timeout=LONG)
    steps.first.get_by_role("button", name="Leave the last stroke out").click()
    expect(steps.first).not_to_contain_text("×")


def test_many_files_at_once_good_and_bad(page: Page):
    new_collection(page, "Drawer full")
    write_subjects(page, "Gate")
    choose_stage(page, "Sketch")
    small = write_png(cv2.resize(cv2.imdecode(np.frombuffer(heavy_drawing(), np.uint8), 1), (160, 160)))
    files = [
        {"name": f"{k:02}.png", "mimeType": "image/png", "buffer": b"not a picture" if k % 8 == 5 else small}
        for k in range(24)
    ]
    page.get_by_label("Picture files").set_input_files(files)
    question = page.get_by_role("dialog", name="24 pictures to bring in")
    expect(question.get_by_role("listitem").first).to_contain_text("00new")
    question.get_by_role("button", name="All as sketches of Gate").click()
    refused = page.get_by_role("list", name="Refused pictures").get_by_role("listitem")
    expect(refused).to_have_count(3, timeout=LONG)
    expect(refused.first).to_contain_text("05.png")
    page.get_by_role("dialog").get_by_role("button", name="Close").last.click()
    expect(page.get_by_text("21 sketches, 21 kept")).to_be_visible(timeout=LONG)
