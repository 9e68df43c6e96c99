"""Finish: recesses and edges, what is seen, decals, grits and fillers, and orders of work against a verifier."""

import numpy as np
import pytest

from tests.depth import of_all
from tests.kept import build_kept
from tests.shapes import ball, box, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.paints import PAINTS
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.finish.amounts import RoleArea, role_sums
from ulvet.core.finish.decals import MOST_WRINKLE, decals_seen
from ulvet.core.finish.masks import mask_lines
from ulvet.core.finish.order import PartFacts, Surface, order_of_work
from ulvet.core.finish.regions import OpenedMesh, labels_of
from ulvet.core.finish.relief import relief_of
from ulvet.core.finish.sight import seen_shares
from ulvet.core.finish.steps import Coat, ColourPlan, Decal, Region, RoleColour, Scheme
from ulvet.core.finish.surface import filler_for, grits_for, hidden_scratch
from ulvet.core.geometry.mesh import Mesh, face_areas, flipped, translated
from ulvet.core.geometry.splitting import split_longer
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.report import AssemblyReport, JointRow, OrderRow
from ulvet.core.part.steps import Cut
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part


def at(*point):
    return Anchor(point=point)


def relief_areas(mesh, factor=1.0):
    """The areas of recesses, of edges and of all."""
    relief, area = relief_of(OpenedMesh.of(mesh), factor), float(face_areas(mesh).sum())
    return float(relief.recess.mean()) * area, float(relief.edge.mean()) * area, area


@pytest.mark.parametrize("longest", [100.0, 1.0])
def test_edges_of_a_box_are_strips_and_none_of_it_is_a_recess(longest):
    mesh, _ = split_longer(box(20, 20, 20), longest)
    recess, edge, _ = relief_areas(mesh)
    # Half a millimetre on both sides of twelve edges of 20 mm.
    assert edge == pytest.approx(12 * 20 * 1.0, rel=0.06)
    assert recess == pytest.approx(0, abs=1e-9)
    # What was an edge is a recess from inside.
    recess, edge, _ = relief_areas(flipped(mesh))
    assert recess == pytest.approx(240, rel=0.1) and edge == pytest.approx(0, abs=1e-9)


def test_what_is_tight_depends_on_the_size_of_the_print():
    small, large = ball(1.0, rounds=4), ball(8.0, rounds=5)
    _, edge, area = relief_areas(small)
    assert edge == pytest.approx(area, rel=0.02)
    assert relief_areas(large)[:2] == (0.0, 0.0)
    # Printed at a tenth, the large ball is all edge.
    _, edge, area = relief_areas(large, 0.1)
    assert edge == pytest.approx(area, rel=0.05)
    recess, edge, area = relief_areas(flipped(small))
    assert recess == pytest.approx(area, rel=0.02) and edge == 0


def test_what_lies_inside_a_jar_is_hardly_seen_and_what_is_outside_is():
    outer = cylinder(10, 30, 96, at=(0, 0, 0))
    lid = box(40, 40, 1, at=(-20, -20, 30))
    ball_inside = ball(3, rounds=3)
    inner = translated(ball_inside, np.array([0.0, 0.0, 15.0]))
    shares = seen_shares([outer, lid, inner], [np.zeros(len(one.faces), int) for one in (outer, lid, inner)], 1)
    outside, _, inside = (float(share[0]) for share in shares)
    assert inside == 0
    # Its top lies under the lid and its underside on the ground: 1800 pi less two discs of 100 pi each.
    assert outside == pytest.approx(600 / 800, abs=0.03)


def test_groups_are_told_apart_and_what_has_none_is_left_out():
    ball_ = ball(10, rounds=4)
    heights = ball_.vertices[ball_.faces].mean(axis=1)[:, 2]
    group = np.where(heights > 2, 0, np.where(heights < -9.8, 1, -1))
    (share,) = seen_shares([ball_], [group], 3)
    assert share[0] == 1.0 and share[1] < 0.1 and share[2] == 0.0


def bent(surface):
    """A square of 20 mm, fine, lifted as a function of x and y says; its edge is open."""
    flat, _ = split_longer(Mesh(np.array([[-10.0, -10, 0], [10, -10, 0], [10, 10, 0], [-10, 10, 0]]),
                                np.array([[0, 1, 2], [0, 2, 3]], np.int32)), 0.5)  # fmt: skip
    x, y, _ = flat.vertices.T
    return Mesh(np.stack([x, y, surface(x, y)], axis=1), flat.faces)


def surface_at_middle(mesh):
    return mesh.vertices[np.argmin(np.linalg.norm(mesh.vertices[:, :2], axis=1)), 2]


def wrinkle(mesh, across=8.0, factor=1.0):
    decal = Decal(name="heron", part="figure", place=at(0, 0, float(surface_at_middle(mesh))), wide=PrintMM(across),
                  high=PrintMM(across))  # fmt: skip
    (seen,) = decals_seen(Part("figure", mesh), (decal,), factor)
    return seen.wrinkle


def test_a_decal_lies_on_what_bends_one_way_and_wrinkles_on_what_bends_two():
    assert wrinkle(bent(lambda x, y: 0 * x)) == pytest.approx(0, abs=1e-9)
    assert wrinkle(bent(lambda x, y: np.sqrt(144 - x**2))) < 0.02
    ball_ = bent(lambda x, y: np.sqrt(900 - x**2 - y**2))
    # A cap of a sphere of 30 mm: pi r³ / 3 R².
    reach = np.hypot(8, 8) / 2
    assert wrinkle(ball_) == pytest.approx(np.pi * reach**3 / 3 / 900, rel=0.08)
    # Twice as large, decal and ball alike, twice as much.
    assert wrinkle(Mesh(ball_.vertices / 2, ball_.faces), factor=2.0) == pytest.approx(wrinkle(ball_), rel=1e-6)
    saddle = bent(lambda x, y: (x**2 - y**2) / 60)
    assert wrinkle(saddle) == pytest.approx(wrinkle(ball_), rel=0.1)


def build_of(mesh, *steps):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="crane.stl"), *steps))
    return build_kept(recipe, Edition(height=PrintMM(float(np.ptp(mesh.vertices[:, 2])))), {mesh.hash: mesh})


def test_decals_that_wrinkle_or_found_no_place_are_told_and_have_their_work():
    mesh = ball(12, rounds=4)
    on = Decal(name="heron", part="figure", place=at(0, 0, 24), wide=PrintMM(12), high=PrintMM(12))
    small = on.model_copy(update={"name": "dot", "wide": PrintMM(2), "high": PrintMM(2)})
    gone = on.model_copy(update={"name": "reed", "place": at(90, 0, 0)})
    build = build_of(mesh, ColourPlan(id=2, decals=(on, small, gone)))
    told = {finding.code: finding for finding in build.findings if finding.station == "finish"}
    assert set(told) == {"decal-wrinkles", "region-lost"}
    assert "heron" in told["decal-wrinkles"].title and told["decal-wrinkles"].measured > MOST_WRINKLE
    assert told["region-lost"].title == "The decal reed found no place"
    (remedy,) = told["decal-wrinkles"].remedies
    taken = ColourPlan.model_validate({"id": 2, "decals": remedy.change.values["decals"]})
    assert [one.name for one in taken.decals] == ["heron", "dot", "reed"] and taken.decals[0].wide < on.wide
    assert {one.code for one in build_of(mesh, taken).findings if one.station == "finish"} == {"region-lost"}
    names = [row.what for row in build.finish.work]
    assert names.index("Gloss clear below decals") < names.index("Decals") < names.index("Seal the decals")


def test_colours_and_decals_stay_with_the_piece_they_are_on_when_the_part_is_cut():
    mesh, _ = split_longer(box(10, 10, 40), 1.0)
    head = Region(role="head", part="figure", grows="round", places=(at(0, -5, 35),), within=FigureMM(3))
    foot = Region(role="foot", part="figure", grows="round", places=(at(0, -5, 5),), within=FigureMM(3))
    both = Region(role="sides", part="figure", grows="round", places=(at(-5, 0, 35), at(-5, 0, 5)), within=FigureMM(2))
    decal = Decal(name="heron", part="figure", place=at(0, 5, 30), wide=PrintMM(3), high=PrintMM(3))
    plan = ColourPlan(id=9, regions=(head, foot, both), decals=(decal,))
    build = build_of(mesh, Cut(id=2, offset=FigureMM(20)), plan)
    assert len(build.parts) == 2 and not [one for one in build.findings if one.code == "region-lost"]
    by_part = {part.name: seen.areas for part, seen in zip(build.parts, build.regions, strict=True)}
    upper = next(areas for name, areas in by_part.items() if "upper" in name)
    lower = next(areas for name, areas in by_part.items() if "lower" in name)
    assert set(upper) == {0, 2} and set(lower) == {1, 2}
    assert upper[0] == pytest.approx(np.pi * 9, rel=0.05) and lower[1] == pytest.approx(np.pi * 9, rel=0.05)
    assert build.finish.region_mm2[2] == pytest.approx(2 * np.pi * 4, rel=0.1)
    # On a part of another name nothing of it is coloured, and that is told of none.
    gone = plan.model_copy(update={"regions": (head.model_copy(update={"places": (at(0, -5, 400),)}),)})
    lost = [one for one in build_of(mesh, Cut(id=2, offset=FigureMM(20)), gone).findings if one.code == "region-lost"]
    assert [one.title for one in lost] == ["head found no place"]


def test_the_end_of_a_band_is_as_long_as_its_level_however_the_faces_lie():
    # A pole of needles: its sides are 40 mm long and half a millimetre wide.
    pole = cylinder(4, 40, 48)
    needles = Mesh(pole.vertices, pole.faces)
    fine, _ = split_longer(pole, 0.5)
    low, high = (float(v) for v in np.quantile(pole.vertices[:, 2], [0, 1]))
    band = Region(role="belt", grows="band", low=FigureMM(low - 1), high=FigureMM((low + high) / 2))

    def length(mesh):
        opened = OpenedMesh.of(mesh)
        lines = mask_lines(opened, labels_of(Part("figure", mesh), (band,), 1.0, opened), (band,))
        return sum(line.length for line in lines)

    assert length(fine) == pytest.approx(8 * np.pi, rel=0.05)
    assert length(needles) <= 8 * np.pi * 1.01


def test_grits_end_where_the_primer_hides_the_scratches():
    assert grits_for("resin", 9.0) == (240, 400)
    assert grits_for("filament", 9.0)[0] < 240 and grits_for("filament", 9.0)[-1] == 400
    bare = grits_for("resin", 3.2)
    assert bare[0] == 240 and bare[-1] == 1500 and list(bare) == sorted(bare)
    # A thick primer needs one grit, and nothing hides what the finest leaves.
    assert grits_for("resin", 30.0) == (240,)
    assert grits_for("resin", 0.0)[-1] == max(bare)


def test_what_hides_a_scratch_is_the_primer_and_gloss_shows_more():
    def scheme(*coats):
        return Scheme(name="dusk", roles=(RoleColour(role="robe", coats=coats),))

    ground, base = Coat(kind="ground", paint="slate-primer"), Coat(kind="base", paint="tide-blue")
    gloss = Coat(kind="clear", paint="gloss-clear")
    primer = next(paint for paint in PAINTS if paint.id == "slate-primer")
    assert hidden_scratch(scheme(ground, base), PAINTS, False) == primer.hides_um
    thin = [paint.model_copy(update={"hides_um": 2.0}) if paint is primer else paint for paint in PAINTS]
    assert hidden_scratch(scheme(ground, base), thin, False) == 2.0
    shown = hidden_scratch(scheme(ground, base, gloss), PAINTS, False)
    assert hidden_scratch(None, PAINTS, True) < shown < primer.hides_um
    # Gloss below a matt coat is not seen.
    matt = Coat(kind="clear", paint="matt-clear")
    assert hidden_scratch(scheme(ground, base, gloss, matt), PAINTS, False) == primer.hides_um
    assert hidden_scratch(scheme(Coat(kind="base", paint="gone")), PAINTS, False) > 0


def test_a_wider_gap_is_filled_with_what_bears_it():
    names = [filler_for(PrintMM(gap), "resin")[0] for gap in (0.05, 0.3, 1.0, 4.0)]
    assert len(set(names)) == 4
    assert filler_for(PrintMM(0.05), "filament")[0] != names[0]
    assert filler_for(PrintMM(4.0), "filament") == filler_for(PrintMM(4.0), "resin")


KINDS = ("ground", "base", "wash", "highlight", "clear", "weathering")
PAINT_OF = {"ground": "slate-primer", "wash": "soot-wash", "clear": "matt-clear"}


def an_order(rng):
    """A random figure, put together in a random way and painted by a random plan: what is asked, and the order."""
    parts = [
        PartFacts(f"figure.{k}", f"part {k}", float(rng.uniform(50, 5_000)), float(rng.choice([0, 8])),
                  rng.random() < 0.4)
        for k in range(int(rng.integers(1, 6)))
    ]  # fmt: skip
    joints, steps = [], []
    for number, part in enumerate(parts[1:]):
        to = parts[int(rng.integers(0, number + 1))]
        gap = None if rng.random() < 0.3 else float(rng.uniform(0.02, 2.0))
        joints.append(
            JointRow.model_construct(
                parts=(to.name, part.name), keys=int(rng.integers(0, 3)), gap_mm=gap, area_mm2=20.0
            )
        )
        steps.append(
            OrderRow(parts=(part.name,), way=(0, 0, 1), joints=(number,), area_mm2=20.0, glue="thick glue",
                     minutes=2.0, sanding_minutes=1.0)
        )  # fmt: skip
    assembly = AssemblyReport.model_construct(joints=tuple(joints), first=parts[0].name, order=tuple(steps))
    roles = []
    for k in range(int(rng.integers(0, 4))):
        kinds = [kind for kind in KINDS if rng.random() < 0.6]
        coats = tuple(Coat(kind=kind, paint=PAINT_OF.get(kind, "bone")) for kind in kinds)
        roles.append(RoleColour(role=f"role {k}", coats=coats, bare=not coats))
    areas = {one.role: RoleArea(float(rng.uniform(20, 900))) for one in roles}
    sums = role_sums(areas, Scheme(name="dusk", roles=tuple(roles)), PAINTS, "#b9b6ac")
    bare = bool(sums) and all(one.bare for one in sums)
    surface = Surface(float(rng.choice([3.2, 9.0])), bare, PrintMM(0.05), int(rng.integers(0, 3)))
    first = tuple(part.name for part in parts[1:] if rng.random() < 0.3)
    process, before = str(rng.choice(["resin", "filament"])), bool(rng.random() < 0.5)
    work = order_of_work(process, parts, assembly, sums, DEFAULT_BENCH.stations, surface, first, before,
                         bool(rng.random() < 0.5))  # fmt: skip
    return process, parts, joints, sums, surface, first, before, work


BEFORE = (
    ("Wash", "Dry"), ("Dry", "Cure"), ("Dry", "Take supports off"), ("Cure", "Sand where it shows"),
    ("Take supports off", "Sand where it shows"), ("Sand where it shows", "Rinse the dust off"),
    ("Rinse the dust off", "Prime, look, fill, prime"), ("Rinse the dust off", "Put together"),
    ("Prime, look, fill, prime", "Base coats"), ("Base coats", "Washes"), ("Washes", "Highlights"),
    ("Highlights", "Gloss clear below decals"), ("Gloss clear below decals", "Decals"),
    ("Decals", "Seal the decals"), ("Seal the decals", "Weathering"), ("Weathering", "Last coat"),
    ("Base coats", "Last coat"), ("Give it something to hold it by", "Prime, look, fill, prime"),
)  # fmt: skip
"""What comes before what, where both are done: dust is off before paint, decals lie on gloss, weathering comes last."""


@pytest.mark.parametrize("seed", range(of_all(30)))
def test_any_order_of_work_obeys_every_rule(seed):
    process, parts, joints, roles, surface, first, before, work = an_order(np.random.default_rng(seed))
    names = [row.what for row in work]

    def places(name):
        return [k for k, one in enumerate(names) if one == name or one.startswith((f"{name},", f"{name} later"))]

    for earlier, later in BEFORE:
        if places(earlier) and places(later):
            assert max(places(earlier)) < min(places(later)), (earlier, later, names)
    assert bool(places("Wash")) == (process == "resin") and bool(places("Cure")) == (process == "resin")
    assert bool(places("Prime, look, fill, prime")) == (not surface.bare)
    assert len(places("Decals")) == (surface.decals > 0)
    # Every part but the first is put on once, and in the school that paints first only after all paint.
    put_on = [name for row in work if row.what.startswith("Put together") for name in row.parts]
    assert sorted(put_on) == sorted(part.name for part in parts[1:])
    paint = [k for name in ("Prime, look, fill, prime", "Base coats", "Washes", "Highlights") for k in places(name)]
    if joints and paint:
        assert (max(paint) < min(places("Put together"))) == before
    if joints and not before:
        assert max(places("Put together")) < min(places("Fill the seams"))
        hidden = [row for row in work if row.what.startswith("Paint what is out of reach")]
        assert [sorted(row.parts) for row in hidden] == ([sorted(first)] if first else [])
        if hidden:
            assert names.index(hidden[0].what) < min(places("Put together"))
    # Nothing that the plan asks for is left out, and all takes time.
    asked = {coat.kind for role in roles for coat in role.coats} & {"base", "wash", "highlight", "weathering"}
    done = {"base": "Base coats", "wash": "Washes", "highlight": "Highlights", "weathering": "Weathering"}
    assert all(bool(places(said)) == (kind in asked) for kind, said in done.items())
    assert all(row.hands_min >= 0 and row.wait_min >= 0 and row.says for row in work)
