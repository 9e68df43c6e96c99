import io
import json
import re
import zipfile

import pytest
from playwright.sync_api import expect

from tests.conftest import dirty_figure, sent
from tests.e2e.conftest import act, drop, settled, station
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import bounds
from ulvet.core.geometry.topology import edges_of, is_watertight

pytestmark = pytest.mark.browser

NO_STOP = re.compile(r"^Layers( \d+ cautions)?$")
"""How the station is called while nothing stops there."""


def test_from_a_dropped_dirty_mesh_to_a_release_by_keys(page, tmp_path):
    expect(page.get_by_role("heading", name="The shelf is empty")).to_be_visible()
    drop(page, "heron_post.stl", stl_bytes(dirty_figure()))
    page.wait_for_url("**/figures/1")
    settled(page)

    # Size, as a number in the record.
    page.get_by_role("button", name="Height, 30.0 mm; edit").click()
    page.keyboard.type("45")
    page.keyboard.press("Enter")
    expect(page.locator(".calipers")).to_contain_text("tall 45.0")
    settled(page)

    # Findings of Mend, the first of them mended by key, taken back, and mended again.
    page.keyboard.press("3")
    expect(page.get_by_role("heading", level=2, name="4 faces turned the wrong way")).to_be_visible()
    expect(page.get_by_text("1 of 3")).to_be_visible()
    page.keyboard.press("a")
    record = page.get_by_role("region", name="Record")
    expect(record).to_contain_text("Turned 4 faces to agree")
    settled(page)
    expect(page.get_by_role("heading", level=2, name="The surface is open in 1 place")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("heading", level=2, name="4 faces turned the wrong way")).to_be_visible()
    expect(record).not_to_contain_text("Turned 4 faces to agree")
    page.keyboard.press("a")
    expect(record).to_contain_text("Turned 4 faces to agree")
    settled(page)
    for says in ("Closed 1 hole", "Mended exactly"):
        page.keyboard.press("a")
        expect(record).to_contain_text(says)
        settled(page)
    expect(page.get_by_role("heading", level=2, name="Nothing to mark here")).to_be_visible()

    # A wall, seen before it is thickened.
    page.keyboard.press("4")
    expect(page.get_by_role("img", name="Section drawing, wall 0.59 mm")).to_be_visible()
    page.keyboard.press("p")
    expect(page.locator(".drawing path[stroke-dasharray='5 4']")).to_have_count(1)
    page.keyboard.press("a")
    expect(record).to_contain_text("Thickened to")
    settled(page)

    # Nothing goes out before it is said whose it is.
    page.keyboard.press("1")
    expect(page.get_by_role("heading", level=2, name="Whose is heron_post.stl?")).to_be_visible()
    page.keyboard.press("a")
    expect(record).to_contain_text("heron_post.stl is your own work")
    settled(page)

    # The release, downloaded and read again.
    station(page, "Release").click()
    act(page, "Pack this edition alone")
    page.get_by_role("button", name="Pack it", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("link", name="heron-post_release.zip").click()
    path = tmp_path / "release.zip"
    download.value.save_as(path)
    with zipfile.ZipFile(path) as archive:
        archive.extractall(tmp_path / "out")
    check_release(tmp_path / "out")


def check_release(folder):
    manifest = json.loads((folder / "heron-post_manifest.json").read_text("utf-8"))
    figure = read_mesh(folder / "heron-post_45.0mm.stl")
    assert is_watertight(edges_of(figure))
    low, high = bounds(figure)
    assert high[2] - low[2] == pytest.approx(45, abs=0.5)  # thickened, so a little taller
    assert not {f["code"] for f in manifest["open_findings"]} & {"open-edges", "inconsistent-winding"}


def test_a_file_that_cannot_be_used_leaves_a_sentence_and_a_usable_shelf(page, clean_stl):
    drop(page, "broken.stl", b"this is no figure " * 10)
    expect(page.get_by_role("alert")).to_contain_text("broken.stl is cut off or not an STL")
    page.get_by_label("Bring in a figure: choose its file").set_input_files(clean_stl)
    page.wait_for_url("**/figures/1")
    settled(page)
    page.keyboard.press("3")
    expect(page.get_by_role("heading", level=2, name="Nothing to mark here")).to_be_visible()


def test_every_station_can_be_reached_and_says_honestly_what_it_is(page, clean_stl):
    page.get_by_label("Bring in a figure: choose its file").set_input_files(clean_stl)
    page.wait_for_url("**/figures/1")
    settled(page)
    station(page, "Part").click()
    expect(page.get_by_role("heading", level=2, name="In one piece")).to_be_visible()
    station(page, "Finish").click()
    expect(page.get_by_role("heading", level=2, name="Nothing is coloured yet")).to_be_visible()
    station(page, "Stand").click()
    expect(page.get_by_role("heading", level=2, name="Stands upright on the plate")).to_be_visible()
    station(page, "Layers").click()
    expect(page.get_by_text("layer 1 of 300")).to_be_visible()
    page.get_by_label("Layer", exact=True).focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_text("layer 2 of 300")).to_be_visible()
    station(page, "Size").click()
    act(page, "Make it in another setting")
    page.get_by_label("Setting", exact=True).click()
    page.get_by_role("option", name="Plain ivory on Lantern 6, fine").click()
    expect(page.locator(".calipers")).to_contain_text("Plain ivory on Lantern 6")
    page.keyboard.press("Control+z")
    expect(page.locator(".calipers")).to_contain_text("Tough grey on Lantern 6")


@pytest.mark.cold
def test_a_check_can_be_stopped_and_started_again(page, served):
    sent(served, "moon.stl", stl_bytes(ball(30, rounds=7)))
    page.goto(f"{served}/figures/1")
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("alert")).to_contain_text("stopped")
    page.get_by_role("button", name="Check again").click()
    settled(page)


def test_a_sheet_that_does_not_exist_says_so(page, served):
    page.goto(f"{served}/figures/99")
    expect(page.get_by_role("heading", name="This sheet cannot be opened")).to_be_visible()
    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_role("heading", name="The shelf is empty")).to_be_visible()


def hanging_figure():
    """A post with an arm, from which a bar hangs over the plate."""
    return concatenated(box(4, 4, 40), box(20, 4, 3, (0, 0, 37)), box(3, 4, 30, (17, 0, 8)))


def test_a_figure_is_held_and_held_anew_at_another_size(page, served):
    sent(served, "hook.stl", stl_bytes(hanging_figure()))
    page.goto(f"{served}/figures/1/layers")
    settled(page)
    expect(page.locator(".notes h2")).to_contain_text("1 island")
    page.keyboard.press("]")
    page.keyboard.press("a")
    record = page.get_by_role("region", name="Record")
    expect(record).to_contain_text("Held by", timeout=60_000)
    settled(page)
    expect(station(page, "Layers")).to_have_accessible_name(NO_STOP)
    first = record.inner_text()

    page.get_by_role("button", name="Height, 40.0 mm; edit").click()
    page.keyboard.type("60")
    page.keyboard.press("Enter")
    expect(page.locator(".calipers")).to_contain_text("tall 60.0", timeout=60_000)
    settled(page)
    second = record.inner_text()
    assert "Held by" in second and second != first
    expect(station(page, "Layers")).to_have_accessible_name(NO_STOP)

    # Another thing that was pointed at by keyboard alone: the side that shows.
    page.keyboard.press("7")
    act(page, "Say which side shows")
    page.get_by_label("Side that shows").click()
    page.get_by_role("option", name="front").click()
    expect(record).to_contain_text("Its front shows: no supports there", timeout=60_000)


def test_two_tabs_cannot_overwrite_each_other(page, served):
    sent(served, "hook.stl", stl_bytes(hanging_figure()))
    other = page.context.new_page()
    other.route("**/api/events", lambda route: route.abort())
    for tab in (page, other):
        tab.goto(f"{served}/figures/1/stand")
        settled(tab)
    act(page, "Hold it upright")
    page.get_by_role("button", name="Hold it upright", exact=True).click()
    expect(page.locator(".notes h2")).to_contain_text("held by", timeout=60_000)
    # The other has heard nothing; what it asks for is refused with a sentence, and then it sees what is there.
    record = other.get_by_role("region", name="Record")
    expect(record).not_to_contain_text("Held by")
    other.get_by_role("button", name="Height, 40.0 mm; edit").click()
    other.keyboard.type("50")
    other.keyboard.press("Enter")
    expect(other.get_by_role("alert")).to_contain_text("changed elsewhere in the meantime, and nothing was overwritten")
    expect(record).to_contain_text("Held by", timeout=60_000)
    expect(other.locator(".calipers")).to_contain_text("tall 40.0")
    other.close()


def test_a_hostile_3mf_leaves_a_sentence_and_nothing_else(page, served):
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("3D/3dmodel.model", '<!DOCTYPE x [<!ENTITY a "aaaa">]><model>&a;</model>')
    drop(page, "gift.3mf", packed.getvalue())
    said = page.get_by_role("alert")
    expect(said).to_contain_text("gift.3mf declares a document type or entities")
    page.reload()
    expect(page.get_by_role("heading", name="The shelf is empty")).to_be_visible()


def test_a_version_is_frozen_and_set_against_what_came_after(page, served):
    sent(served, "heron_post.stl", stl_bytes(dirty_figure()))
    page.goto(f"{served}/figures/1/mend")
    settled(page)
    page.get_by_role("link", name="versions").click()
    page.get_by_label("What this version is for").fill("as it came")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Version 1 as it came")).to_be_visible()
    page.get_by_role("link", name="Heron post").click()
    settled(page)
    page.keyboard.press("3")
    page.keyboard.press("a")
    settled(page)
    page.get_by_role("link", name="versions").click()
    expect(page.get_by_role("heading", name="Fixed")).to_be_visible(timeout=60_000)
    expect(page.get_by_text("4 faces turned the wrong way")).to_be_visible()
    expect(page.get_by_text("the surface did not move")).to_be_visible()


def test_a_new_sculpt_goes_under_the_record_and_a_point_that_is_lost_is_put_back(page, tmp_path):
    def post(x):
        path = tmp_path / f"post_{x}.stl"
        path.write_bytes(stl_bytes(concatenated(box(24, 12, 8), cylinder(0.2, 12, 24, at=(x, 6, 7)))))
        return path

    page.get_by_label("Bring in a figure: choose its file").set_input_files(post(4))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.keyboard.press("4")
    expect(page.get_by_role("heading", level=2, name="Wall 0.40 mm")).to_be_visible()
    page.keyboard.press("a")
    record = page.get_by_role("region", name="Record")
    expect(record).to_contain_text("Thickened to 0.74 mm at 1 place", timeout=60_000)
    settled(page)
    page.keyboard.press("1")
    act(page, "Bring in a new sculpt")
    page.get_by_label("Bring in a new sculpt: choose its file").set_input_files(post(18))
    expect(record).to_contain_text("Brought in post_18.stl", timeout=60_000)
    settled(page)
    expect(record).to_contain_text("nothing there is thinner")
    page.keyboard.press("4")
    page.get_by_role("button", name="1 point to thicken off the figure").click()
    expect(page.get_by_role("heading", level=2, name="1 point to thicken off the figure, by")).to_be_visible()
    page.keyboard.press("a")
    settled(page)
    expect(page.get_by_role("heading", level=2, name="1 point to thicken off the figure, by")).to_have_count(0)
    page.keyboard.press("u")
    page.keyboard.press("u")
    expect(record).to_contain_text("Brought in post_4.stl", timeout=60_000)
