"""Changes looked at before they are made, over HTTP."""

import pytest

from tests.api.conftest import brought, built, finished


@pytest.fixture
def figure(client, dirty_stl):
    number = brought(client, dirty_stl)
    return number, built(client, number)


def tried(client, number, page, **change):
    body = {"build": page["build"]["key"], "change": change}
    job = finished(client, client.post(f"/figures/{number}/trials", json=body).json())
    return client.get(f"/tried/{job['made']['tried']}").json()


def test_what_a_trial_says_is_what_the_change_makes_and_nothing_of_it_is_kept(client, figure):
    number, page = figure
    before = page["build"]["parts"][0]["facts"]
    step = {"kind": "add-form", "name": "knob", "form": "box", "wide": 4, "deep": 4, "tall": 4}
    found = tried(client, number, page, does="add", step=step)
    assert [part["facts"]["part"] for part in found["parts"]] == [before["part"], "knob"]
    assert "knob" in found["said"]
    assert client.get(f"/figures/{number}").json()["revision"] == page["revision"]

    asked = {"step": step, "says": "added knob"}
    client.post(f"/figures/{number}/record", json=asked, headers={"If-Match": str(page["revision"])})
    made = built(client, number)["build"]
    assert [part["facts"]["volume_mm3"] for part in made["parts"]] == [
        part["facts"]["volume_mm3"] for part in found["parts"]
    ]
    assert found["size_mm"] == made["size_mm"]
    knob = made["parts"][1]["facts"]
    assert found["ml"] == pytest.approx(knob["volume_mm3"] / 1000)
    assert found["triangles"] == knob["triangles"]
    assert client.get(f"/blobs/{found['parts'][1]['display']}").content.startswith(b"ULD1")


def test_a_way_to_stand_is_tried_with_its_supports(client, figure):
    number, page = figure
    steps = [{"kind": "orient", "values": {"up": [0.6, 0, 0.8]}}, {"kind": "support", "values": {"on": True}}]
    part = tried(client, number, page, does="set", steps=steps)["parts"][0]
    assert part["facts"]["stance"]["up"] == pytest.approx([0.6, 0, 0.8])
    assert client.get(f"/blobs/{part['supports_display']}").content.startswith(b"ULD1")


def test_fields_of_a_step_are_tried(client, figure):
    number, page = figure
    step = {"kind": "add-form", "name": "knob", "form": "box", "wide": 4, "deep": 4, "tall": 4}
    asked = {"step": step, "says": "added knob"}
    client.post(f"/figures/{number}/record", json=asked, headers={"If-Match": str(page["revision"])})
    page = built(client, number)
    known = next(said["step"]["id"] for said in page["build"]["steps"] if said["step"]["kind"] == "add-form")
    found = tried(client, number, page, does="fields", step=known, values={"tall": 8})
    assert found["parts"][1]["facts"]["volume_mm3"] == pytest.approx(
        2 * page["build"]["parts"][1]["facts"]["volume_mm3"]
    )


@pytest.mark.parametrize(
    ("change", "status"),
    [
        ({"does": "add", "step": {"kind": "bring-in"}}, 422),
        ({"does": "add", "step": {"kind": "no-such-step"}}, 422),
        ({"does": "add", "step": {"kind": "simplify", "triangles": -5}}, 422),
        ({"does": "fields", "step": 999, "values": {"tall": 8}}, 404),
        ({"does": "fields", "step": 1, "values": {"source": "0" * 64}}, 422),
        ({"does": "nothing"}, 422),
    ],
)
def test_a_change_that_cannot_be_made_cannot_be_tried(client, figure, change, status):
    number, page = figure
    answer = client.post(f"/figures/{number}/trials", json={"build": page["build"]["key"], "change": change})
    assert answer.status_code == status
    assert answer.json()["detail"]


def test_a_trial_on_a_figure_that_has_changed_is_refused(client, figure):
    number, _ = figure
    step = {"kind": "simplify", "triangles": 100}
    body = {"build": "0" * 64, "change": {"does": "add", "step": step}}
    assert client.post(f"/figures/{number}/trials", json=body).status_code == 404
    for name in ("0" * 64, "x", "..%2f"):
        assert client.get(f"/tried/{name}").status_code == 404
