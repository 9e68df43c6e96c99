"""A figure is coloured by touches in two schemes, a mix is found and used, and what is hidden is painted first."""

import re

import httpx
import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import act, choose, drop, record, settled
from tests.shapes import box, concatenated
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser

HEAD = {WRITE_HEADER: "test"}
# A cup whose lid closes it: once it is on, no brush comes into it.
CUP = concatenated(
    box(24, 24, 3), box(24, 3, 24, at=(0, 0, 2)), box(24, 3, 24, at=(0, 21, 2)), box(3, 24, 24, at=(0, 0, 2)),
    box(3, 24, 24, at=(21, 0, 2)), box(24, 24, 4, at=(0, 0, 25)),
)  # fmt: skip


def said(served):
    return httpx.get(f"{served}/api/figures/1", timeout=30).json()


def record_step(served, **step):
    head = {**HEAD, "If-Match": str(said(served)["revision"])}
    answer = httpx.post(f"{served}/api/figures/1/record", json={"step": step, "says": "said"}, headers=head, timeout=60)
    assert answer.status_code == 200, answer.text


def test_a_figure_is_coloured_in_two_schemes_and_its_hidden_side_first(page, served):
    drop(page, "cup.stl", stl_bytes(CUP))
    page.wait_for_url("**/figures/1")
    settled(page)
    record_step(served, kind="mend-whole")
    record_step(served, kind="cut", offset=25.5, normal=[0, 0, 1])
    page.goto(f"{served}/figures/1/finish")
    settled(page)

    act(page, "Colour a region")
    page.get_by_label("What it is called").fill("cup")
    page.get_by_label("How far the colour goes").click()
    page.get_by_role("option", name="a band of heights").click()
    page.get_by_label("To, mm up").fill("40")
    page.get_by_role("button", name="Colour it").click()
    expect(record(page)).to_contain_text("1 region in 1 role")
    page.keyboard.press("Escape")
    settled(page)

    # A mix is found for a colour that is wanted, and becomes the coat.
    act(page, "Say what it is painted with")
    page.get_by_label("As #rrggbb").fill("#41576b")
    page.get_by_role("button", name="Find mixes").click()
    page.get_by_role("list", name="Mixes").get_by_role("button").first.click()
    page.get_by_role("button", name="Add the coat").click()
    expect(page.get_by_role("list", name="Coats").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("Escape")
    settled(page)
    (dusk,) = said(served)["build"]["finish"]["schemes"]
    mix = dusk["roles"][0]["coats"][0]["drops"]
    assert len(mix) > 1

    # Another scheme is tried beside it, and looked at by its name.
    act(page, "Try another scheme")
    page.get_by_label("Name of another scheme").fill("low tide")
    page.get_by_role("button", name="Begin it").click()
    page.keyboard.press("Escape")
    settled(page)
    expect(page.get_by_role("group", name="Schemes").get_by_role("button")).to_have_count(2)
    page.get_by_role("group", name="Schemes").get_by_role("button", name="low tide").click()
    expect(page.get_by_role("heading", name="in low tide")).to_be_visible()

    # What no brush comes to later is painted before it is closed.
    page.reload()
    settled(page)
    finding = page.get_by_role("heading", name="out of reach once it is together").first
    expect(finding).to_be_visible()
    page.get_by_role("list", name="Remedies").get_by_role("button", name="before step").first.click()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("1 region in 1 role")
    settled(page)
    page.keyboard.press("t")
    expect(page.get_by_role("list", name="Order of work")).to_contain_text("Paint what is out of reach later")


def decal_on_the_front(page):
    """A decal goes where the figure is touched; on a flat face it lies flat."""
    act(page, "Put on a decal")
    page.get_by_label("What the decal shows").fill("heron")
    page.get_by_role("button", name="Touch the figure").click()
    chart = page.locator("canvas").first.bounding_box()
    page.mouse.click(chart["x"] + chart["width"] / 2, chart["y"] + chart["height"] / 2)
    expect(page.get_by_text("its place is known")).to_be_visible()
    page.get_by_role("button", name="Put the decal there").click()
    expect(record(page)).to_contain_text("1 region in 1 role and 1 decal")
    page.keyboard.press("Escape")
    settled(page)
    expect(page.get_by_role("list", name="Decals")).to_contain_text("heron 6.0 × 4.0 mm")
    expect(page.get_by_role("list", name="Order of work")).to_contain_text("Gloss clear below decals")


def test_a_mix_is_made_again_a_copy_ticked_off_and_its_minutes_are_in_the_plan(page, served):
    drop(page, "post.stl", stl_bytes(box(12, 12, 30)))
    page.wait_for_url("**/figures/1")
    settled(page)
    blue = {"kind": "base", "paint": "tide-blue", "tool": "airbrush"}
    robe = {"role": "robe", "grows": "band", "low": 10, "high": 40}
    schemes = [{"name": "dusk", "roles": [{"role": "robe", "coats": [blue]}]}]
    record_step(served, kind="colour-plan", regions=[robe], schemes=schemes)
    page.goto(f"{served}/figures/1/finish")
    settled(page)
    expect(page.get_by_role("list", name="Masking lines")).to_contain_text("bare surface and robe")

    decal_on_the_front(page)

    # Five ml of a mix, then ten times as much of it.
    act(page, "Say what it is painted with")
    page.get_by_role("button", name="Find mixes").click()
    page.get_by_role("list", name="Mixes", exact=True).get_by_role("button").first.click()
    page.get_by_role("button", name="Mix so much").click()
    made = page.get_by_role("list", name="Mixes that were made").get_by_role("listitem")
    expect(made).to_contain_text("5.0 of 5.0 ml left")
    page.get_by_label("How much of a mix, ml").fill("50")
    page.get_by_role("button", name="make 50.0 ml of it again").click()
    expect(made).to_have_count(2)
    page.keyboard.press("Escape")

    act(page, "Tick off the work on a copy")
    page.get_by_role("button", name="Begin a copy").click()
    minutes = page.get_by_label("Minutes that “Wash” took")
    minutes.fill("12")
    minutes.press("Tab")
    expect(page.get_by_text(re.compile("12 min for what was told as"))).to_be_visible()
    page.get_by_role("button", name="This copy is done").click()
    expect(page.get_by_text("done; what it took of paints is taken off the stock")).to_be_visible()
    page.keyboard.press("Escape")

    # The air does not suit the paint, which is a finding at once.
    cold = page.get_by_label(re.compile("^Where it is painted it has"))
    cold.fill("4")
    cold.press("Tab")
    expect(page.get_by_role("heading", name="4 °C is too cold for Tide blue")).to_be_visible()

    # What is painted is planned too.
    page.goto(f"{served}/plates-and-days")
    choose(page, "Figure", "Post")
    page.get_by_role("button", name="Add it").click()
    page.get_by_role("checkbox", name="put together and painted").click()
    expect(page.get_by_role("row", name="hands").first).to_contain_text("sanding, gluing and painting")
    page.get_by_role("link", name="Stock").click()
    expect(page.get_by_role("region", name="The ledger")).to_contain_text("painted copy 1")
