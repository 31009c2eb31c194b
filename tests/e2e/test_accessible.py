"""Every screen looked over by axe: no serious fault. What it checks: WCAG 2 A and AA as axe-core reads them."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from e2e_steps import choose_stage, new_collection
from samples import circle, drawing, rectangle
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Shape

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
LONG = 60_000


def faults(page: Page) -> list[str]:
    page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa']})")
    return [
        f"{each['id']}: {node['html'][:160]}"
        for each in found["violations"]
        if each["impact"] in ("serious", "critical")
        for node in each["nodes"]
    ]


@pytest.fixture
def sign(page: Page, request) -> Page:
    """A motif with a drawing that has something to mend."""
    new_collection(page, request.node.name[:80])
    page.get_by_label("Subjects").fill("Sign")
    page.get_by_label("Subjects").blur()
    choose_stage(page, "Proof")
    shapes = (
        Shape("board", (rectangle(20, 20, 160, 100),), "#a14c2d"),
        Shape("dot", (circle(130, 70, 20),), "#3e7b4f"),
        Shape("speck", (circle(190, 130, 0.3),), "#3e7b4f"),
    )
    data = write_svg(drawing(*shapes, size=(200.0, 140.0))).encode()
    page.get_by_label("Drawing file").set_input_files(
        {"name": "sign.svg", "mimeType": "image/svg+xml", "buffer": data}
    )
    expect(page.get_by_role("tab", name="Mend")).to_be_visible(timeout=LONG)
    return page


@pytest.mark.parametrize("name", ["Mend", "Shapes", "Nodes", "Colours", "Letters", "History"])
def test_proof_is_accessible(sign: Page, name: str):
    sign.get_by_role("tab", name=name).click()
    sign.keyboard.press(".")
    if name == "Mend":
        sign.keyboard.press("f")
        expect(sign.get_by_role("button", name="Mend it")).to_be_visible()
    sign.wait_for_timeout(300)
    assert faults(sign) == []


@pytest.mark.parametrize("stage", ["Brief", "Sketch", "Ink", "Make", "Pack"])
def test_every_stage_is_accessible(sign: Page, stage: str):
    choose_stage(sign, stage)
    sign.wait_for_timeout(500)
    assert faults(sign) == []


def test_panels_are_accessible(sign: Page):
    for name in ("change", "Workshop"):
        sign.get_by_role("button", name=name, exact=True).click()
        expect(sign.get_by_role("dialog").or_(sign.get_by_role("complementary")).first).to_be_visible()
        assert faults(sign) == []
        sign.keyboard.press("Escape")
    sign.keyboard.press("?")
    expect(sign.get_by_role("dialog")).to_be_visible()
    assert faults(sign) == []
    sign.keyboard.press("Escape")
    sign.keyboard.press("Control+k")
    expect(sign.get_by_role("dialog")).to_be_visible()
    assert faults(sign) == []
    assert re.search("Zeichen", sign.title())
