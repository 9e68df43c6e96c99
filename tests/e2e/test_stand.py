"""Ways to stand set beside each other, supports changed by hand, and what each layer does, in the real browser."""

import zipfile

import httpx
import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import act, choose, drop, middle_of, record, settled, station
from tests.shapes import box, concatenated, cylinder
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser

TABLE = concatenated(box(30, 24, 4, at=(-15, -12, 20)), cylinder(3, 21))


def contacts(served):
    (part,) = httpx.get(f"{served}/api/figures/1", timeout=30).json()["build"]["parts"]
    return part["facts"]["stance"]["contacts"]


def seen_from_below(page):
    """Turn the chart until the underside of the figure is in its middle."""
    page.locator(".chart canvas").focus()
    for _ in range(14):
        page.keyboard.press("ArrowDown")


def clicked(page, *offsets):
    x, y = middle_of(page)
    for across, down in offsets:
        page.mouse.click(x + across, y + down)
        page.wait_for_timeout(200)


def bare_and_two_added(page):
    """Skin kept bare on one side, two supports added on the other."""
    act(page, "Change supports by hand")
    seen_from_below(page)
    choose(page, "What a click does", "keeps skin bare")
    page.get_by_label("Within, mm").fill("6")
    page.get_by_role("button", name="Click places on the figure").click()
    clicked(page, (-60, 0))
    page.get_by_role("button", name="Done clicking").click()
    choose(page, "What a click does", "adds a support")
    page.get_by_role("button", name="Click places on the figure").click()
    clicked(page, (60, 30), (70, -30))
    page.get_by_role("button", name="Done clicking").click()
    expect(page.get_by_role("list", name="Acts by hand").get_by_role("listitem")).to_have_count(3)


def test_ways_are_weighed_supports_changed_by_hand_and_kept_under_a_new_sculpt(page, served):
    drop(page, "table.stl", stl_bytes(TABLE))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/stand")
    settled(page)

    # Ways beside each other; the upright one is taken.
    act(page, "Weigh ways to stand")
    ways = page.get_by_role("radiogroup", name="Ways to stand").get_by_role("radio")
    expect(ways.nth(1)).to_be_visible()
    assert 2 <= ways.count() <= 6
    expect(page.get_by_role("row", name="contacts that show")).to_be_visible()
    page.get_by_role("radio", name="Upright").click()
    page.get_by_role("button", name="Stand it that way and hold it").click()
    expect(record(page)).to_contain_text("Held by")
    settled(page)
    proposed = contacts(served)

    # By hand, all of it made at once.
    bare_and_two_added(page)
    page.get_by_role("button", name="Hold it so").click()
    expect(record(page)).to_contain_text("3 acts by hand")
    settled(page)
    changed = contacts(served)
    added = [one for one in changed if one["by_hand"]]
    assert len(added) == 2
    assert len(changed) < len(proposed) + 2

    # They stay under a new sculpt and at another size.
    page.goto(f"{served}/figures/1/bring-in")
    settled(page)
    taller = concatenated(box(30, 24, 6, at=(-15, -12, 20)), cylinder(3, 21))
    act(page, "Bring in a new sculpt")
    page.get_by_label("Bring in a new sculpt: choose its file").set_input_files(
        {"name": "table.stl", "mimeType": "model/stl", "buffer": stl_bytes(taller)}
    )
    expect(page.locator(".calipers")).to_contain_text("tall 26.0")
    settled(page)
    expect(record(page)).to_contain_text("3 acts by hand")
    assert len([one for one in contacts(served) if one["by_hand"]]) == 2
    station(page, "Size").click()
    act(page, "Work a size out")
    choose(page, "Size it by", "overall height")
    page.get_by_label("From the ground to the top, mm").fill("39")
    page.get_by_role("button", name="Make it 39.0 mm tall").click()
    expect(page.locator(".calipers")).to_contain_text("tall 39.0")
    settled(page)
    larger = [one for one in contacts(served) if one["by_hand"]]
    assert len(larger) == 2
    assert max(abs(one["point"][0]) for one in larger) > 1.4 * max(abs(one["point"][0]) for one in added)

    # Layers: played, and had as pictures.
    station(page, "Layers").click()
    expect(page.get_by_role("slider", name="Layer")).to_be_visible()
    page.keyboard.press("t")  # past what was found
    expect(page.get_by_text("Look at it")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="all layers as pictures, ZIP").click()
    with zipfile.ZipFile(download.value.path()) as packed:
        assert "layers.json" in packed.namelist()
