"""The app is killed while a maker is at it: what was done is there again, and can be undone."""

from playwright.sync_api import Browser, expect

from samples import circle, drawing, rectangle
from server import Server, serving
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Shape

LONG = 90_000


def test_undo_goes_back_beyond_a_restart(browser: Browser, tmp_path):
    board = Shape("board", (rectangle(20, 20, 80, 100),), "#a14c2d")
    dot = Shape("dot", (circle(150, 70, 20),), "#3e7b4f")
    with serving(tmp_path) as first:
        stick = {
            "name": "Slate", "process": "laser-engrave", "width_mm": 80, "blank": "", "blank_width_mm": 100,
            "blank_height_mm": 80, "limits": {"thin_mm": 0.15, "gap_mm": 0.15, "speck_mm2": 0.33},
        }  # fmt: skip
        first.client.post("/yardsticks", json=stick).raise_for_status()
        first.client.post("/collections", json={"name": "Beds", "yardstick_id": 1}).raise_for_status()
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.set_default_timeout(30_000)
        page.goto(first.url)
        page.get_by_label("Subjects").fill("Sign")
        page.get_by_label("Subjects").blur()
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Proof").click()
        page.get_by_label("Drawing file").set_input_files(
            {
                "name": "sign.svg",
                "mimeType": "image/svg+xml",
                "buffer": write_svg(drawing(board, dot, size=(200.0, 140.0))).encode(),
            }
        )
        page.get_by_role("tab", name="Shapes").click()
        expect(page.get_by_role("button", name="select all 2")).to_be_visible(timeout=LONG)
        page.keyboard.press(",")
        page.keyboard.press("Delete")
        expect(page.get_by_role("button", name="select all 1")).to_be_visible(timeout=LONG)
        first.kill()
    second = Server(tmp_path, port=first.port)
    try:
        page.reload()
        page.get_by_role("tab", name="Shapes").click()
        expect(page.get_by_role("button", name="select all 1")).to_be_visible(timeout=LONG)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("button", name="select all 2")).to_be_visible(timeout=LONG)
        page.keyboard.press("Control+Shift+Z")
        expect(page.get_by_role("button", name="select all 1")).to_be_visible(timeout=LONG)
    finally:
        second.stop()
        page.context.close()
