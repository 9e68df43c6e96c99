"""The shelf over the API: figures deleted and put back, the disk, and jobs that are left."""

import pytest

from tests.api.conftest import brought, built, change, finished
from tests.conftest import dirty_figure
from ulvet.core.formats.stl import stl_bytes


def test_a_figure_is_deleted_put_back_and_checked_as_it_was(client, clean_stl):
    figure = brought(client, clean_stl)
    key = built(client, figure)["build"]["key"]
    (gone,) = client.delete(f"/figures/{figure}").json()
    assert (gone["id"], gone["name"]) == (figure, "Block")
    assert gone["deleted"] < gone["gone"]
    assert client.get("/shelf").json() == []
    assert client.get(f"/figures/{figure}").status_code == 404
    assert client.delete(f"/figures/{figure}").status_code == 404
    assert client.post(f"/figures/{figure}/put-back").json() == []
    assert client.post(f"/figures/{figure}/put-back").status_code == 422
    assert built(client, figure)["build"]["key"] == key


def test_figures_are_named_collected_and_copied_and_the_one_worked_on_last_comes_first(client, clean_stl):
    one = brought(client, clean_stl)
    key = built(client, one)["build"]["key"]
    copy, _ = client.post(f"/figures/{one}/copies").json()
    assert (copy["name"], copy["id"] != one) == ("Block 2", True)
    assert built(client, copy["id"])["build"]["key"] == key
    assert client.post(f"/figures/{one}/copies").json()[0]["name"] == "Block 3"

    client.put(f"/figures/{one}/name", json={"name": " Plinth "})
    client.put(f"/figures/{one}/collection", json={"collection": "Stones"})
    change(client, one, "PUT", "/edition", **{**client.get(f"/figures/{one}").json()["edition"], "height": 33})
    first, *others = client.get("/shelf").json()
    assert (first["name"], first["collection"], first["next_station"]) == ("Plinth", "Stones", None)
    assert [other["collection"] for other in others] == ["", ""]
    assert built(client, one)["build"]["size_mm"][2] == pytest.approx(33)
    # A copy goes its own way.
    assert built(client, copy["id"])["build"]["size_mm"][2] != pytest.approx(33)
    assert client.get(f"/figures/{copy['id']}").json()["can_undo"] is False

    (renamed, *_) = client.put("/shelf/collections", json={"name": "Stones", "to": "Rocks"}).json()
    assert renamed["collection"] == "Rocks"
    assert client.put("/shelf/collections", json={"name": "Stones", "to": "Rocks"}).status_code == 404
    for name in ("", "   ", "x" * 121):
        assert client.put(f"/figures/{one}/name", json={"name": name}).status_code == 422
    assert client.get(f"/figures/{one}").json()["name"] == "Plinth"
    assert client.post("/figures/99/copies").status_code == 404


def test_the_disk_says_what_it_holds_and_may_and_refuses_nonsense(client, clean_stl):
    brought(client, clean_stl)
    use = client.get("/disk").json()
    assert 0 < use["taken_gb"] < use["budget_gb"]
    assert client.put("/disk", json={"budget_gb": 3}).json()["budget_gb"] == 3
    answer = client.put("/disk", json={"budget_gb": -3})
    assert answer.status_code == 422 and "nothing was changed" in answer.json()["detail"]
    assert client.get("/disk").json()["budget_gb"] == 3


@pytest.mark.cold
def test_a_trial_that_is_left_ends_and_a_change_ends_what_it_made_useless(client, tmp_path):
    path = tmp_path / "post.stl"
    path.write_bytes(stl_bytes(dirty_figure()))
    figure = brought(client, path)
    page = built(client, figure)
    asked = [
        {"build": page["build"]["key"], "finding": k, "remedy": r}
        for k, finding in enumerate(page["build"]["findings"])
        for r, remedy in enumerate(finding["remedies"])
        if remedy["change"]["does"] == "add-steps"
    ]
    assert len(asked) >= 3
    trials = [client.post(f"/figures/{figure}/previews", json=one).json() for one in asked]
    for trial in trials[1:]:
        assert client.post(f"/jobs/{trial['id']}/leave").status_code == 200
    states = [finished(client, trial)["state"] for trial in trials[1:]]
    assert "cancelled" in states and set(states) <= {"cancelled", "done"}
    assert client.post("/jobs/1/leave").status_code == 404
    # Of several changes in a row only the last is checked to its end.
    for height in (20, 40, 60, 80):
        edition = client.get(f"/figures/{figure}").json()["edition"]
        assert change(client, figure, "PUT", "/edition", **{**edition, "height": height}).status_code == 200
    last = built(client, figure)
    assert last["build"]["size_mm"][2] == pytest.approx(80, abs=0.01)
    builds = [job for job in client.get("/jobs").json() if job["kind"] == "build" and job["figures"] in ([figure], [])]
    assert "cancelled" in [job["state"] for job in builds]
    assert not [job for job in builds if job["state"] in ("queued", "running")]


@pytest.mark.cold
def test_what_a_check_has_seen_is_told_station_by_station_the_one_looked_at_first(client, clean_stl):
    figure = brought(client, clean_stl)
    page = built(client, figure)
    checked = [one["station"] for one in page["stations"] if one["checked"]]
    assert {"mend", "gauge", "part", "stand", "layers"} <= set(checked) and "proof" not in checked
    client.headers["X-Ulvet-Station"] = "layers"
    assert change(client, figure, "PUT", "/edition", **{**page["edition"], "height": 33}).status_code == 200
    job = finished(client, client.get(f"/figures/{figure}").json()["job"] or client.get("/jobs").json()[-1])
    assert job["seen"][0] == "layers" and sorted(job["seen"]) == sorted(checked)
    seen = client.get(f"/jobs/{job['id']}/seen").json()
    assert [one["station"] for one in seen] == job["seen"]
    findings = client.get(f"/figures/{figure}").json()["build"]["findings"]
    assert sorted(finding["code"] for one in seen for finding in one["findings"]) == sorted(f["code"] for f in findings)
    client.headers["X-Ulvet-Station"] = "attic"
    assert client.get(f"/figures/{figure}").status_code == 422
    assert client.get("/jobs/1/seen").status_code == 404
