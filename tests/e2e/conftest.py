"""A real browser, drawing in software."""

import base64

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
expect.set_options(timeout=120_000)


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


def choose(page, label, option):
    page.get_by_label(label, exact=True).first.click()
    page.get_by_role("option", name=option, exact=True).click()


def record(page):
    return page.get_by_role("region", name="Record")


def drop(page, name, content):
    page.evaluate(DROP, [name, base64.b64encode(content).decode()])


def settled(page):
    """The figure is drawn, and what is shown is of the newest revision."""
    page.wait_for_selector('.chart[data-settled="true"]')
    expect(page.locator(".notes")).to_have_attribute("aria-busy", "false", timeout=300_000)


def station(page, name):
    return page.get_by_role("navigation", name="Stations").get_by_role("button", name=name)


def pick_in_the_middle(page):
    """With the keys: the cross starts in the middle of the chart, where the figure is."""
    page.locator(".chart canvas").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".picking-says")).to_have_count(0)


def middle_of(page):
    box = page.locator(".chart canvas").bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, start, *places):
    page.mouse.move(*start)
    page.mouse.down()
    for place in places:
        page.mouse.move(*place, steps=6)
    page.mouse.up()


DROP = """([name, content]) => {
  const bytes = Uint8Array.from(atob(content), (letter) => letter.charCodeAt(0));
  const data = new DataTransfer();
  data.items.add(new File([bytes], name));
  for (const kind of ['dragenter', 'dragover', 'drop'])
    document.body.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }));
}"""


def act(page, name):
    """Open what can be done at the station by its name, whatever is in focus."""
    page.keyboard.press("t")
    page.get_by_role("region", name="What can be done here").get_by_role("button", name=name).first.click()
