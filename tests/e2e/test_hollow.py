"""A shell that sucks is vented, a space opened at both ends, a magnet set in; with the keys, and undone."""

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import choose, drop, pick_in_the_middle, record, settled
from tests.e2e.test_for_everyone import complaints
from tests.shapes import ball, box, concatenated
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import flipped
from ulvet.core.geometry.solids import mesh_of, solids_of

pytestmark = pytest.mark.browser


def block():
    """A block with a bowl in its top and a sealed lantern inside."""
    whole, bowl = solids_of(box(24, 20, 40), box(18, 14, 6, at=(3, 3, 35)))
    return concatenated(mesh_of(whole.body - bowl.body)[0], flipped(ball(4, at=(12, 10, 10))))


def test_a_cup_is_vented_a_space_opened_a_magnet_set_in_and_all_of_it_undone(page, served):
    drop(page, "block.stl", stl_bytes(block()))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/hollow")
    settled(page)
    expect(page.get_by_role("heading", name="1 space that nothing leads out of, 0.27 ml")).to_be_visible()
    expect(page.locator(".drawing").first).to_contain_text("plate end")
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("Opened at 2 places")
    settled(page)
    expect(page.get_by_role("row", name="plate end")).to_be_visible()
    expect(page.get_by_role("row", name="film end")).to_be_visible()
    expect(page.locator(".legend", has_text="opening, mm wide")).to_be_visible()
    assert complaints(page) == []

    page.goto(f"{served}/figures/1/layers")
    settled(page)
    expect(page.get_by_role("heading", name="A cup that sucks at the film")).to_be_visible()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("Vented at 1 place")
    settled(page)
    expect(page.get_by_role("heading", name="A cup that sucks at the film")).to_have_count(0)

    page.goto(f"{served}/figures/1/hollow")
    settled(page)
    page.keyboard.press("m")
    choose(page, "Bought part", "Magnet 3 x 2")
    choose(page, "Pole that looks outward", "north: a sunk cross")
    page.get_by_role("button", name="Click a place on the chart").click()
    pick_in_the_middle(page)
    page.get_by_role("button", name="Make the pocket").click()
    expect(record(page)).to_contain_text("Pocket for Magnet 3 x 2 at 1 place")
    settled(page)
    expect(page.get_by_role("row", name="Magnet 3 x 2")).to_contain_text("whole")
    assert complaints(page) == []

    for _ in range(3):
        page.get_by_role("button", name="Undo", exact=True).click()
        settled(page)
    expect(page.get_by_role("heading", name="1 space that nothing leads out of, 0.27 ml")).to_be_visible()
    expect(record(page)).not_to_contain_text("Opened")
