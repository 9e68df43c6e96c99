"""How long a designer waits for the first picture of what they brought in."""

import socket
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright
from tests.e2e.conftest import ARGUMENTS

__all__ = ["first_picture", "place_of_a_stroke"]

_WATCH = """() => {
  const open = XMLHttpRequest.prototype.open;
  XMLHttpRequest.prototype.open = function (...asked) {
    this.upload.addEventListener('load', () => { window.sentAt = performance.now(); });
    return open.apply(this, asked);
  };
  new MutationObserver(() => {
    if (!window.drawnAt && document.querySelector('.chart[data-settled="true"]')) window.drawnAt = performance.now();
  }).observe(document.documentElement, { subtree: true, childList: true, attributes: true });
}"""


def first_picture(path: Path) -> float:
    """Seconds from the end of a file's upload until it is drawn, at rest, in a page that draws in software.

    The best of three figures brought in one after the other, once a server that was just started is warm.
    """
    with _served(path.parent / "studio") as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        return min(_one(browser.new_page(viewport={"width": 1280, "height": 800}), address, path) for _ in range(3))


def place_of_a_stroke(path: Path, radius: float) -> float:
    """Seconds from a place under the pointer until the figure can be drawn with what the brush moved there: the median
    over a stroke with a brush of a radius (print mm), in a page that draws in software."""
    with _served(path.parent / "strokes") as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.set_input_files("input[type=file]", path)
        page.wait_for_url("**/figures/1", timeout=120_000)
        page.wait_for_selector('.notes[aria-busy="false"]', timeout=300_000)
        page.wait_for_selector('.chart[data-settled="true"]', timeout=60_000)
        page.keyboard.press("1")
        page.keyboard.press("t")
        page.get_by_text("Putting it together: forms, joins, stamps, strokes").click()
        page.get_by_label("Radius of the brush, mm").fill(str(radius))
        page.get_by_role("button", name="Take the brush up").click()
        page.wait_for_function("() => !document.querySelector('.picking-says').textContent.includes('laid out')")
        box = page.locator(".chart canvas").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        for step in range(1, 41):
            page.mouse.move(x + 3 * step, y + 3 * step)
            # Hands are slower than this; a place that waits for the one before it would be measured twice.
            page.wait_for_timeout(60)
        page.wait_for_timeout(1000)
        took = page.evaluate("() => performance.getEntriesByName('place of a stroke').map(({ duration }) => duration)")
        page.mouse.up()
        page.close()
    return float(statistics.median(took)) / 1000


def _one(page: Page, address: str, path: Path) -> float:
    page.goto(address)
    page.wait_for_timeout(3000)
    page.evaluate(_WATCH)
    page.set_input_files("input[type=file]", path)
    page.wait_for_function("() => window.drawnAt", timeout=60_000)
    took = page.evaluate("() => (window.drawnAt - window.sentAt) / 1000")
    # The next one is not to wait for the checks of this.
    page.wait_for_selector('.notes[aria-busy="false"]', timeout=300_000)
    page.close()
    return float(took)


@contextmanager
def _served(data: Path) -> Iterator[str]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    address = f"http://127.0.0.1:{port}"
    ulvet = Path(sys.executable).with_name("ulvet")
    server = subprocess.Popen([ulvet, "serve", "--port", str(port), "--data", str(data)], stdout=subprocess.DEVNULL)
    try:
        for _ in range(600):
            with suppress(httpx.TransportError):
                httpx.get(f"{address}/api/shelf")
                break
            time.sleep(0.05)
        yield address
    finally:
        server.terminate()
        server.wait(30)
