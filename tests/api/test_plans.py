"""What is to be printed, its plates and its days over the API."""

import pytest
from icalendar import Calendar

from tests.api.conftest import brought, built, finished
from tests.shapes import box
from ulvet.core.formats.stl import stl_bytes

BEGINS = "2026-12-07T08:00:00"


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def planned(client, *wanted, **more):
    answer = client.put("/plan", json={"wanted": list(wanted), "begins": BEGINS, **more})
    assert answer.status_code == 200
    name = finished(client, client.post("/plan/made").json())["made"]["plan"]
    return name, client.get(f"/plans/{name}").json()


def test_copies_are_laid_on_plates_and_their_days_are_planned(client, figure):
    name, told = planned(client, {"figure": figure, "count": 3}, due="2026-12-08T18:00:00")
    (plate,) = told["plates"]
    assert plate["told"]["parts"] == 3
    assert [one["tall"] for one in plate["lying"]] == pytest.approx([15] * 3, abs=0.1)
    for one in plate["lying"]:
        (ring,) = one["outlines"]
        xs, ys = zip(*ring, strict=True)
        assert {round(max(xs) - min(xs)), round(max(ys) - min(ys))} == {10, 20} or one["turn"] % 90
        assert min(*xs, *ys) >= 0 and max(xs) <= plate["wide"] and max(ys) <= plate["deep"]
    assert told["sums"]["resin_ml"] == pytest.approx(9, rel=0.05)
    assert told["sums"]["printing_s"] == pytest.approx(plate["told"]["seconds"])
    assert [one["task"] for one in told["schedule"]["booked"]] == ["plate-1", "wash-1", "cure-1", "clean-1"]
    assert BEGINS < told["schedule"]["ready"] < "2026-12-08T18:00:00"
    events = Calendar.from_ical(client.get(f"/plans/{name}/days.ics").content).walk("VEVENT")
    assert len(events) == len({str(one["uid"]) for one in events}) >= 4
    assert client.get("/plan").json()["wanted"][0]["count"] == 3


def test_fewer_parts_on_a_plate_make_more_plates(client, figure):
    _, told = planned(client, {"figure": figure, "count": 3}, most_parts=1)
    assert [plate["told"]["parts"] for plate in told["plates"]] == [1, 1, 1]
    assert told["schedule"]["booked"][-1]["task"].startswith("clean")


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
    backwards = {"wanted": [], "begins": BEGINS, "due": "2026-12-01T08:00:00"}
    refused = client.put("/plan", json=backwards)
    assert refused.status_code == 422
    assert "due before it begins" in str(refused.json())
    for wrong in ({"wanted": [{"figure": 0}]}, {"most_parts": 0}, {"days_off": ["24.12."]}):
        assert client.put("/plan", json=wrong).status_code == 422
    assert client.get("/plans/none").status_code == 404
