"""A figure put together in the real browser: a form stood on it, joined, and a stamp pressed into it."""

from io import BytesIO

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.conftest import act, drag, drop, middle_of, pick_in_the_middle, record, settled
from tests.shapes import ball, box
from ulvet.core.formats.stl import stl_bytes

pytestmark = pytest.mark.browser


def test_a_knob_is_stood_joined_and_stamped_and_taken_back(page):
    drop(page, "plinth.stl", stl_bytes(box(30, 24, 24)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.keyboard.press("1")
    page.keyboard.press("a")
    settled(page)
    act(page, "Add a first form")
    page.get_by_label("Name of the form").fill("knob")
    page.get_by_label("wide, mm").fill("6")
    page.get_by_label("Sunk into the skin, mm").fill("0.1")
    page.get_by_role("button", name="Pick where it stands").click()
    pick_in_the_middle(page)
    settled(page)

    # It barely touches, which is told with a way out.
    expect(page.get_by_role("heading", level=2, name="knob is only 0.1")).to_be_visible()
    page.keyboard.press("a")
    settled(page)
    expect(page.get_by_role("heading", level=2, name="knob is only")).to_have_count(0)
    act(page, "Join two parts")
    page.get_by_role("button", name="Join them").click()
    expect(record(page)).to_contain_text("Joined knob to figure")
    settled(page)

    picture = BytesIO()
    mark = Image.new("L", (64, 64), 255)
    mark.paste(0, (16, 16, 48, 48))
    mark.save(picture, "PNG")
    act(page, "Press a picture or text")
    page.get_by_label("A picture for the stamp").set_input_files(
        {"name": "page.svg", "mimeType": "image/svg+xml", "buffer": b"<html/>"}
    )
    expect(page.get_by_role("alert").filter(has_text="PNG or an SVG")).to_be_visible()
    page.get_by_label("A picture for the stamp").set_input_files(
        {"name": "mark.png", "mimeType": "image/png", "buffer": picture.getvalue()}
    )
    page.get_by_label("Stamp across, mm").fill("2")
    page.get_by_role("button", name="Pick its place on the figure").click()
    pick_in_the_middle(page)
    expect(record(page)).to_contain_text("mark.png pressed")
    settled(page)
    page.keyboard.press("u")
    settled(page)
    expect(record(page)).not_to_contain_text("mark.png pressed")
    act(page, "Touch up its surface")
    page.get_by_role("button", name="Once, at a place").click()
    pick_in_the_middle(page)
    expect(record(page)).to_contain_text("Smoothed by a brush of")


def test_strokes_are_drawn_live_one_after_the_other_and_undone(page):
    drop(page, "boulder.stl", stl_bytes(ball(14, rounds=5)))
    page.wait_for_url("**/figures/1")
    settled(page)
    page.keyboard.press("1")
    act(page, "Touch up its surface")
    page.get_by_role("button", name="Take the brush up").click()
    line = page.locator(".picking-says")
    expect(line).to_contain_text("Draw on the figure")
    expect(line).not_to_contain_text("being laid out")
    expect(page.locator("[data-brush='on the skin']")).to_have_count(1)
    x, y = middle_of(page)
    drag(page, (x, y), (x + 20, y + 10))
    # The line tells what the server answered, while the stroke becomes a sentence of the record.
    expect(line).to_contain_text("Thinnest under it")
    expect(record(page)).to_contain_text("Smoothed by a brush of")
    page.get_by_label("Brush", exact=True).click()
    page.get_by_role("option", name="raise").click()
    # The sheet behind the list stays a moment longer than the list.
    expect(page.locator(".MuiPopover-root")).to_have_count(0)
    drag(page, (x - 10, y), (x - 30, y))
    expect(record(page)).to_contain_text("Raised by a brush of")
    # Beside the figure a drag turns it, and is no stroke.
    drag(page, (x + 330, y), (x + 300, y))
    page.get_by_role("button", name="Put the brush down").click()
    settled(page)
    assert record(page).inner_text().count("by a brush of") == 2
    page.keyboard.press("u")
    settled(page)
    expect(record(page)).not_to_contain_text("Raised by a brush of")
