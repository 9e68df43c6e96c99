"""An imp made of six bits of three makers in the real browser, with a stamp and a stroke, and released."""

import io
import re
import time
import zipfile

import httpx
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.conftest import sent
from tests.e2e.conftest import act, choose, drag, middle_of, pick_in_the_middle, record, settled, station
from tests.shapes import ball, cylinder
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh

pytestmark = [pytest.mark.browser, pytest.mark.deep]


def egg(wide, tall):
    round_one = ball(1, rounds=3)
    return Mesh(round_one.vertices * np.array([wide, wide, tall]) / 2, round_one.faces)


# What each is, whose, and where it goes: across and up, mm.
BITS = {
    "belly": (egg(16, 18), "Withy Marlow", "cc-by-4.0", (0, 1.5)),
    "head": (egg(12, 12), "Withy Marlow", "cc-by-4.0", (0, 17)),
    "left ear": (egg(3, 9), "Fen Osier", "cc0-1.0", (-4, 26)),
    "right ear": (egg(3, 9), "Fen Osier", "cc0-1.0", (4, 26)),
    "lamp": (egg(6, 7), "Reed Tansy", "cc-by-sa-4.0", (9.5, 8)),
    # So thin that it hangs by less than resin wants.
    "wisp": (cylinder(0.25, 6, 48), "Reed Tansy", "cc-by-sa-4.0", (0, 28.5)),
}


BY_HAND = ("head", "wisp")
"""The bits that are put in and joined on the page; the others come by the same requests without it."""


def shelve_all(client, served):
    """One file a maker, its parts put on the shelf of bits under their names with the maker's terms."""
    makers = dict.fromkeys((maker, terms) for _, maker, terms, _ in BITS.values())
    for number, (maker, terms) in enumerate(makers, start=1):
        named = [(name, mesh) for name, (mesh, whose, _, _) in BITS.items() if whose == maker]
        assert sent(served, f"{maker}.3mf", threemf_bytes(named)).status_code == 202
        page = built(client, number)
        source = page["build"]["steps"][0]["step"]["source"]
        step = {"kind": "credit", "source": source, "file": maker, "maker": maker, "terms": terms, "proof": "mail"}
        changed(client, page, "record", {"step": step, "says": "credited"})
        built(client, number)
        for name, _ in named:
            assert client.post("/bits", json={"figure": number, "part": name, "name": name}).status_code == 201


def changed(client, page, what, asked):
    answer = client.post(f"/figures/{page['id']}/{what}", json=asked, headers={"If-Match": str(page["revision"])})
    assert answer.status_code == 200, answer.text
    return answer.json()


def built(client, number):
    for _ in range(1200):
        page = client.get(f"/figures/{number}").json()
        if page["build"]:
            return page
        time.sleep(0.05)
    raise AssertionError("the figure was not checked")


def put_in_the_others(client, figure):
    page = client.get(f"/figures/{figure}").json()
    ids = {bit["name"]: bit["id"] for bit in client.get("/bits").json()}
    others = [name for name in BITS if name not in BY_HAND]
    for name in others:
        across, up = BITS[name][3]
        page = changed(client, page, "bits", {"bit": ids[name], "at": [across, 0, up]})
    for name in others:
        step = {"kind": "join-parts", "host": "figure", "bit": name, "blend": 1.5 if name == "belly" else 0}
        page = changed(client, page, "record", {"step": step, "says": "joined"})


def add(page, served, name, across, up):
    """Put a bit of the shelf into the figure and stand it by its numbers."""
    page.goto(f"{served}/bits?figure=4")
    page.get_by_label("Words of its name").fill(name)
    bit = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=name, exact=True))
    bit.get_by_role("button", name="Put it in Imp").click()
    page.wait_for_url("**/figures/4/bring-in")
    settled(page)
    act(page, "Move, turn or grow")
    choose(page, "Bit or form", name)
    page.get_by_label("Across, mm", exact=True).fill(str(across))
    page.get_by_label("Up, mm", exact=True).fill(str(up))
    page.get_by_label("Group", exact=True).fill("bits")
    page.get_by_role("button", name="Stand it so").click()
    expect(record(page)).to_contain_text(re.compile(f"Added {name},((?!Added).)*in the group bits"))
    settled(page)


def begin_imp(page, served):
    page.goto(served)
    page.get_by_role("button", name="Begin with a form").click()
    page.get_by_label("Name of the figure").fill("Imp")
    choose(page, "Form", "cylinder")
    page.get_by_label("wide, mm").fill("20")
    page.get_by_label("tall, mm").fill("2")
    page.get_by_role("button", name="Stand it on the shelf").click()
    page.wait_for_url("**/figures/4/bring-in")
    settled(page)
    page.wait_for_url("**/figures/4/bring-in")
    settled(page)


def join(page, name, blend):
    act(page, "Join two parts")
    choose(page, "Part to join", name)
    page.get_by_label("Round in the corner, mm").fill(blend)
    page.get_by_role("button", name="Join them").click()
    expect(record(page)).to_contain_text(f"Joined {name} to figure")
    settled(page)


def mend_the_neck(page):
    neck = page.get_by_role("heading", level=2, name="wisp hangs by 0.")
    for _ in range(8):
        if neck.count():
            break
        page.keyboard.press("k")
    expect(neck).to_be_visible()
    page.get_by_text("Thicken the neck to").click()
    page.keyboard.press("a")
    settled(page)
    expect(neck).to_have_count(0)
    expect(record(page)).to_contain_text("the neck made")


def press_and_smooth(page):
    act(page, "Press a picture or text")
    page.get_by_label("Text instead of a picture").fill("II")
    page.get_by_label("Stamp across, mm").fill("3")
    page.get_by_label("Strokes high or deep, mm").fill("0.3")
    page.get_by_role("button", name="Pick its place on the figure").click()
    pick_in_the_middle(page)
    expect(record(page)).to_contain_text("II pressed")
    settled(page)
    act(page, "Touch up its surface")
    page.get_by_role("button", name="Take the brush up").click()
    expect(page.locator(".picking-says")).not_to_contain_text("laid out")
    x, y = middle_of(page)
    drag(page, (x - 8, y + 20), (x + 8, y + 30))
    expect(record(page)).to_contain_text("Smoothed by a brush of")
    page.get_by_role("button", name="Put the brush down").click()
    settled(page)


def released(page):
    station(page, "Release").click()
    act(page, "Pack this edition alone")
    page.get_by_role("button", name="Pack it", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("link", name="imp_release.zip").click()
    packed = zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes()))
    return b" ".join(packed.read(name) for name in packed.namelist() if name.endswith((".txt", ".json")))


def test_an_imp_of_six_bits_of_three_makers_is_made_mended_and_released(page, served):
    with httpx.Client(base_url=f"{served}/api", headers={WRITE_HEADER: "test"}, timeout=60) as client:
        shelve_all(client, served)
        begin_imp(page, served)
        put_in_the_others(client, 4)
        built(client, 4)
    for name in BY_HAND:
        add(page, served, name, *BITS[name][3])
    for name in BY_HAND:
        join(page, name, "0" if name == "wisp" else "1.5")
    mend_the_neck(page)
    press_and_smooth(page)

    # The makers' terms came along: what has to be passed on alike goes out so.
    page.keyboard.press("Escape")
    act(page, "How it is to go out")
    page.get_by_label("Under which terms it goes out", exact=True).click()
    page.get_by_role("option", name="CC BY-SA 4.0", exact=True).click()
    settled(page)
    page.keyboard.press("Escape")
    expect(page.get_by_text("lamp may go on only under CC BY-SA 4.0.")).to_be_visible()
    said = released(page)
    for maker in ("Withy Marlow", "Fen Osier", "Reed Tansy"):
        assert maker.encode() in said
