"""A real server with an empty data folder, and Debian's chromium in front of it."""

import shutil
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

from server import Server, serving

CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    chromium = shutil.which("chromium")
    assert chromium, "The browser tests need Debian's chromium: apt-get install chromium"
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=chromium, args=CHROMIUM_FLAGS)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def server(tmp_path_factory) -> Iterator[Server]:
    """A server whose data folder holds one yardstick and one empty collection."""
    with serving(tmp_path_factory.mktemp("e2e")) as running:
        stick = {
            "name": "Laser on slate marker", "process": "laser-engrave", "width_mm": 80, "blank": "slate marker",
            "blank_width_mm": 100, "blank_height_mm": 60,
            "limits": {"thin_mm": 0.15, "gap_mm": 0.15, "speck_mm2": 0.33},
        }  # fmt: skip
        running.client.post("/yardsticks", json=stick)
        running.client.post("/collections", json={"name": "Allotment Open Day", "yardstick_id": 1})
        yield running


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page that fails its test on any error, and on any request that would leave this machine."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    context.grant_permissions(["clipboard-read", "clipboard-write"], origin=server.url)
    opened = context.new_page()
    troubles: list[str] = []
    opened.on("pageerror", lambda error: troubles.append(f"error: {error}"))
    opened.on("console", lambda message: troubles.append(message.text) if message.type == "error" else None)

    def check(request) -> None:
        if not request.url.startswith((server.url, "blob:", "data:")):
            troubles.append(f"left the machine: {request.url}")

    opened.on("request", check)
    opened.set_default_timeout(30_000)
    opened.goto(server.url)
    yield opened
    context.close()
    expected = ("status of 4", "status of 5")
    assert [text for text in troubles if not any(part in text for part in expected)] == []
