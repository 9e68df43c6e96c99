"""What is to be printed, on plates and over days, in the real browser."""

import re

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import choose, drop, settled
from tests.shapes import box
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser


def opened(page, summary):
    page.locator("details", has=page.get_by_text(summary, exact=True)).locator("summary").first.click()


def crate_on_a_plate(page, served):
    drop(page, "crate.stl", stl_bytes(box(30, 20, 12)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.goto(f"{served}/plates-and-days")
    choose(page, "Figure", "Crate")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("heading", name="plate 1 of 1")).to_be_visible()


def test_figures_are_laid_on_plates_and_moved_by_hand(page, served):
    drop(page, "crate.stl", stl_bytes(box(30, 20, 12)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.goto(served)
    page.get_by_role("link", name="Plates and days").click()
    expect(page.get_by_role("heading", name="No plate yet")).to_be_visible()
    expect(page.get_by_text("Nothing yet.").first).to_be_visible()
    choose(page, "Figure", "Crate")
    page.get_by_label("How many").fill("5")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("list", name="To be printed")).to_contain_text("5 x Crate")
    expect(page.get_by_role("heading", name="plate 1 of 1")).to_be_visible()
    expect(page.get_by_role("img", name="5 shadows on a plate")).to_be_visible()
    expect(page.get_by_role("row", name="printing")).to_contain_text("1 plate")

    # One is dragged, which is checked while it moves, and stays where it was put.
    part = page.locator("svg g[class*=part]").first.bounding_box()
    page.mouse.move(part["x"] + part["width"] / 2, part["y"] + part["height"] / 2)
    page.mouse.down()
    page.mouse.move(part["x"] + 60, part["y"] + 20, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="Keep it so")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Keep it so")).to_be_hidden()
    page.keyboard.press("p")
    for key in ("R", "ArrowUp", "ArrowUp"):
        page.keyboard.press(key)
    expect(page.get_by_role("button", name="Keep it so")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_text("1 part placed by hand.")).to_be_visible()

    # Fewer on a plate lose less, and make more of them; that is undone.
    opened(page, "When, and by what rules")
    page.get_by_label("Parts on a plate at most").fill("2")
    page.get_by_role("button", name="Keep to that many").click()
    expect(page.get_by_role("heading", name="plate 1 of 3")).to_be_visible()
    page.locator("h2").first.click()
    page.keyboard.press("u")
    expect(page.get_by_role("heading", name="plate 1 of 1")).to_be_visible()
    page.get_by_role("button", name="redo").click()
    expect(page.get_by_role("heading", name="plate 1 of 3")).to_be_visible()
    page.locator("h2").first.click()
    page.keyboard.press("j")
    expect(page.get_by_role("heading", name="plate 2 of 3")).to_be_visible()
    opened(page, "What has to be set, and the plate as a file")
    with page.expect_download() as download:
        page.get_by_role("link", name="placed parts, STL").click()
    assert len(download.value.path().read_bytes()) == 84 + 50 * 24


def test_days_are_moved_and_what_runs_short_is_told(page, served):
    crate_on_a_plate(page, served)

    # A print is moved: what that moves is said.
    days = page.get_by_role("region", name="Days")
    days.get_by_role("button", name=re.compile("^Move: begin plate 1")).click()
    for _ in range(30):
        days.get_by_role("button", name="an hour later").click()
    days.get_by_role("button", name="Plan it so").click()
    expect(days.get_by_text("Moved by hand: plate 1")).to_be_visible()
    expect(page.get_by_text(re.compile("later than before"))).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="days as a calendar, ICS").click()
    assert b"BEGIN:VCALENDAR" in download.value.path().read_bytes()
    page.get_by_role("button", name="Try what would win time").click()
    won = page.get_by_role("list", name="What would win time")
    expect(won).to_contain_text("all at 90% of their size", timeout=90_000)

    # Stock is counted, and the plan says when it runs out.
    page.get_by_role("link", name="Stock").click()
    page.get_by_role("button", name="Tough grey resin").click()
    page.get_by_label("How much, ml").fill("2")
    page.get_by_role("button", name="Enter the line").click()
    expect(page.get_by_role("row", name="Tough grey resin").first).to_contain_text("2.0 ml")
    page.get_by_role("link", name="Plates and days").click()
    sums = page.get_by_role("region", name="What is wanted and what it takes")
    expect(sums.get_by_role("row", name="Tough grey resin")).to_contain_text("2 ml there: runs out")


def test_a_plate_is_begun_fails_and_is_planned_anew(page, served):
    crate_on_a_plate(page, served)
    page.get_by_role("button", name="Begin this plate as a proof").click()
    page.get_by_role("checkbox", name="plate clean, level and tight").check()
    page.get_by_role("button", name="Begin it").click()
    begun = page.get_by_role("list", name="Begun")
    expect(begun).to_contain_text("under way since")
    expect(page.get_by_role("heading", name="No plate yet")).to_be_visible()
    days = page.get_by_role("region", name="Days")
    expect(days.get_by_role("img", name=re.compile("^proof 1: .*under way"))).to_be_visible()
    page.get_by_role("link", name="proof 1").click()
    settled(page)
    proof = page.request.get(f"{served}/api/proofs/1").json()
    came = {**proof["proof"]["came"], "ended": proof["proof"]["began"]}
    came["copies"] = [{"part": 0, "outcome": "failed"}]
    headers = {"If-Match": str(proof["revision"]), "X-Ulvet": "test"}
    page.request.put(f"{served}/api/proofs/1", data={"came": came, "says": "failed"}, headers=headers)

    # It is kept, and what failed is planned anew, also when the page is opened again.
    page.goto(f"{served}/plates-and-days")
    expect(page.get_by_role("list", name="Begun")).to_contain_text("1 copy failed, planned anew")
    expect(page.get_by_role("heading", name="plate 1 of 1")).to_be_visible()

    # Hours are counted, and stand beside those that were told.
    choose(page, "Worked on", "Crate")
    page.get_by_label("Minutes; empty to count them").fill("45")
    page.get_by_role("button", name="Enter them").click()
    expect(page.get_by_role("row", name="Crate")).to_contain_text("45 min")
    page.get_by_role("button", name="Leave out Crate").click()
    expect(page.get_by_text("Nothing yet.").first).to_be_visible()
