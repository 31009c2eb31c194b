"""From a picture with faults to a clean trace, by hand: reasons, cures, steps that switch, a photo laid flat."""

import base64
import re

import cv2
import numpy as np
from playwright.sync_api import Page, expect

from e2e_steps import bring_in, choose_option, choose_stage, new_collection
from samples import png

DROP_FILES = """([names, data]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const transfer = new DataTransfer();
  for (const name of names) transfer.items.add(new File([bytes], name, {type: "image/png"}));
  document.querySelector("main").dispatchEvent(
    new DragEvent("drop", {dataTransfer: transfer, bubbles: true, cancelable: true}));
}"""


def spotted() -> bytes:
    sheet = np.full((1200, 1200, 3), 250, np.uint8)
    cv2.ellipse(sheet, (600, 600), (340, 420), 0, 0, 360, (25, 25, 25), -1, cv2.LINE_AA)
    # 80 mm are 680 px: a fifth of a square millimetre, which a trace still draws.
    sheet[120:124, 600:605] = 25
    return png(sheet)


def photo() -> bytes:
    """A drawing on a page that lies askew on a dark table."""
    page = np.full((800, 600, 3), 244, np.uint8)
    cv2.circle(page, (300, 400), 170, (25, 25, 25), -1, cv2.LINE_AA)
    corners = np.array([[130, 90], [640, 140], [690, 860], [80, 800]], dtype=np.float32)
    flat = np.array([[0, 0], [600, 0], [600, 800], [0, 800]], dtype=np.float32)
    matrix = cv2.getPerspectiveTransform(flat, corners)
    return png(cv2.warpPerspective(page, matrix, (760, 940), borderValue=(58, 66, 74), flags=cv2.INTER_AREA))


def begin(page: Page, name: str, data: bytes) -> None:
    new_collection(page, name)
    page.get_by_label("Subjects").fill("Pebble")
    page.get_by_label("Subjects").blur()
    choose_stage(page, "Sketch")
    bring_in(page, "pebble.png", data)
    sketch = page.get_by_role("region", name="Sketches of Pebble").get_by_role(
        "button", name=re.compile("^Sketch")
    )
    expect(sketch).to_have_count(1, timeout=60_000)
    sketch.first.click()


def settled(page: Page) -> None:
    expect(page.get_by_text("tracing …")).to_have_count(0, timeout=90_000)


def closed_paths(page: Page):
    return page.get_by_role("row", name=re.compile("^Closed paths")).get_by_role("cell").first


def test_a_reason_is_cured_by_a_click_and_brought_back_by_another(page: Page):
    begin(page, "Clean reasons", spotted())
    reasons = page.get_by_role("list", name="Reasons")
    expect(reasons).to_contain_text("1 speck", timeout=60_000)
    card = page.get_by_role("region", name="Sketches of Pebble").get_by_role(
        "button", name=re.compile("needs clean-up")
    )
    expect(card).to_be_visible()
    reasons.get_by_role("button", name="take specks away").click()
    expect(page.get_by_role("button", name=re.compile(r"Sketch \d+.*traces well"))).to_be_visible(
        timeout=60_000
    )
    expect(page.get_by_text("Cleaned up: take specks away.")).to_be_visible()
    page.get_by_role("button", name="as it came").click()
    expect(reasons).to_contain_text("1 speck", timeout=60_000)


def test_steps_are_suggested_switched_ordered_and_left_out(page: Page):
    begin(page, "Clean steps", spotted())
    choose_stage(page, "Ink")
    page.get_by_label("Drop spots under").or_(
        page.get_by_role("slider", name="Drop spots under")
    ).first.focus()
    page.keyboard.press("Home")
    settled(page)
    expect(closed_paths(page)).to_have_text("2 of 2", timeout=60_000)
    page.get_by_role("button", name="Do what helps").click()
    settled(page)
    expect(closed_paths(page)).to_have_text("1 of 1", timeout=60_000)
    steps = page.get_by_role("list", name="Clean-up steps").get_by_role("listitem")
    expect(steps).to_have_count(1)
    steps.first.get_by_role("checkbox").click()
    expect(closed_paths(page)).to_have_text("2 of 2", timeout=60_000)
    steps.first.get_by_role("checkbox").click()
    choose_option(page, "Add a step", "Turn")
    expect(steps).to_have_count(2)
    page.get_by_role("button", name="Do “Turn” earlier").click()
    expect(steps.first).to_contain_text("Turn")
    # On its side the figure is wider than high.
    size = page.get_by_role("row", name=re.compile("^Size")).get_by_role("cell").first
    expect(size).to_have_text(re.compile(r"^[\d.]+ × [\d.]+$"))

    def wide() -> bool:
        across, up = (float(part) for part in size.inner_text().split(" × "))
        return across > up

    for _ in range(100):
        if wide():
            break
        page.wait_for_timeout(100)
    assert wide()
    page.get_by_role("button", name="Leave out “Turn”").click()
    expect(steps).to_have_count(1)


def test_a_photo_of_a_paper_drawing_is_laid_flat_and_traced_round(page: Page):
    begin(page, "Photo", photo())
    choose_stage(page, "Ink")
    choose_option(page, "Add a step", "Lay the page flat")
    steps = page.get_by_role("list", name="Clean-up steps").get_by_role("listitem")
    expect(steps).to_have_count(1)
    settled(page)
    expect(closed_paths(page)).to_have_text("1 of 1", timeout=60_000)
    page.get_by_role("button", name="Keep this trace").click()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=60_000)
    expect(page.get_by_text(re.compile("Reading the drawing|No drawing yet"))).to_have_count(
        0, timeout=60_000
    )
    motif_id = int(re.search(r"/motif/(\d+)", page.url)[1])
    path = f"/api/motifs/{motif_id}/drawing"
    box = page.evaluate("path => fetch(path).then((reply) => reply.json())", path)["drawing"]["figure_px"]
    across, up = box["x_max"] - box["x_min"], box["y_max"] - box["y_min"]
    # A page knows no size: its own sides stretch the circle a little, the slant does not.
    assert 0.8 < across / up < 1.25
    page.reload()
    choose_stage(page, "Ink")
    expect(steps).to_have_count(1, timeout=60_000)


def test_pictures_that_come_first_become_motifs(page: Page):
    new_collection(page, "Picture first")
    choose_stage(page, "Sketch")
    bring_in(page, "round_pebble.png", spotted())
    sketches = page.get_by_role("region", name="Sketches of Round pebble").get_by_role(
        "button", name=re.compile("^Sketch")
    )
    expect(sketches).to_have_count(1, timeout=60_000)
    # Several, from another stage: one of them for the motif there is.
    choose_stage(page, "Brief")
    data = base64.b64encode(spotted()).decode()
    page.evaluate(DROP_FILES, [["Round-pebble (2).png", "flint.png"], data])
    question = page.get_by_role("dialog", name="2 pictures to bring in")
    rows = question.get_by_role("list", name="Pictures and their motifs").get_by_role("listitem")
    expect(rows.first).to_contain_text("Round pebblethere")
    expect(rows.last).to_contain_text("Flintnew")
    question.get_by_role("button", name="One motif each, 1 new").click()
    expect(sketches).to_have_count(2, timeout=60_000)
    flint = page.get_by_role("region", name="Sketches of Flint").get_by_role(
        "button", name=re.compile("^Sketch")
    )
    expect(flint).to_have_count(1, timeout=60_000)
