"""Cuts and keys: what they leave, held against an independent library."""

import numpy as np
import pytest
import trimesh

from tests.core.test_hollow import bumpy
from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder, subdivided, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.geometry.mesh import Mesh, flipped, scaled, volume
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.lineage import part_in_words
from ulvet.core.part.check_cuts import check_cuts
from ulvet.core.part.cutting import CannotPart, parted_at_plane
from ulvet.core.part.fit import key_gap, key_pairs, overlap_of, ways_of
from ulvet.core.part.joints import joints_between
from ulvet.core.part.keep_steps import KeepWhole
from ulvet.core.part.key_setting import KeyPlace
from ulvet.core.part.key_steps import Key
from ulvet.core.part.numbering import number_bars
from ulvet.core.part.order_steps import NamePart, NumberParts
from ulvet.core.part.steps import Cut, CutBoxes, SplitShells
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_fields, with_steps_added
from ulvet.core.recipe.mirroring import mirrored_part
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.stand.steps import Orient

SETTING = DEFAULT_BENCH.setup().setting


def recipe_of(mesh, *steps):
    return Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))


def made(mesh, *steps, factor=1.0):
    """The run of a recipe; a figure is set down on the ground, so a ball of 10 has its middle at 10."""
    return run_recipe(recipe_of(mesh, *steps), {mesh.hash: mesh}, Edition(factor=factor))


def is_closed(mesh):
    """By an independent library, of the mesh as a file holds it."""
    held = trimesh.Trimesh(mesh.vertices.astype(np.float32), mesh.faces, process=False)
    return held.is_watertight and held.is_winding_consistent and held.volume > 0


def from_all_sides(seed):
    way = np.random.default_rng(seed).normal(size=3)
    return tuple(map(float, way / np.linalg.norm(way)))


@pytest.mark.parametrize("seed", range(of_all(20)))
def test_random_solids_cut_by_random_planes_are_whole_again_together(seed):
    mesh, normal = bumpy(14, seed), from_all_sides(seed)
    offset = float(np.random.default_rng(seed).uniform(-6, 6))
    run = made(mesh, Cut(normal=normal, offset=FigureMM(offset)), Key(cut=2))
    bare = made(mesh, Cut(normal=normal, offset=FigureMM(offset)))
    assert all(is_closed(part.mesh) for part in (*run.parts, *bare.parts))
    assert sum(volume(part.mesh) for part in bare.parts) == pytest.approx(volume(mesh), rel=1e-9)
    assert run.receipts[2].keys >= 1
    keyed = {part.name: part for part in run.parts}
    for joint in joints_between(run.parts, 1.0):
        pair = [run.parts[joint.first], run.parts[joint.second]]
        pairs = key_pairs(joint, *pair, 1.0)
        meshes = [part.mesh for part in pair]
        gaps = [key_gap(one, *meshes, 1.0) for one in pairs]
        assert gaps and min(gaps) == pytest.approx(SETTING.fits.glued, abs=0.02)
        assert overlap_of(*meshes) < 1e-3 * joint.outline.area
        assert ways_of(joint, pairs, 1.0) == 1
        assert min(one.hole.wall for one in pairs) >= SETTING.walls.held.caution
    assert len(keyed) == len(run.parts)


def test_what_a_cut_does_not_pass_stays_to_the_bit():
    mesh = made(bumpy(10, 3)).parts[0].mesh
    pieces = made(mesh, Cut(offset=FigureMM(9.0)), Key(cut=2, size=PrintMM(3))).parts
    own = {tuple(vertex) for vertex in mesh.vertices}
    for part in pieces:
        on_skin = np.abs(part.mesh.vertices[:, 2] - 9.0) > 5  # beyond the longest key
        assert on_skin.any() and all(tuple(vertex) in own for vertex in part.mesh.vertices[on_skin])


def test_caps_are_flat_and_lie_on_each_other():
    upper, lower = made(ball(10), Cut(offset=FigureMM(13.0))).parts
    for part in (upper, lower):
        (seam,) = part.seams
        flat = np.abs((part.mesh.vertices - seam.point) @ seam.normal) < 1e-9
        assert flat.sum() > 20
    (joint,) = joints_between((upper, lower), 1.0)
    assert joint.outline.area == pytest.approx(np.pi * (100 - 9), rel=0.01)


def test_one_limb_of_two_comes_off_alone():
    legs = concatenated(*(cylinder(2, 20, at=(x, 0, 0)) for x in (-5, 5)))
    (whole,) = solids_of(concatenated(legs, box(16, 8, 6, at=(-8, -4, 18))))
    mesh = mesh_of(whole.body)[0]
    near = Anchor.at(np.array([5.0, -2.0, 4.0]), np.array([0.0, -1.0, 0.0]), "")
    low = Cut(normal=(0.0, 0.0, -1.0), offset=FigureMM(-10.0), near=near)
    both, one = made(mesh, low.model_copy(update={"near": None})).parts, made(mesh, low).parts
    assert [len(both), len(one)] == [3, 2]
    assert one[0].mesh.vertices[:, 0].min() > 0
    assert sum(volume(part.mesh) for part in one) == pytest.approx(volume(mesh), rel=1e-9)


def test_a_cavity_stays_with_what_it_lies_in_and_opens_where_it_is_cut():
    hollow = concatenated(ball(10, rounds=5), flipped(ball(4, at=(0, 0, -4), rounds=4)))
    missed = made(hollow, Cut(offset=FigureMM(12.0))).parts
    solid = made(ball(10, rounds=5), Cut(offset=FigureMM(12.0))).parts
    taken = [volume(one.mesh) - volume(other.mesh) for one, other in zip(solid, missed, strict=True)]
    assert taken == pytest.approx([0.0, volume(ball(4, rounds=4))], abs=1e-6)
    opened = made(hollow, Cut(offset=FigureMM(6.0))).parts
    (joint,) = joints_between(opened, 1.0)
    assert all(is_closed(part.mesh) for part in opened)
    assert joint.outline.area == pytest.approx(np.pi * (100 - 16 - 16), rel=0.02)


def test_shells_that_reach_into_each_other_stay_one_piece_and_others_do_not():
    crossed = concatenated(cylinder(4, 20), cylinder(3, 20, at=(5, 0, 0)))
    assert len(made(crossed, Cut(offset=FigureMM(10.0))).parts) == 2
    beside = concatenated(cylinder(4, 20), cylinder(3, 20, at=(9, 0, 0)))
    assert len(made(beside, Cut(offset=FigureMM(10.0))).parts) == 4


@pytest.mark.parametrize(
    ("mesh", "point", "why"),
    [
        (box(4, 4, 4), 9.0, "passes it by"),
        (box(4, 4, 4), 4.0, "passes it by"),
        (Mesh(box(4, 4, 4).vertices, box(4, 4, 4).faces[1:]), 2.0, "open or crosses"),
        (concatenated(box(4, 4, 4), Mesh(np.eye(3) * 9, np.array([[0, 1, 2]]))), 2.0, "open or crosses"),
    ],
    ids=["missed", "grazed", "open", "a lone face"],
)
def test_a_cut_that_cannot_be_made_says_why_and_changes_nothing(mesh, point, why):
    with pytest.raises(CannotPart, match=why):
        parted_at_plane(mesh, np.array([0.0, 0, point]), np.array([0.0, 0, 1]))
    run = made(mesh, Cut(offset=FigureMM(point), scope="figure"))
    assert [part.mesh.hash for part in run.parts] == [made(mesh).parts[0].mesh.hash]
    assert why in run.receipts[1].not_done


@pytest.mark.parametrize("shape", ["round", "flat-sided", "square", "tapered"])
@pytest.mark.parametrize(("fit", "painted"), [("press", False), ("free", True)])
def test_every_outline_keeps_its_gap(shape, fit, painted):
    run = made(ball(10, rounds=5), Cut(offset=FigureMM(11.0)), Key(cut=2, shape=shape, fit=fit, painted=painted))
    want = getattr(SETTING.fits, fit) + (2 * SETTING.coat if painted else 0)
    (joint,) = joints_between(run.parts, 1.0)
    meshes = [part.mesh for part in run.parts]
    gaps = [key_gap(pair, *meshes, 1.0) for pair in key_pairs(joint, *run.parts, 1.0)]
    assert all(gap == pytest.approx(want, abs=0.02) for gap in gaps)
    assert all(is_closed(mesh) for mesh in meshes)


def test_a_pin_is_a_part_that_lies_down_and_a_magnet_is_bought():
    cut = Cut(offset=FigureMM(10.5))
    pins = made(ball(10, rounds=5), cut, Key(cut=2, joins="pin", number=1))
    upper, lower, pin = pins.parts
    assert {key.role for key in (*upper.keys, *lower.keys)} == {"socket"}
    assert is_closed(pin.mesh) and abs(pin.stance.up[2]) < 1e-9
    (hole,) = lower.keys
    assert pin.mesh.vertices[:, 2].max() == pytest.approx(10.5 + hole.deep - 0.2, abs=1e-3)
    magnet = Key(cut=2, joins="magnets", item="m", name="Magnet 3 x 2", size=PrintMM(3), deep=PrintMM(2), density=7.5)
    run = made(ball(10, rounds=5), cut, magnet)
    inserts = run.receipts[2].inserts
    assert len(inserts) == 2 * run.receipts[2].keys > 0
    assert inserts[0].grams == pytest.approx(np.pi / 4 * 9 * 2 * 7.5 / 1000)


def test_print_lengths_stay_and_places_follow_the_size():
    steps = Cut(offset=FigureMM(13.0)), Key(cut=2, number=1, size=PrintMM(3.0), shape="round")
    small, large = (made(ball(10, rounds=5), *steps, factor=factor) for factor in (1.0, 2.0))
    for run in (small, large):
        (peg,) = [key for part in run.parts for key in part.keys if key.role == "peg"]
        assert (peg.size, peg.gap) == (3.0, SETTING.fits.glued)
    assert large.parts[0].seams == small.parts[0].seams


def test_a_key_that_does_not_fit_is_refused_and_nothing_is_changed():
    thin = Cut(offset=FigureMM(5.0))
    run = made(cylinder(1.2, 10), thin, Key(cut=2, size=PrintMM(3.0)))
    bare = made(cylinder(1.2, 10), thin)
    assert [part.mesh.hash for part in run.parts] == [part.mesh.hash for part in bare.parts]
    assert run.receipts[2].refused == 1 and "no key 3 mm wide fits" in run.receipts[2].not_done
    place = KeyPlace(point=(FigureMM(0), FigureMM(9.0), FigureMM(10.5)), size=PrintMM(4), deep=PrintMM(4))
    near_rim = made(ball(10, rounds=5), Cut(offset=FigureMM(10.5)), Key(cut=2, places=(place,)))
    assert near_rim.receipts[2].keys == 0 and "leaves less than" in near_rim.receipts[2].not_done
    assert "no such joint" in made(ball(10), Key(cut=7)).receipts[1].not_done


def test_a_key_goes_where_it_is_put_with_its_socket_on_the_side_that_is_named():
    place = KeyPlace(
        point=(FigureMM(2.0), FigureMM(-1.0), FigureMM(10.5)), size=PrintMM(3), deep=PrintMM(4), turned=30.0,
        socket_in="figure.2-upper",
    )  # fmt: skip
    upper, lower = made(ball(10, rounds=5), Cut(offset=FigureMM(10.5)), Key(cut=2, places=(place,))).parts
    assert ([key.role for key in upper.keys], [key.role for key in lower.keys]) == (["socket"], ["peg"])
    assert upper.keys[0].point[:2] == pytest.approx((2.0, -1.0), abs=1e-6)


def test_boxes_cut_into_pieces_that_fit_them_and_sum_to_the_whole():
    mesh = bumpy(20, 5)
    run = made(mesh, CutBoxes(size=(PrintMM(18), PrintMM(18), PrintMM(18))), factor=1.5)
    assert len(run.parts) > 8
    for part in run.parts:
        assert is_closed(part.mesh)
        assert (np.ptp(part.mesh.vertices * 1.5, axis=0) <= 18 + 1e-2).all()
    assert sum(volume(part.mesh) for part in run.parts) == pytest.approx(volume(mesh), rel=1e-9)
    assert "fits one box" in made(mesh, CutBoxes(size=(PrintMM(90),) * 3)).receipts[1].not_done


def test_shells_become_parts_with_their_cavities():
    mesh = concatenated(ball(6), flipped(ball(3)), ball(2, at=(12, 0, 0)))
    large, small = made(mesh, SplitShells()).parts
    assert volume(large.mesh) == pytest.approx(volume(ball(6)) - volume(ball(3)))
    assert volume(small.mesh) == pytest.approx(volume(ball(2)))


def test_a_part_keeps_its_name_and_what_hangs_on_it_when_its_cut_is_edited():
    mesh = ball(10, rounds=4)
    steps = (
        Cut(offset=FigureMM(3.0)),
        NamePart(scope="figure.2-upper", title="Hood"),
        Orient(scope="figure.2-upper", up=(1.0, 0.0, 0.0)),
    )
    before = recipe_of(mesh, *steps)
    after = with_fields(before, 2, {"normal": (0.0, 0.3, 0.95), "offset": 1.0})
    for recipe in (before, after):
        upper, lower = run_recipe(recipe, {mesh.hash: mesh}, Edition(factor=1.0)).parts
        assert (upper.name, upper.called, lower.called) == ("figure.2-upper", "Hood", "lower figure")
        assert upper.stance.up == (1.0, 0.0, 0.0)


def test_what_was_of_the_whole_is_of_all_its_pieces_and_what_is_of_a_piece_comes_behind_its_cut():
    mesh = ball(10, rounds=4)
    whole = recipe_of(mesh, Orient(scope="figure", up=(0.0, 1.0, 0.0)))
    cut = with_steps_added(whole, (Cut(scope="figure", offset=FigureMM(3.0)),))
    name = cut.steps[1].id
    again = with_steps_added(cut, (Cut(scope=f"figure.{name}-lower", normal=(1.0, 0.0, 0.0), offset=FigureMM(0.0)),))
    assert [step.kind for step in again.steps] == ["bring-in", "cut", "cut", "orient"]
    parts = run_recipe(again, {mesh.hash: mesh}, Edition(factor=1.0)).parts
    assert len(parts) == 3 and all(part.stance.up == (0.0, 1.0, 0.0) for part in parts)


def test_a_mirrored_part_has_its_seams_and_keys_mirrored():
    upper, lower = made(bumpy(12, 2), Cut(normal=(0.6, 0.0, 0.8), offset=FigureMM(1.0)), Key(cut=2)).parts
    mirrored = tuple(mirrored_part(part) for part in (upper, lower))
    (joint,) = joints_between(mirrored, 1.0)
    meshes = [part.mesh for part in mirrored]
    assert all(key_gap(pair, *meshes, 1.0) > 0.05 for pair in key_pairs(joint, *mirrored, 1.0))


def test_a_hollow_that_is_cut_holds_its_keys_in_its_wall():
    hollow = concatenated(ball(15, rounds=5), flipped(ball(10, rounds=5)))
    run = made(hollow, Cut(offset=FigureMM(15.3)), Key(cut=2))
    assert run.receipts[2].keys and all(is_closed(part.mesh) for part in run.parts)
    for key in run.parts[0].keys:
        away = np.linalg.norm(key.point[:2])
        assert 10 + SETTING.walls.held.caution < away - key.size / 2 and away + key.size / 2 < 15


def test_the_name_of_a_part_is_read_as_words():
    assert part_in_words("Bow otter.9-upper") == "upper Bow otter"
    assert part_in_words("figure.2-box-x1-y2") == "figure, box x1 y2"


def test_a_tube_and_a_coarse_box_are_cut_across_coinciding_vertices():
    tall = subdivided(subdivided(box(8, 8, 8)))
    for mesh in (tall, tube(6, 4, 12), scaled(box(1, 1, 1), 1e-2)):
        level = float(mesh.vertices[:, 2].max() / 2)  # where vertices lie
        run = made(mesh, Cut(offset=FigureMM(level)))
        assert len(run.parts) == 2 and all(is_closed(part.mesh) for part in run.parts)
        assert sum(volume(part.mesh) for part in run.parts) == pytest.approx(volume(mesh), rel=1e-9)


def test_numbers_are_sunk_into_both_faces_of_a_joint_and_read_the_right_way_round():
    cuts = Cut(offset=FigureMM(12.0)), Key(cut=2), Cut(normal=(1.0, 0.0, 0.0), offset=FigureMM(1.0))
    bare, run = made(ball(10, rounds=5), *cuts, factor=1.5), made(ball(10, rounds=5), *cuts, NumberParts(), factor=1.5)
    assert run.receipts[-1].numbered == 4 and run.receipts[-1].refused == 0
    for before, after in zip(bare.parts, run.parts, strict=True):
        sunk = (volume(before.mesh) - volume(after.mesh)) * 1.5**3
        assert is_closed(after.mesh) and 0.1 < sunk < 6
    thin = made(cylinder(0.7, 20), Cut(offset=FigureMM(10.0)), NumberParts())
    assert thin.receipts[-1].refused == 1 and "had no room" not in thin.receipts[-1].not_done
    left_bars = number_bars(1, np.zeros(2), 2.0)
    assert all(bar.rings[0][:, 0].min() > 0 for bar in left_bars)  # the bars of a 1 stand on its right
    assert [len(number_bars(number, np.zeros(2), 2.0)) for number in (1, 8, 12)] == [2, 7, 7]


@pytest.mark.parametrize("asked", [{"joins": "rod"}, {"joins": "magnets", "size": 3.0}])
def test_what_is_bought_has_to_be_measured(asked):
    with pytest.raises(ValueError, match="say which is bought"):
        Key(cut=2, **asked)


def test_a_rod_that_does_not_fit_is_offered_no_width_of_the_joints_choosing():
    steps = Cut(offset=FigureMM(5.0)), Key(cut=2, joins="rod", size=PrintMM(3.0))
    run = made(cylinder(1.2, 10), *steps)
    (found,) = check_cuts(run.parts, recipe_of(cylinder(1.2, 10), *steps), run.receipts, 1.0)
    assert found.code == "key-too-near"
    assert [remedy.label for remedy in found.remedies] == ["Leave that joint to its glue"]


def kept_on(mesh, at, radius, *cuts):
    """What is said of cuts through a figure of which all within a radius of a place is to stay in one piece."""
    keep = KeepWhole(name="its face", places=(Anchor.at(np.array(at), None, ""),), radius=FigureMM(radius))
    recipe = recipe_of(mesh, keep, *cuts)
    run = run_recipe(recipe, {mesh.hash: mesh}, Edition(factor=2.0))
    return [one for one in check_cuts(run.parts, recipe, run.receipts, run.factor) if one.code == "crosses-kept"]


def test_a_cut_through_what_is_to_stay_whole_is_told_and_moved_past_it():
    mesh = ball(10, rounds=5)
    (found,) = kept_on(mesh, (10, 0, 12), 4, Cut(normal=(0, 0, 1), offset=FigureMM(11)))
    assert found.title == "A cut goes through its face"
    assert found.measured == pytest.approx(2 * 1, abs=0.1)
    assert found.limit == 8
    offsets = [remedy.change.values["offset"] for remedy in found.remedies]
    assert offsets == pytest.approx([12 - 4, 12 + 4], abs=0.2)
    for offset in offsets:
        assert kept_on(mesh, (10, 0, 12), 4, Cut(normal=(0, 0, 1), offset=FigureMM(offset))) == []
    # From the other side it is the same cut; on the far side of the figure it is another place.
    (turned,) = kept_on(mesh, (10, 0, 12), 4, Cut(normal=(0, 0, -1), offset=FigureMM(-11)))
    assert [remedy.change.values["offset"] for remedy in turned.remedies] == pytest.approx([-8, -16], abs=0.2)
    assert kept_on(mesh, (10, 0, 12), 4, Cut(normal=(1, 0, 0), offset=FigureMM(0))) == []


def test_a_cut_says_how_narrow_its_joint_is_and_which_hollow_it_opens():
    shell = concatenated(ball(10, rounds=5), flipped(ball(8, rounds=5)))
    run = made(shell, Cut(normal=(0, 0, 1), offset=FigureMM(10)))
    receipt = run.receipts[-1]
    assert receipt.opened == 1
    assert receipt.narrowest == pytest.approx(2, abs=0.1)
    said = "".join(map(str, Cut(offset=FigureMM(10)).sentence(receipt)))
    assert "1 hollow left open there" in said
    assert "2.0 mm at its narrowest" in said
