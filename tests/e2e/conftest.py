"""A real browser, drawing in software."""

import pytest
from playwright.sync_api import expect, sync_playwright

from ulvet.api.app import front_end_folder

ARGUMENTS = [
    "--no-sandbox",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--ignore-gpu-blocklist",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


# What a check brings about is waited for on slow machines too.
expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def browser():
    assert (front_end_folder() / "index.html").is_file(), "build the front end first: make test does"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture
def page(browser, served):
    """The shelf of an empty studio. Whatever the page logs as an error fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    errors = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda said: errors.append(said.text) if "Content Security Policy" in said.text else None)
    page.set_default_timeout(90_000)
    page.goto(served)
    yield page
    context.close()
    assert not errors
