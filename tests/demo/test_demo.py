"""The demo figures, and that every fault put into them is found."""

import httpx
import pytest

from tests.api.conftest import built
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.build.figure_build import build_figure
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.reading import Reading
from ulvet.core.geometry.mesh import bounds
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight, without_collapsed_faces
from ulvet.core.recipe.runner import Recipe
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.demo.reed_imp import reed_imp
from ulvet.demo.shelf import DEMO_FIGURES, send_demo


@pytest.fixture(scope="module")
def figures():
    return {"Ferrywoman": ferrywoman(), "Reed imp": reed_imp()}


@pytest.fixture(scope="module")
def builds(figures):
    made = {}
    for name, mesh in figures.items():
        recipe = Recipe(steps=(bring_in_step(Reading(mesh), f"{name}.stl"),))
        made[name] = build_figure(recipe, DEMO_FIGURES[name][1], {mesh.hash: mesh})
    return made


def near(finding, where, reach):
    """Whether a place of the finding lies within ``reach`` mm of a point; None in the point leaves an axis out."""
    return any(
        all(want is None or abs(got - want) < reach for got, want in zip(place.point, where, strict=True))
        for place in finding.places or (finding.where,)
    )


@pytest.mark.parametrize(
    ("code", "where", "reach"),
    [
        ("thin-wall", (0, None, 64), 5),  # the beak
        ("thin-wall", (12.5, None, None), 2),  # the pole
        ("thin-wall", (-11.5, None, 29), 6),  # the lantern's glass
        ("open-edges", (4, 9, 18), 4),
        ("open-edges", (-7.5, 2, 12), 4),
        ("inconsistent-winding", (6, -2, 49), 5),
        ("inverted-shell", (0, -21.5, 10), 6),  # the otter
        ("island", (-11.5, None, None), 4),  # the lantern's foot
    ],
)
def test_every_fault_of_the_ferrywoman_is_found_where_it_was_put(builds, code, where, reach):
    # The figure stands centred on its box; the modelled one stands over the origin.
    low, high = bounds(ferrywoman())
    shift = [*((low + high) / 2)[:2], low[2]]
    moved = tuple(None if w is None else w - s for w, s in zip(where, shift, strict=True))
    found = [finding for finding in builds["Ferrywoman"].findings if finding.code == code]
    assert any(near(finding, moved, reach) for finding in found), [f.where.point for f in found]


def test_faces_without_area_are_counted_as_many_as_were_put_in(builds):
    (flat,) = [finding for finding in builds["Ferrywoman"].findings if finding.code == "zero-area-faces"]
    assert flat.count == 6


def test_the_reed_imp_is_clean_as_a_mesh_and_has_its_island(figures, builds):
    edges = edges_of(figures["Reed imp"])
    assert is_watertight(edges)
    assert face_shells(figures["Reed imp"], edges)[0] == 1
    codes = {finding.code for finding in builds["Reed imp"].findings}
    assert codes == {"thin-wall", "snap-risk", "tips-over", "island"}


def test_the_figures_are_the_same_whenever_they_are_made(figures):
    assert reed_imp().hash == figures["Reed imp"].hash
    assert ferrywoman().hash == figures["Ferrywoman"].hash


def test_the_otter_is_a_shell_of_its_own(figures):
    mesh = without_collapsed_faces(figures["Ferrywoman"])
    assert face_shells(mesh, edges_of(mesh))[0] >= 3  # body, cape, otter


def test_the_demo_is_sent_to_a_served_studio_and_again_only_what_is_missing(served):
    said = []
    send_demo(served, said.append)
    assert said == [
        *[f"modelling the {name}" for name in DEMO_FIGURES],
        "checking the Bow otter, which goes on the shelf of bits",
        "scanning the Driftwood",
    ]
    said.clear()
    with httpx.Client(base_url=f"{served}/api", timeout=60, headers={WRITE_HEADER: "test"}) as client:
        shelf = {figure["name"]: figure for figure in client.get("/shelf").json()}
        assert set(shelf) == {*DEMO_FIGURES, "Driftwood"}
        assert {shelf[name]["collection"] for name in DEMO_FIGURES} == {"Fen folk"}
        (bit,) = client.get("/bits").json()
        assert bit["name"] == "Bow otter"
        records = {name: built(client, figure["id"])["build"] for name, figure in shelf.items()}
        # What somebody renamed or deleted does not come back.
        client.put(f"/figures/{shelf['Reed imp']['id']}/name", json={"name": "Rush imp"})
        client.delete(f"/figures/{shelf['Driftwood']['id']}")
    send_demo(served, said.append)
    assert said == []
    codes = {name: {finding["code"] for finding in record["findings"]} for name, record in records.items()}
    assert "mount-attached" in codes["Driftwood"]
    assert not any("terms-unanswered" in found for found in codes.values())
    assert records["Bow otter"]["inherited"]["sell"]["answer"] == "no"
    assert round(records["Ferrywoman"]["size_mm"][2]) == 75


def test_a_studio_that_does_not_answer_is_said_to():
    with pytest.raises(OSError):
        send_demo("http://127.0.0.1:9", print)
