"""Proof in the browser: everything mended by one key and by hand, edits, colours, letters, drawings from elsewhere."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from e2e_steps import bring_in, choose_option, choose_stage, new_collection, take_to_proof
from samples import circle, drawing, hole, png, rectangle
from zeichen.core.formats.svg import write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry import Path as Outline
from zeichen.core.geometry import Shape
from zeichen.core.geometry.bezier import line_segments

LONG = 90_000


def verdict(page: Page) -> Locator:
    return page.get_by_role("contentinfo").locator("> *").first


def tab(page: Page, name: str) -> None:
    page.get_by_role("tab", name=name).click()


def to_stencil(page: Page, name: str) -> None:
    page.get_by_role("button", name="change", exact=True).click()
    page.get_by_role("button", name="New yardstick").click()
    page.get_by_label("Name").fill(name)
    choose_option(page, "Process", "Stencil")
    page.get_by_role("button", name="Save").click()
    page.get_by_role("button", name=re.compile(f"^{name}")).click()


def spoiled() -> bytes:
    """A ring with an island, a hairline slit, specks and a scribble in the corner."""
    grey = np.full((1000, 1000), 255, np.uint8)
    y, x = np.mgrid[:1000, :1000]
    away = np.hypot(x - 480, y - 430)
    grey[(away < 330) & (away > 150)] = 0
    grey[425:435, 800:960] = 0
    for cx, cy in ((80, 90), (900, 120), (120, 760)):
        grey[np.hypot(x - cx, y - cy) < 6] = 0
    for k in range(5):
        grey[900 + 4 * (k % 2) : 922 - 3 * (k % 3), 840 + 14 * k : 849 + 14 * k] = 0
    grey[926:930, 838:910] = 0
    return png(np.repeat(grey[..., None], 3, axis=2))


def place_of(page: Page, mark: Locator) -> dict:
    """Where a mark lies on the screen; it may just be drawn anew."""
    for _ in range(50):
        if box := mark.bounding_box():
            return box
        page.wait_for_timeout(100)
    raise AssertionError("the mark did not come")


def begin(page: Page, name: str, subject: str) -> None:
    new_collection(page, name)
    page.get_by_label("Subjects").fill(subject)
    page.get_by_label("Subjects").blur()
    choose_stage(page, "Sketch")


def from_elsewhere(page: Page, name: str, data: bytes, file: str = "sign.svg") -> None:
    begin(page, name, "Sign")
    choose_stage(page, "Proof")
    page.get_by_label("Drawing file").set_input_files(
        {"name": file, "mimeType": "image/svg+xml", "buffer": data}
    )
    expect(page.get_by_role("tab", name="Mend")).to_be_visible(timeout=LONG)


def sign() -> bytes:
    board = Shape("board", (rectangle(20, 20, 160, 100),), "#a14c2d")
    moon = Shape("moon", (circle(60, 70, 25), hole(circle(66, 70, 12))), "#e9dab5")
    dot = Shape("dot", (circle(130, 70, 20),), "#3e7b4f")
    return write_svg(drawing(board, moon, dot, size=(200.0, 140.0))).encode()


def saved(page: Page, folder: Path):
    tab(page, "Shapes")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="drawing as SVG").click()
    target = folder / "out.svg"
    waiting.value.save_as(target)
    return read_svg(target.read_bytes())


def test_a_spoiled_trace_becomes_cut_ready_with_one_key(page: Page):
    begin(page, "Spoiled", "Ring")
    bring_in(page, "ring.png", spoiled())
    sketches = page.get_by_role("region", name="Sketches of Ring")
    expect(sketches.get_by_role("button", name=re.compile("^Sketch"))).to_have_count(1, timeout=LONG)
    take_to_proof(page, sketches)
    to_stencil(page, "Shed stencil")
    expect(verdict(page)).to_have_text(re.compile(r"\d+ to mend"), timeout=LONG)
    tape = page.get_by_role("contentinfo")
    expect(tape).to_contain_text("specks")
    expect(tape).to_contain_text(re.compile("loose piece"))
    page.keyboard.press("Shift+M")
    expect(verdict(page)).to_have_text("cut-ready", timeout=LONG)
    expect(page.get_by_text(re.compile("Mended (?=.*specks)(?=.*loose piece)"))).to_be_visible()
    page.keyboard.press("Control+z")
    expect(verdict(page)).to_have_text(re.compile(r"\d+ to mend"), timeout=LONG)


def test_a_large_drawing_is_mended_behind_the_scenes(page: Page):
    angle = np.linspace(0, 2 * np.pi, 1801)
    wave = 60 + 4 * np.sin(20 * angle)
    edge = Outline(line_segments(np.stack([100 + wave * np.cos(angle), 70 + wave * np.sin(angle)], axis=1)))
    speck = Shape("speck", (circle(190, 10, 0.3),), "#a14c2d")
    large = drawing(Shape("sun", (edge,), "#a14c2d"), speck, size=(200.0, 140.0))
    from_elsewhere(page, "Large", write_svg(large).encode())
    expect(verdict(page)).to_have_text("2 to mend")
    page.keyboard.press("Shift+M")
    expect(page.get_by_text(re.compile("^Mended .*1 speck .*Ctrl.Z"))).to_be_visible(timeout=LONG)
    expect(verdict(page)).to_have_text("cut-ready", timeout=LONG)
    page.get_by_role("button", name="Activity").click()
    expect(page.get_by_text("Mend sign")).to_be_visible()


def test_the_same_by_hand_with_keys_only(page: Page):
    begin(page, "By keys", "Ring")
    bring_in(page, "ring.png", spoiled())
    sketches = page.get_by_role("region", name="Sketches of Ring")
    expect(sketches.get_by_role("button", name=re.compile("^Sketch"))).to_have_count(1, timeout=LONG)
    take_to_proof(page, sketches)
    to_stencil(page, "Keyed stencil")
    left = re.compile(r"(\d+) to mend")
    expect(verdict(page)).to_have_text(left, timeout=LONG)
    for _ in range(20):
        words = verdict(page).inner_text()
        if words == "cut-ready":
            break
        page.keyboard.press("f")
        expect(page.get_by_role("radio").first).to_be_checked()
        page.keyboard.press("m")
        expect(verdict(page)).not_to_have_text(words, timeout=LONG)
    expect(verdict(page)).to_have_text("cut-ready")


def test_a_drawing_gets_three_variants_and_takes_one(page: Page):
    from_elsewhere(page, "Variants", sign())
    tab(page, "Colours")
    for number, words in enumerate(("moss and honey", "deep plum and rose", "pale sea"), 1):
        page.get_by_label("Palette in words").fill(words)
        page.get_by_role("button", name="Propose").click()
        expect(page.get_by_role("radio", name=words, exact=True)).to_be_checked()
        page.get_by_label("Name of the variant").fill(words)
        page.get_by_label("Name of the variant").press("Enter")
        expect(page.get_by_role("button", name=re.compile("^Forget"))).to_have_count(number)
    page.get_by_label("Palette in words").fill("glorp moosig")
    page.get_by_role("button", name="Propose").click()
    expect(page.get_by_text("no such word: glorp.")).to_be_visible()
    ways = page.get_by_role("radiogroup", name="Proposed palettes").get_by_role("radio")
    ways.nth(1).click()
    expect(ways.nth(1)).to_be_checked()
    page.get_by_label("Palette in words").fill("glorp")
    page.get_by_role("button", name="Propose").click()
    expect(page.get_by_role("alert")).to_contain_text("no word glorp")
    before = page.locator("button[title^='Use it for patches']").all_inner_texts()
    page.get_by_role("button", name="take", exact=True).nth(1).click()
    expect(page.get_by_text("These are the colours of deep plum and rose now")).to_be_visible()
    expect(page.get_by_role("button", name=before[0], exact=True)).to_have_count(0)


def test_a_slogan_on_an_arch_stays_text(page: Page, tmp_path):
    from_elsewhere(page, "Slogan", sign())
    tab(page, "Letters")
    page.get_by_label("Text").fill("Open Day")
    choose_option(page, "Font", "Alfa Slab One")
    page.get_by_role("radio", name="arch").click()
    page.get_by_role("button", name="Set the letters").click()
    tab(page, "Shapes")
    shapes = page.get_by_role("button", name=re.compile("select all"))
    expect(shapes).to_have_text("select all 4", timeout=LONG)
    # The letters are painted last: one step back from nothing chosen.
    page.keyboard.press(",")
    tab(page, "Letters")
    expect(page.get_by_role("heading", name="Set these letters anew")).to_be_visible()
    page.get_by_label("Text").fill("Open Day at noon")
    page.get_by_role("button", name="Set anew").click()
    tab(page, "History")
    expect(page.get_by_text("set “Open Day at noon”")).to_be_visible(timeout=LONG)
    made = saved(page, tmp_path)
    assert len(made.shapes) == 4 and "Open Day at noon" in made.shapes[-1].letters
    assert all(path.closed for path in made.shapes[-1].paths)


def test_shapes_are_moved_joined_and_undone_across_a_reload(page: Page, tmp_path):
    from_elsewhere(page, "Shapes", sign())
    tab(page, "Shapes")
    page.keyboard.press(",")
    expect(page.get_by_text("1 shape selected")).to_be_visible()
    field = page.get_by_label("X", exact=True)
    before = float(field.input_value())
    field.fill(str(before - 5))
    field.press("Enter")
    expect(field).to_have_value(f"{before - 5:g}", timeout=LONG)
    page.get_by_role("button", name=re.compile("select all")).click()
    page.get_by_role("button", name="join", exact=True).click()
    expect(page.get_by_role("button", name="select all 1")).to_be_visible(timeout=LONG)
    page.reload()
    expect(page.get_by_role("tab", name="Shapes")).to_be_visible(timeout=LONG)
    page.keyboard.press("Control+z")
    tab(page, "Shapes")
    expect(page.get_by_role("button", name="select all 3")).to_be_visible(timeout=LONG)
    page.keyboard.press("Control+Shift+Z")
    expect(page.get_by_role("button", name="select all 1")).to_be_visible(timeout=LONG)
    assert len(saved(page, tmp_path).shapes) == 1


def test_nodes_are_dragged_and_taken_out(page: Page, tmp_path):
    from_elsewhere(page, "Nodes", sign())
    page.keyboard.press(",")
    tab(page, "Nodes")
    marks = page.locator("main svg rect[stroke='#2f6db5']")
    expect(marks).to_have_count(4, timeout=LONG)
    at = place_of(page, marks.first)
    page.mouse.move(at["x"] + 3, at["y"] + 3)
    page.mouse.down()
    page.mouse.move(at["x"] + 33, at["y"] + 3, steps=6)
    page.mouse.up()
    tab(page, "History")
    expect(page.get_by_text("moved nodes")).to_be_visible(timeout=LONG)
    tab(page, "Nodes")
    expect(marks).to_have_count(4, timeout=LONG)
    at = place_of(page, marks.first)
    page.mouse.click(at["x"] + 3, at["y"] + 3)
    expect(page.get_by_text("1 node chosen")).to_be_visible()
    page.get_by_role("button", name="take out").click()
    expect(marks).to_have_count(3, timeout=LONG)
    dot = saved(page, tmp_path).shapes[-1]
    assert dot.node_count == 3 and dot.area > 1300


def test_a_figure_wider_than_its_blank_is_made_to_fit_by_one_key(page: Page):
    from_elsewhere(page, "Wide", sign())
    page.get_by_role("button", name="change", exact=True).click()
    page.get_by_role("button", name="New yardstick").click()
    page.get_by_label("Name").fill("Narrow board")
    choose_option(page, "Process", "Laser engraving")
    page.get_by_role("textbox", name="Finished width").fill("260")
    page.get_by_label("Blank width").fill("210")
    page.get_by_label("Blank height").fill("297")
    page.get_by_role("button", name="Save").click()
    page.get_by_role("button", name=re.compile("^Narrow board")).click()
    page.get_by_role("listitem").filter(has_text=re.compile("larger than the blank")).click()
    page.get_by_text("Wider than the blank").wait_for()
    expect(page.get_by_role("button", name="Make it 210.0 mm wide")).to_be_visible()
    expect(verdict(page)).to_have_text("3 to mend")
    page.keyboard.press("m")
    expect(verdict(page)).to_have_text("2 to mend", timeout=LONG)
    expect(page.get_by_role("row", name=re.compile("Size, mm"))).to_contain_text("210.0")


def test_a_patch_is_drawn_and_a_state_compared_and_brought_back(page: Page, tmp_path):
    from_elsewhere(page, "Patch", sign())
    tab(page, "Shapes")
    page.get_by_role("button", name="cut out").click()
    box = page.get_by_role("img", name=re.compile("Drawing of Sign")).bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x - 40, y - 40)
    page.mouse.down()
    for dx, dy in ((40, -40), (40, 40), (-40, 40), (-40, -38)):
        page.mouse.move(x + dx, y + dy, steps=8)
    page.mouse.up()
    tab(page, "History")
    expect(page.get_by_text("cut a patch out")).to_be_visible(timeout=LONG)
    page.get_by_role("button", name="look at it").click()
    page.get_by_role("button", name="compare").click()
    expect(page.get_by_text(re.compile("with revision"))).to_be_visible()
    page.get_by_label("fade").fill("0.5")
    page.get_by_label("divider").fill("0.4")
    page.keyboard.press("Escape")
    page.get_by_role("checkbox", name="veil").check()
    veil = page.get_by_role("region", name="Veil")
    expect(veil).to_contain_text(re.compile(r"Off revision \d+.*mean\d"), timeout=LONG)
    bar = veil.get_by_role("button", name=re.compile("leaner|fuller"), disabled=False).first
    bar.click()
    expect(bar).to_have_attribute("aria-pressed", "true")
    page.get_by_role("checkbox", name="veil").uncheck()
    expect(veil).to_have_count(0)
    cut = saved(page, tmp_path)
    tab(page, "History")
    page.get_by_role("button", name="bring it back").click()
    expect(page.get_by_text(re.compile("brought back"))).to_be_visible(timeout=LONG)
    whole = saved(page, tmp_path)
    assert sum(s.area for s in cut.shapes) < 0.98 * sum(s.area for s in whole.shapes)


def test_traced_letters_make_way_for_real_ones(page: Page, tmp_path):
    letters = [rectangle(60 + 8 * k, 122, 3 + k % 3, 6) for k in range(7)]
    plate = drawing(circle(100, 60, 55), *letters, size=(200.0, 140.0))
    from_elsewhere(page, "Plate", write_svg(plate).encode())
    page.get_by_role("button", name=re.compile("^likely letters", re.I)).first.click()
    page.get_by_role("button", name="Set real letters").click()
    expect(page.get_by_text("They take the place of the traced ones")).to_be_visible()
    page.get_by_label("Text").fill("Nordbeet")
    page.get_by_role("button", name="Set the letters").click()
    tab(page, "Shapes")
    expect(page.get_by_role("button", name=re.compile("select all"))).to_have_text(
        "select all 2", timeout=LONG
    )
    disc, word = saved(page, tmp_path).shapes
    assert "Nordbeet" in word.letters and disc.node_count == 4
    x0, y0, x1, y1 = word.bounds()
    assert (x0 + x1) / 2 == pytest.approx(84, abs=2) and (y0 + y1) / 2 == pytest.approx(125, abs=2)


@pytest.mark.parametrize(
    ("file", "data", "words"),
    [
        ("bad.svg", b"<svg", "not an SVG file"),
        ("evil.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>', "carries a script"),
        ("notes.dxf", b"Dear diary", "not a DXF file"),
    ],
)
def test_a_bad_drawing_says_why_and_nothing_comes_of_it(page: Page, file: str, data: bytes, words: str):
    begin(page, f"Bad {file}", "Sign")
    choose_stage(page, "Proof")
    page.get_by_label("Drawing file").set_input_files(
        {"name": file, "mimeType": "application/octet-stream", "buffer": data}
    )
    expect(page.get_by_role("alert")).to_contain_text(words)
    expect(page.get_by_text("has no drawing yet")).to_be_visible()


def test_what_was_not_taken_is_listed_and_its_text_is_one_click_from_being_set(page: Page):
    text = '<text x="20" y="80" font-size="12">Tea at four</text>'
    mask = '<mask id="m"><rect width="9" height="9"/></mask>'
    mug = '<rect x="20" y="10" width="60" height="40" mask="url(#m)"/>'
    links = 'xmlns="http://www.w3.org/2000/svg"'
    file = f'<svg {links} width="120" height="90">{mask}{mug}{text}</svg>'
    from_elsewhere(page, "From elsewhere", file.encode(), "mug.svg")
    listed = page.get_by_role("list", name="Not taken", exact=True).get_by_role("listitem")
    expect(listed).to_have_count(2, timeout=LONG)
    expect(listed.first).to_contain_text("mask: not applied")
    # It is a note of the drawing, not of the moment.
    page.reload()
    page.get_by_role("button", name="set in Lettering").click(timeout=LONG)
    expect(page.get_by_label("Text", exact=True)).to_have_value("Tea at four", timeout=LONG)
    expect(page.get_by_role("list", name="Text of the file").get_by_role("listitem")).to_contain_text("set")
    page.get_by_role("button", name="seen", exact=True).click()
    expect(listed).to_have_count(0)
