"""Variants of a figure over the API: added, shown, changed alone, released, taken out."""

import pytest

from tests.api.conftest import FORM, brought, built, change, finished, steps
from tests.shapes import box
from ulvet.core.formats.stl import stl_bytes
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder


def tall(client, figure):
    return built(client, figure)["build"]["size_mm"][2]


def test_a_variant_differs_in_a_step_and_in_its_source_and_the_figure_stays(client, clean_stl, tmp_path):
    figure = brought(client, clean_stl)
    before = tall(client, figure)
    assert change(client, figure, "POST", "/record", step={**FORM, "tall": 9}, says="a fin").status_code == 200
    page = change(client, figure, "POST", "/variants", name="  finned ").json()
    assert (page["variants"], page["variant"], page["differing"]) == (["finned"], "finned", [])
    # Nothing differs yet, so nothing is checked again.
    shared = built(client, figure)["build"]["key"]
    assert change(client, figure, "PUT", "/record/2/fields", values={"z": 100}, says="higher").status_code == 200
    assert built(client, figure)["differing"] == [2]
    assert tall(client, figure) == pytest.approx(109, abs=0.01)
    page = change(client, figure, "PUT", "/variants", name="").json()
    assert page["build"]["key"] == shared and page["differing"] == []
    assert tall(client, figure) == pytest.approx(before)

    change(client, figure, "PUT", "/variants", name="finned")
    sculpt = stl_bytes(box(5, 5, 50))
    seen = client.get(f"/figures/{figure}").json()["revision"]
    answer = client.put(
        f"/figures/{figure}/source",
        content=sculpt,
        headers={"If-Match": str(seen)},
        params={"file_name": "other.stl"},
    )
    assert finished(client, answer.json())["state"] == "done"
    shown = built(client, figure)
    assert [source["file_name"] for source in shown["sources"] if source["now"]] == ["other.stl"]
    change(client, figure, "PUT", "/variants", name="")
    plain = built(client, figure)
    assert [source["file_name"] for source in plain["sources"] if source["now"]] != ["other.stl"]
    assert plain["build"]["key"] == shared
    # What only a variant needs is not swept away.
    assert not check_folder(DataFolder(tmp_path / "data"), collect=True).missing
    change(client, figure, "PUT", "/variants", name="finned")
    assert built(client, figure)["build"]["key"] == shown["build"]["key"]
    assert change(client, figure, "DELETE", "/variants?name=finned").json()["variants"] == []
    assert change(client, figure, "POST", "/undo").json()["variants"] == ["finned"]


def test_what_cannot_be_a_variant_is_refused_and_changes_nothing(client, clean_stl):
    figure = brought(client, clean_stl)
    change(client, figure, "POST", "/variants", name="hooded")
    before = client.get(f"/figures/{figure}").json()["revision"]
    assert change(client, figure, "POST", "/variants", name="hooded").status_code == 422
    assert change(client, figure, "POST", "/variants", name="   ").status_code == 422
    assert change(client, figure, "PUT", "/variants", name="bare").status_code == 422
    assert change(client, figure, "DELETE", "/variants?name=bare").status_code == 422
    meddled = change(client, figure, "PUT", "/record/1/fields", values={"variants": {}}, says="no")
    assert meddled.status_code == 422
    assert client.get(f"/figures/{figure}").json()["revision"] == before


def test_group_is_moved_in_one_change(client, clean_stl):
    figure = brought(client, clean_stl)
    for name in ("left", "right"):
        change(client, figure, "POST", "/record", step={**FORM, "name": name, "x": 2}, says=name)
    assert change(client, figure, "PUT", "/groups/place", group="fins", by=[1, -2, 3]).status_code == 200
    assert [(step["x"], step["y"], step["z"]) for step in steps(client, figure)[1:]] == [(3, -2, 3)] * 2
    assert change(client, figure, "PUT", "/groups/place", group="fins", by=[1e9, 0, 0]).status_code == 422
