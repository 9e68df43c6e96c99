"""Bits, evidence, scans, sizes and papers over the API."""

import io
import zipfile

import numpy as np
import pdfplumber
import pytest
from lxml import etree

from tests.api.conftest import brought, built, finished, own
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import volume
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def changed(client, number, method, path, **body):
    seen = str(client.get(f"/figures/{number}").json()["revision"])
    answer = client.request(method, f"/figures/{number}{path}", headers={"If-Match": seen}, **body)
    if answer.status_code == 200:
        built(client, number)
    return answer


def add(client, number, **step):
    return changed(client, number, "POST", "/record", json={"step": step, "says": "added"})


def steps(client, number):
    return built(client, number)["build"]["steps"]


def test_a_size_is_worked_out_without_being_set(client, figure):
    way = {"way": "height", "height": 45}
    found = client.post(f"/figures/{figure}/size", json={"way": way}).json()
    assert found["size_mm"] == pytest.approx([60, 30, 45])
    assert found["worked"]["factor"] == pytest.approx(3)
    assert found["worked"]["working"][0].startswith("45.0 mm / 15.0 mm")
    before = built(client, figure)["build"]["estimate"]
    assert found["estimate"]["material_ml"] == pytest.approx(27 * before["material_ml"], rel=1e-6)
    assert found["near"]["thin"] == 0
    assert found["fits"]
    assert client.get(f"/figures/{figure}").json()["revision"] == 1
    too_large = client.post(f"/figures/{figure}/size", json={"way": {"way": "percent", "percent": 5000}}).json()
    assert not too_large["fits"]
    for wrong in ({"way": "height", "height": 0}, {"way": "height", "height": -3}, {"way": "wish"},
                  {"way": "fit", "printer": "nowhere"}, {"way": "base", "diameter": 4, "rim": 2}):  # fmt: skip
        assert client.post(f"/figures/{figure}/size", json={"way": wrong}).status_code == 422


def test_a_height_is_of_the_whole_figure_also_where_a_later_step_made_it_taller(client, figure):
    way = {"way": "height", "height": 45}
    assert not client.post(f"/figures/{figure}/size", json={"way": way}).json()["by_factor"]
    hat = {"kind": "add-form", "name": "hat", "form": "box", "wide": 4, "deep": 4, "tall": 4, "z": 14}
    assert add(client, figure, **hat).is_success
    taller = built(client, figure)["build"]["size_mm"][2]
    assert taller > 16
    found = client.post(f"/figures/{figure}/size", json={"way": way}).json()
    assert found["by_factor"]
    assert found["worked"]["factor"] == pytest.approx(45 / taller)


def test_a_step_is_added_and_taken_out_and_sources_only_come_as_files(client, figure):
    corner = {"point": [-10, -5, 15], "normal": None, "source": ""}
    ends = [corner, {**corner, "point": [10, -5, 15]}]
    assert add(client, figure, kind="measure", name="brow", how="straight", places=ends).status_code == 200
    said = steps(client, figure)[-1]
    assert said["receipt"]["printed"] == pytest.approx(20)
    assert said["step"]["name"] == "brow"
    assert changed(client, figure, "DELETE", f"/record/{said['step']['id']}").status_code == 200
    assert [said["step"]["kind"] for said in steps(client, figure)] == ["bring-in"]
    assert changed(client, figure, "DELETE", "/record/1").status_code == 422
    for wrong in ({"kind": "bring-in", "source": "x", "name": "y"}, {"kind": "no-such"}, {},
                  {"kind": "credit", "source": "a", "terms": "no-such"}, {"kind": "simplify"},
                  {"kind": "set-lengths", "lengths": []}):  # fmt: skip
        assert changed(client, figure, "POST", "/record", json={"step": wrong, "says": "x"}).status_code == 422


def test_a_foreign_thing_is_drawn_and_goes_into_no_release(client, figure, tmp_path):
    own(client, figure)
    assert add(
        client, figure, kind="foreign", name="post", thing={"shape": "rod", "diameter": 6, "length": 80}
    ).is_success
    page = built(client, figure)
    (ghost,) = page["build"]["ghosts"]
    assert ghost["yardsticks"] == {"diameter": 6, "length": 80}
    assert client.get(f"/blobs/{ghost['display']}").content.startswith(b"ULD1")
    assert page["build"]["size_mm"] == pytest.approx([20, 10, 15])
    source = page["build"]["steps"][0]["step"]["source"]
    mesh = {"shape": "mesh", "source": source}
    assert add(client, figure, kind="foreign", name="its double", thing=mesh, at=[30, 0, 0]).is_success
    assert built(client, figure)["build"]["ghosts"][1]["yardsticks"] == pytest.approx(
        {"wide": 20, "deep": 10, "tall": 15}
    )
    release = finished(client, client.post(f"/figures/{figure}/releases").json())["made"]["release"]
    packed = tmp_path / "release.zip"
    packed.write_bytes(client.get(f"/releases/{release}.zip").content)
    with zipfile.ZipFile(packed) as archive:
        (name,) = [name for name in archive.namelist() if name.endswith(".stl")]
        archive.extract(name, tmp_path)
    assert volume(read_mesh(tmp_path / name)) == pytest.approx(3000)


def test_bits_are_found_by_words_used_with_their_terms_and_dropped(client, figure, tmp_path):
    own(client, figure)
    body = {"figure": figure, "part": "figure", "name": "Plank", "tags": ["Wood", " deck "]}
    bit = client.post("/bits", json=body).json()
    assert bit["tags"] == ["deck", "wood"]
    assert bit["terms"] == "My own work"
    assert [one["name"] for one in client.get("/bits", params={"words": "WOOD plank"}).json()] == ["Plank"]
    assert client.get("/bits", params={"words": "stone"}).json() == []
    assert client.post("/bits", json={**body, "part": "arm"}).status_code == 404
    other = tmp_path / "ball.stl"
    other.write_bytes(stl_bytes(ball(5)))
    host = brought(client, other)
    built(client, host)
    assert changed(client, host, "POST", "/bits", json={"bit": bit["id"], "at": [20, 0, 0]}).status_code == 200
    page = built(client, host)
    assert [part["facts"]["part"] for part in page["build"]["parts"]] == ["figure", "Plank"]
    assert [said["step"]["kind"] for said in page["build"]["steps"]] == ["bring-in", "add-bit", "credit"]
    assert client.delete(f"/bits/{bit['id']}").status_code == 204
    assert client.delete(f"/bits/{bit['id']}").status_code == 404
    assert changed(client, host, "POST", "/bits", json={"bit": bit["id"]}).status_code == 404
    assert [part["facts"]["part"] for part in built(client, host)["build"]["parts"]] == ["figure", "Plank"]
    assert client.get("/bits").json() == []
    assert client.post(f"/bits/{bit['id']}/put-back").status_code == 204
    assert client.get("/bits").json() == [bit]
    assert client.post("/bits/99/put-back").status_code == 404


def test_a_part_named_like_a_bit_keeps_the_terms_it_came_with(client, figure, tmp_path):
    own(client, figure)
    bit = client.post("/bits", json={"figure": figure, "part": "figure", "name": "Plank"}).json()
    kit = tmp_path / "kit.3mf"
    kit.write_bytes(threemf_bytes([("Plank arm", ball(5)), ("body", box(10, 10, 10, at=(20, 0, 0)))]))
    host = brought(client, kit)
    source = client.get(f"/figures/{host}/recipe.json").json()["recipe"]["steps"][0]["source"]
    built(client, host)
    assert add(client, host, kind="credit", source=source, terms="cc-by-nc-4.0", maker="A maker").is_success
    assert changed(client, host, "POST", "/bits", json={"bit": bit["id"], "at": [40, 0, 0]}).is_success
    terms = {}
    for part in ("Plank arm", "body", "Plank"):
        terms[part] = client.post("/bits", json={"figure": host, "part": part, "name": part}).json()["terms"]
    assert terms == {"Plank arm": "CC BY-NC 4.0", "body": "CC BY-NC 4.0", "Plank": "My own work"}


@pytest.mark.parametrize(
    ("name", "content", "kind"),
    [
        ("mail.txt", "Ja, nur zu. Grüße".encode(), "text/plain; charset=utf-8"),
        ("shot.png", b"\x89PNG\r\n\x1a\n" + bytes(40), "image/png"),
        ("page.pdf", b"%PDF-1.7 ...", "application/pdf"),
    ],
)
def test_a_proof_is_kept_and_handed_out_to_be_saved(client, name, content, kind):
    kept = client.post("/evidence", params={"file_name": f"../{name}"}, content=content).json()
    assert kept["file_name"] == name
    answer = client.get(f"/evidence/{kept['sha256']}")
    assert answer.content == content
    assert answer.headers["content-type"] == kind
    assert answer.headers["content-disposition"] == "attachment"


def test_a_proof_of_the_wrong_kind_is_a_sentence(client):
    for content in (b"", b"MZ\x00\x01\x02program", b"\x00\xff\xfe"):
        answer = client.post("/evidence", params={"file_name": "x.exe"}, content=content)
        assert answer.status_code == 422
        assert answer.json()["detail"].startswith("x.exe is ")


def test_papers_show_who_was_asked_for_at_true_size(client, figure, tmp_path):
    answer = client.get("/line-up.svg", params={"figures": [figure], "hand": False})
    root = etree.fromstring(answer.content)
    assert root.get("width").endswith("mm")
    assert "Block" in answer.text
    pdf = client.get("/line-up.pdf", params={"figures": [figure, figure], "paper": "a3"})
    assert pdf.headers["content-disposition"] == 'attachment; filename="line-up.pdf"'
    with pdfplumber.open(io.BytesIO(pdf.content)) as read:
        assert len(read.pages) == 1
    assert client.get("/line-up.svg", params={"figures": [99]}).status_code == 404
    assert client.get("/line-up.pdf", params={"figures": [figure], "paper": "a99"}).status_code == 422
    band = {"height": 20, "girth": 94.2, "overlap": 5}
    assert b"94.2 mm round" in client.get("/label.svg", params=band).content
    assert client.get("/label.pdf", params=band).content.startswith(b"%PDF")
    assert client.get("/label.svg", params={**band, "girth": 0}).status_code == 422


def test_a_scan_stands_on_the_shelf_compared_and_whole(client, tmp_path):
    asked = client.get("/scanner").json()
    assert set(asked["objects"]) == {"driftwood", "clay-otter"}
    settings = {"steps": 4, "tilts": [25]}
    job = finished(client, client.post("/scans", json={"object": "clay-otter", "settings": settings}).json())
    number = job["made"]["figure"]
    page = built(client, number)
    assert [said["step"]["kind"] for said in page["build"]["steps"]] == ["bring-in", "fuse-passes", "right-axis"]
    (part,) = page["build"]["parts"]
    assert part["captured"]["mean"] < 0.1
    assert client.get(f"/blobs/{part['captured_display']}").content.startswith(b"ULD1")
    assert "Otter of clay" in [figure["name"] for figure in client.get("/shelf").json()]
    # A new sculpt leaves the old passes behind.
    sculpt = stl_bytes(concatenated(ball(10), cylinder(1, 30, 24)))
    seen = {"If-Match": str(page["revision"])}
    put = client.put(f"/figures/{number}/source", params={"file_name": "o.stl"}, content=sculpt, headers=seen)
    finished(client, put.json())
    kinds = [said["step"]["kind"] for said in built(client, number)["build"]["steps"]]
    assert kinds == ["bring-in", "right-axis"]
    assert client.post("/scans", json={"object": "moon"}).status_code == 404
    assert client.post("/scans", json={"object": "driftwood", "settings": {"steps": 1}}).status_code == 422
    failed = finished(client, client.post("/scans", json={"object": "driftwood", "settings": {"tilts": [89]}}).json())
    assert failed["state"] == "failed"
    assert "tilts from -5 to 85" in failed["error"]
    assert np.isfinite(part["captured"]["mean"])


def test_what_comes_along_is_kept_when_the_folder_is_cleaned(client, figure, tmp_path):
    kept = client.post("/evidence", params={"file_name": "mail.txt"}, content=b"yes").json()
    source = client.get(f"/figures/{figure}/recipe.json").json()["recipe"]["steps"][0]["source"]
    add(
        client, figure, kind="credit", source=source, terms="mit", proof_file=kept["sha256"], proof_file_name="mail.txt"
    )
    client.post("/bits", json={"figure": figure, "part": "figure", "name": "Plank"})
    report = check_folder(DataFolder(tmp_path / "data"))
    assert report.whole
    assert kept["sha256"] not in report.unneeded
    assert not set(report.unneeded) & {bit["picture"] for bit in client.get("/bits").json()}
