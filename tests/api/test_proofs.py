"""Proofs over the API: exact files, what went wrong, what is done about it, and what the bench learns."""

import io
import json
import struct
import zipfile

import numpy as np
import pytest
from PIL import Image

from tests.api.conftest import brought, built, finished, own
from ulvet.core.formats.stl import read_back

TIP = {"point": [0.0, 0.0, 15.0], "normal": [0, 0, 1]}


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def begun(client, figure, **line):
    answer = client.post("/proofs", json={"parts": [{"figure": figure, **line}], "ready": ["plate clean"]})
    assert answer.status_code == 201, answer.text
    (one,) = answer.json()
    return one


def entered(client, one, says="entered", **came):
    whole = {**one["proof"]["came"], **came}
    answer = client.put(
        f"/proofs/{one['number']}", json={"came": whole, "says": says}, headers={"If-Match": str(one["revision"])}
    )
    assert answer.status_code == 200, answer.text
    return answer.json()


def pin(**more):
    return {"id": 1, "part": 0, "at": TIP, "when": "supports-off", "cause": "thin-part", "what": "Tip", **more}


def state(client, figure):
    return client.get(f"/figures/{figure}/proofs").json()["state"]


def test_a_proof_of_what_is_there_proves_exactly_that(client, figure):
    assert state(client, figure)["kind"] == "not"
    one = begun(client, figure, count=2)
    assert one["proof"]["came"]["copies"] == [{"part": 0, "outcome": None, "lies": None}] * 2
    assert one["proof"]["came"]["ready"] == ["plate clean"]
    assert one["proof"]["told"]["ml"] == pytest.approx(6, rel=0.05)
    assert state(client, figure) == {"kind": "running", "proof": one["number"], "differs": []}
    entered(client, one, copies=[{"part": 0, "outcome": "sound"}, {"part": 0, "outcome": "usable"}])
    assert state(client, figure)["kind"] == "exact"
    # At another size it was proofed in another form.
    page = client.get(f"/figures/{figure}").json()
    client.put(
        f"/figures/{figure}/edition",
        json={**page["edition"], "height": 30},
        headers={"If-Match": str(page["revision"])},
    )
    built(client, figure)
    other = state(client, figure)
    assert (other["kind"], other["proof"], other["differs"]) == ("another", one["number"], ["50.0 % of this size"])


def test_a_release_says_which_proof_proved_it(client, figure):
    own(client, figure)
    one = begun(client, figure)
    says = []
    for outcome in (None, "failed", "sound"):
        one = entered(client, client.get(f"/proofs/{one['number']}").json(), copies=[{"part": 0, "outcome": outcome}])
        done = finished(client, client.post(f"/figures/{figure}/releases").json())
        data = client.get(f"/releases/{done['made']['release']}.zip").content
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            manifest = next(name for name in packed.namelist() if name.endswith("manifest.json"))
            says.append(json.loads(packed.read(manifest))["proofed"])
        assert client.get(f"/figures/{figure}").json()["editions"][0]["proofed"] == says[-1]
    assert says == [
        "Being proofed: how proof 1 came out is not on record yet.",
        "Printed in exactly this form, and it failed: proof 1.",
        "Proofed in exactly this form: proof 1.",
    ]


def test_the_files_of_a_proof_are_those_that_were_printed(client, figure):
    one = begun(client, figure, count=3)
    part = read_back(client.get(f"/proofs/{one['number']}/parts/0.stl").content)
    assert np.ptp(part.vertices, axis=0).max() == pytest.approx(20)
    plate = client.get(f"/proofs/{one['number']}/plate.stl").content
    assert struct.unpack("<I", plate[80:84])[0] == 3 * len(part.faces)
    assert client.get(f"/proofs/{one['number']}/plate.3mf").content[:2] == b"PK"
    assert client.get(f"/proofs/{one['number']}/parts/7.stl").status_code == 404
    # Changed since, the proof keeps its own.
    change = {"step": {"kind": "turn", "axis": "x", "degrees": 90}, "says": "turned"}
    client.post(f"/figures/{figure}/record", json=change, headers={"If-Match": "1"})
    assert np.array_equal(read_back(client.get(f"/proofs/{one['number']}/parts/0.stl").content).vertices, part.vertices)


def test_a_failure_stands_among_the_findings_until_the_recipe_is_changed_because_of_it(client, figure):
    one = begun(client, figure)
    entered(client, one, copies=[{"part": 0, "outcome": "failed"}], pins=[pin()])
    page = client.get(f"/figures/{figure}").json()
    number, finding = next((k, f) for k, f in enumerate(page["build"]["findings"]) if f["code"] == "proof-failed")
    assert (finding["station"], finding["severity"]) == ("proof", "stop")
    assert finding["title"] == "Tip was too thin when supports came off"
    section = client.get(f"/builds/{page['build']['key']}/sections/{number}", params={"figure": figure})
    assert section.status_code == 200
    remedy = next(k for k, r in enumerate(finding["remedies"]) if r["change"]["does"] == "add-steps")
    body = {"build": page["build"]["key"], "finding": number, "remedy": remedy}
    answer = client.post(f"/figures/{figure}/remedies", json=body, headers={"If-Match": str(page["revision"])})
    assert answer.json()["says"].endswith(f", because of proof {one['number']}")
    after = built(client, figure)
    assert "proof-failed" not in [f["code"] for f in after["build"]["findings"]]
    # Undone, it is open again.
    client.post(f"/figures/{figure}/undo", headers={"If-Match": str(after["revision"])})
    assert "proof-failed" in [f["code"] for f in built(client, figure)["build"]["findings"]]


def test_a_decision_is_kept_and_can_be_undone(client, figure):
    one = begun(client, figure)
    entered(client, one, copies=[{"part": 0, "outcome": "failed"}], pins=[pin(cause="clog")])
    page = client.get(f"/figures/{figure}").json()
    number = next(k for k, f in enumerate(page["build"]["findings"]) if f["code"] == "proof-failed")
    offered = page["build"]["findings"][number]["remedies"]
    assert [r["change"]["decision"] for r in offered] == ["reprint", "repair", "leave"]
    body = {"build": page["build"]["key"], "finding": number, "remedy": 2}
    after = client.post(f"/figures/{figure}/remedies", json=body, headers={"If-Match": str(page["revision"])}).json()
    assert after["revision"] == page["revision"]
    assert "proof-failed" not in [f["code"] for f in after["build"]["findings"]]
    now = client.get(f"/proofs/{one['number']}").json()
    assert now["proof"]["came"]["pins"][0]["decision"] == "leave"
    again = client.post(f"/figures/{figure}/remedies", json=body, headers={"If-Match": str(page["revision"])})
    assert again.status_code == 404
    undone = client.post(f"/proofs/{one['number']}/undo", headers={"If-Match": str(now["revision"])}).json()
    assert undone["proof"]["came"]["pins"][0]["decision"] is None
    redone = client.post(f"/proofs/{one['number']}/redo", headers={"If-Match": str(undone["revision"])}).json()
    assert redone["proof"]["came"]["pins"][0]["decision"] == "leave"


def test_a_plate_is_begun_as_a_proof_of_what_lies_on_it(client, figure):
    plan = {"wanted": [{"figure": figure, "count": 3}], "begins": "2026-12-07T08:00:00"}
    client.put("/plan", json={"plan": plan, "says": "three"}, headers={"If-Match": "1"})
    name = finished(client, client.post("/plan/made").json())["made"]["plan"]
    (plate,) = client.get(f"/plans/{name}").json()["plates"]
    assert "plate clean, level and tight" in plate["ready"]
    (lying,) = {(one["figure"], one["edition"], one["part"]) for one in plate["lying"]}
    parts = [{"figure": lying[0], "edition": lying[1], "part": lying[2], "count": 3}]
    (one,) = client.post("/proofs", json={"parts": parts, "ready": plate["ready"]}).json()
    assert len(one["proof"]["came"]["copies"]) == 3
    assert one["proof"]["told"]["ml"] == pytest.approx(plate["told"]["material_ml"])
    assert one["proof"]["told"]["seconds"] == pytest.approx(plate["told"]["seconds"])


def test_two_hands_on_one_proof_overwrite_nothing(client, figure):
    one = begun(client, figure)
    entered(client, one, seconds=4_000)
    late = client.put(
        f"/proofs/{one['number']}",
        json={"came": one["proof"]["came"], "says": "late"},
        headers={"If-Match": str(one["revision"])},
    )
    assert late.status_code == 412
    assert "nothing was overwritten" in late.json()["detail"]
    assert client.get(f"/proofs/{one['number']}").json()["proof"]["came"]["seconds"] == 4_000


@pytest.mark.parametrize(
    ("came", "says"),
    [
        ({"copies": [{"part": 9}]}, "was not printed"),
        ({"pins": [pin(), pin()]}, "one number"),
        ({"ended": "2020-01-01T00:00:00Z"}, "before it began"),
    ],
)
def test_what_cannot_have_come_out_is_refused(client, figure, came, says):
    one = begun(client, figure)
    answer = client.put(
        f"/proofs/{one['number']}",
        json={"came": {**one["proof"]["came"], **came}, "says": "x"},
        headers={"If-Match": str(one["revision"])},
    )
    assert answer.status_code in (409, 422)
    assert says in answer.json()["detail"]


def test_nothing_is_begun_of_what_is_not_there(client, figure):
    assert client.post("/proofs", json={"parts": [{"figure": 999}]}).status_code == 404
    answer = client.post("/proofs", json={"parts": [{"figure": figure, "part": "wing"}]})
    assert "no such part" in answer.json()["detail"]
    assert client.get(f"/figures/{figure}/proofs").json()["proofs"] == []


def test_a_proof_begun_by_mistake_is_left_out_and_put_back(client, figure):
    one = begun(client, figure)
    assert client.delete(f"/proofs/{one['number']}").status_code == 204
    assert client.get(f"/proofs/{one['number']}").status_code == 404
    assert state(client, figure)["kind"] == "not"
    client.post(f"/proofs/{one['number']}/back")
    assert state(client, figure)["kind"] == "running"


def test_an_attempt_says_what_it_has_otherwise(client, figure):
    first = begun(client, figure)
    page = client.get(f"/figures/{figure}").json()
    made = {**page["edition"], "height": 30}
    client.put(f"/figures/{figure}/edition", json=made, headers={"If-Match": str(page["revision"])})
    built(client, figure)
    second = begun(client, figure)
    assert first["differs"] == []
    assert second["differs"] == ["50.0 % of this size"]
    with_hands = entered(client, second, hands="resin warmed")
    assert with_hands["differs"] == ["50.0 % of this size", "resin warmed"]


def test_the_bench_learns_only_by_an_act_and_says_from_which_proofs(client, figure):
    setting = begun(client, figure)["proof"]["setting"]
    numbers = []
    for factor in (1.18, 1.2, 1.22, 1.19, 1.21, 1.2):
        one = begun(client, figure)
        seconds = one["proof"]["told"]["seconds"] * factor
        entered(client, one, copies=[{"part": 0, "outcome": "sound"}], seconds=seconds)
        numbers.append(one["number"])
    before = client.get(f"/figures/{figure}").json()["build"]["estimate"]["seconds"]
    told = client.get(f"/settings/{setting}/learnt").json()
    hours = next(one for one in told["learnt"] if one["path"] == "times.factor")
    assert hours["value"] == pytest.approx(1.2, abs=0.01)
    assert hours["low"] < 1.2 < hours["high"]
    assert (hours["proofs"], hours["now"]) == (numbers, 1.0)
    client.post(f"/settings/{setting}/learnt", json={"path": "times.factor"})
    after = client.get(f"/settings/{setting}/learnt").json()
    assert next(one for one in after["learnt"] if one["path"] == "times.factor")["now"] == pytest.approx(1.2, abs=0.01)
    bench = client.get("/bench").json()
    (row,) = [
        row for of in bench["lists"] if of["place"] == "settings" for thing in of["things"] if thing["id"] == setting
        for row in thing["values"] if row["path"] == "times.factor"
    ]  # fmt: skip
    assert row["origin"]["kind"] == "learnt"
    assert row["origin"]["proofs"] == numbers
    assert built(client, figure)["build"]["estimate"]["seconds"] == pytest.approx(1.2 * before, rel=0.01)
    assert client.post(f"/settings/{setting}/learnt", json={"path": "fails"}).status_code == 404


def test_coupons_are_had_and_told(client, figure):
    setting = client.get(f"/figures/{figure}").json()["edition"]["setting"]
    assert client.get(f"/settings/{setting}/coupons/fit.stl").content[80:84] != b"\0\0\0\0"
    features = client.get(f"/settings/{setting}/coupons/measure").json()
    assert {"name": "A", "mm": 60.0}.items() <= features[0].items()
    told = [{"coupon": "fit", "setting": setting, "press": 0.06}]
    learnt = client.put(f"/settings/{setting}/coupons", json=told).json()
    assert [one["path"] for one in learnt["learnt"]] == ["fits.press"]
    wrong = client.put(f"/settings/{setting}/coupons", json=[{**told[0], "press": 0.05}])
    assert "no gap of 0.05 mm" in wrong.json()["detail"]
    assert client.get(f"/settings/{setting}/learnt").json()["coupons"] == learnt["coupons"]
    assert client.get("/settings/nothing/learnt").status_code in (404, 409, 422)
    assert client.get("/settings/nothing/coupons/fit").status_code in (404, 409, 422)


def test_a_photo_keeps_nothing_but_its_picture(client, figure):
    data = io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "Camera"
    Image.new("RGB", (40, 30), "red").save(data, "JPEG", exif=exif)
    kept = client.post("/references", params={"file_name": "crest.jpg"}, content=data.getvalue()).json()
    shown = client.get(f"/blobs/{kept['shown']}").content
    assert not Image.open(io.BytesIO(shown)).getexif()
    one = entered(client, begun(client, figure), pins=[pin(photos=[kept["shown"]])])
    assert one["proof"]["came"]["pins"][0]["photos"] == [kept["shown"]]
    huge = client.post("/references", params={"file_name": "huge.jpg"}, content=bytes(21_000_000))
    assert "larger than" in huge.json()["detail"]
    none = client.post("/references", params={"file_name": "note.jpg"}, content=b"no picture")
    assert "neither" in none.json()["detail"]
