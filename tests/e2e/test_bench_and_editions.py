"""A printer, a material and a setting of one's own; three editions of a figure; undone, saved, loaded elsewhere."""

import httpx
import pytest
from playwright.sync_api import expect
from typer.testing import CliRunner

from tests.conftest import sent
from tests.e2e.conftest import act, settled
from tests.e2e.test_for_everyone import complaints
from ulvet.api.guard import WRITE_HEADER
from ulvet.cli.common import app
from ulvet.core.formats.stl import stl_bytes
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.store.folder import DataFolder
from ulvet.work.studio_archive import load_studio, save_studio

pytestmark = pytest.mark.browser


def copy_of(page, thing, name):
    """Have another like a thing on the bench, under a name."""
    page.get_by_role("navigation", name="What is on the bench").get_by_role("button", name=thing, exact=True).click()
    page.keyboard.press("c")
    page.get_by_label("Name", exact=True).fill(name)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1, name=name, exact=True)).to_be_visible()


def typed(page, label, value):
    page.get_by_label(label, exact=True).fill(value)
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=label.split(",")[0])).to_contain_text("yours since")


def own_bench(page, served):
    """The page's bench with a printer, a material and a setting of one's own."""
    page.get_by_role("link", name="Bench").click()
    copy_of(page, "Lantern 6", "Fen lamp")
    typed(page, "Kept clear along every edge, mm", "3")
    assert complaints(page) == []
    copy_of(page, "Tough grey resin", "Reed brown resin")
    typed(page, "Density, printed and cured, g/cm³", "1,3")
    copy_of(page, "Tough grey on Lantern 6, fine", "Reed brown on Fen lamp")
    page.get_by_label("Printer", exact=True).select_option("Fen lamp")
    page.get_by_label("Material", exact=True).select_option("Reed brown resin")
    expect(page.get_by_label("Material", exact=True)).to_have_value("reed-brown-resin")
    # A caution below its stop is refused with one sentence, and nothing of the sheet is lost.
    page.get_by_label("Pin or wire, Wants care under, mm", exact=True).fill("0.1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("cannot want care when less than")
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", level=1, name="Reed brown on Fen lamp")).to_be_visible()


def with_lamp(api):
    """A lamp as a part of its own, so that one edition can be of two materials."""
    lamp = {"kind": "add-form", "name": "lamp", "form": "box", "wide": 6, "deep": 6, "tall": 9, "x": 60}
    seen = {"If-Match": str(api.get("/figures/1").json()["revision"])}
    assert api.post("/figures/1/record", json={"step": lamp, "says": "a lamp"}, headers=seen).status_code == 200


def set_setting(page, name):
    act(page, "Make it in another setting")
    page.get_by_label("Setting", exact=True).click()
    page.get_by_role("option", name=name).click()
    expect(page.locator(".calipers")).to_contain_text(name.split(",")[0])


def three_editions(page, served):
    """A draft, one in filament, and one of two materials."""
    page.goto(f"{served}/figures/1/size")
    settled(page)
    page.keyboard.press("e")
    page.wait_for_url("**/editions?edition=e1")
    assert complaints(page) == []
    page.get_by_role("button", name="A draft of it").click()
    expect(page.get_by_role("heading", name="First edition, draft")).to_be_visible()
    page.keyboard.press("c")
    page.get_by_label("Name of the edition").fill("In filament")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="In filament")).to_be_visible()
    page.get_by_role("link", name="Change size or setting").click()
    settled(page)
    set_setting(page, "Matt filament on Long Reed 300, fine")
    expect(page.locator(".head")).to_contain_text("In filament")
    page.goto(f"{served}/figures/1/size?edition=e1")
    settled(page)
    set_setting(page, "Reed brown on Fen lamp")
    page.keyboard.press("Escape")
    act(page, "Give a part a setting of its own")
    page.get_by_label("Setting of lamp").click()
    page.get_by_role("option", name="Bending clear on Lantern 6, fine").click()
    settled(page)


def test_a_bench_of_ones_own_three_editions_undone_saved_and_loaded(page, served, tmp_path):
    sent(served, "ferrywoman.stl", stl_bytes(ferrywoman()))
    api = httpx.Client(base_url=f"{served}/api", timeout=120, headers={WRITE_HEADER: "test"})
    with_lamp(api)
    page.reload()
    own_bench(page, served)
    three_editions(page, served)
    made = {one["name"]: one["made"] for one in api.get("/figures/1").json()["editions"]}
    assert made["First edition"]["part_settings"] == {"lamp": "lantern-6-bending-clear"}
    assert made["First edition"]["setting"] == "reed-brown-on-fen-lamp"
    assert (made["In filament"]["setting"], made["First edition, draft"]["setting"]) == (
        "long-reed-300-matt-filament", "lantern-6-tough-grey-draft")  # fmt: skip

    page.keyboard.press("Escape")
    page.keyboard.press("u")
    expect(page.get_by_text("Taken back, of First edition.")).to_be_visible()
    page.keyboard.press("U")
    expect(page.get_by_text("Made again, of First edition.")).to_be_visible()
    page.goto(f"{served}/figures/1/editions?edition=e9")
    expect(page.get_by_role("heading", name="First edition", exact=True)).to_be_visible()
    page.keyboard.press("e")
    expect(page.get_by_role("button", name="Check all")).to_have_count(0)
    assert complaints(page) == []

    before = api.get("/figures/1").json()
    save_studio(DataFolder(tmp_path / "data"), tmp_path / "studio.zip")
    other = DataFolder(tmp_path / "other")
    load_studio(tmp_path / "studio.zip", other)
    shown = CliRunner().invoke(app, ["check", "--data", str(other.root)])
    assert shown.exit_code == 0, shown.output
    from ulvet.work.studio import Studio

    again = Studio(other, None)
    _, head = again.figure_and_head(1)
    assert [one.model_dump(mode="json") for one in again.editions(head)] == [
        {"id": one["id"], "name": one["name"], "sized_by": "", "made": one["made"]} for one in before["editions"]
    ]
    assert "Fen lamp" in [printer.name for printer in again.bench.value.printers]
