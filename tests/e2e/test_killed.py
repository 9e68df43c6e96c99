"""The page, when its server is killed under it."""

import pytest
from playwright.sync_api import expect

from tests.served import Served
from tests.shapes import ball
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("killed", [pytest.param("server", marks=pytest.mark.deep), "both"])
def test_a_page_that_stayed_open_goes_on_when_its_server_was_killed_and_started_again(browser, tmp_path, killed):
    served = Served(tmp_path / "data")
    sculpt = tmp_path / "moon.stl"
    sculpt.write_bytes(stl_bytes(ball(15, rounds=7)))
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.set_default_timeout(90_000)
    try:
        page.goto(served.address)
        page.get_by_label("Bring in a figure: choose its file").set_input_files(sculpt)
        page.wait_for_url("**/figures/1")
        expect(page.get_by_role("status").first).to_contain_text("left")
        served.kill(killed)
        served = Served(tmp_path / "data", served.port)
        # Nothing is reloaded: the page hears of the new server by itself.
        expect(page.locator(".calipers")).to_contain_text("tall 30.0", timeout=90_000)
        expect(page.locator(".notes")).to_have_attribute("aria-busy", "false")
        page.get_by_role("button", name="Height, 30.0 mm; edit").click()
        page.keyboard.type("45")
        page.keyboard.press("Enter")
        expect(page.locator(".calipers")).to_contain_text("tall 45.0", timeout=90_000)
    finally:
        page.context.close()
        served.kill()
