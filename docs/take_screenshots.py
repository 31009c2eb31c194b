"""Pictures of the main views at 1280 x 800, from the demo data, into docs/screenshots.

Run by `make screenshots`: seeds a data folder of its own, starts the app on a free port, and looks at it.
"""

import os
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FOLDER = Path(__file__).parent / "screenshots"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]
SNAIL, BEETROOT, CAN, TEAPOT, HEDGEHOG, POD = range(1, 7)


def choose_option(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def main() -> None:
    """Take all pictures."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory() as data:
        environment = {**os.environ, "ZEICHEN_DATA": data, "ZEICHEN_PORT": str(port)}
        command = [sys.executable, "-c", "from zeichen.cli import main; main()", "demo"]
        server = subprocess.Popen(command, env=environment)
        try:
            _wait(f"http://127.0.0.1:{port}/api/scene")
            # The app sets out the demo while it runs.
            unfinished = Path(data) / "demo-unfinished"
            while unfinished.exists() and server.poll() is None:
                time.sleep(1.0)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                _look(page, f"http://127.0.0.1:{port}/")
                browser.close()
        finally:
            server.terminate()
            server.wait()


def _look(page: Page, url: str) -> None:
    FOLDER.mkdir(exist_ok=True)

    def go(motif: int, stage: str, sketch: int | None = None) -> None:
        sketch_part = f"/sketch/{sketch}" if sketch else ""
        page.goto(f"{url}#/collection/1/motif/{motif}{sketch_part}/{stage}")
        page.reload()
        page.wait_for_timeout(1_500)

    def take(name: str) -> None:
        page.wait_for_timeout(700)
        page.screenshot(path=FOLDER / f"{name}.png")

    go(SNAIL, "brief")
    page.get_by_role("radio", name="Line", exact=True).click()
    page.get_by_role("checkbox", name="Line weight on the finished piece").click()
    page.get_by_label("Pose of Snail").fill("facing left")
    page.get_by_label("Pose of Snail").press("Enter")
    take("brief")
    go(SNAIL, "sketch", 2)
    page.keyboard.press("n")
    page.get_by_text("12 sketches").wait_for(timeout=60_000)
    # Forecasts are read one after the other, in no fixed order.
    for subject, last in (("Snail", 11), ("Beetroot", 3)):
        drawn = page.get_by_role("region", name=f"Sketches of {subject}")
        drawn.get_by_role("button", name=re.compile("^Sketch.*: ")).nth(last).wait_for(timeout=60_000)
    take("sketch")
    for _ in range(3):
        page.keyboard.press("c")
        page.keyboard.press("ArrowRight")
    page.keyboard.press("x")
    take("sketch-compare")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Workshop").click()
    take("workshop")
    go(SNAIL, "ink")
    page.get_by_role("row", name=re.compile("Closed paths")).wait_for(timeout=60_000)
    take("ink")
    page.keyboard.press("t")
    page.get_by_text("start here").wait_for(timeout=120_000)
    take("ink-ladder")
    page.keyboard.press("t")
    page.keyboard.press("v")
    page.get_by_role("region", name="Veil").wait_for(timeout=60_000)
    take("ink-veil")
    # A sketch with faults of its own, and what the forecast would do about them.
    go(SNAIL, "ink", 3)
    page.get_by_role("button", name="Do what helps").click()
    choose_option(page, "Add a step", "Crop to the figure")
    page.get_by_role("button", name="Leave out “Crop to the figure”").wait_for(timeout=60_000)
    page.wait_for_timeout(3_000)
    take("ink-clean-up")
    go(CAN, "ink", _flat_sketch(page, url, CAN))
    page.get_by_role("radio", name="Flats").click()
    page.get_by_text(re.compile(r"auto, [2-9]")).wait_for(timeout=60_000)
    page.wait_for_timeout(3_000)
    take("ink-flats")
    go(HEDGEHOG, "proof")
    page.get_by_role("row", name=re.compile("Closed paths")).wait_for(timeout=60_000)
    page.keyboard.press("f")
    page.keyboard.press("f")
    page.keyboard.press("f")
    page.keyboard.press("0")
    page.get_by_text(re.compile("findings . → .")).wait_for(timeout=60_000)
    take("proof")
    go(TEAPOT, "proof")
    page.get_by_role("tab", name="Shapes").click()
    page.keyboard.press(".")
    take("proof-shapes")
    page.get_by_role("tab", name="Letters").click()
    page.get_by_label("Text").fill("Pippin Row")
    page.get_by_role("radio", name="arch").click()
    page.get_by_role("button", name="Set the letters").click()
    page.get_by_text("26/26").wait_for(timeout=60_000)
    take("proof-letters")
    page.keyboard.press("Control+z")
    page.wait_for_timeout(1_500)
    go(CAN, "proof")
    page.get_by_role("tab", name="Colours").click()
    page.get_by_label("Palette in words").fill("moss and honey")
    page.get_by_role("button", name="Propose").click()
    page.get_by_role("radio", name="moss and honey", exact=True).wait_for(timeout=60_000)
    choose_option(page, "Ground", "kraft")
    take("proof-colours")
    go(TEAPOT, "make")
    take("make-laser")
    for motif, process, yardstick in (
        (CAN, "Carve", "Oak shed sign"),
        (BEETROOT, "Relief", "Seed-tin lid"),
        (POD, "Apparel", "Apron"),
        (SNAIL, "Laser", "Laser on slate marker"),
    ):
        go(motif, "make")
        page.get_by_role("button", name="change", exact=True).click()
        page.get_by_role("dialog").get_by_role("button", name=re.compile(f"^{yardstick}")).click()
        if process == "Laser":
            break
        page.get_by_role("radio", name=process).click()
        page.wait_for_timeout(2_500)
        take(f"make-{process.lower()}")
    go(TEAPOT, "pack")
    page.get_by_label("Description").fill(
        "Six bold garden silhouettes for slate, plywood and print, each a closed path."
    )
    page.get_by_label("Keywords").fill("allotment, garden, silhouette, snail, teapot, laser")
    page.get_by_label("Keywords").blur()
    take("pack")
    page.get_by_role("button", name="change", exact=True).click()
    take("yardstick")


def _flat_sketch(page: Page, url: str, motif: int) -> int:
    """Return the first sketch of a motif that was drawn in flat colours."""
    drawn = page.request.get(f"{url}api/motifs/{motif}/sketches").json()
    return int(next(sketch["id"] for sketch in drawn if sketch["look"] == "flat"))


def _wait(url: str) -> None:
    for _ in range(1200):
        try:
            urllib.request.urlopen(url).read()
            return
        except OSError:
            time.sleep(0.25)
    raise SystemExit("The app did not answer.")


if __name__ == "__main__":
    main()
