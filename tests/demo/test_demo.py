"""The demo figures, and that every fault put into them is found."""

import pytest

from ulvet.core.build import build_figure
from ulvet.core.inspect import bring_in_step
from ulvet.core.io import Reading
from ulvet.core.mesh import bounds
from ulvet.core.recipe.runner import Recipe
from ulvet.core.topology import edges_of, face_shells, is_watertight, without_repeats
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.demo.reed_imp import reed_imp
from ulvet.demo.shelf import DEMO_FIGURES, fill_shelf
from ulvet.store.folder import DataFolder
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Supervisor

pytestmark = pytest.mark.slow


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
    mesh = without_repeats(figures["Ferrywoman"])
    assert face_shells(mesh, edges_of(mesh))[0] >= 3  # body, cape, otter


def test_filling_the_shelf_again_adds_nothing_and_makes_up_what_is_missing(tmp_path):
    said = []
    fill_shelf(tmp_path, said.append)
    sculpted = [f"{does} the {name}" for name in DEMO_FIGURES for does in ("modelling", "checking")]
    assert said == [*sculpted, "scanning the Driftwood", "checking the Driftwood"]
    said.clear()
    fill_shelf(tmp_path, said.append)
    assert said == []
    folder = DataFolder(tmp_path)
    shelf = Studio(folder, Supervisor(tmp_path)).shelf()
    assert [one.figure.name for one in shelf] == [*DEMO_FIGURES, "Driftwood"]
    assert all(one.record for one in shelf)
    codes = {one.figure.name: {finding.code for finding in one.record.findings} for one in shelf}
    assert "mount-attached" in codes["Driftwood"]
    assert not any("terms-unanswered" in found for found in codes.values())
    (otter,) = [one.record for one in shelf if one.figure.name == "Bow otter"]
    assert otter.inherited.sell.answer == "no"
    assert not list(folder.uploads.iterdir())
