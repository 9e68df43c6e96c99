import re

import httpx
import pytest
from playwright.sync_api import expect

from tests.conftest import sent
from tests.e2e.conftest import settled, station
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes
from ulvet.demo.ferrywoman import ferrywoman

pytestmark = pytest.mark.browser


@pytest.fixture
def mended(page, served):
    """The mended demo figure at Gauge, on its first finding."""
    sent(served, "ferrywoman.stl", stl_bytes(ferrywoman()))
    page.goto(f"{served}/figures/1")
    settled(page)
    with httpx.Client(base_url=f"{served}/api/figures", headers={WRITE_HEADER: "test"}, timeout=60) as client:
        first = client.get("/1").json()
        said = {"step": {"kind": "mend-whole"}, "says": "mended"}
        mending = client.post("/1/record", json=said, headers={"If-Match": str(first["revision"])}).json()
        tall = {**first["edition"], "height": 75}
        made = client.put("/1/edition", json=tall, headers={"If-Match": str(mending["revision"])})
        assert made.status_code == 200, made.text
    page.goto(f"{served}/figures/1/gauge")
    settled(page)
    return page


def record(page):
    return page.get_by_role("region", name="Record")


def heading(page):
    return page.locator(".notes").get_by_role("heading", level=2)


def turn_to(page, title):
    """The finding whose title is so, by the keys that go through them."""
    settled(page)
    for _ in range(40):
        page.keyboard.press("k")
    for _ in range(40):
        if re.search(title, heading(page).first.inner_text()):
            return
        page.keyboard.press("j")
    raise AssertionError(f"no finding like {title}")


def apply(page, label, says):
    """A remedy seen first and then applied; what the record says of it then."""
    remedy = page.get_by_role("list", name="Remedies").get_by_role("button", name=re.compile(label))
    # A click on the one that is chosen applies it.
    if remedy.get_attribute("aria-pressed") != "true":
        remedy.click()
    page.keyboard.press("p")
    expect(page.locator(".notes").get_by_text(re.compile(says))).to_be_visible(timeout=90_000)
    expect(record(page)).not_to_contain_text(re.compile(says))
    page.keyboard.press("a")
    expect(record(page)).to_contain_text(re.compile(says), timeout=120_000)
    settled(page)


@pytest.mark.deep
def test_beak_crest_pole_and_hem_go_each_another_way(mended):
    page = mended
    stops = int(re.search(r"\d+", station(page, "Gauge").inner_text())[0])

    # The beak is blunted, and measured again.
    turn_to(page, r"Wall 0\.14 mm")
    apply(page, "Blunt the tip", r"Blunted to 0\.\d+.* mm shorter; measured again, nothing there is under")

    # The crest bears what a table asks of it once it is thicker.
    turn_to(page, r"Snaps at 0\.3\d N, high")
    apply(page, "Thicken it to", "Thickened to .* fading over .*; measured again")

    # The pole gives way to wire, as far as it is bare.
    turn_to(page, r"Wall 0\.5\d mm, high, front right")
    apply(page, "Replace it by wire", r"Took 1 limb off for a wire of .* cut the wire .* mm long")

    # The hem is named, and accepted with a reason.
    turn_to(page, r"Wall 0\.3\d mm, low, left")
    page.get_by_text("Name this place").click()
    page.get_by_role("textbox", name="Instead of").fill("the hem")
    page.keyboard.press("Enter")
    expect(record(page)).to_contain_text("Named a place the hem")
    turn_to(page, r"Wall 0\.3\d mm, the hem")
    page.get_by_text("Accept it, with a reason").click()
    page.get_by_label("Why it may stay").fill("it is dipped in resin after printing")
    page.keyboard.press("Enter")
    expect(record(page)).to_contain_text("Accepted thin wall: it is dipped in resin after printing")
    turn_to(page, r"the hem")
    expect(page.locator(".notes .topline")).to_contain_text("accepted")
    assert int(re.search(r"\d+", station(page, "Gauge").inner_text())[0]) < stops

    # The table of places knows it by its name, and turns to it.
    page.keyboard.press("t")
    page.get_by_role("button", name="the hem").first.click()
    expect(heading(page).first).to_contain_text("the hem")
    with page.expect_download() as saved:
        page.keyboard.press("t")
        page.get_by_role("link", name=re.compile("places as CSV")).click()
    assert "the hem" in saved.value.path().read_text("utf-8")
