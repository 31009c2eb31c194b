"""Steps that several browser tests take."""

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect


def new_collection(page: Page, name: str) -> None:
    # The collections are there: the menu under the pointer stays as it is.
    page.get_by_role("button", name=re.compile("^Collection: (?!none)")).click()
    page.get_by_role("menuitem", name="New collection").click()
    page.get_by_label("Name").fill(name)
    page.get_by_role("button", name="Start it").click()
    expect(page.get_by_role("button", name=re.compile(re.escape(name)))).to_be_visible()


def choose_option(within: Page | Locator, label: str, option: str) -> None:
    """Choose from a list that opens; the list itself lies outside of what it is opened in."""
    page = within if isinstance(within, Page) else within.page
    within.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def choose_stage(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stages").get_by_role("button", name=name).click()


def bring_in(page: Page, name: str, data: bytes) -> None:
    page.get_by_label("Picture files").set_input_files(
        {"name": name, "mimeType": "image/png", "buffer": data}
    )


def take_to_proof(page: Page, sheet: Locator) -> float:
    """Choose the first sketch, trace it, keep it, go to Proof; returns the finished width in mm."""
    sheet.get_by_role("button", name=re.compile("^Sketch")).first.click()
    page.get_by_role("button", name="Take to Ink").click()
    expect(page.get_by_role("row", name=re.compile("Closed paths"))).to_contain_text("✓", timeout=60_000)
    page.get_by_role("button", name="Keep this trace").click()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=60_000)
    size = page.get_by_role("row", name=re.compile("Size, mm"))
    expect(size).to_be_visible(timeout=60_000)
    found = re.search(r"([\d.]+) ×", size.inner_text())
    assert found
    return float(found[1])


def make(page: Page, process: str, folder: Path) -> list[Path]:
    """Write the files of a process and download them."""
    choose_stage(page, "Make")
    page.get_by_role("radio", name=process).click()
    write = page.get_by_role(
        "button", name="Rehearse and write files" if process == "Laser" else "Write the files"
    )
    write.click()
    expect(page.get_by_role("heading", name="Files")).to_be_visible(timeout=60_000)
    expect(write).to_be_disabled(timeout=60_000)
    links = page.get_by_role("link", name=re.compile(rf"-{process.lower()}\."))
    return [download(page, link.click, folder) for link in links.all()]


def download(page: Page, click, folder: Path) -> Path:
    """Click something that downloads; returns where the file lies."""
    with page.expect_download() as waiting:
        click()
    target = folder / waiting.value.suggested_filename
    waiting.value.save_as(target)
    return target
