"""Bits and forms in a figure, moved and switched over the API."""

from io import BytesIO

import pytest
from PIL import Image

from tests.api.conftest import FORM, brought, built, change, finished, steps
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder


def test_several_fields_of_a_step_are_set_in_one_change_and_what_it_is_made_of_is_not(client, clean_stl):
    figure = brought(client, clean_stl)
    assert change(client, figure, "POST", "/record", step=FORM, says="a fin").status_code == 200
    before = client.get(f"/figures/{figure}").json()["revision"]
    moved = {"x": 3, "tip": 20, "mirrored": True, "rests_on": {"point": [0, 0, 1], "normal": [0, 0, 2]}}
    assert change(client, figure, "PUT", "/record/2/fields", values=moved, says="moved").status_code == 200
    fin = steps(client, figure)[1]
    assert (fin["x"], fin["tip"], fin["mirrored"], fin["rests_on"]["normal"]) == (3, 20, True, [0, 0, 1])
    assert client.get(f"/figures/{figure}").json()["revision"] == before + 1
    for values in ({"kind": "stroke"}, {"source": "x"}, {"grow": -1}, {"grow": "much"}, {"unheard": 1}, {"x": 1e9}):
        answer = change(client, figure, "PUT", "/record/2/fields", values=values, says="no")
        assert answer.status_code == 422, values
        assert answer.json()["detail"].endswith(".")
    assert change(client, figure, "PUT", "/record/9/fields", values={"x": 1}, says="no").status_code == 404
    assert steps(client, figure)[1] == fin


def test_what_sits_on_a_form_goes_with_it_and_a_frame_without_room_is_refused(client, clean_stl):
    figure = brought(client, clean_stl)
    assert change(client, figure, "POST", "/record", step=FORM, says="a fin").status_code == 200
    frame = built(client, figure)["build"]["parts"][1]["facts"]["frame"]
    assert frame == [[-2, -1, 0], [2, -1, 0], [-2, 1, 0], [-2, -1, 6]]
    seat = {"point": [0, 0, 6], "normal": [0, 0, 1], "host": "fin", "frame": frame}
    knob = {"kind": "add-form", "name": "knob", "form": "box", "wide": 1, "deep": 1, "tall": 1, "rests_on": seat}
    flat = {**knob, "rests_on": {**seat, "frame": [[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]]}}
    assert change(client, figure, "POST", "/record", step=flat, says="no").status_code == 422
    assert change(client, figure, "POST", "/record", step=knob, says="a knob").status_code == 200
    assert change(client, figure, "PUT", "/record/2/fields", values={"tall": 60}, says="taller").status_code == 200
    fin, sits = (part["facts"] for part in built(client, figure)["build"]["parts"][1:])
    factor = fin["factor"]
    assert sits["low_mm"][2] == pytest.approx(60 * factor)


def test_a_group_is_switched_in_one_change_and_undone_in_one(client, clean_stl):
    figure = brought(client, clean_stl)
    for name in ("left", "right"):
        assert change(client, figure, "POST", "/record", step={**FORM, "name": name}, says=name).status_code == 200
    assert change(client, figure, "PUT", "/groups", group="fins", on=False).status_code == 200
    assert [step["on"] for step in steps(client, figure)] == [True, False, False]
    assert change(client, figure, "POST", "/undo").status_code == 200
    assert [step["on"] for step in steps(client, figure)] == [True, True, True]
    assert change(client, figure, "PUT", "/groups", group="horns", on=False).status_code == 422


def test_a_figure_begins_with_a_form_on_the_ground_and_is_the_studios_own(client):
    asked = {"name": "Bollard", "form": "capsule", "wide": 12, "tall": 30}
    answer = client.post("/figures/forms", json=asked)
    assert answer.status_code == 202
    page = built(client, finished(client, answer.json())["made"]["figure"])
    assert page["name"] == "Bollard"
    assert page["build"]["size_mm"] == pytest.approx([12, 12, 30], rel=1e-3)
    codes = {finding["code"] for finding in page["build"]["findings"]}
    assert not codes & {"terms-unanswered", "unit-doubtful", "leans", "open-edges"}
    sent = {"If-Match": str(page["revision"])}
    assert client.post(f"/figures/{page['id']}/releases", headers=sent).status_code == 202
    squat = client.post("/figures/forms", json={**asked, "tall": 5})
    assert squat.status_code == 422
    assert "as tall as" in squat.json()["detail"]
    assert client.post("/figures/forms", json={**asked, "form": "gnome"}).status_code == 422


def mark():
    image = Image.new("L", (80, 40), 255)
    image.paste(0, (30, 5, 50, 35))
    data = BytesIO()
    image.save(data, "PNG")
    return data.getvalue()


def test_a_stamp_goes_on_the_shelf_with_its_terms_which_come_along_when_it_is_pressed(client, clean_stl):
    figure = brought(client, clean_stl)
    kept = client.post("/pictures", params={"file_name": "reeds.png"}, content=mark()).json()
    credit = {"kind": "credit", "source": kept["sha256"], "file": "reeds.png", "maker": "Withy Marlow"}
    said = {**credit, "terms": "cc-by-4.0", "proof": "a mail"}
    assert change(client, figure, "POST", "/record", step=said, says="credited").status_code == 200
    asked = {"picture": kept["sha256"], "file_name": "reeds.png", "name": "Reeds", "figure": figure, "tags": ["Fen "]}
    stamp = client.post("/stamps", json=asked).json()
    assert (stamp["size_mm"], stamp["terms"], stamp["tags"]) == (None, "CC BY 4.0", ["fen"])
    assert stamp["stamp"]["ratio"] == 0.5
    assert client.get(f"/blobs/{stamp['picture']}").content.startswith(b"\x89PNG")
    assert [bit["name"] for bit in client.get("/bits", params={"words": "fen"}).json()] == ["Reeds"]

    other = client.post("/figures/forms", json={"name": "Post", "form": "box", "wide": 20, "deep": 20, "tall": 20})
    post = built(client, finished(client, other.json())["made"]["figure"])["id"]
    press = {"kind": "stamp", "name": "reeds.png", "picture": kept["sha256"], "width": 8, "depth": 0.5,
             "places": [{"point": [0, -10, 10], "normal": [0, -1, 0]}]}  # fmt: skip
    assert change(client, post, "POST", "/record", step=press, says="pressed").status_code == 200
    page = built(client, post)
    assert page["build"]["inherited"]["name_maker"]["answer"] == "yes"
    assert "terms-unanswered" not in {finding["code"] for finding in page["build"]["findings"]}
    assert change(client, post, "POST", "/bits", bit=stamp["id"], at=[0, 0, 0]).status_code == 422
    assert client.post("/stamps", json={**asked, "picture": "0" * 64}).status_code == 404


def test_a_picture_nobody_gave_terms_for_holds_a_release_back(client, clean_stl):
    figure = brought(client, clean_stl)
    kept = client.post("/pictures", params={"file_name": "reeds.png"}, content=mark()).json()
    press = {"kind": "stamp", "name": "reeds.png", "picture": kept["sha256"], "width": 5, "depth": 0.5,
             "places": [{"point": [0, -5, 8], "normal": [0, -1, 0]}]}  # fmt: skip
    assert change(client, figure, "POST", "/record", step=press, says="pressed").status_code == 200
    titles = [finding["title"] for finding in built(client, figure)["build"]["findings"]]
    assert "Whose is reeds.png?" in titles


def test_a_picture_to_work_from_is_kept_with_the_figure(client, clean_stl, tmp_path):
    figure = brought(client, clean_stl)
    photo = BytesIO()
    Image.new("RGB", (300, 600), "olive").save(photo, "JPEG")
    kept = client.post("/references", params={"file_name": "side.jpg"}, content=photo.getvalue()).json()
    assert (kept["file_name"], kept["ratio"]) == ("side.jpg", 2)
    assert client.get(f"/blobs/{kept['shown']}").headers["content-type"] == "image/png"
    step = {"kind": "refer-to", "name": "side.jpg", "shown": kept["shown"], "ratio": 2, "wide": 10}
    assert change(client, figure, "POST", "/record", step=step, says="a picture").status_code == 200
    built(client, figure)
    assert check_folder(DataFolder(tmp_path / "data"), collect=True).whole
    assert client.get(f"/blobs/{kept['shown']}").status_code == 200
    for content in (b"<svg/>", b"", photo.getvalue()[:200]):
        answer = client.post("/references", params={"file_name": "bad.jpg"}, content=content)
        assert answer.status_code == 422
        assert answer.json()["detail"].startswith("bad.jpg: ")
