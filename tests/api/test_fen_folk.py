"""A crew of figures on three printers, from the first plan to a failure that is planned anew."""

import pytest
from icalendar import Calendar

from tests.api.conftest import brought, built, finished
from tests.shapes import box, concatenated, cylinder
from ulvet.core.formats.stl import stl_bytes

BEGINS = "2026-12-07T08:00:00"
CREW = {
    "ferry": (concatenated(box(24, 14, 4), cylinder(3, 30, 32, at=(12, 7, 3.5))), "lantern-6-tough-grey"),
    "imp": (concatenated(box(12, 12, 3), cylinder(4, 18, 32, at=(6, 6, 2.5))), "lantern-10-plain-ivory"),
    "otter": (box(26, 12, 12), "short-reed-120-matt-filament"),
}


@pytest.fixture
def crew(client, tmp_path):
    """The numbers of the figures, each made in a setting of another printer."""
    numbers = {}
    for name, (mesh, setting) in CREW.items():
        path = tmp_path / f"{name}.stl"
        path.write_bytes(stl_bytes(mesh))
        number = numbers[name] = brought(client, path)
        page = built(client, number)
        body, head = {**page["edition"], "setting": setting}, {"If-Match": str(page["revision"])}
        assert client.put(f"/figures/{number}/edition", json=body, headers=head).status_code == 200
        built(client, number)
    return numbers


def kept(client, **plan):
    now = client.get("/plan").json()
    body = {"plan": {**now["plan"], **plan}, "says": "changed"}
    answer = client.put("/plan", json=body, headers={"If-Match": str(now["revision"])})
    assert answer.status_code == 200, answer.text


def made(client):
    name = finished(client, client.post("/plan/made").json())["made"]["plan"]
    return name, client.get(f"/plans/{name}").json()


def on(told, printer):
    return [plate for plate in told["plates"] if plate["printer"] == printer]


def booked(told, plate):
    return next(one for one in told["schedule"]["booked"] if one["task"] == f"plate-{plate['tag']}")


def test_a_crew_is_planned_on_three_printers_moved_by_hand_and_planned_anew_when_it_fails(client, crew):
    wanted = [{"figure": crew["ferry"]}, {"figure": crew["imp"], "count": 4}, {"figure": crew["otter"], "count": 2}]
    kept(client, wanted=wanted, begins=BEGINS)
    _, told = made(client)
    assert {plate["printer"] for plate in told["plates"]} == {"lantern-6", "lantern-10", "short-reed-120"}
    assert sum(plate["told"]["parts"] for plate in told["plates"]) == 7 and told["unfit"] == []
    printing = sum(plate["told"]["seconds"] for plate in told["plates"])
    assert told["sums"]["printing_s"] == pytest.approx(printing)
    # Only what is printed in resin is washed.
    washed = [task["id"] for task in told["tasks"] if task["id"].startswith("wash-")]
    assert len(washed) == len(on(told, "lantern-6") + on(told, "lantern-10"))

    # One of the imps is turned by hand and stays so; the rest is packed round it.
    (imps,) = on(told, "lantern-10")
    one = {k: imps["lying"][0][k] for k in ("figure", "edition", "part", "layers", "x", "y", "turn")}
    by_hand = {**one, "x": imps["wide"] / 2, "y": imps["deep"] / 2, "turn": 30.0}
    kept(client, plates=[{"setting": imps["setting"], "lying": [by_hand]}])
    _, told = made(client)
    (imps,) = on(told, "lantern-10")
    (placed,) = (one for one in imps["lying"] if one["by_hand"])
    assert (placed["x"], placed["turn"]) == (pytest.approx(by_hand["x"]), 30.0) and len(imps["lying"]) == 4

    # The otters begin a day later, which makes nothing else later; the calendar says when.
    (otters,) = on(told, "short-reed-120")
    before = booked(told, imps)["begin"]
    later = "2026-12-08T11:00:00"
    kept(client, moves=[{"task": f"plate-{otters['tag']}", "not_before": later}])
    name, told = made(client)
    (otters,), (imps,) = on(told, "short-reed-120"), on(told, "lantern-10")
    assert booked(told, otters)["begin"] == later and booked(told, imps)["begin"] <= before
    events = Calendar.from_ical(client.get(f"/plans/{name}/days.ics").content).walk("VEVENT")
    starts = {str(one["summary"]): one.decoded("dtstart").replace(tzinfo=None).isoformat() for one in events}
    assert later in starts.values() and booked(told, imps)["begin"] in starts.values()

    # The imps are begun; two fail, and are planned anew while the others stay as they were.
    ledger = {"good": "material:plain-ivory", "kind": "counted", "amount": 6, "day": "2026-12-01"}
    assert client.post("/stock", json=ledger).status_code == 201
    part = {"figure": crew["imp"], "edition": placed["edition"], "part": placed["part"], "count": 4}
    begun = client.post("/plan/begun", json={"parts": [part], "ready": imps["ready"]}).json()["begun"]
    proof = client.get(f"/proofs/{begun[0]['proof']}").json()
    came = {**proof["proof"]["came"], "ended": proof["proof"]["began"], "ml": 5.0}
    came["copies"] = [{"part": 0, "outcome": outcome} for outcome in ("sound", "failed", "sound", "failed")]
    entered = client.put(
        f"/proofs/{proof['number']}", json={"came": came, "says": "out"}, headers={"If-Match": str(proof["revision"])}
    )
    assert entered.status_code == 200, entered.text
    _, told = made(client)
    (again,) = on(told, "lantern-10")
    assert again["told"]["parts"] == 2
    assert booked(told, on(told, "short-reed-120")[0])["begin"] == later
    # After what that took, the resin is short for it, from the day it is begun.
    (short,) = (one for one in told["short"] if one["good"]["key"] == "material:plain-ivory")
    assert short["there"] == pytest.approx(1.0) and short["at"] == booked(told, again)["begin"]
