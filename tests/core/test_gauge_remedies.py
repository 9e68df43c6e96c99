"""What Gauge finds of a figure as a whole, and what each way out does to it."""

import numpy as np
import pytest

from tests.core.test_handling import BLOCK, united
from tests.depth import of_all
from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder, subdivided, tapered, turned
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, Use
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.finding import AddSteps, SetEdition
from ulvet.core.gauge.limbs.cutting import limb_near, without_limb
from ulvet.core.gauge.record_steps import Accept
from ulvet.core.gauge.thickening.thicken import thicken_walls
from ulvet.core.gauge.walls.thickness import measure_near
from ulvet.core.geometry.mesh import Mesh, bounds, scaled, translated, volume
from ulvet.core.geometry.topology import is_connected
from ulvet.core.lengths import PrintMM
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.recipe.runner import Recipe

ROD = united(BLOCK, translated(cylinder(0.4, 12.5, 32), [4, 2, 5.5]))
"""A pin of 0.8 mm, 12 mm long, on a block: thick enough to print, and it snaps."""
BEAKED = united(translated(ball(8, rounds=5), [0, 0, 7.5]), translated(turned(tapered(4, 0.2, 14), "y", 90), [3, 0, 8]))


def built(mesh, edition=None, *steps):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))
    return build_kept(recipe, edition or Edition(), {mesh.hash: mesh})


def of(build, code):
    return [finding for finding in build.findings if finding.code == code]


def remedied(mesh, finding, label, edition=None):
    """The figure's build after the one remedy whose label begins so."""
    (remedy,) = [one for one in finding.remedies if one.label.startswith(label)]
    if isinstance(remedy.change, SetEdition):
        return built(mesh, remedy.change.edition)
    assert isinstance(remedy.change, AddSteps)
    return built(mesh, edition, *remedy.change.steps)


def sound(mesh):
    return diagnose(mesh, 1e-6).sound


def test_a_pin_snaps_below_what_its_use_asks_for_and_not_above():
    (finding,) = of(built(ROD), "snap-risk")
    assert finding.measured == pytest.approx(55 * np.pi * 0.8**3 / 32 / 12, rel=0.08)
    assert finding.limit == pytest.approx(1.2) and finding.unit == "N"
    assert np.linalg.norm(np.array(finding.where.point) - [4, 2, 6]) < 0.5
    stout = united(BLOCK, translated(cylinder(1.0, 8.5, 32), [4, 2, 5.5]))
    assert not of(built(stout), "snap-risk")
    assert of(built(stout, Edition(use=Use.PLAY)), "snap-risk")


def test_thickening_along_a_limb_makes_it_bear_and_leaves_the_rest():
    (finding,) = of(built(ROD), "snap-risk")
    after = remedied(ROD, finding, "Thicken it")
    assert not of(after, "snap-risk")
    mesh = after.parts[0].mesh
    assert sound(mesh)
    kept = ROD.vertices[ROD.vertices[:, 2] < 3]
    assert {tuple(v) for v in kept} <= {tuple(v) for v in mesh.vertices}


def test_thickening_bears_at_the_root_what_it_bears_at_the_weakest_place():
    """A limb that tapers less than its push wants is weakest high up, and too weak below as well."""
    horn = united(BLOCK, translated(tapered(0.62, 0.3, 9), [4, 2, 5.5]))
    (finding,) = of(built(horn), "snap-risk")
    assert not of(remedied(horn, finding, "Thicken it"), "snap-risk")


def test_wire_takes_the_limb_off_and_leaves_a_hole_that_fits_it():
    (finding,) = of(built(ROD), "snap-risk")
    after = remedied(ROD, finding, "Replace it by wire of 0.80 mm")
    mesh = after.parts[0].mesh
    assert not of(after, "snap-risk") and sound(mesh)
    assert bounds(mesh)[1, 2] < 6.6
    receipt = after.receipts[-1]
    # Four mm deep in a block of six, and the wire as long as the pin and the hole.
    assert receipt.depth == pytest.approx(4, abs=0.3)
    assert receipt.length == pytest.approx(12 + 4, abs=1)
    hole = mesh.vertices[(mesh.vertices[:, 2] < 5.5) & (np.hypot(*(mesh.vertices[:, :2] - [4, 2]).T) < 1)]
    assert 2 * np.hypot(*(hole[:, :2] - [4, 2]).T).max() == pytest.approx(0.9, abs=0.02)
    kept = ROD.vertices[ROD.vertices[:, 2] < 5]
    assert {tuple(v) for v in kept} <= {tuple(v) for v in mesh.vertices}
    # The steel of it counts where the figure stands: from the bottom of the hole to where the pin ended.
    (wire,) = receipt.inserts
    assert wire.grams == pytest.approx(np.pi * 0.4**2 * 16 * 7.85e-3, rel=0.1)
    assert wire.middle == pytest.approx((4, 2, 2 + 16 / 2), abs=0.6)
    printed = volume(mesh) * DEFAULT_BENCH.setup().material.density / 1000
    assert after.gauge.mass_g == pytest.approx(printed + wire.grams, rel=1e-6)


@pytest.mark.parametrize("tilt", [0, 17])
def test_nothing_is_left_standing_of_a_limb_whose_vertices_were_rounded_to_a_file(tilt):
    """Its sides are flat no more; what is taken off and what it is taken from must not round them differently."""
    exact = united(BLOCK, translated(turned(cylinder(0.4, 13, 32), "x", tilt), [4, 2, 5]))
    mesh = Mesh(exact.vertices.astype(np.float32).astype(float), exact.faces)
    limb = limb_near(mesh, mesh.vertices[np.argmax(mesh.vertices[:, 2])])
    cut = without_limb(mesh, limb)
    assert sound(cut.mesh) and is_connected(cut.mesh)
    assert bounds(cut.mesh)[1, 2] < 6.4
    # The cut took nothing off the block, and made no seam in it.
    kept = mesh.vertices[mesh.vertices[:, 2] <= 6]
    assert {tuple(v) for v in kept} <= {tuple(v) for v in cut.mesh.vertices}
    assert volume(cut.mesh) == pytest.approx(20 * 20 * 6, rel=1e-3)


def test_a_limb_that_is_hollow_is_taken_off_with_its_hollow_and_the_stump_is_a_ring():
    hollow = cylinder(1, 18, 48, at=(0, 0, 3))
    mesh = concatenated(united(BLOCK, cylinder(2, 26, 48)), Mesh(hollow.vertices, hollow.faces[:, ::-1]))
    cut = without_limb(mesh, limb_near(mesh, np.array([0, 0, 20.0])))
    assert sound(cut.mesh) and bounds(cut.mesh)[1, 2] < 7
    pit = np.pi * (cut.point[2] - 3)
    assert volume(cut.mesh) == pytest.approx(20 * 20 * 6 + np.pi * 4 * (cut.point[2] - 6) - pit, rel=1e-3)


def test_a_hole_is_refused_where_there_is_no_room_and_nothing_is_changed():
    thin = united(box(20, 20, 1.2, at=(-10, -10, 0)), translated(cylinder(0.4, 12.5, 32), [4, 2, 0.7]))
    (finding,) = of(built(thin), "snap-risk")
    after = remedied(thin, finding, "Replace it by wire")
    assert after.parts[0].mesh.hash == thin.hash
    assert "room for a hole" in after.receipts[-1].not_done


@pytest.mark.parametrize("size", [1.0, pytest.param(0.5, marks=pytest.mark.deep)])
def test_a_beak_is_blunted_to_what_prints_at_any_size(size):
    edition = Edition(factor=1 / size)
    mesh = scaled(BEAKED, size)
    finding = next(f for f in of(built(mesh, edition), "thin-wall") if any("Blunt" in r.label for r in f.remedies))
    after = remedied(mesh, finding, "Blunt the tip", edition)
    shorter = after.parts[0].mesh
    assert sound(shorter) and bounds(shorter)[1, 0] < bounds(mesh)[1, 0] - size
    assert finding.severity == "stop" and "stop" not in {f.severity for f in of(after, "thin-wall")}


def test_what_tips_over_stands_on_a_base():
    pole = cylinder(2, 60, 48)
    (finding,) = of(built(pole), "tips-over")
    assert finding.measured == pytest.approx(np.degrees(np.arctan(2 / 30)), rel=0.01)
    after = remedied(pole, finding, "Stand it on a base")
    assert not of(after, "tips-over") and sound(after.parts[0].mesh)
    leaning = Mesh(pole.vertices + pole.vertices[:, 2:] * [0.5, 0, 0], pole.faces)
    (falls,) = of(built(leaning), "tips-over")
    assert falls.title == "Falls over by itself"
    assert not of(built(box(10, 10, 10)), "tips-over")


def test_a_finding_is_accepted_with_its_reason_at_its_place_only():
    two = united(
        BLOCK, translated(cylinder(0.4, 12.5, 32), [6, 2, 5.5]), translated(cylinder(0.4, 12.5, 32), [-6, 2, 5.5])
    )
    before = of(built(two), "snap-risk")
    assert len(before) == 2
    accept = Accept(finding="snap-risk", reason="it goes under glass", place=before[0].where.point)
    after = of(built(two, None, accept), "snap-risk")
    assert sorted(finding.severity for finding in after) == ["caution", "note"]
    (note,) = [finding for finding in after if finding.accepted]
    assert note.why.startswith("Accepted: it goes under glass.") and note.where == before[0].where
    everywhere = Accept(finding="snap-risk", reason="it goes under glass")
    assert {finding.severity for finding in of(built(two, None, everywhere), "snap-risk")} == {"note"}


def test_measures_that_are_no_findings_are_told():
    gauge = built(ROD, Edition(height=PrintMM(18))).gauge
    assert gauge.mass_g == pytest.approx((20 * 20 * 6 + np.pi * 0.16 * 12) * 1.15 / 1000, rel=0.01)
    assert gauge.tip_angle_deg == pytest.approx(np.degrees(np.arctan(10 / 3.02)), rel=0.02)
    assert gauge.limbs[0].section_mm == pytest.approx(0.8, rel=0.03) and gauge.detail_lost == 0


def test_thickening_at_random_places_reaches_the_wall_and_crosses_nothing():
    """A plate and a shell, at places picked at random."""
    rng = np.random.default_rng(11)
    plate = box(8, 7, 0.35)
    for _ in range(4):
        plate = subdivided(plate)
    hollow = ball(3, rounds=3), ball(2.7, rounds=3)
    shapes = [plate, concatenated(hollow[0], Mesh(hollow[1].vertices, hollow[1].faces[:, ::-1]))]
    for turn in range(of_all(30)):
        mesh = shapes[turn % len(shapes)]
        # At rims a wall is that of what lies inward of them.
        inner = mesh.vertices[(np.abs(mesh.vertices - bounds(mesh).mean(axis=0)) < [2.5, 2, 9]).all(axis=1)]
        place = inner[rng.integers(len(inner))]
        before = thin_near(mesh, place, 0.5)
        wall, fade, reach = before + rng.uniform(0.1, 0.5), rng.uniform(0.8, 1.5), rng.uniform(1.2, 1.8)
        made, count, most = thicken_walls(mesh, wall, fade, place[None], reach)
        assert count and 0 < most < wall
        assert diagnose(made, 1e-9).sound, turn
        # To the last bit, and nothing new; where material was united with it they may stand in another order.
        assert beyond(mesh, place, reach + fade) <= {tuple(v) for v in made.vertices}
        assert beyond(made, place, reach + fade + most) <= {tuple(v) for v in mesh.vertices}
        assert thin_near(made, place, 0.2 * reach) >= wall, turn


@pytest.mark.parametrize("gap", [0.1, 0.3])
def test_leaves_closer_than_what_they_miss_grow_into_each_other_without_crossing(gap):
    leaf = box(6, 0.3, 8)
    for _ in range(3):
        leaf = subdivided(leaf)
    two = united(box(8, 4, 3, at=(-1, -2, -2.5)), leaf, translated(leaf, [0, 0.3 + gap, 0]))
    place = np.array([3, 0, 5.0])
    made, count, most = thicken_walls(two, 0.8, 2.0, place[None], 1.5)
    # All of it on one side where the other has no room.
    assert count and most < 0.8 * 1.05 - 0.3 and sound(made)
    assert thin_near(made, place, 1.0) >= 0.8 * 0.97
    assert beyond(two, place, 3.5) <= {tuple(v) for v in made.vertices}


def beyond(mesh, place, reach):
    """The vertices farther than some mm from a place."""
    return {tuple(v) for v in mesh.vertices[np.linalg.norm(mesh.vertices - place, axis=1) > reach + 1e-9]}


def thin_near(mesh, place, reach):
    """The least wall within some mm of a place."""
    within = np.linalg.norm(mesh.vertices - place, axis=1) <= reach
    around = within.copy()
    around[mesh.faces[within[mesh.faces].any(axis=1)]] = True
    local = measure_near(mesh, around[mesh.faces].any(axis=1), 2)
    return float(local.thickness.walls[: len(local.vertices)][within[local.vertices]].min(initial=np.inf))
