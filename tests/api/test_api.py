import csv
import io
import itertools
import json
import subprocess
import sys
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
import trimesh
from typer.testing import CliRunner

from tests.api.conftest import brought, built, finished, own
from tests.shapes import BAD
from ulvet.api.guard import WRITE_HEADER
from ulvet.cli import app
from ulvet.store.folder import DataFolder, FolderInUse


def test_the_whole_way_from_a_dirty_mesh_to_a_release(client, dirty_stl):
    figure = brought(client, dirty_stl)
    page = built(client, figure)
    assert page["name"] == "Heron post"
    assert page["build"]["parts"][0]["facts"]["size_mm"][2] == pytest.approx(30)
    codes = [f["code"] for f in page["build"]["findings"]]
    assert {"open-edges", "inconsistent-winding", "thin-wall"} <= set(codes)

    def apply(code):
        place = next(k for k, f in enumerate(page["build"]["findings"]) if f["code"] == code)
        body = {"build": page["build"]["key"], "finding": place, "remedy": 0}
        head = {"If-Match": str(page["revision"])}
        assert client.post(f"/figures/{figure}/remedies", json=body, headers=head).status_code == 200
        return built(client, figure)

    for code in ("inconsistent-winding", "open-edges", "thin-wall"):
        page = apply(code)
        assert code not in [f["code"] for f in page["build"]["findings"] if f["severity"] == "stop"]
    assert page["revision"] == 4
    assert page["build"]["parts"][0]["facts"]["watertight"]

    held = client.post(f"/figures/{figure}/releases")
    assert held.status_code == 422
    assert "Whose is heron_post.stl?" in held.json()["detail"]
    own(client, figure)
    release = finished(client, client.post(f"/figures/{figure}/releases").json())["made"]["release"]
    answer = client.get(f"/releases/{release}.zip")
    assert 'filename="heron-post_release.zip"' in answer.headers["content-disposition"]
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        (name,) = [n for n in archive.namelist() if n.endswith(".stl")]
        assert trimesh.load(io.BytesIO(archive.read(name)), file_type="stl").is_watertight


def test_undo_and_redo_move_the_head_and_build_nothing_again(client, dirty_stl):
    figure = brought(client, dirty_stl)
    first = built(client, figure)
    head = {"If-Match": "1"}
    edition = {**first["edition"], "height": 60}
    client.put(f"/figures/{figure}/edition", json=edition, headers=head)
    second = built(client, figure)
    assert second["build"]["parts"][0]["facts"]["size_mm"][2] == pytest.approx(60)
    undone = client.post(f"/figures/{figure}/undo", headers={"If-Match": "2"}).json()
    assert (undone["revision"], undone["can_redo"]) == (1, True)
    assert undone["build"]["key"] == first["build"]["key"]
    redone = client.post(f"/figures/{figure}/redo", headers=head).json()
    assert redone["build"]["key"] == second["build"]["key"]
    nothing = client.post(f"/figures/{figure}/redo", headers={"If-Match": "2"})
    assert (nothing.status_code, nothing.json()["detail"]) == (422, "There is nothing to redo.")


def test_two_windows_cannot_overwrite_each_other(client, clean_stl):
    figure = brought(client, clean_stl)
    page = built(client, figure)
    edition = {**page["edition"], "height": 40}
    head = {"If-Match": "1"}
    assert client.put(f"/figures/{figure}/edition", json=edition, headers=head).status_code == 200
    late = client.put(f"/figures/{figure}/edition", json={**edition, "height": 50}, headers=head)
    assert late.status_code == 412
    assert "nothing was overwritten" in late.json()["detail"]
    assert client.get(f"/figures/{figure}").json()["edition"]["height"] == 40


def test_numbers_in_the_record_can_be_edited_and_nonsense_is_refused(client, dirty_stl):
    figure = brought(client, dirty_stl)
    page = built(client, figure)
    place = next(k for k, f in enumerate(page["build"]["findings"]) if f["code"] == "thin-wall")
    body = {"build": page["build"]["key"], "finding": place, "remedy": 0}
    client.post(f"/figures/{figure}/remedies", json=body, headers={"If-Match": "1"})
    url, head = f"/figures/{figure}/record", {"If-Match": "2"}
    for wrong in ({"step": 2, "field": "wall", "value": -1}, {"step": 9, "field": "wall", "value": 1},
                  {"step": 2, "field": "kind", "value": 1}, {"step": 2, "field": "__class__", "value": 1}):  # fmt: skip
        answer = client.put(url, json=wrong, headers=head)
        assert answer.status_code in (404, 422)
        assert answer.headers["content-type"] == "application/problem+json"
    assert client.put(url, json={"step": 2, "field": "wall", "value": 0.9}, headers=head).status_code == 200
    sentence = built(client, figure)["build"]["steps"][1]["sentence"]
    assert next(piece["value"] for piece in sentence if isinstance(piece, dict)) == 0.9


@pytest.mark.parametrize(
    "name", ["empty.stl", "cut.stl", "boast.stl", "nan.stl", "range.obj", "really-obj.stl", "figure.png"]
)
def test_a_bad_upload_gets_a_sentence_and_leaves_nothing(client, tmp_path, name):
    content, _ = BAD[name]
    answer = client.post("/figures", params={"file_name": name}, content=content)
    assert answer.status_code == 422
    problem = answer.json()
    assert name in problem["detail"] or "PNG" in problem["detail"] or "neither" in problem["detail"]
    assert client.get("/shelf").json() == []
    assert not [p for p in (tmp_path / "data" / "uploads").glob("*") if p.is_file()]


def test_a_section_and_a_layer_are_drawn_and_a_trial_changes_nothing(client, dirty_stl):
    figure = brought(client, dirty_stl)
    page = built(client, figure)
    key = page["build"]["key"]
    place = next(k for k, f in enumerate(page["build"]["findings"]) if f["code"] == "thin-wall")
    drawing = client.get(f"/builds/{key}/sections/{place}").json()
    assert drawing["wall"] == pytest.approx(0.4, rel=0.03)
    assert drawing["outlines"]
    body = {"build": key, "finding": place, "remedy": 0}
    trial = finished(client, client.post(f"/figures/{figure}/previews", json=body).json())
    tried = client.get(f"/tried/{trial['made']['tried']}").json()
    thicker = client.get(f"/builds/{key}/sections/{place}", params={"mesh": tried["parts"][0]["mesh"]}).json()
    assert _bar_at(thicker) > _bar_at(drawing) + 0.1
    assert client.get(f"/figures/{figure}").json()["revision"] == 1
    assert client.get(f"/builds/{key}/parts/0/layers/10.png").content.startswith(b"\x89PNG")
    assert client.get(f"/builds/{key}/parts/0/layers/99999.png").status_code == 404
    display = client.get(f"/blobs/{page['build']['parts'][0]['display']}")
    assert display.content.startswith(b"ULD1")
    assert "immutable" in display.headers["cache-control"]


def test_thin_places_come_as_a_table_under_the_names_they_were_given(client, dirty_stl):
    figure = brought(client, dirty_stl)
    page = built(client, figure)
    first = page["build"]["gauge"]["places"][0]
    step = {"kind": "name-place", "name": "=bar, the", "places": [{"point": first["point"]}], "within": 1}
    client.post(
        f"/figures/{figure}/record",
        json={"step": step, "says": "named a place"},
        headers={"If-Match": str(page["revision"])},
    )
    key = built(client, figure)["build"]["key"]
    answer = client.get(f"/builds/{key}/places.csv")
    rows = list(csv.DictReader(answer.text.splitlines()))
    assert answer.headers["content-type"].startswith("text/csv")
    # A name that a table program would run is written as text.
    assert rows[0]["name"] == "'=bar, the" and float(rows[0]["least_mm"]) == pytest.approx(first["least_mm"])
    assert [float(rows[0][axis]) for axis in ("x_mm", "y_mm", "z_mm")] == pytest.approx(first["point"])
    other = client.get(f"/builds/{key}/places.csv", params={"kind": "pin", "stops": True})
    assert {row["kind"] for row in csv.DictReader(other.text.splitlines())} <= {"pin"}
    assert client.get(f"/builds/{key}/places.csv", params={"kind": "thick"}).status_code == 422


@pytest.mark.cold
def test_progress_comes_as_events(served, client, clean_stl):
    with httpx.stream("GET", f"{served}/api/events", timeout=60) as stream:
        lines = stream.iter_lines()
        assert next(line for line in lines if line.startswith("event")) == "event: hello"
        brought(client, clean_stl)
        states, event = [], ""
        for line in lines:
            name, _, value = line.partition(": ")
            event = value if name == "event" else event
            if name == "data" and event == "job":
                states.append(json.loads(value)["state"])
                if states[-1] == "done":
                    break
    assert states[0] == "queued"
    assert "running" in states


def heard(served, last=None, until="done"):
    """Events of one stream, as (id, event, data), up to the first job in the state ``until``."""
    headers = {"Last-Event-ID": last} if last else {}
    events, event = [], {}
    with httpx.stream("GET", f"{served}/api/events", headers=headers, timeout=60) as stream:
        for line in stream.iter_lines():
            name, _, value = line.partition(": ")
            if name in ("id", "event", "data"):
                event[name] = value
            elif not line and event:
                events.append((event.get("id"), event["event"], event["data"]))
                if event["event"] == "job" and json.loads(event["data"])["state"] == until:
                    return events
                if event["data"] == "anew" and last:
                    return events
                event = {}
    return events


def test_a_stream_taken_up_again_makes_up_for_what_was_missed(served, client, clean_stl):
    with ThreadPoolExecutor(1) as pool:
        first = pool.submit(heard, served)
        time.sleep(0.3)
        built(client, brought(client, clean_stl))
        events = first.result()
    numbers = [number for number, event, _ in events if event == "job"]
    assert len(set(numbers)) == len(numbers) > 2
    again = heard(served, numbers[0])
    assert again[0][1:] == ("hello", "again")
    assert [number for number, event, _ in again if event == "job"] == numbers[1:]
    assert heard(served, "other-17")[0][1:] == ("hello", "anew")


def test_what_is_not_there_is_a_problem_with_a_sentence(client):
    for path in ("/figures/77", "/builds/nope/sections/0", f"/blobs/{'0' * 64}", "/blobs/..%2f..", "/releases/5.zip",
                 "/jobs/999", "/figures/77/releases", "/nothing"):  # fmt: skip
        answer = client.get(path)
        assert answer.status_code == 404 or answer.json() == [], path
    assert client.put("/figures/1/edition", json={"height": 1, "factor": 2}).status_code == 422


def test_only_this_machine_is_answered(served):
    answer = httpx.get(f"{served}/api/shelf", headers={"Host": "evil.example"})
    assert answer.status_code == 400


def test_a_write_from_a_foreign_page_changes_nothing(served, client, clean_stl):
    figure = brought(client, clean_stl)
    for method, path in (("POST", "/figures?file_name=x.stl"), ("PUT", f"/figures/{figure}/edition"),
                         ("POST", f"/figures/{figure}/undo"), ("DELETE", "/jobs/1"), ("PATCH", "/shelf")):  # fmt: skip
        answer = httpx.request(
            method, f"{served}/api{path}", headers={"If-Match": "1", "Origin": "http://evil.example"}
        )
        assert answer.status_code == 403, path
        assert "Nothing was changed" in answer.json()["detail"]
        assert not [name for name in answer.headers if name.startswith("access-control")]
    asked = httpx.options(
        f"{served}/api/figures",
        headers={
            "Origin": "http://evil.example",
            "Access-Control-Request-Method": "POST",
            "Access-Control-Request-Headers": WRITE_HEADER,
        },
    )
    assert not asked.is_success
    assert len(client.get("/shelf").json()) == 1


def test_every_answer_tells_the_browser_to_trust_nothing_from_elsewhere(served):
    for path in ("/", "/assets/none.js", "/api/shelf", "/api/nothing", "/api/figures/9"):
        headers = httpx.get(served + path).headers
        assert headers["x-content-type-options"] == "nosniff", path
        policy = headers["content-security-policy"]
        assert "default-src 'self'" in policy
        assert "unsafe" not in policy


def test_a_second_server_is_kept_off_the_data_folder(served, tmp_path):
    folder = DataFolder(tmp_path / "data")
    with pytest.raises(FolderInUse, match="nothing was touched"), folder.lock():
        pass
    answer = subprocess.run(
        [Path(sys.executable).with_name("ulvet"), "serve", "--port", "0", "--data", str(folder.root)],
        check=False, capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert answer.returncode == 2
    assert answer.stderr.startswith("Another Ulvet works in")


def test_a_page_is_served_for_every_sheet_but_not_for_the_api(served):
    for page in ("/", "/figures/3/gauge"):
        answer = httpx.get(served + page)
        assert answer.headers["content-type"].startswith("text/html")
    assert httpx.get(f"{served}/api/figures/3/nothing").status_code == 404


def _bar_at(drawing):
    """How thick the bar is over the middle of a drawing, mm."""
    sides = [pair for line in drawing["outlines"] for pair in itertools.pairwise(line)]
    met = [y - x * (v - y) / (u - x) for (x, y), (u, v) in sides if (x > 0) != (u > 0)]
    return max(y for y in met if abs(y) < 1) - min(y for y in met if abs(y) < 1)


def test_the_record_is_switched_moved_and_set_only_where_it_was_seen_and_can_be_run(client, clean_stl):
    figure = brought(client, clean_stl)
    built(client, figure)

    def put(path, body, seen):
        return client.put(f"/figures/{figure}/{path}", json=body, headers={"If-Match": str(seen)})

    stand = {
        "says": "stood",
        "steps": [
            {"kind": "orient", "values": {"up": [0, 0, 1]}},
            {"kind": "support", "values": {"lift": 4.0}},
        ],
    }
    page = put("steps", stand, 1).json()
    assert (page["revision"], page["says"]) == (2, "stood")
    page = built(client, figure)
    assert [said["step"]["kind"] for said in page["build"]["steps"]] == ["bring-in", "orient", "support"]
    stance = page["build"]["parts"][0]["facts"]["stance"]
    assert stance["lift"] == pytest.approx(4) and stance["contacts"]
    name = page["build"]["parts"][0]["supports_display"]
    assert client.get(f"/blobs/{name}").content.startswith(b"ULD1")

    assert put("steps", stand, 1).status_code == 412
    refused = put("record/3/place", {"before": 2}, 2)
    assert refused.status_code == 422 and "then how it is held" in refused.json()["detail"]
    assert put("record/9/switch", {"on": False}, 2).status_code == 404
    assert put("record/1/switch", {"on": False}, 2).status_code == 422
    nowhere = {"says": "x", "steps": [{"kind": "orient", "values": {"up": [0, 0, 0]}}]}
    assert put("steps", nowhere, 2).status_code == 422
    for kind, values in (("orient", {"kind": "bring-in"}), ("orient", {"variants": {}}), ("bring-in", {"unit": "cm"})):
        assert put("steps", {"says": "x", "steps": [{"kind": kind, "values": values}]}, 2).status_code == 422
    assert put("record/3/switch", {"on": False}, 2).json()["revision"] == 3
    off = built(client, figure)["build"]
    assert off["parts"][0]["supports"] is None
    assert off["steps"][2]["sentence"] == ["Support: switched off."]


def test_versions_are_frozen_listed_and_compared_over_the_api(client, clean_stl):
    figure = brought(client, clean_stl)
    built(client, figure)

    def freeze(seen, says=""):
        return client.post(f"/figures/{figure}/versions", json={"says": says}, headers={"If-Match": str(seen)})

    first = freeze(1, "as it came")
    assert first.status_code == 201
    assert (first.json()["number"], first.json()["says"]) == (1, "as it came")
    assert freeze(1).status_code == 422
    taller = {"height": 30, "setting": "lantern-6-tough-grey"}
    client.put(f"/figures/{figure}/edition", json=taller, headers={"If-Match": "1"})
    assert freeze(1).status_code == 412
    built(client, figure)
    assert [v["number"] for v in client.get(f"/figures/{figure}/versions").json()] == [1]
    job = finished(client, client.post(f"/figures/{figure}/comparisons", params={"before": 1}).json())
    said = client.get(f"/comparisons/{job['made']['comparison']}").json()
    (moved,) = said["moved"]
    # Twice as large about the middle of its foot: the top rises by what it was tall.
    assert moved["greatest"] == pytest.approx((15**2 + 10**2 + 5**2) ** 0.5, rel=0.01)
    assert client.post(f"/figures/{figure}/comparisons", params={"before": 3}).status_code == 404
    assert client.get(f"/comparisons/{'0' * 64}").status_code == 404


def test_the_walls_can_be_taken_away_painted_on_the_figure(client, dirty_stl):
    figure = brought(client, dirty_stl)
    built(client, figure)
    answer = client.get(f"/figures/{figure}/walls.zip")
    assert answer.headers["content-disposition"] == 'attachment; filename="heron-post_walls.zip"'
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert sorted(archive.namelist()) == ["figure.mtl", "figure.obj", "walls.png"]
    assert client.get("/figures/99/walls.zip").status_code == 404


def test_a_recipe_taken_from_the_page_makes_the_same_release_without_the_server(client, dirty_stl, tmp_path):
    figure = brought(client, dirty_stl)
    built(client, figure)
    own(client, figure)
    made = finished(client, client.post(f"/figures/{figure}/releases").json())["made"]
    packed = client.get(f"/releases/{made['release']}.zip").content
    recipe = client.get(f"/figures/{figure}/recipe.json")
    path = dirty_stl.parent / "taken.json"
    path.write_bytes(recipe.content)
    out = tmp_path / "out"
    result = CliRunner().invoke(app, ["build", str(path), "-o", str(out)])
    assert result.exit_code in (0, 1), result.output
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        assert {name: archive.read(name) for name in archive.namelist()} == {
            file.name: file.read_bytes() for file in out.iterdir()
        }
