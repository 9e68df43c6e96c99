import pytest
from playwright.sync_api import expect

from tests.conftest import sent
from tests.e2e.conftest import settled
from ulvet.core.formats.stl import stl_bytes
from ulvet.demo.ferrywoman import ferrywoman

pytestmark = pytest.mark.browser


def title(page, says):
    return page.locator(".notes").get_by_role("heading", level=2, name=says)


def test_the_dirty_demo_figure_is_taken_to_nothing_open_by_keys_alone(page, served):
    sent(served, "ferrywoman.stl", stl_bytes(ferrywoman()))
    page.goto(f"{served}/figures/1")
    settled(page)
    page.keyboard.press("3")
    expect(title(page, "316 faces turned the wrong way")).to_be_visible()

    for says in ("1 shell inside out", "The surface is open in 2 places"):
        page.keyboard.press("j")
        expect(title(page, says)).to_be_visible()

    # A finding of many places is one note with a list; the keys go through it, and the ring goes along.
    places = page.get_by_role("list", name="Places")
    expect(places.get_by_role("listitem")).to_have_count(2)
    page.keyboard.press(".")
    expect(places.get_by_role("button", pressed=True)).to_have_count(1)
    expect(page.get_by_text("Place 2 of 2")).to_be_visible()
    page.keyboard.press(",")
    expect(page.get_by_text("Place 1 of 2")).to_be_visible()

    # All ways out of the overlap tried beside each other, nothing changed by it.
    page.keyboard.press("j")
    expect(title(page, "2 shells overlap")).to_be_visible()
    page.keyboard.press("b")
    ways = page.get_by_role("group", name="All ways tried")
    expect(ways.get_by_text("Mended exactly: 2 holes closed")).to_have_count(2, timeout=120_000)
    expect(ways.get_by_text("Mended by volume")).to_have_count(1, timeout=180_000)
    expect(ways.get_by_text("relies on a slicer")).to_have_count(1)
    expect(page.get_by_role("region", name="Record")).not_to_contain_text("Mended")
    page.keyboard.press("b")

    # The last remedy mends all of it.
    for _ in range(3):
        page.keyboard.press("]")
    page.keyboard.press("a")
    expect(page.get_by_role("region", name="Record")).to_contain_text("Mended exactly: 2 holes closed")
    settled(page)
    expect(title(page, "Nothing to mark here")).to_be_visible()
    expect(page.get_by_role("navigation", name="Stations").get_by_role("button", name="Mend")).not_to_contain_text("3")
