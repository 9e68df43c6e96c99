"""What is to be printed, its plates and its days over the API."""

import io
import zipfile

import numpy as np
import pytest
from icalendar import Calendar

from tests.api.conftest import brought, built, change, finished
from tests.shapes import box
from ulvet.core.formats.stl import stl_bytes

BEGINS = "2026-12-07T08:00:00"


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def kept(client, says="changed", **plan):
    """The plan with other values."""
    now = client.get("/plan").json()
    body = {"plan": {**now["plan"], **plan}, "says": says}
    return client.put("/plan", json=body, headers={"If-Match": str(now["revision"])})


def made(client):
    name = finished(client, client.post("/plan/made").json())["made"]["plan"]
    return name, client.get(f"/plans/{name}").json()


def planned(client, *wanted, **more):
    answer = kept(client, wanted=list(wanted), begins=BEGINS, **more)
    assert answer.status_code == 200, answer.text
    return made(client)


def placed(plate, *moved):
    """A plate as the hand leaves it, some of its parts moved."""
    lying = [
        {name: one[name] for name in ("figure", "edition", "part", "layers", "x", "y", "turn")}
        for one in plate["lying"]
    ]
    for k, x, y, turn in moved:
        lying[k].update(x=x, y=y, turn=turn)
    return {"setting": plate["setting"], "lying": lying}


def test_copies_are_laid_on_plates_and_their_days_are_planned(client, figure):
    name, told = planned(client, {"figure": figure, "count": 3}, due="2026-12-08T18:00:00")
    (plate,) = told["plates"]
    assert plate["told"]["parts"] == 3
    assert [one["tall"] for one in plate["lying"]] == pytest.approx([15] * 3, abs=0.1)
    for one in plate["lying"]:
        assert one["foot_mm2"] == pytest.approx(200, rel=0.02)
        assert one["pull_N"] == pytest.approx(plate["told"]["pull_N"] / 3, rel=0.02)
        (ring,) = one["outlines"]
        xs, ys = zip(*ring, strict=True)
        assert {round(max(xs) - min(xs)), round(max(ys) - min(ys))} == {10, 20}
    assert told["sums"]["resin_ml"] == pytest.approx(9, rel=0.05)
    assert told["sums"]["printing_s"] == pytest.approx(plate["told"]["seconds"])
    assert told["sums"]["lines"][0]["printing_s"] == pytest.approx(plate["told"]["seconds"])
    kinds = [one["task"].split("-")[0] for one in told["schedule"]["booked"]]
    assert kinds == ["plate", "wash", "cure", "clean"]
    assert BEGINS < told["schedule"]["ready"] < "2026-12-08T18:00:00"
    assert told["away"][0] == ["2026-12-07T00:00:00", "2026-12-07T09:00:00"]
    events = Calendar.from_ical(client.get(f"/plans/{name}/days.ics").content).walk("VEVENT")
    assert len(events) == len({str(one["uid"]) for one in events}) >= 4
    assert client.get("/plan").json()["plan"]["wanted"][0]["count"] == 3


def test_fewer_parts_on_a_plate_make_more_plates_and_that_is_undone(client, figure):
    planned(client, {"figure": figure, "count": 3})
    _, told = planned(client, {"figure": figure, "count": 3}, most_parts=1)
    assert [plate["told"]["parts"] for plate in told["plates"]] == [1, 1, 1]
    assert told["schedule"]["booked"][-1]["task"].startswith("clean")
    now = client.get("/plan").json()
    undone = client.post("/plan/undo", headers={"If-Match": str(now["revision"])}).json()
    assert undone["plan"]["most_parts"] is None
    assert undone["can_redo"]
    late = client.put("/plan", json={"plan": {}, "says": "late"}, headers={"If-Match": str(now["revision"])})
    assert late.status_code == 412
    assert client.get("/plan").json() == undone


def test_what_the_hand_places_stays_is_checked_and_goes_out_as_files(client, figure):
    name, told = planned(client, {"figure": figure, "count": 2})
    (plate,) = told["plates"]
    check = f"/plans/{name}/plates/1/checked"
    well = client.post(check, json={"lying": [[40, 30, 15], [90, 40, 0]]}).json()
    assert well == {"meet": [], "off": []}
    ill = client.post(check, json={"lying": [[40, 30, 0], [45, 30, 0]]}).json()
    assert ill == {"meet": [[0, 1]], "off": []}
    assert client.post(check, json={"lying": [[40, 30, 0]]}).status_code == 422
    by_hand = placed(plate, (0, 40.0, 30.0, 15.0))
    by_hand["lying"] = by_hand["lying"][:1]
    assert kept(client, plates=[by_hand]).status_code == 200
    name, told = made(client)
    (plate,) = told["plates"]
    assert (plate["lying"][0]["by_hand"], plate["lying"][0]["x"]) == (True, 40.0)
    assert not plate["lying"][1]["by_hand"]
    assert dict(plate["card"])["layer"] == "0.05 mm"
    packed = zipfile.ZipFile(io.BytesIO(client.get(f"/plans/{name}/plates/1/plate.3mf").content))
    assert any(one.endswith(".model") for one in packed.namelist())
    stl = client.get(f"/plans/{name}/plates/1/plate.stl").content
    assert len(stl) == 84 + 50 * 24
    assert client.get(f"/plans/{name}/plates/1/plate.pdf").content.startswith(b"%PDF")
    assert client.get(f"/plans/{name}/plates/9/plate.stl").status_code == 404
    # The figure is changed: what was placed is placed anew, which is told, and the old plate is not handed out.
    answer = change(client, figure, "POST", "/record", step={"kind": "orient", "up": [0, 1, 0]}, says="laid down")
    assert answer.status_code == 200, answer.text
    built(client, figure)
    assert "changed since it was planned" in client.get(f"/plans/{name}/plates/1/plate.stl").json()["detail"]
    _, told = made(client)
    assert "was changed since it was placed by hand" in told["changed"][0]
    assert not any(one["by_hand"] for one in told["plates"][0]["lying"])


def test_a_part_finds_room_on_another_plate_or_is_said_to_find_none(client, figure, tmp_path):
    name, told = planned(client, {"figure": figure, "count": 2}, most_parts=1)
    first, second = told["plates"]
    room = f"/plans/{name}/plates/2/room"
    x, y, turn = client.post(room, json={"plate": 1, "part": 0}).json()["at"]
    both = placed(second)
    both["lying"].append({**placed(first)["lying"][0], "x": x, "y": y, "turn": turn})
    assert kept(client, plates=[both], most_parts=None).status_code == 200
    name, told = made(client)
    (plate,) = told["plates"]
    assert [one["by_hand"] for one in plate["lying"]] == [True, True]
    where = [[one["x"], one["y"], one["turn"]] for one in plate["lying"]]
    assert client.post(f"/plans/{name}/plates/1/checked", json={"lying": where}).json() == {"meet": [], "off": []}
    assert client.post(f"/plans/{name}/plates/1/room", json={"plate": 1, "part": 7}).status_code == 404
    assert client.post(f"/plans/{name}/plates/1/room", json={"plate": 9, "part": 0}).status_code == 404
    slab = tmp_path / "slab.stl"
    slab.write_bytes(stl_bytes(box(120, 60, 5)))
    number = brought(client, slab)
    built(client, number)
    name, told = planned(client, {"figure": number}, {"figure": figure, "count": 9}, plates=[], most_parts=6)
    of_slab = next(one for one in told["plates"] if one["lying"][0]["figure"] == number)
    other = next(one for one in told["plates"] if one is not of_slab)
    found = client.post(f"/plans/{name}/plates/{other['number']}/room", json={"plate": of_slab["number"], "part": 0})
    assert found.json() == {"at": None}


def test_what_is_begun_is_planned_no_more_unless_it_fails(client, figure):
    _, told = planned(client, {"figure": figure, "count": 2})
    (plate,) = told["plates"]
    first = plate["lying"][0]
    part = {"figure": figure, "edition": first["edition"], "part": first["part"], "count": 2}
    begun = client.post("/plan/begun", json={"parts": [part], "ready": plate["ready"]}).json()
    (number,) = begun["plan"]["begun"]
    assert begun["begun"][0]["says"].startswith("Block")
    _, told = made(client)
    assert told["plates"] == []
    tasks = {task["id"]: task for task in told["tasks"]}
    assert tasks[f"plate-proof-{number}"]["begun"]
    # One of the two failed: it is printed anew, and only the other is washed.
    proof = client.get(f"/proofs/{number}").json()
    came = {**proof["proof"]["came"], "ended": proof["proof"]["began"], "ml": 7.0}
    came["copies"] = [{"part": 0, "outcome": "sound"}, {"part": 0, "outcome": "failed"}]
    seen = {"If-Match": str(proof["revision"])}
    entered = client.put(f"/proofs/{number}", json={"came": came, "says": "out"}, headers=seen)
    assert entered.status_code == 200, entered.text
    _, told = made(client)
    assert [plate["told"]["parts"] for plate in told["plates"]] == [1]
    tasks = {task["id"]: task for task in told["tasks"]}
    assert f"plate-proof-{number}" not in tasks
    assert f"wash-proof-{number}" in tasks
    assert client.get("/plan").json()["begun"][0]["failed"] == 1
    # What was ticked is planned no more.
    assert kept(client, done=[f"wash-proof-{number}"]).status_code == 200
    _, told = made(client)
    assert f"wash-proof-{number}" not in {task["id"] for task in told["tasks"]}
    # The print took of what there is, once somebody has counted it.
    lines = client.get("/stock").json()["lines"]
    assert [(one["number"], one["entry"]["amount"]) for one in lines] == [(None, -7.0)]


def test_a_task_is_moved_and_what_runs_short_is_told_with_its_day(client, figure):
    _, told = planned(client, {"figure": figure, "count": 2})
    (print_,) = (one for one in told["schedule"]["booked"] if one["task"].startswith("plate-"))
    assert kept(client, moves=[{"task": print_["task"], "not_before": "2026-12-09T10:00:00"}]).status_code == 200
    client.post("/stock", json={"good": "material:tough-grey", "kind": "counted", "amount": 2, "day": "2026-12-01"})
    _, told = made(client)
    (print_,) = (one for one in told["schedule"]["booked"] if one["task"].startswith("plate-"))
    assert print_["begin"] == "2026-12-09T10:00:00"
    (short,) = told["short"]
    assert (short["good"]["key"], short["there"], short["says"]) == ("material:tough-grey", 2.0, "plate 1")
    assert short["at"] == "2026-12-09T10:00:00"
    # Other parts on the plate make it another: what was moved is told to be gone.
    assert told["changed"] == []
    _, told = planned(client, {"figure": figure, "count": 1})
    assert "1 task moved by hand" in told["changed"][0]


def test_what_would_win_time_is_tried_and_told(client, figure, tmp_path):
    tall = tmp_path / "tall.stl"
    tall.write_bytes(stl_bytes(box(10, 10, 60)))
    number = brought(client, tall)
    built(client, number)
    planned(client, {"figure": figure, "count": 2}, {"figure": number})
    name = finished(client, client.post("/plan/won").json())["made"]["won"]
    tried = {one["says"]: one for one in client.get(f"/plans/{name}/won").json()["tried"]}
    without = tried["without 1 x Tall"]
    assert without["printing_s"] > 0 and without["sooner_min"] > 0
    assert without["material_ml"] == pytest.approx(6, rel=0.1)
    assert tried["all at 90% of their size"]["material_ml"] > 0
    assert any(" in " in says for says in tried)


def test_what_cannot_be_planned_is_said_and_the_rest_is_planned(client, figure, tmp_path):
    long = tmp_path / "long.stl"
    long.write_bytes(stl_bytes(box(300, 10, 10)))
    number = brought(client, long)
    built(client, number)
    _, told = planned(
        client, {"figure": figure}, {"figure": number}, {"figure": 999}, {"figure": figure, "part": "wing"}
    )
    assert len(told["plates"]) == 1
    whys = sorted(one["why"] for one in told["unfit"])
    assert [why.split(" ", 2)[:2] for why in whys] == [["does", "not"], ["has", "no"], ["is", "no"]]


def test_a_plan_of_nothing_and_dates_that_cannot_be_are_refused(client):
    assert client.post("/plan/made").status_code == 422
    refused = kept(client, wanted=[], begins=BEGINS, due="2026-12-01T08:00:00")
    assert refused.status_code == 422
    assert "due before it begins" in str(refused.json())
    for wrong in (
        {"wanted": [{"figure": 0}]},
        {"most_parts": 0},
        {"days_off": ["24.12."]},
        {"begins": "2026-12-07T08:00:00Z"},
        {"moves": [{"task": "a"}, {"task": "a"}]},
    ):
        assert kept(client, **wrong).status_code == 422, wrong
    assert client.get("/plans/none").status_code == 404
    assert client.get("/plans/none/won").status_code == 404
    assert client.post("/plan/begun", json={"parts": [{"figure": 1}]}).status_code == 404


def test_stock_is_entered_struck_out_and_comes_back_as_csv(client):
    bought = {"good": "material:tough-grey", "kind": "delivered", "amount": 1000, "day": "2026-12-01", "says": "=shop"}
    number = client.post("/stock", json=bought).json()["numbers"][0]
    taken = {**bought, "kind": "used", "amount": 1200}
    assert "Only 1000.0 ml of Tough grey resin" in client.post("/stock", json=taken).json()["detail"]
    assert client.post("/stock", json={**bought, "good": "material:moon"}).status_code == 422
    assert client.post("/stock", json={**bought, "amount": 0}).status_code == 422
    assert client.post("/stock", json={**bought, "amount": -1}).status_code == 422
    counted = client.post("/stock", json={**bought, "kind": "counted", "amount": 940, "says": ""}).json()["stock"]
    (grey,) = (one for one in counted["standing"] if one["good"]["key"] == "material:tough-grey")
    assert grey["there"] == pytest.approx(940)
    table = client.get("/stock/ledger.csv")
    assert "'=shop" in table.text
    again = client.post("/stock/ledger.csv", content=table.content)
    assert again.json()["numbers"] == []
    more = client.post("/stock/ledger.csv", content=b"day,good,what,change\n2026-12-02,Bone,delivered,15\n")
    assert len(more.json()["numbers"]) == 1
    less = client.post("/stock/ledger.csv", content=b"day,good,what,change\n2026-12-03,Bone,used,-40\n")
    assert "less than nothing" in less.json()["detail"]
    assert "Line 2" in client.post("/stock/ledger.csv", content=b"day,good,what\nx,Bone,used\n").json()["detail"]
    client.delete(f"/stock/{number}")
    assert len(client.get("/stock").json()["lines"]) == 2
    assert len(client.post(f"/stock/{number}/put-back").json()["lines"]) == 3
    assert client.delete("/stock/999").status_code == 404


def test_hours_are_counted_one_thing_at_a_time_and_entered(client, figure):
    (one,) = client.post("/hours/begun", json={"figure": figure, "kind": "design"}).json()
    assert one["minutes"] is None
    two = client.post("/hours/begun", json={"figure": figure, "kind": "painting"}).json()
    assert [row["minutes"] is None for row in two] == [True, False]
    stopped = client.post(f"/hours/{two[0]['number']}/stopped", json={"says": "eyes"}).json()
    assert stopped[0]["says"] == "eyes" and stopped[0]["minutes"] is not None
    assert client.post(f"/hours/{two[0]['number']}/stopped", json={}).status_code == 422
    entry = {"figure": figure, "kind": "clean-up", "began": "2026-11-30T10:00:00Z", "minutes": 45}
    assert len(client.post("/hours", json=entry).json()) == 3
    assert client.post("/hours", json={**entry, "minutes": 0}).status_code == 422
    assert client.post("/hours", json={**entry, "figure": 99}).status_code == 404
    assert len(client.delete(f"/hours/{one['number']}").json()) == 2
    assert len(client.post(f"/hours/{one['number']}/put-back").json()) == 3


def faces_of(data):
    """The triangles of an STL by their corners, in an order of their own."""
    corners = np.frombuffer(data[84:], np.dtype([("n", "<3f4"), ("v", "<9f4"), ("a", "<u2")]))["v"]
    return corners[np.lexsort(corners.round(3).T)]


def test_a_plate_that_is_begun_is_printed_as_the_hand_laid_it(client, figure):
    _, told = planned(client, {"figure": figure, "count": 3})
    (plate,) = told["plates"]
    hand = placed(plate, (0, 60.0, 40.0, 25.0))
    kept(client, plates=[hand])
    name, told = made(client)
    (plate,) = told["plates"]
    part = {"figure": figure, "edition": plate["lying"][0]["edition"], "part": plate["lying"][0]["part"], "count": 3}
    lying = placed(plate)["lying"]
    body = {"parts": [part], "ready": [], "lying": lying}
    (number,) = client.post("/plan/begun", json=body).json()["plan"]["begun"]
    planned_faces = faces_of(client.get(f"/plans/{name}/plates/1/plate.stl").content)
    printed = faces_of(client.get(f"/proofs/{number}/plate.stl").content)
    assert printed == pytest.approx(planned_faces, abs=1e-3)
    # Laid with other layers than it has now, it is packed: nobody knows whether it still keeps its margins.
    stale = [{**one, "layers": "0" * 64} for one in lying]
    (_, again) = client.post("/plan/begun", json={**body, "lying": stale}).json()["plan"]["begun"]
    copies = client.get(f"/proofs/{again}").json()["proof"]["came"]["copies"]
    assert [one["lies"] for one in copies] == [None] * 3
    assert len(faces_of(client.get(f"/proofs/{again}/plate.stl").content)) == len(printed)


def by_hand(client, name, plate, part, act):
    seen = str(client.get("/plan").json()["revision"])
    return client.post(f"/plans/{name}/plates/{plate}/parts/{part}/{act}", headers={"If-Match": seen})


def test_one_more_lies_beside_the_others_and_one_that_is_taken_off_is_printed_no_more(client, figure):
    name, told = planned(client, {"figure": figure, "count": 2})
    answer = by_hand(client, name, 1, 1, "more")
    assert answer.status_code == 200, answer.text
    assert answer.json()["plan"]["wanted"][0]["count"] == 3
    name, told = made(client)
    (plate,) = told["plates"]
    assert [one["by_hand"] for one in plate["lying"]].count(True) == 1 and len(plate["lying"]) == 3
    apart = [(one["x"], one["y"]) for one in plate["lying"]]
    assert len(set(apart)) == 3
    placed_one = next(k for k, one in enumerate(plate["lying"]) if one["by_hand"])
    less = by_hand(client, name, 1, placed_one, "less").json()["plan"]
    assert less["wanted"][0]["count"] == 2 and less["plates"] == []
    assert client.post("/plan/undo", headers={"If-Match": str(client.get("/plan").json()["revision"])}).json()["plan"][
        "plates"
    ]
    assert by_hand(client, name, 1, 9, "less").status_code == 404
    late = client.post(f"/plans/{name}/plates/1/parts/0/more", headers={"If-Match": "1"})
    assert late.status_code == 412


def test_nothing_is_added_where_there_is_no_room_and_nothing_taken_that_is_not_wanted(client, tmp_path):
    path = tmp_path / "slab.stl"
    path.write_bytes(stl_bytes(box(90, 50, 4)))
    slab = brought(client, path)
    built(client, slab)
    name, told = planned(client, {"figure": slab})
    assert len(told["plates"]) == 1
    full = by_hand(client, name, 1, 0, "more")
    assert full.status_code == 422 and "no room for another on plate 1" in full.json()["detail"]
    assert client.get("/plan").json()["plan"]["wanted"][0]["count"] == 1
    kept(client, wanted=[])
    gone = by_hand(client, name, 1, 0, "less")
    assert gone.status_code == 422 and "not wanted any more" in gone.json()["detail"]
