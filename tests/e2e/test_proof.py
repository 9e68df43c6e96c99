"""A proof that fails teaches the recipe, the next one holds, and the bench learns: in the real browser."""

import httpx
import pytest
from playwright.sync_api import expect

from tests.devices import running_printer
from tests.e2e.conftest import act, choose, drop, record, settled
from tests.shapes import box, concatenated
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser

# A hook whose tip hangs down begins in the air, and so does its arm.
HOOK = concatenated(
    box(14, 10, 4), box(4, 4, 20, at=(5, 3, 3)), box(12, 4, 3, at=(7, 3, 20)), box(3, 3, 6, at=(15, 3.5, 15))
)


def begin(page, number):
    act(page, "Begin a proof")
    page.get_by_role("checkbox", name="plate clean, level and tight").check()
    page.get_by_role("button", name="Begin the proof").click()
    expect(page.get_by_role("button", name="Begin the proof")).to_have_count(0)
    page.keyboard.press("t")  # past what was found
    expect(page.get_by_role("region", name=f"Proof {number}")).to_be_visible()


def print_it(page, printer):
    act(page, "Print it on a printer here")
    page.get_by_label("Address of the printer").fill(printer)
    page.get_by_role("button", name="Send it").click()
    expect(page.get_by_text("It is done, and what came out is entered")).to_be_visible()
    page.keyboard.press("Escape")


def proofed(served):
    return httpx.get(f"{served}/api/figures/1/proofs", timeout=30).json()


def test_what_fails_is_remedied_and_then_holds(page, served):
    drop(page, "hook.stl", stl_bytes(HOOK))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/proof")
    settled(page)
    expect(page.get_by_role("heading", name="Not proofed")).to_be_visible()
    with running_printer(seed=2) as printer:
        begin(page, 1)
        print_it(page, printer)
        expect(page.get_by_role("heading", name="grew as an island on the plate").first).to_be_visible()
        failed = proofed(served)
        assert failed["state"]["kind"] == "failed"
        assert failed["proofs"][0]["foretold"]

        # The remedy that the checks offer is taken from the pin, and says what it was made because of.
        page.get_by_role("list", name="Remedies").get_by_role("button", name="hold it").first.click()
        page.keyboard.press("a")
        expect(record(page)).to_contain_text("Held by")
        settled(page)
        said = httpx.get(f"{served}/api/figures/1", timeout=30).json()["says"]
        assert said.endswith("because of proof 1")
        decided = [pin["decision"] for pin in proofed(served)["proofs"][0]["proof"]["came"]["pins"]]
        assert "redesign" in decided

        # The second is sound, and proves exactly this.
        begin(page, 2)
        print_it(page, printer)
    page.keyboard.press("t")
    expect(page.get_by_role("heading", name="Proofed in exactly this form: proof 2")).to_be_visible()

    # The bench takes over hours, by an act alone.
    act(page, "See what the bench can learn")
    hours = page.get_by_role("row", name="hours, of what is told")
    hours.get_by_role("button", name="take over").click()
    expect(hours).to_contain_text("taken over")
    with httpx.Client(base_url=f"{served}/api", headers={WRITE_HEADER: "test"}, timeout=30) as client:
        lists = client.get("/bench").json()["lists"]
    settings = next(one for one in lists if one["place"] == "settings")["things"]
    origins = [row["origin"] for thing in settings for row in thing["values"] if row["path"] == "times.factor"]
    assert {"kind": "learnt", "proofs": [1, 2]}.items() <= origins[0].items()


def test_what_went_wrong_is_pinned_and_decided_by_hand(page, served):
    drop(page, "hook.stl", stl_bytes(HOOK))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/proof")
    settled(page)
    begin(page, 1)
    act(page, "Pin what went wrong")
    page.get_by_role("button", name="Pick the place on the figure").click()
    page.locator(".chart canvas").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("a place is picked")).to_be_visible()
    page.get_by_label("What it was, in a word or two").fill("Post")
    choose(page, "When it was seen", "carried about")
    choose(page, "What went wrong", "clogged or banded")
    page.get_by_role("button", name="Pin it").click()
    expect(page.get_by_role("heading", name="Post is clogged or banded while it was carried")).to_be_visible()
    act(page, "Say how it came out")
    page.get_by_role("radio", name="usable").check()
    page.get_by_label("Hours it took").fill("1,5")
    page.get_by_role("button", name="Keep it so").click()
    expect(page.get_by_role("heading", name="Proofed in exactly this form: proof 1")).to_be_visible()
    page.keyboard.press("k")
    expect(page.get_by_role("heading", name="Post is clogged or banded while it was carried")).to_be_visible()
    page.get_by_role("list", name="Remedies").get_by_role("button", name="Leave it as it is").click()
    page.keyboard.press("a")
    expect(page.get_by_role("heading", name="Proofed in exactly this form: proof 1")).to_be_visible()
    expect(page.get_by_role("list", name="Pins")).to_contain_text("left as it is")
    page.get_by_role("button", name="take the last entry back").click()
    expect(page.get_by_role("heading", name="Post is clogged or banded while it was carried")).to_be_visible()


def test_a_second_pair_of_eyes_answers_without_ulvet(page, browser, served, tmp_path):
    drop(page, "hook.stl", stl_bytes(HOOK))
    page.wait_for_url("**/figures/1")
    page.goto(f"{served}/figures/1/proof")
    settled(page)
    act(page, "Ask a second pair of eyes")
    with page.expect_download() as download:
        page.get_by_role("link", name="the figure as one page to send, HTML").click()
    sent = tmp_path / "hook.html"
    download.value.save_as(sent)

    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True, offline=True)
    other = context.new_page()
    errors = []
    other.on("pageerror", lambda error: errors.append(str(error)))
    other.goto(sent.as_uri())
    expect(other.get_by_role("heading", name="Hook")).to_be_visible()
    other.get_by_role("button", name="Save your answer as a file").click()
    expect(other.get_by_role("status")).to_have_text("Say yes or no first.")
    other.locator("canvas").focus()
    other.keyboard.press("ArrowLeft")
    other.keyboard.press("Enter")
    other.get_by_label("What pin 1 says").fill("too plain – früh")
    other.get_by_label("Your name").fill("Wren")
    other.get_by_label("In your words").fill("Give it a face.")
    other.get_by_role("radio", name="no").check()
    with other.expect_download() as answer:
        other.get_by_role("button", name="Save your answer as a file").click()
    back = tmp_path / "answer.json"
    answer.value.save_as(back)
    context.close()
    assert not errors

    page.get_by_label("An answer that came back").set_input_files(back)
    answers = page.get_by_role("list", name="Answers")
    expect(answers).to_contain_text("no, Wren of no version, which is this very figure")
    expect(answers).to_contain_text("too plain – früh")
    page.get_by_label("An answer that came back").set_input_files(back)
    expect(page.get_by_role("alert")).to_contain_text("kept already")
    back.write_text(back.read_text("utf-8").replace("Give", "Gave"), "utf-8")
    page.get_by_label("An answer that came back").set_input_files(back)
    expect(page.get_by_role("alert")).to_contain_text("changed after it was saved")
