"""Colours over the API: regions in the record, what they take, mixes, and what the bench has of paint."""

import struct

import numpy as np
import pytest

from tests.api.conftest import brought, built, change

ROUND = {"role": "cap", "grows": "round", "places": [{"point": [0.0, 0.0, 15.0]}], "within": 4.0}
WHOLE = {"role": "robe", "grows": "band", "low": -1.0, "high": 99.0}
BLUE = {"kind": "base", "paint": "tide-blue", "coats": 2}


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def planned(client, figure, **plan):
    answer = change(client, figure, "POST", "/record", step={"kind": "colour-plan", **plan}, says="coloured")
    assert answer.status_code == 200, answer.text
    return built(client, figure)["build"]


def test_a_plan_has_areas_amounts_an_order_and_a_drawing(client, figure):
    schemes = [
        {"name": "dusk", "roles": [{"role": "robe", "coats": [BLUE]}, {"role": "cap", "bare": True}]},
        {"name": "low tide", "roles": [{"role": "robe", "coats": [{**BLUE, "paint": "rust"}]}]},
    ]
    build = planned(client, figure, regions=[WHOLE, ROUND], schemes=schemes, scheme="low tide")
    finish = build["finish"]
    assert finish["scheme"] == "low tide"
    assert [[role["role"] for role in one["roles"]] for one in finish["schemes"]] == [["robe", "cap"]] * 2
    dusk, low_tide = finish["schemes"]
    assert dusk["roles"][1]["bare"] and dusk["roles"][0]["colour"] != low_tide["roles"][0]["colour"]
    assert sum(role["area_mm2"] for role in dusk["roles"]) == pytest.approx(finish["whole_mm2"], rel=1e-6)
    assert dusk["roles"][0]["drops"] > 0
    assert finish["work"][0]["what"] == "Wash"
    assert {finding["code"] for finding in build["findings"] if finding["station"] == "finish"} == {
        "no-colour", "regions-overlap",
    }  # fmt: skip
    # What is drawn has one region a vertex, and nothing between two.
    drawn = client.get(f"/blobs/{build['parts'][0]['colour_display']}").content
    magic, n, m = struct.unpack_from("<4sII", drawn)
    assert magic == b"ULD1"
    walls = np.frombuffer(drawn, "<f4", n, 12 + 12 * n)
    corners = np.frombuffer(drawn, "<u4", 3 * m, 12 + 16 * n).reshape(-1, 3)
    assert set(walls) == {0.0, 1.0}
    assert (np.ptp(walls[corners], axis=1) == 0).all()


def test_a_plan_that_cannot_be_is_refused_and_nothing_is_lost(client, figure):
    for wrong in (
        {"regions": [{"role": "robe"}]},
        {"regions": [{**WHOLE, "high": -9.0}]},
        {"schemes": [{"name": "dusk", "roles": [{"role": "robe", "coats": [{**BLUE, "coats": -1}]}]}]},
        {"schemes": [{"name": "dusk", "roles": [{"role": "robe"}, {"role": "robe"}]}]},
        {"brush": 0},
    ):
        answer = change(client, figure, "POST", "/record", step={"kind": "colour-plan", **wrong}, says="coloured")
        assert answer.status_code == 422, wrong
    assert [step["step"]["kind"] for step in built(client, figure)["build"]["steps"]] == ["bring-in"]


def test_stock_that_runs_short_is_told_and_the_plan_stays_when_it_is_filled_up(client, figure):
    scheme = {"name": "dusk", "roles": [{"role": "robe", "coats": [BLUE]}]}
    build = planned(client, figure, regions=[WHOLE], schemes=[scheme])
    assert "short-of-paint" not in {finding["code"] for finding in build["findings"]}
    counted = {"good": "paint:tide-blue", "kind": "counted", "amount": 0.05, "day": "2026-12-01"}
    entered = client.post("/stock", json=counted).json()
    told = built(client, figure)["build"]
    assert "short-of-paint" in {finding["code"] for finding in told["findings"]}
    assert told["finish"]["schemes"] == build["finish"]["schemes"]
    client.delete(f"/stock/{entered['numbers'][0]}")
    assert "short-of-paint" not in {finding["code"] for finding in built(client, figure)["build"]["findings"]}


def test_a_mix_is_proposed_made_again_and_learnt_from(client):
    found = client.post("/colours/proposals", json={"want": "#41576b"}).json()
    assert found[0]["difference"] < 1
    mix = found[0]["drops"]
    told = client.post("/colours/mixes", json={"drops": mix}).json()
    assert told == {"colour": found[0]["colour"], "difference": None, "strength": None}
    more = client.post("/colours/mixes", json={"drops": {name: 10 * count for name, count in mix.items()}}).json()
    assert more["colour"] == told["colour"]
    name = max(mix, key=mix.get)
    dried = client.post("/colours/mixes", json={"drops": mix, "dried": "#23303c", "tells": name}).json()
    assert dried["difference"] > 1 and dried["strength"] is not None
    few = client.post("/colours/proposals", json={"want": "#41576b", "paints": ["bone"]}).json()
    assert [one["drops"] for one in few] == [{"bone": 1}]


@pytest.mark.parametrize(
    ("path", "body", "status", "says"),
    [
        ("proposals", {"want": "blue"}, 422, "want"),
        ("proposals", {"want": "#ffffff", "paints": ["matt-clear"]}, 422, "no paint to mix"),
        ("mixes", {"drops": {"gone": 1}}, 422, "not on the bench"),
        ("mixes", {"drops": {"tide-blue": 1, "slate-primer": 1}}, 422, "curdle"),
        ("mixes", {"drops": {"tide-blue": -1}}, 422, "drops"),
        ("mixes", {"drops": {}}, 422, "drops"),
    ],
)
def test_a_colour_that_cannot_be_is_a_sentence(client, path, body, status, says):
    answer = client.post(f"/colours/{path}", json=body)
    assert answer.status_code == status
    assert says in answer.text


def test_a_copy_is_ticked_off_and_its_paints_are_taken_off_the_stock(client, figure):
    scheme = {"name": "dusk", "roles": [{"role": "robe", "coats": [BLUE]}]}
    build = planned(client, figure, regions=[WHOLE], schemes=[scheme])
    counted = {"good": "paint:tide-blue", "kind": "counted", "amount": 15, "day": "2026-11-01"}
    client.post("/stock", json=counted)
    (copy,) = client.post(f"/figures/{figure}/painted").json()
    assert [row["what"] for row in copy["painted"]["rows"]] == [row["what"] for row in build["finish"]["work"]]
    rows = [{**row, "minutes": 2 * row["told_min"]} for row in copy["painted"]["rows"][:1]]
    rows += copy["painted"]["rows"][1:]

    def entered(copy, **values):
        body = {"painted": {**copy["painted"], **values}, "says": "entered"}
        seen = {"If-Match": str(copy["revision"])}
        return client.put(f"/painted/{copy['number']}", json=body, headers=seen)

    after = entered(copy, rows=rows, figure=99).json()
    assert after["took_min"] == pytest.approx(2 * after["told_min"])
    assert after["painted"]["figure"] == figure
    assert entered(copy, otherwise="late").status_code == 412
    assert entered(after, ended="2020-01-01T00:00:00Z").status_code == 422
    done = entered(after, ended="2099-01-01T00:00:00Z").json()
    (blue,) = (one for one in client.get("/stock").json()["standing"] if one["good"]["key"] == "paint:tide-blue")
    assert blue["there"] == pytest.approx(15 - done["painted"]["takes"]["tide-blue"])
    undone = client.post(f"/painted/{copy['number']}/undo", headers={"If-Match": str(done["revision"])}).json()
    assert undone["painted"]["ended"] is None
    assert client.delete(f"/painted/{copy['number']}").json() == []
    assert client.post("/figures/99/painted").status_code == 404


def test_a_mix_is_kept_made_again_and_is_stock_with_a_date(client):
    mix = {"name": "dusk", "amounts": {"tide-blue": 3, "bone": 1}, "made_ml": 4.0, "day": "2026-12-01"}
    client.post("/stock", json={"good": "paint:bone", "kind": "counted", "amount": 12, "day": "2026-11-01"})
    (made,) = client.post("/mixes", json=mix).json()
    assert made["left_ml"] == pytest.approx(4)
    stock = {one["good"]["key"]: one for one in client.get("/stock").json()["standing"]}
    assert stock["paint:bone"]["there"] == pytest.approx(11)
    assert stock[f"mix:{made['number']}"]["good"]["name"] == "dusk, mixed 2026-12-01"
    client.post("/stock", json={"good": f"mix:{made['number']}", "kind": "counted", "amount": 1, "day": "2026-12-02"})
    told = client.post("/mixes/amounts", json={**mix, "made_ml": 40}).json()["amounts"]
    assert told == {"tide-blue": 750, "bone": 250}
    (dried,) = client.put(f"/mixes/{made['number']}", json={**mix, "dried": "#334455"}).json()
    assert (dried["left_ml"], dried["colour"]) == (pytest.approx(1), "#334455")
    assert client.delete(f"/mixes/{made['number']}").json() == []
    assert len(client.post(f"/mixes/{made['number']}/put-back").json()) == 1
    for wrong in ({"amounts": {"moon": 1}}, {"amounts": {"tide-blue": 1, "slate-primer": 1}}, {"made_ml": 0}):
        assert client.post("/mixes", json={**mix, **wrong}).status_code == 422
    assert client.delete("/mixes/99").status_code == 404


def test_air_that_does_not_suit_a_paint_is_told(client, figure):
    scheme = {"name": "dusk", "roles": [{"role": "robe", "coats": [BLUE]}]}
    planned(client, figure, regions=[WHOLE], schemes=[scheme])
    client.put("/air", json={"temperature": 4, "damp": 95})
    codes = {finding["code"] for finding in built(client, figure)["build"]["findings"]}
    assert {"too-cold", "too-damp"} <= codes
    client.put("/air", json={})
    assert "too-cold" not in {finding["code"] for finding in built(client, figure)["build"]["findings"]}
    assert client.put("/air", json={"temperature": 900}).status_code == 422
