"""``make screenshots``: a current picture of each main view at 1280x800, from fresh demo data."""

import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import uvicorn
from playwright.sync_api import Page, sync_playwright
from tests.e2e.conftest import ARGUMENTS, act

from ulvet.api.app import create_app
from ulvet.demo.shelf import DEMO_FIGURES, send_demo

HERE = Path(__file__).parent
PORT = 8431


def settled(page: Page) -> None:
    """Wait until the figure is drawn, and drawn finely, and what is shown is new."""
    page.wait_for_selector('.chart[data-settled="true"]')
    page.wait_for_selector('.notes[aria-busy="false"]', timeout=120_000)
    page.wait_for_selector(".drawing svg, svg.drawing, .drawing img, .notes h2")
    time.sleep(2)


def take(page: Page, address: str) -> None:
    """Every view in turn. The last ones change the figure, so they come last."""

    def shot(name: str) -> None:
        page.screenshot(path=HERE / f"{name}.png")

    page.goto(address)
    for _ in range(600):
        if page.locator(".shelf-figure img").count() == len(DEMO_FIGURES) + 1 and not page.locator(".job").count():
            break
        time.sleep(0.5)
    time.sleep(1)
    shot("shelf")
    for station in ("mend", "layers"):
        page.goto(f"{address}/figures/1/{station}")
        settled(page)
        if station == "mend":
            for _ in range(2):
                page.keyboard.press("j")
        shot(station)
    _bench_and_editions(page, address, shot)
    _sources(page, address, shot)
    _size(page, address, shot)
    _making(page, address, shot)
    page.goto(f"{address}/figures/1/mend")
    settled(page)
    for _ in range(2):
        page.keyboard.press("a")
        page.wait_for_selector('.notes[aria-busy="true"]')
        settled(page)
    page.keyboard.press("4")
    settled(page)
    shot("gauge")
    _part(page, address, shot)
    _hollow(page, address, shot)
    _versions(page, address, shot)
    _proof(page, address, shot)
    _plates(page, address, shot)
    _release(page, address, shot)
    _finish(page, address, shot)
    page.goto(f"{address}/figures/1/gauge")
    settled(page)
    page.keyboard.press("n")
    settled(page)
    shot("night")


def _release(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The Ferrywoman in a set, with a word to buyers on all that is open, packed and listed in a shop."""
    page.goto(f"{address}/figures/1/release")
    settled(page)
    act(page, "Say what goes out")
    page.get_by_label("Name of the set").fill("Fen folk")
    page.get_by_role("button", name="Begin the set").click()
    page.get_by_role("region", name="Fen folk").wait_for()
    act(page, "Say a word to buyers")
    for field in page.get_by_label("What buyers are told of").all():
        field.fill("Known: print it with the supports it comes with, and handle it with care.")
    page.get_by_role("button", name="Keep the words").click()
    page.get_by_role("button", name="Keep the words").wait_for(state="detached")
    act(page, "Pack an issue")
    page.get_by_role("button", name="Pack issue 1").click()
    page.get_by_role("button", name="Pack issue 2").wait_for(timeout=120_000)
    page.keyboard.press("Escape")
    act(page, "Offer it in shops")
    page.get_by_label("Shop", exact=True).fill("Reed market")
    page.get_by_role("button", name="List it there").click()
    page.get_by_role("checkbox", name="file").click()
    page.keyboard.press("Escape")
    settled(page)
    shot("release")


def _finish(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The Ferrywoman's robe and punt in two colours, her beak in a third."""
    page.goto(f"{address}/figures/1/finish")
    settled(page)
    for role, x, y in (("robe", 880, 420), ("punt", 800, 560)):
        act(page, "Colour a region")
        page.get_by_label("What it is called").fill(role)
        page.get_by_role("button", name="Touch the figure").click()
        page.mouse.click(x, y)
        page.get_by_role("button", name="Colour it").click()
        page.wait_for_selector('.notes[aria-busy="true"]')
        page.keyboard.press("Escape")
        settled(page)
    for role, paint in (("robe", "Tide blue"), ("punt", "Peat")):
        act(page, "Say what it is painted with")
        page.get_by_label("Region that gets the coats").click()
        page.get_by_role("option", name=role).click()
        page.get_by_role("combobox", name="Paint").click()
        page.get_by_role("option", name=paint).click()
        page.get_by_role("textbox", name="Coats").fill("2")
        page.get_by_role("button", name="Add the coat").click()
        page.wait_for_selector('.notes[aria-busy="true"]')
        page.keyboard.press("Escape")
        settled(page)
    page.get_by_role("heading", name="2 colours").scroll_into_view_if_needed()
    shot("finish")


def _hollow(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The Ferrywoman hollowed, with what is inside, and solid again."""
    page.goto(f"{address}/figures/1/hollow")
    settled(page)
    page.keyboard.press("a")
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    page.keyboard.press("t")
    shot("hollow")
    page.get_by_role("button", name="Undo", exact=True).click()
    page.get_by_role("region", name="Record").get_by_text("Hollowed").wait_for(state="detached")
    settled(page)


def _part(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The Ferrywoman cut at the belt, her skirt keyed, pulled apart, and whole again."""
    page.goto(f"{address}/figures/1/part")
    settled(page)
    page.keyboard.press("c")
    page.get_by_role("textbox").first.fill("33")
    page.get_by_role("button", name="Cut it", exact=True).click()
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    act(page, "Set keys into a joint")
    page.get_by_role("button", name="Set the keys").click()
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    page.keyboard.press("t")
    time.sleep(1)
    shot("part")
    for _ in range(2):
        page.get_by_role("button", name="Undo", exact=True).click()
        time.sleep(1)
        settled(page)


def _bench_and_editions(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """A setting on the bench with a value of one's own, and the Ferrywoman in three editions."""
    page.goto(f"{address}/bench?list=settings&thing=lantern-6-bending-clear")
    page.get_by_label("Time of a layer, Exposure, s").fill("2.8")
    page.keyboard.press("Enter")
    page.get_by_text("yours since").first.wait_for()
    shot("bench")
    page.goto(f"{address}/figures/1/editions")
    page.get_by_role("button", name="A draft of it").click()
    page.get_by_role("heading", name="First edition, draft").wait_for()
    page.keyboard.press("c")
    page.get_by_label("Name of the edition").fill("In filament")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="In filament").wait_for()
    page.get_by_role("link", name="Change size or setting").click()
    settled(page)
    act(page, "Make it in another setting")
    page.get_by_label("Setting", exact=True).click()
    page.get_by_role("option", name="Matt filament on Long Reed 300, fine").click()
    settled(page)
    page.goto(f"{address}/figures/1/editions?edition=e1")
    page.get_by_role("heading", name="First edition", exact=True).wait_for()
    page.keyboard.press("e")
    while page.get_by_text("not checked yet").count():
        time.sleep(1)
    time.sleep(1)
    shot("editions")
    for _ in range(3):
        page.keyboard.press("u")
        time.sleep(1)


def _making(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """A knob stood on the imp and joined to it."""
    page.goto(f"{address}/figures/2/bring-in")
    settled(page)
    act(page, "Add a first form")
    page.get_by_label("Name of the form").fill("knob")
    page.get_by_label("wide, mm").fill("3")
    page.get_by_role("button", name="Pick where it stands").click()
    page.locator(".chart canvas").focus()
    page.keyboard.press("Enter")
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    act(page, "Join two parts")
    settled(page)
    shot("making")


def _sources(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """Where things come from: a scan, and its terms."""
    page.goto(f"{address}/figures/3/bring-in")
    settled(page)
    act(page, "Say whose")
    shot("terms")
    page.goto(f"{address}/figures/4/bring-in")
    settled(page)
    page.keyboard.press("a")
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    shot("scan")


def _size(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """A size worked out before it is set."""
    page.goto(f"{address}/figures/1/size")
    settled(page)
    act(page, "Work a size out")
    page.get_by_label("Size it by", exact=True).click()
    page.get_by_role("option", name="height to the eyes").click()
    page.get_by_label("From the ground to the eyes, mm").fill("40")
    page.locator("[class*=worked]").wait_for()
    time.sleep(1)
    shot("size")


def _versions(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """Freeze a version, change the figure, stand it, and look at what became of it."""
    page.goto(f"{address}/figures/1/versions")
    page.get_by_label("What this version is for").fill("mended, the beak still thin")
    page.get_by_role("button", name="Freeze as version 1").click()
    page.wait_for_selector(".version-list li")
    page.goto(f"{address}/figures/1/gauge")
    settled(page)
    page.keyboard.press("a")
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    page.goto(f"{address}/figures/1/stand")
    settled(page)
    act(page, "Lean it the best way")
    page.get_by_role("button", name="Lean it the best way and hold it", exact=True).click()
    page.wait_for_selector('.notes[aria-busy="true"]')
    settled(page)
    shot("stand")
    page.goto(f"{address}/figures/1/versions")
    page.wait_for_selector("table.measures", timeout=120_000)
    page.wait_for_selector('.chart[data-settled="true"]')
    time.sleep(2)
    shot("versions")


def _proof(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """A proof of which the crest broke off, where Gauge had said it would, and a pole that bent."""
    head = {"X-Ulvet": "pictures"}
    build = page.request.get(f"{address}/api/figures/1").json()["build"]
    thin = [one for one in build["findings"] if one["code"] in ("thin-wall", "snap-risk")]
    crest = max(thin, key=lambda one: one["where"]["point"][2])
    pole = max(thin, key=lambda one: one["where"]["point"][0])
    (begun,) = page.request.post(f"{address}/api/proofs", data={"parts": [{"figure": 1}]}, headers=head).json()
    source = begun["proof"]["parts"][0]["source"]

    def pin(number: int, found: dict[str, Any], **said: str) -> dict[str, Any]:
        at = {"point": found["where"]["point"], "normal": found["where"]["normal"], "source": source}
        return {"id": number, "part": 0, "at": at, **said}

    came = {
        **begun["proof"]["came"], "seconds": 1.06 * begun["proof"]["told"]["seconds"],
        "ml": 1.03 * begun["proof"]["told"]["ml"],
        "copies": [{"part": copy["part"], "outcome": "failed"} for copy in begun["proof"]["came"]["copies"]],
        "pins": [
            pin(1, crest, when="supports-off", cause="thin-part", what="Crest"),
            pin(2, pole, when="carried", cause="thin-part", what="Pole"),
        ],
    }  # fmt: skip
    page.request.put(
        f"{address}/api/proofs/{begun['number']}", data={"came": came, "says": "how it came out"},
        headers={**head, "If-Match": str(begun["revision"])},
    )  # fmt: skip
    page.goto(f"{address}/figures/1/proof")
    settled(page)
    shot("proof")


def _plates(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The demo figures on plates, and their days."""
    now = page.request.get(f"{address}/api/plan").json()
    plan = {**now["plan"], "begins": "2026-12-07T08:00:00", "due": "2026-12-19T18:00:00"}
    head = {"X-Ulvet": "pictures", "If-Match": str(now["revision"])}
    page.request.put(f"{address}/api/plan", data={"plan": plan, "says": "dates"}, headers=head)
    page.goto(f"{address}/plates-and-days")
    page.wait_for_selector('section[aria-label="Days"]', timeout=120_000)
    time.sleep(1)
    shot("plates")


def main() -> None:
    """Serve fresh demo data and take the pictures."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder)
        server = uvicorn.Server(uvicorn.Config(create_app(data), port=PORT, log_level="warning"))
        thread = threading.Thread(target=server.run)
        thread.start()
        while not server.started:
            time.sleep(0.1)
        try:
            send_demo(f"http://127.0.0.1:{PORT}", print)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.set_default_timeout(60_000)
                take(page, f"http://127.0.0.1:{PORT}")
                browser.close()
        finally:
            server.should_exit = True
            thread.join()


if __name__ == "__main__":
    main()
