"""Neighbouring areas on the sheet: no light hairline shows between them, at any zoom."""

import numpy as np
from playwright.sync_api import Page, expect

from e2e_steps import choose_stage, new_collection

LONG = 90_000
RED, BLUE = (161, 76, 45), (46, 94, 140)
# Two tiles that share a slanted border, on which every pixel is filled by both in part.
TILES = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="140">'
    '<path id="a" fill="#a14c2d" d="M20 20L93.3 20L111.7 120L20 120Z"/>'
    '<path id="b" fill="#2e5e8c" d="M93.3 20L180 20L180 120L111.7 120Z"/></svg>'
)


def pixels(page: Page) -> np.ndarray:
    """Return the canvas as it is on screen, (height, width, 3)."""
    shape, values = (
        page.get_by_role("img", name="Drawing")
        .or_(page.locator("canvas"))
        .first.evaluate(
            "canvas => { const c = canvas.getContext('2d'); "
            "const d = c.getImageData(0, 0, canvas.width, canvas.height);"
            " return [[d.height, d.width], Array.from(d.data)]; }"
        )
    )
    return np.array(values, np.uint8).reshape(*shape, 4)[..., :3].astype(int)


def test_no_hairline_shows_between_neighbours(page: Page):
    new_collection(page, "Tiles")
    page.get_by_label("Subjects").fill("Tiles")
    page.get_by_label("Subjects").blur()
    choose_stage(page, "Proof")
    page.get_by_label("Drawing file").set_input_files(
        {"name": "tiles.svg", "mimeType": "image/svg+xml", "buffer": TILES.encode()}
    )
    expect(page.get_by_role("tab", name="Mend")).to_be_visible(timeout=LONG)
    page.wait_for_timeout(500)
    rgb = pixels(page)
    red = np.abs(rgb - RED).max(axis=2) < 4
    blue = np.abs(rgb - BLUE).max(axis=2) < 4
    rows = [row for row in range(len(rgb)) if red[row].sum() > 60 and blue[row].sum() > 60]
    assert len(rows) > 50
    looked = 0
    for row in rows[5:-5]:
        first, last = np.nonzero(red[row])[0].max(), np.nonzero(blue[row])[0].min()
        if not 0 < last - first < 12:
            continue
        between = rgb[row, first : last + 1]
        # What lies between is a mixture of the two, nowhere lighter than the lighter of them.
        lighter = np.maximum(RED, BLUE)
        assert (between <= lighter + 6).all(), between.tolist()
        looked += 1
    assert looked > 40
