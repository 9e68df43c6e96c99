"""A set in two tiers is published, a buyer reports, the crest is corrected, and everybody is told: in the browser."""

import json

import httpx
import pytest
from playwright.sync_api import expect

from tests.devices import running_shop
from tests.e2e.conftest import act, drop, settled
from tests.e2e.releasing import answer, offer, pack, packed, record, words_for_all
from tests.shapes import box, concatenated, cylinder
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.release.pack import verify_pack

pytestmark = pytest.mark.browser

CRANE = concatenated(box(10, 10, 24), cylinder(4, 12, 24, at=(5, 5, 23)))


def own_and_cut(served):
    recipe = httpx.get(f"{served}/api/figures/1/recipe.json", timeout=30).json()["recipe"]
    record(served, {"kind": "credit", "source": recipe["steps"][0]["source"], "terms": "own-work"})
    record(served, {"kind": "cut", "offset": 18, "normal": [0, 0, 1]})
    recipe = httpx.get(f"{served}/api/figures/1/recipe.json", timeout=30).json()["recipe"]
    cut = next(step["id"] for step in recipe["steps"] if step["kind"] == "cut")
    record(served, {"kind": "name-part", "scope": f"figure.{cut}-upper", "title": "Crest"})


def begin(page):
    """A set with the edition and its mirror image, the first of them for nothing too."""
    act(page, "Say what goes out")
    page.get_by_label("Name of the set").fill("Fen birds")
    page.get_by_role("button", name="Begin the set").click()
    expect(page.get_by_role("region", name="Fen birds")).to_be_visible()
    act(page, "Say what goes out")
    page.get_by_role("button", name="add it mirrored").click()
    page.get_by_role("group", name="Crane, First edition").first.get_by_label("free").check()
    page.get_by_role("button", name="Keep it so").click()
    expect(page.get_by_role("button", name="Keep it so")).to_have_count(0)


def test_a_set_goes_out_comes_back_and_is_corrected(page, served, tmp_path):
    drop(page, "crane.stl", stl_bytes(CRANE))
    page.wait_for_url("**/figures/1")
    settled(page)
    own_and_cut(served)
    page.goto(f"{served}/figures/1/release")
    settled(page)
    begin(page)
    words_for_all(page)
    pack(page, 1)
    files, data = packed(served, 1, "bought")
    (tmp_path / "pack.zip").write_bytes(data)
    assert verify_pack(tmp_path / "pack.zip").whole
    assert len(json.loads(files["manifest.json"])["items"]) == 2
    assert len(json.loads(packed(served, 1, "free")[0]["manifest.json"])["items"]) == 1

    with running_shop(tmp_path / "shop") as address:
        offer(page, address)
        # The body is corrected, and the guide says why.
        record(served, {"kind": "hollow", "wall": 1.5})
        page.reload()
        settled(page)
        words_for_all(page)
        answer(page, "The body is hollow now: rinse it well.")
        pack(page, 2)
        expect(page.get_by_role("list", name="Who needs it")).to_contain_text("needs it:")
        expect(page.get_by_role("list", name="Shops")).to_contain_text("issue 1 is to be replaced by 2: file")
        guide = packed(served, 2, "bought")[0]["guide.html"].decode()
        assert "The body is hollow now" in guide and "needs it: print" in guide
        act(page, "Offer it in shops")
        page.get_by_role("button", name="Replace issue 1 there").click()
        page.keyboard.press("Escape")
        expect(page.get_by_role("list", name="Shops")).to_contain_text("issue 2 is in place")
        (held,) = (tmp_path / "shop" / "offers").glob("*.json")
        assert json.loads(held.read_bytes())["times"] == 2
