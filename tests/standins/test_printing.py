"""The simulated printer: what it loses, breaks and keeps follows from what is printed; its protocol keeps its word."""

import io
import json
import time
import zipfile

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.shapes import box, concatenated, cylinder
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.standins.printer import create_printer
from ulvet.standins.printing import is_left, print_of
from ulvet.standins.truths import Truths, caliper, fit_of, truths_of

TRUTHS = Truths(
    shrink=(0.002, 0.004, 0.006), growth=0.03, seconds_factor=1.1, material_factor=1.05, plate=0.08, green=8.0,
    pull=0.01, suction=0.025, bending=45.0, push=0.35, gap=0.02, reading=0.0, shifts=0.0, slides=0.05,
    turns=0.1,
)  # fmt: skip
FOOT = box(20, 20, 3, at=(-10, -10, 0))


def cut(mesh, *others):
    solids = solids_of(mesh, *others)
    whole = solids[0].body
    for other in solids[1:]:
        whole -= other.body
    return mesh_of(whole)[0]


def printed(parts, supports=None, truths=TRUTHS):
    outcome = print_of(parts, supports, 0.1, 0.05, truths, 7)
    return [(event.kind, event.layer) for event in outcome.events], outcome


def test_a_block_comes_out_whole():
    events, outcome = printed(box(20, 20, 8))
    assert events == []
    assert outcome.left.sum() * np.prod(outcome.sides) == pytest.approx(3200, rel=0.03)
    assert outcome.ml == pytest.approx(3.2 * 1.05, rel=0.01)


def test_what_begins_in_the_air_is_lost_and_told_once():
    events, outcome = printed(concatenated(box(20, 20, 10), box(5, 5, 5, at=(30, 0, 5))))
    assert events == [("island", 50)]
    assert outcome.events[0].at[:2] == pytest.approx((32.5, 2.5), abs=0.2)
    assert outcome.left.sum() * np.prod(outcome.sides) == pytest.approx(4000, rel=0.03)


def test_held_by_a_support_it_stays_and_the_support_is_taken_off():
    drop = box(5, 5, 5, at=(30, 0, 5))
    support = concatenated(box(6, 6, 0.5, at=(29.5, -0.5, 0)), cylinder(0.5, 5.3, at=(32.5, 2.5, 0)))
    events, outcome = printed(concatenated(box(20, 20, 10), drop), support)
    assert events == []
    assert outcome.left.sum() * np.prod(outcome.sides) == pytest.approx(4125, rel=0.03)


@pytest.mark.parametrize(("radius", "lost"), [(0.25, [("came-off-supports", 90)]), (0.8, [])])
def test_a_slab_tears_off_what_is_too_thin_to_hold_it(radius, lost):
    events, _ = printed(concatenated(FOOT, cylinder(radius, 9.5), box(24, 24, 4, at=(-12, -12, 9))))
    assert [event for event in events if event[0] != "broke"] == lost


def test_a_foot_too_small_for_what_it_carries_lets_go_of_the_plate():
    events, _ = printed(concatenated(cylinder(0.9, 1.0), box(30, 30, 4, at=(-15, -15, 0.8))))
    assert events == [("did-not-stick", 8)]


@pytest.mark.parametrize(("vented", "lost"), [(False, ["suction"]), (True, [])])
def test_a_bowl_sucks_itself_off_unless_it_is_vented(vented, lost):
    hollow = box(16, 16, 9, at=(-8, -8, 8))
    vents = [box(3, 3, 4, at=(4, 4, 5.5))] if vented else []
    bowl = cut(box(20, 20, 10, at=(-10, -10, 6)), hollow, *vents)
    events, _ = printed(concatenated(FOOT, cylinder(0.45, 6.5), bowl))
    assert [kind for kind, _ in events if kind != "broke"] == lost


@pytest.mark.parametrize("drained", [False, True])
def test_resin_stays_in_what_is_shut(drained):
    shut = box(12, 12, 12, at=(-6, -6, 2))
    holes = [box(3, 3, 4, at=(1, 1, -1))] if drained else []
    events, outcome = printed(cut(box(16, 16, 16, at=(-8, -8, 0)), shut, *holes))
    assert [kind for kind, _ in events] == ([] if drained else ["trapped"])
    if not drained:
        assert outcome.events[0].volume == pytest.approx(12**3, rel=0.03)


@pytest.mark.parametrize("turned", [False, True])
def test_a_thin_limb_breaks_at_its_root_and_a_stout_one_does_not(turned):
    def whole(size):
        limb = (
            box(30, size, size, at=(9, -size / 2, 1)) if turned else box(size, size, 30, at=(-size / 2, -size / 2, 2))
        )
        return concatenated(FOOT, limb)

    (event,) = printed(whole(0.6), None if not turned else box(30, 0.6, 1.2, at=(10, -0.3, 0)))[1].events
    assert event.kind == "broke" and event.after
    root = (10.0, 0.0, 1.3) if turned else (0.0, 0.0, 3.0)
    assert event.at == pytest.approx(root, abs=0.6)
    assert printed(whole(2.5))[0] == []


def test_a_limb_held_at_both_ends_does_not_break():
    def printed_posts(*bars):
        posts = [box(0.6, 0.6, 10, at=(x, 0, 2)) for x in (-8, 8)]
        return [kind for kind, _ in printed(concatenated(FOOT, *posts, *bars))[0]]

    assert printed_posts() == ["broke", "broke"]
    # A flat arch over both, which grows from either post.
    steps = [box(0.6 + 1.4 * k, 0.6, 0.8, at=(-8, 0, 11 + 0.7 * k)) for k in range(7)]
    other = [box(0.6 + 1.4 * k, 0.6, 0.8, at=(8 - 1.4 * k, 0, 11 + 0.7 * k)) for k in range(7)]
    assert printed_posts(*steps, *other) == []


def test_calipers_read_what_shrank_and_grew():
    assert caliper((0, 0, 0), (50, 0, 0), "outside", TRUTHS, 1) == pytest.approx(50 * 0.998 + 0.06, abs=1e-3)
    assert caliper((0, 0, 0), (0, 10, 0), "inside", TRUTHS, 1) == pytest.approx(10 * 0.996 - 0.06, abs=1e-3)
    assert caliper((0, 0, 0), (0, 0, 40), "outside", TRUTHS, 1) == pytest.approx(40 * 0.994, abs=1e-3)


def test_a_printer_is_the_same_printer_again_and_no_other():
    assert truths_of(4) == truths_of(4) != truths_of(5)


# The protocol


def packed(asked, **files):
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        archive.writestr("print.json", json.dumps(asked))
        for name, mesh in files.items():
            archive.writestr(f"{name}.stl", stl_bytes(mesh))
    return data.getvalue()


ASKED = {"name": "block", "layer": 0.1, "pixel": 0.05, "seconds": 1000}
ISLAND = concatenated(box(20, 20, 10), box(5, 5, 5, at=(30, 0, 8)))


def until(client, number, state):
    for _ in range(600):
        now = client.get(f"/prints/{number}").json()
        if now["state"] == state:
            return now
        time.sleep(0.05)
    raise AssertionError(f"it stayed {now['state']}")


def test_a_print_is_followed_to_its_end():
    client = TestClient(create_printer(speed=1e9, seed=2))
    begun = client.post("/prints", content=packed(ASKED, parts=ISLAND)).json()
    done = until(client, begun["print"], "done")
    assert [event["kind"] for event in done["events"]] == ["island"]
    assert done["seconds"] == pytest.approx(1000 * truths_of(2).seconds_factor, rel=1e-3)
    picture = Image.open(io.BytesIO(client.get(f"/prints/{begun['print']}/picture.png").content))
    assert picture.width > picture.height > 50
    read = client.get(f"/prints/{begun['print']}/length", params={"begin": "0,0,5", "end": "20,0,5"}).json()["mm"]
    assert read == pytest.approx(20, abs=0.4)
    again = client.get(f"/prints/{begun['print']}/length", params={"begin": "0,0,5", "end": "20,0,5"}).json()["mm"]
    assert read == again


def test_nothing_is_told_before_its_time():
    client = TestClient(create_printer(speed=1e-3, seed=2))
    begun = client.post("/prints", content=packed(ASKED, parts=ISLAND)).json()
    now = until(client, begun["print"], "printing")
    assert (now["events"], now["layer"]) == ([], 0)
    assert client.get(f"/prints/{begun['print']}/picture.png").status_code == 409
    assert client.get(f"/prints/{begun['print']}/length", params={"begin": "0,0,5", "end": "1,0,5"}).status_code == 409
    assert client.delete(f"/prints/{begun['print']}").json()["state"] == "stopped"
    assert client.get(f"/prints/{begun['print']}").json()["state"] == "stopped"


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"no archive",
        packed({**ASKED, "layer": 0}, parts=ISLAND),
        packed(ASKED),
        packed({"name": "x"}, parts=ISLAND),
    ],
    ids=["nothing", "no archive", "no layer", "no parts", "half asked"],
)
def test_what_is_no_print_is_refused(data):
    client = TestClient(create_printer(seed=2))
    assert client.post("/prints", content=data).status_code == 422
    assert client.get("/").json()["prints"] == 0
    assert client.get("/prints/1").status_code == 404


@pytest.mark.parametrize(("air", "goes"), [(0.01, "none"), (0.03, "pressed"), (0.08, "slides"), (0.13, "turns")])
def test_a_peg_goes_in_by_the_air_that_the_gap_leaves_it(air, goes):
    assert fit_of(6.0, 6.0 + 2 * air, TRUTHS, 1) == goes


def test_what_is_left_is_told_at_its_place():
    outcome = print_of(concatenated(FOOT, box(2, 8, 9, at=(5, -4, 2.9))), None, 0.05, 0.05, TRUTHS, 1)
    assert is_left(outcome, (6, 0, 11)) and is_left(outcome, (-9, 9, 1))
    assert not is_left(outcome, (-6, 0, 11))
    assert not is_left(outcome, (0, 0, 40)) and not is_left(outcome, (-40, 0, 1)) and not is_left(outcome, (6, 0, -1))
