"""How long a designer waits for the first picture of what they brought in."""

import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright
from tests.e2e.conftest import ARGUMENTS

__all__ = ["first_picture"]

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
