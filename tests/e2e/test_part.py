"""A post is cut, keyed, put in an order that cannot be and mended, a weak joint given a wire, released and reopened;
with the mouse and the keys."""

import io
import zipfile

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import act, choose, drop, record, settled
from tests.e2e.test_for_everyone import complaints
from tests.shapes import box, cylinder
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.solids import mesh_of, solids_of

pytestmark = pytest.mark.browser


def post():
    """A block with a thin pole on it."""
    block, pole = solids_of(box(20, 16, 30), cylinder(1.2, 32, 32, at=(10, 8, 28)))
    return mesh_of(block.body + pole.body)[0]


def cut(page, lies, place):
    page.keyboard.press("c")
    if lies:
        choose(page, "How the cut lies", lies)
    page.get_by_role("textbox").first.fill(place)
    page.get_by_role("button", name="Cut it", exact=True).click()
    expect(page.locator(".notes")).to_have_attribute("aria-busy", "true")
    settled(page)


def test_a_post_in_parts_keyed_ordered_and_held_by_a_wire(page, served):
    drop(page, "post.stl", stl_bytes(post()))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/part")
    settled(page)
    expect(page.get_by_role("heading", name="In one piece")).to_be_visible()
    page.keyboard.press("c")
    page.get_by_role("textbox").first.fill("15")
    page.keyboard.press("Tab")
    page.get_by_role("button", name="see it first").click()
    expect(page.get_by_text("2 parts, joint 320 mm². ")).to_be_visible()
    assert complaints(page) == []
    page.get_by_role("button", name="Cut it", exact=True).click()
    settled(page)
    expect(page.get_by_role("heading", name="Nothing guides upper figure and lower figure together")).to_be_visible()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("2 flat-sided keys")
    settled(page)

    # The upper part in two, keyed across: half by half it goes together, one after the other it does not.
    page.get_by_role("button", name="upper figure", exact=False).first.click()
    cut(page, "left from right", "14")
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("key")
    settled(page)
    act(page, "Cut it by a plane")
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Order of assembly")).to_be_visible()
    assert complaints(page) == []

    # The pole by itself, whose thin joint opens at once.
    page.goto(f"{served}/figures/1/part")
    settled(page)
    page.get_by_role("navigation", name="Parts").get_by_role("button", name="upper left figure").click()
    cut(page, "", "40")
    expect(page.get_by_role("heading", name="opens at")).to_be_visible()
    page.keyboard.press("y")
    choose(page, "What holds it", "a bought rod or wire")
    choose(page, "Rod or wire", "Steel wire 0.8")
    page.get_by_role("button", name="Set the keys").click()
    expect(record(page)).to_contain_text("Steel wire 0.8")
    settled(page)
    page.keyboard.press("o")
    expect(page.get_by_label("pulled apart")).to_have_value("0")

    page.reload()
    settled(page)
    expect(page.get_by_role("navigation", name="Parts").get_by_role("button")).to_have_count(4)
    with page.expect_download() as download:
        page.get_by_role("link", name="All parts and what is bought").click()
    table = io.open(download.value.path(), encoding="utf-8").read()
    assert "upper upper left figure" in table and "Steel wire 0.8" in table
    assert zipfile
