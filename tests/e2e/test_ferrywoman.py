"""The demo figure the whole way out: in two sizes to buyers and corrected, and painted in two schemes."""

import json
import re

import httpx
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.conftest import sent
from tests.devices import running_shop
from tests.e2e.conftest import act, choose, record, settled
from tests.e2e.releasing import HEAD, answer, offer, pack, packed, words_for_all
from tests.e2e.releasing import record as record_step
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import bounds
from ulvet.core.release.pack import verify_pack
from ulvet.demo.ferrywoman import ferrywoman

pytestmark = [pytest.mark.browser, pytest.mark.deep]

LONG = 600_000
"""Milliseconds that a build of the figure may take on a busy machine."""


def said(served):
    return httpx.get(f"{served}/api/figures/1", timeout=60).json()


@pytest.fixture
def mended(page, served):
    """The figure mended, its sculptor's own, 75 mm tall."""
    sent(served, "ferrywoman.stl", stl_bytes(ferrywoman()))
    page.goto(f"{served}/figures/1")
    settled(page)
    recipe = httpx.get(f"{served}/api/figures/1/recipe.json", timeout=60).json()["recipe"]
    record_step(served, {"kind": "credit", "source": recipe["steps"][0]["source"], "terms": "own-work"})
    record_step(served, {"kind": "mend-whole"})
    head = {**HEAD, "If-Match": str(said(served)["revision"])}
    tall = {**said(served)["edition"], "height": 75}
    assert httpx.put(f"{served}/api/figures/1/edition", json=tall, headers=head, timeout=60).status_code == 200
    return page


def small_edition(served):
    now = said(served)
    head = {**HEAD, "If-Match": str(now["revision"])}
    body = {"name": "Small", "made": {**now["edition"], "height": 40}}
    made = httpx.post(f"{served}/api/figures/1/editions", json=body, headers=head, timeout=60)
    assert made.status_code == 200, made.text
    return made.json()["looked"]


def report_on_the_crest(page):
    act(page, "Take in what buyers report")
    choose(page, "On what", "Ferrywoman, First edition, 75.0 mm")
    choose(page, "What went wrong", "thin part broke")
    page.get_by_label("What they say").fill("The crest broke when the supports came off.")
    page.get_by_role("button", name="Enter the report").click()
    expect(page.get_by_role("button", name="End th")).to_be_visible()
    page.keyboard.press("Escape")


def thicken_the_crest(page, served):
    page.goto(f"{served}/figures/1/gauge")
    settled(page)
    for _ in range(40):
        page.keyboard.press("k")
    heading = page.locator(".notes").get_by_role("heading", level=2).first
    for _ in range(40):
        if re.search(r"Snaps at 0\.3\d N, high", heading.inner_text()):
            break
        page.keyboard.press("j")
    remedy = page.get_by_role("list", name="Remedies").get_by_role("button", name=re.compile("Thicken it to"))
    if remedy.get_attribute("aria-pressed") != "true":
        remedy.click()
    page.keyboard.press("a")
    expect(record(page)).to_contain_text("Thickened to", timeout=LONG)
    settled(page)


def waiting(served):
    """Things that buyers report and nobody has answered."""
    joined = httpx.get(f"{served}/api/release-sets/1", timeout=60).json()["joined"]
    return [group for group in joined if group["open"]]


def test_two_sizes_go_out_in_two_tiers_and_the_crest_is_corrected(mended, served, tmp_path):
    page = mended
    small = small_edition(served)
    page.goto(f"{served}/figures/1/release")
    settled(page)
    act(page, "Say what goes out")
    page.get_by_label("Name of the set").fill("Fen folk")
    page.get_by_role("button", name="Begin the set").click()
    expect(page.get_by_role("region", name="Fen folk")).to_be_visible()
    page.goto(f"{served}/figures/1/release?edition={small}")
    settled(page)
    act(page, "Say what goes out")
    page.get_by_role("button", name="add the edition that is looked at").click()
    page.get_by_role("group", name=re.compile("Small")).get_by_label("free").check()
    page.get_by_role("button", name="Keep it so").click()
    expect(page.get_by_role("button", name="Keep it so")).to_have_count(0)
    page.goto(f"{served}/figures/1/release")
    settled(page)
    words_for_all(page)
    pack(page, 1, LONG)
    files, data = packed(served, 1, "bought")
    (tmp_path / "pack.zip").write_bytes(data)
    assert verify_pack(tmp_path / "pack.zip").whole
    tall = {item["name"] for item in json.loads(files["manifest.json"])["items"]}
    assert tall == {"ferrywoman_75mm_solid_whole", "ferrywoman_40mm_solid_whole"}
    free = json.loads(packed(served, 1, "free")[0]["manifest.json"])["items"]
    assert [item["name"] for item in free] == ["ferrywoman_40mm_solid_whole"]

    with running_shop(tmp_path / "shop") as address:
        offer(page, address)
        report_on_the_crest(page)
        thicken_the_crest(page, served)
        page.goto(f"{served}/figures/1/release")
        settled(page)
        words_for_all(page)
        while groups := waiting(served):
            answer(page, "The crest is thicker now: leave its supports on until it is cured.", len(groups) - 1)
        pack(page, 2, LONG)
        expect(page.get_by_role("list", name="Who needs it")).to_contain_text("Whoever prints ferrywoman_75mm")
        expect(page.get_by_role("list", name="Shops")).to_contain_text("issue 1 is to be replaced by 2: file")
        assert "The crest is thicker now" in packed(served, 2, "bought")[0]["guide.html"].decode()
        page.goto(f"{served}/releases")
        expect(page.get_by_role("table", name="Packs by shop")).to_contain_text("issue 1 is to be replaced by 2")


def test_the_lantern_is_painted_inside_before_it_is_closed_and_all_of_it_in_two_schemes(mended, served):
    page = mended
    settled(page)
    # The lower half of the lantern comes off, so that a brush gets into it.
    record_step(served, {"kind": "cut", "offset": -29.0, "normal": [0, 0, -1], "near": below_the_lantern(served)})
    page.goto(f"{served}/figures/1/finish")
    settled(page)
    parts = [part["facts"] for part in said(served)["build"]["parts"]]
    (half,) = (facts["part"] for facts in parts if facts["size_mm"][2] < 10)
    inside = {"role": "light", "grows": "part", "part": half}
    robe = {"role": "robe", "grows": "band", "low": 8.5, "high": 36}
    record_step(served, {"kind": "colour-plan", "regions": [robe, inside], "schemes": [{"name": "dusk", "roles": []}]})
    page.reload()
    settled(page)

    # Both roles get what they are painted with: one from the rack, one mixed.
    for role in ("light", "robe"):
        act(page, "Say what it is painted with")
        choose(page, "Region that gets the coats", role)
        page.get_by_role("button", name="Find mixes").click()
        page.get_by_role("list", name="Mixes", exact=True).get_by_role("button").first.click()
        page.get_by_role("button", name="Add the coat").click()
        expect(page.get_by_role("list", name="Coats").get_by_role("listitem")).to_have_count(1)
        page.keyboard.press("Escape")
        settled(page)
    act(page, "Try another scheme")
    page.get_by_label("Name of another scheme").fill("low tide")
    page.get_by_role("button", name="Begin it").click()
    page.keyboard.press("Escape")
    settled(page)
    expect(page.get_by_role("group", name="Schemes").get_by_role("button")).to_have_count(2)

    page.reload()
    settled(page)
    expect(page.get_by_role("heading", name="out of reach once it is together").first).to_be_visible()
    page.get_by_role("list", name="Remedies").get_by_role("button", name="before step").first.click()
    page.keyboard.press("a")
    settled(page)
    page.keyboard.press("t")
    expect(page.get_by_role("list", name="Order of work")).to_contain_text("Paint what is out of reach later")


def below_the_lantern(served):
    """A place on the underside of the lantern, in the figure's own axes."""
    low, high = bounds(ferrywoman())
    x, y, z = np.array([-11.5, -9.5, 23.5]) - [*(low + high)[:2] / 2, low[2]]
    source = said(served)["build"]["steps"][0]["step"]["source"]
    return {"point": [float(x), float(y), float(z)], "normal": [0, 0, -1], "source": source}
