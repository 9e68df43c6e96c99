"""What is to be printed, on plates and over days, in the real browser."""

import re

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import choose, drop, settled
from tests.shapes import box
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser


def test_figures_are_laid_on_plates_and_their_days_planned(page, served):
    drop(page, "crate.stl", stl_bytes(box(30, 20, 12)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.goto(served)
    page.get_by_role("link", name="Plates and days").click()
    expect(page.get_by_role("heading", name="No plate yet")).to_be_visible()
    expect(page.get_by_text("Nothing yet.")).to_be_visible()
    choose(page, "Figure", "Crate")
    page.get_by_label("How many").fill("5")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("list", name="To be printed")).to_contain_text("5 x Crate")
    expect(page.get_by_role("heading", name="plate 1 of 1")).to_be_visible()
    expect(page.get_by_role("img", name="5 shadows on a plate")).to_be_visible()
    expect(page.get_by_role("row", name="printing")).to_contain_text("1 plate")

    # Fewer on a plate lose less, and make more of them.
    page.get_by_label("Parts on a plate at most").fill("2")
    page.get_by_role("button", name="Keep to that many").click()
    expect(page.get_by_role("heading", name="plate 1 of 3")).to_be_visible()
    page.keyboard.press("Tab")
    page.locator("h2").first.click()
    page.keyboard.press("j")
    expect(page.get_by_role("heading", name="plate 2 of 3")).to_be_visible()
    days = page.get_by_role("region", name="Days")
    expect(days.get_by_title(re.compile("^plate 3:"))).to_be_visible()
    expect(days.get_by_text("begin plate 1 on Lantern 6")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="days as a calendar, ICS").click()
    assert b"BEGIN:VCALENDAR" in download.value.path().read_bytes()

    # A plate is begun as a proof of what lies on it.
    page.get_by_role("button", name="Begin this plate as a proof").click()
    page.get_by_role("checkbox", name="plate clean, level and tight").check()
    page.get_by_role("button", name="Begin it").click()
    expect(page.get_by_role("link", name="proof 1")).to_be_visible()

    # It is kept, also when the page is opened again.
    page.reload()
    expect(page.get_by_role("heading", name="plate 1 of 3")).to_be_visible()
    page.get_by_role("button", name="Leave out Crate").click()
    expect(page.get_by_text("Nothing yet.")).to_be_visible()
