"""From a scanner to a figure of certain size, and two makers whose terms do not go together, in the real browser."""

import httpx
import pytest
from playwright.sync_api import expect

from tests.conftest import sent
from tests.e2e.conftest import act, choose, drop, record, settled, station
from tests.shapes import ball, box
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser


def pick_across(page):
    """Click along the chart, from left to right, until as many places of the figure are picked as were asked for."""
    chart = page.locator(".chart canvas").bounding_box()
    asked = page.locator(".picking-says")
    for down in (0.5, 0.45, 0.55, 0.4, 0.6):
        for across in (0.44, 0.48, 0.52, 0.56, 0.6):
            if not asked.count():
                return
            page.mouse.click(chart["x"] + across * chart["width"], chart["y"] + down * chart["height"])
            page.wait_for_timeout(150)


def test_a_scan_from_the_device_to_a_closed_figure_of_measured_size(page, served):
    page.get_by_role("link", name="Scan an object").click()
    page.get_by_label("Stops in one round").fill("2")
    expect(page.get_by_role("button", name="Scan it in 6 passes")).to_be_disabled()
    page.get_by_label("Stops in one round").fill("6")
    page.get_by_label("Looking down by, degrees").fill("12, 45")
    page.get_by_role("button", name="Scan it in 12 passes").click()
    page.wait_for_url("**/figures/1/bring-in", timeout=90_000)
    settled(page)
    expect(record(page)).to_contain_text("Fused 12 passes")

    # The mount goes by the remedy of its finding.
    stop = page.get_by_role("heading", level=2, name="Whose is driftwood.scan.zip?")
    expect(stop).to_be_visible()
    page.keyboard.press("a")
    settled(page)
    expect(page.get_by_role("heading", level=2, name="Its mount is still on")).to_be_visible()
    page.keyboard.press("a")
    settled(page)
    expect(record(page)).to_contain_text("Mount taken off")

    # What nobody saw is closed, and told to be invented.
    station(page, "Mend").click()
    expect(page.get_by_role("heading", level=2, name="The surface is open")).to_be_visible()
    page.keyboard.press("a")
    settled(page)
    expect(record(page)).to_contain_text("Closed")
    station(page, "Bring in").click()
    expect(page.get_by_role("img", name="Captured points lie")).to_be_visible()

    # Its true size, by a length picked on it.
    act(page, "Give it its true size")
    page.get_by_label("What was measured", exact=True).fill("trunk")
    page.get_by_label("By calipers, mm").fill("40")
    page.get_by_role("button", name="Pick its ends on the figure").click()
    expect(page.get_by_role("status").filter(has_text="0 of 2")).to_be_visible()
    pick_across(page)
    expect(record(page)).to_contain_text("Size set by trunk 40.0 mm")
    settled(page)

    # And the size it is made for, worked out before it is set.
    station(page, "Size").click()
    page.wait_for_url("**/figures/1/size")
    act(page, "Work a size out")  # past the finding that it is too large for its printer now
    choose(page, "Size it by", "overall height")
    page.get_by_label("From the ground to the top, mm").fill("45")
    page.get_by_role("button", name="Make it 45.0 mm tall").click()
    expect(page.locator(".calipers")).to_contain_text("tall 45.0")
    settled(page)
    page.keyboard.press("u")
    expect(page.locator(".calipers")).not_to_contain_text("tall 45.0")
    settled(page)


def test_two_makers_whose_terms_do_not_go_together(page, served):
    # A bit that may not be sold, put on the shelf of bits.
    drop(page, "lantern.stl", stl_bytes(ball(6)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.keyboard.press("1")
    act(page, "Whose lantern.stl is")
    page.get_by_label("Who made it").fill("Withy Marlow")
    choose(page, "Under which terms", "CC BY-NC 4.0")
    page.get_by_role("button", name="Write it down").click()
    expect(record(page)).to_contain_text("lantern.stl is by Withy Marlow: CC BY-NC 4.0; no proof kept")
    settled(page)
    act(page, "Add a bit of the shelf")
    page.get_by_label("Name of the bit").fill("Lantern")
    page.get_by_role("button", name="Put Lantern here").click()
    expect(page.get_by_role("heading", level=2, name="Lantern")).to_be_visible()

    # A figure that must be passed on under its own terms takes it.
    assert sent(served, "hull.stl", stl_bytes(box(30, 20, 10))).status_code == 202
    page.goto(f"{served}/figures/2/bring-in")
    settled(page)
    act(page, "Whose hull.stl is")
    choose(page, "Under which terms", "CC BY-SA 4.0")
    page.get_by_role("button", name="Write it down").click()
    expect(record(page)).to_contain_text("CC BY-SA 4.0")
    settled(page)
    page.goto(f"{served}/bits?figure=2")
    page.get_by_label("Words of its name").fill("lant")
    page.get_by_role("button", name="Put it in Hull").click()
    page.wait_for_url("**/figures/2/bring-in")
    settled(page)
    expect(page.get_by_role("heading", level=2, name="hull.stl and Lantern cannot go out together")).to_be_visible()

    # The work goes on, a release does not; undo takes the bit out again, and its terms with it.
    head = {"X-Ulvet": "test"}
    held = httpx.post(f"{served}/api/figures/2/releases", headers=head, timeout=30)
    assert held.status_code == 422
    assert "cannot go out together" in held.json()["detail"]
    page.keyboard.press("u")
    settled(page)
    expect(record(page)).not_to_contain_text("Added Lantern")
    assert httpx.post(f"{served}/api/figures/2/releases", headers=head, timeout=30).status_code == 202
    # A picture of the wrong kind is no proof, and nothing is lost.
    answer = httpx.post(
        f"{served}/api/evidence",
        params={"file_name": "page.html"},
        content=b"\x00\x01<script>",
        headers=head,
        timeout=30,
    )
    assert answer.status_code == 422
    assert "neither PNG" in answer.json()["detail"]
