"""``make screenshots``: a current picture of each main view at 1280x800, from fresh demo data."""

import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import uvicorn
from playwright.sync_api import Page, sync_playwright
from tests.e2e.conftest import ARGUMENTS

from ulvet.api.app import create_app
from ulvet.demo.shelf import fill_shelf

HERE = Path(__file__).parent
PORT = 8431


def settled(page: Page) -> None:
    """Wait until the figure is drawn, and drawn finely, and what is shown is new."""
    page.wait_for_selector('.chart[data-settled="true"]')
    page.wait_for_selector('.notes[aria-busy="false"]', timeout=120_000)
    page.wait_for_selector(".drawing svg, svg.drawing, .drawing img, .notes h2")
    time.sleep(2)


def take(page: Page, address: str) -> None:
    """Every view in turn. The last ones change the figure, so they come last."""

    def shot(name: str) -> None:
        page.screenshot(path=HERE / f"{name}.png")

    page.goto(address)
    page.wait_for_selector(".shelf-figure img")
    time.sleep(1)
    shot("shelf")
    for station in ("mend", "size", "layers"):
        page.goto(f"{address}/figures/1/{station}")
        settled(page)
        shot(station)
    page.goto(f"{address}/figures/1/mend")
    settled(page)
    for _ in range(2):
        page.keyboard.press("a")
        page.wait_for_selector('.notes[aria-busy="true"]')
        settled(page)
    page.keyboard.press("4")
    settled(page)
    page.keyboard.press("p")
    page.wait_for_selector(".drawing path[stroke-dasharray='5 4']")
    settled(page)
    shot("gauge")
    _versions(page, address, shot)
    page.goto(f"{address}/figures/1/release")
    settled(page)
    page.get_by_role("button", name="Pack a release").click()
    page.wait_for_selector("ul[aria-label=Releases] a[download]", timeout=60_000)
    shot("release")
    page.goto(f"{address}/figures/1/gauge")
    settled(page)
    page.keyboard.press("n")
    settled(page)
    shot("night")


def _versions(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """Freeze a version, change the figure, stand it, and look at what became of it."""
    page.goto(f"{address}/figures/1/versions")
    page.get_by_label("What this version is for").fill("mended, the beak still thin")
    page.get_by_role("button", name="Freeze as version 1").click()
    page.wait_for_selector(".version-list li")
    page.goto(f"{address}/figures/1/gauge")
    settled(page)
    page.keyboard.press("a")
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    page.goto(f"{address}/figures/1/stand")
    settled(page)
    page.get_by_role("button", name="Lean it the best way and hold it").click()
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    shot("stand")
    page.goto(f"{address}/figures/1/versions")
    page.wait_for_selector("table.measures", timeout=120_000)
    page.wait_for_selector('.chart[data-settled="true"]')
    time.sleep(2)
    shot("versions")


def main() -> None:
    """Serve fresh demo data and take the pictures."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder)
        fill_shelf(data, print)
        server = uvicorn.Server(uvicorn.Config(create_app(data), port=PORT, log_level="warning"))
        thread = threading.Thread(target=server.run)
        thread.start()
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(60_000)
            take(page, f"http://127.0.0.1:{PORT}")
            browser.close()
        server.should_exit = True
        thread.join()


if __name__ == "__main__":
    main()
