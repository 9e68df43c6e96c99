"""A post is cut and keyed, its weak joint given a wire, pulled apart, released and reopened; by mouse and keys."""

import re
import zipfile

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import act, drop, record, settled, station
from tests.e2e.test_for_everyone import complaints
from tests.shapes import box, cylinder
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.solids import mesh_of, solids_of

pytestmark = pytest.mark.browser


def post():
    """A block with a thin pole on it."""
    block, pole = solids_of(box(20, 16, 30), cylinder(1.3, 32, 32, at=(10, 8, 28)))
    return mesh_of(block.body + pole.body)[0]


def changed(page):
    expect(page.locator(".notes")).to_have_attribute("aria-busy", "true")
    settled(page)


def test_a_post_in_parts_keyed_held_by_a_wire_released_and_reopened(page, served):
    drop(page, "post.stl", stl_bytes(post()))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/part")
    settled(page)
    expect(page.get_by_role("heading", name="In one piece")).to_be_visible()
    page.keyboard.press("c")
    page.get_by_role("textbox").first.fill("15")
    page.get_by_role("button", name="see it first").click()
    expect(page.get_by_text(re.compile(r"2 parts, joint 320 mm²"))).to_be_visible()
    assert complaints(page) == []
    page.get_by_role("button", name="Cut it", exact=True).click()
    changed(page)
    expect(page.get_by_role("heading", name="Nothing guides upper figure and lower figure together")).to_be_visible()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("2 flat-sided keys")
    settled(page)
    expect(page.get_by_text("one way round 1 of 1")).to_be_visible()
    expect(page.get_by_role("row", name="lower figure, laid ready")).to_be_visible()

    # The pole of the upper part, whose thin joint opens at once.
    page.get_by_role("navigation", name="Parts").get_by_role("button", name="upper figure").click()
    page.keyboard.press("c")
    page.get_by_role("textbox").first.fill("25")
    page.get_by_role("button", name="Cut it", exact=True).click()
    changed(page)
    expect(page.get_by_role("heading", name="opens at")).to_be_visible()
    page.get_by_role("button", name="Put steel wire").click()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("Steel wire")
    settled(page)
    expect(page.get_by_role("heading", name="opens at")).to_have_count(0)
    slider = page.get_by_label("pulled apart")
    expect(slider).to_have_value("1")
    page.keyboard.press("o")
    expect(slider).to_have_value("0")
    assert complaints(page) == []

    page.goto(f"{served}/figures/1/bring-in")
    settled(page)
    page.keyboard.press("a")
    settled(page)
    page.reload()
    settled(page)
    station(page, "Release").click()
    act(page, "Pack this edition alone")
    page.get_by_role("button", name="Pack it", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("link", name="post_release.zip").click()
    with zipfile.ZipFile(download.value.path()) as packed:
        names = packed.namelist()
    assert [name for name in names if name.endswith("_lower-figure.stl")]
    assert sum(name.endswith(".stl") for name in names) == 3
