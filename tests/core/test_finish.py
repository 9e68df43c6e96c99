"""Finish: regions and their areas, mixes in drops, where a brush comes to, coats that eat others, the order of work."""

from datetime import UTC, date, datetime
from itertools import product

import numpy as np
import pytest

from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.paints import PAINTS, Paint
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.finish.amounts import RoleArea, role_sums
from ulvet.core.finish.check_air import Air, check_air
from ulvet.core.finish.check_colours import check_coats
from ulvet.core.finish.colour import difference, hex_of, lab_of, light_of
from ulvet.core.finish.masks import mask_lines, masked
from ulvet.core.finish.mix import Mix, amounts_for, shares_of
from ulvet.core.finish.mixing import MOST_DROPS, mixed_colour, proposals, strength_from
from ulvet.core.finish.order import PartFacts, Surface, order_of_work
from ulvet.core.finish.painted import PaintedCopy, RowDone
from ulvet.core.finish.reach import reach_by_stage, reached
from ulvet.core.finish.regions import UNPAINTED, OpenedMesh, labels_of
from ulvet.core.finish.steps import Coat, ColourPlan, Region, RoleColour, Scheme
from ulvet.core.geometry.mesh import Mesh, face_areas
from ulvet.core.geometry.splitting import split_longer
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.key_steps import Key
from ulvet.core.part.report import AssemblyReport
from ulvet.core.part.steps import Cut
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part
from ulvet.core.stock.check_paints import check_paints

PRIMED = Surface(hides_um=9.0, bare=False, layer=PrintMM(0.05))
KNOWN = {paint.id: paint for paint in PAINTS}


def at(*point):
    return Anchor(point=point)


def fine(mesh, longest=1.0):
    return split_longer(mesh, longest)[0]


def areas_of(mesh, *regions, factor=1.0):
    labels = labels_of(Part("figure", mesh), regions, factor)
    inside = labels.of_face >= 0
    return np.bincount(labels.of_face[inside], face_areas(mesh)[inside], minlength=len(regions)), labels


def test_a_touch_grows_to_the_edges_about_it():
    cube = fine(box(10, 20, 30))
    (top,), _ = areas_of(cube, Region(role="top", places=(at(5, 10, 30),)))
    assert top == pytest.approx(200, rel=0.01)
    (all_of_it,), _ = areas_of(cube, Region(role="all", places=(at(5, 10, 30),), fold=100))
    assert all_of_it == pytest.approx(2200, rel=0.01)


def test_a_touch_stops_in_a_soft_fold_too():
    # A waist between two bulges, rounded so that no edge is sharp.
    high = np.linspace(-20, 20, 161)
    radius = 8 - 5 * np.exp(-((high / 3) ** 2))
    around = np.linspace(0, 2 * np.pi, 96, endpoint=False)
    points = np.array([(r * np.cos(a), r * np.sin(a), z) for z, r in zip(high, radius, strict=True) for a in around])
    rings, many = len(high), len(around)
    faces = [
        face
        for k, j in product(range(rings - 1), range(many))
        for a, b in [(k * many + j, k * many + (j + 1) % many)]
        for face in ((a, b, b + many), (a, b + many, a + many))
    ]
    mesh = Mesh(points, np.array(faces, np.int32))
    middles = mesh.vertices[mesh.faces].mean(axis=1)[:, 2]
    opened = OpenedMesh.of(mesh)
    seed = np.array([int(np.argmax(middles > 12))])
    upper = opened.grown(seed, 25.0, 1.0)
    assert middles[upper].min() > -6
    assert upper.sum() > 0.4 * len(mesh.faces)
    # In a print ten times as large the same valley is no fold any more.
    assert opened.grown(seed, 25.0, 20.0).all()


def test_bands_rounds_and_parts_have_the_areas_of_their_shapes():
    post = fine(box(10, 10, 40), 0.7)
    band = Region(role="band", grows="band", low=FigureMM(10), high=FigureMM(20))
    (area,), _ = areas_of(post, band)
    assert area == pytest.approx(400, rel=0.03)
    round_ = Region(role="round", grows="round", places=(at(5, 0, 20),), within=FigureMM(3))
    (area,), _ = areas_of(post, round_)
    assert area == pytest.approx(np.pi * 9, rel=0.05)
    whole = Region(role="whole", grows="part", part="figure")
    (area,), _ = areas_of(post, whole)
    assert area == pytest.approx(1800, rel=1e-9)
    sphere = ball(10, rounds=5)
    (area,), _ = areas_of(sphere, Region(role="ball", places=(at(0, 0, 10),)))
    assert area == pytest.approx(float(face_areas(sphere).sum()), rel=1e-9)


def test_later_regions_go_over_earlier_ones_and_lost_ones_are_told():
    post = fine(box(10, 10, 40), 0.7)
    below = Region(role="below", grows="band", low=FigureMM(-1), high=FigureMM(20))
    over = Region(role="over", grows="band", low=FigureMM(15), high=FigureMM(41))
    lost = Region(role="lost", places=(at(90, 90, 90),))
    areas, labels = areas_of(post, below, over, lost)
    assert areas[0] == pytest.approx(100 + 600, rel=0.02)
    assert labels.overlapped[0] == pytest.approx(200, rel=0.05)
    assert areas[2] == 0
    assert (labels.of_face == UNPAINTED).sum() == 0
    mirrored = Region(role="ears", grows="round", places=(at(4.5, 0, 20),), within=FigureMM(0.6), mirrored=True)
    centred = Mesh(post.vertices - [5, 0, 0], post.faces)
    _, labels = areas_of(centred, mirrored)
    sides = centred.vertices[centred.faces[labels.of_face == 0]].mean(axis=1)[:, 0]
    assert sides.min() < -4 and sides.max() > 4


def test_colours_go_round_and_are_told_apart_as_the_standard_says():
    for colour in ("#000000", "#ffffff", "#41576b", "#010203", "#fe0101"):
        assert hex_of(light_of(colour)) == colour
    assert lab_of(light_of("#ffffff")) == pytest.approx([100, 0, 0], abs=0.01)
    # A pair of Sharma, Wu and Dalal (2005), table 1.
    assert difference(np.array([50.0, 2.6772, -79.7751]), np.array([50.0, 0.0, -82.7485])) == pytest.approx(
        2.0425, abs=1e-4
    )


def dried(paints, drops):
    """The same model, written out paint by paint and channel by channel."""
    light = []
    for channel in range(3):
        mixed = total = 0.0
        for paint, count in zip(paints, drops, strict=True):
            back = max(float(light_of(paint.dry)[channel]), 1e-3)
            mixed += count * paint.strength * (1 - back) ** 2 / (2 * back)
            total += count * paint.strength
        ratio = mixed / total
        light.append(1 + ratio - (ratio**2 + 2 * ratio) ** 0.5)
    return light


def test_proposals_are_the_best_of_all_by_brute_force():
    paints = [KNOWN[name] for name in ("tide-blue", "bone", "rust", "soot")]
    paints[2] = paints[2].model_copy(update={"strength": 2.5})
    want = "#7d6a63"
    every = [
        drops
        for drops in product(range(MOST_DROPS + 1), repeat=4)
        if 0 < sum(drops) <= MOST_DROPS and sum(one > 0 for one in drops) <= 3
    ]
    away = difference(lab_of(np.array([dried(paints, drops) for drops in every])), lab_of(light_of(want)))
    found = proposals(want, paints)
    assert found[0].difference == pytest.approx(float(away.min()), abs=1e-9)
    assert tuple(found[0].drops.get(one.id, 0) for one in paints) == every[int(away.argmin())]
    assert all(sum(one.drops.values()) <= MOST_DROPS for one in found)
    assert [one.difference for one in found] == sorted(one.difference for one in found)
    assert all(np.gcd.reduce(list(one.drops.values())) == 1 for one in found)


def test_a_mix_is_the_same_in_any_amount_and_a_strength_is_learnt_from_what_it_dried_to():
    mix = {"tide-blue": 3, "bone": 2}
    assert mixed_colour(KNOWN, mix) == mixed_colour(KNOWN, {name: 10 * count for name, count in mix.items()})
    strong = KNOWN["tide-blue"].model_copy(update={"strength": 3.0})
    dried = mixed_colour({**KNOWN, "tide-blue": strong}, mix)
    assert strength_from(KNOWN["tide-blue"], KNOWN, mix, dried) == pytest.approx(3.0, rel=0.1)
    with pytest.raises(ValueError, match="at least one drop"):
        mixed_colour(KNOWN, {"bone": 0})
    assert proposals("#ffffff", [KNOWN["matt-clear"]]) == ()
    # What is thinned otherwise is never in one cup.
    spirit = KNOWN["rust"].model_copy(update={"id": "oil-rust", "base": "spirit"})
    for one in proposals("#8c5a46", [KNOWN["bone"], KNOWN["tide-blue"], spirit]):
        assert set(one.drops) <= {"bone", "tide-blue"} or set(one.drops) == {"oil-rust"}


def test_a_brush_comes_to_the_outside_and_not_into_a_narrow_hole():
    solid = box(20, 20, 20)
    assert reach_by_stage([solid], [[0]], 4.0)[0].alone == 0
    # A well 6 mm wide and 18 deep: its rim and most of its floor are seen from above, yet no 12 mm brush goes in.
    well = concatenated(
        box(20, 7, 20), box(20, 7, 20, at=(0, 13, 0)), box(7, 6, 20, at=(0, 7, 0)), box(7, 6, 20, at=(13, 7, 0)),
        box(6, 6, 2, at=(7, 7, 0)),
    )  # fmt: skip
    floor = np.array([[10.0, 10.0, 2.0]])
    up = np.array([[0.0, 0.0, 1.0]])
    assert reached([well], floor, up, 4.0).all()
    assert not reached([well], floor, up, 40.0).any()
    lid = box(20, 20, 1, at=(0, 0, 21))
    assert not reached([well, lid], floor, up, 4.0).any()


def test_what_is_out_of_reach_is_told_from_the_stage_on_at_which_it_is():
    # Two walls that a third, between them, hides from where a brush would come; put last, it closes the gap.
    left, right = box(20, 2, 30), box(20, 2, 30, at=(0, 5, 0))
    ends = concatenated(box(2, 3, 30, at=(-2, 2, 0)), box(2, 3, 30, at=(20, 2, 0)))
    lids = concatenated(box(24, 7, 2, at=(-2, 0, -2)), box(24, 7, 2, at=(-2, 0, 30)))
    found = reach_by_stage([left, right, ends, lids], [[0], [0, 1], [0, 1, 2], [0, 1, 2, 3]], 4.0)
    wall = found[0]
    assert wall.alone == 0 == wall.by_stage[0]
    assert [found[1].by_stage.get(0), found[3].by_stage.get(2)] == [None, None]
    assert list(wall.by_stage.values()) == sorted(wall.by_stage.values())
    # One side of the wall, 20 by 30, and something of where lids lie on it, 2 by 20.
    assert 0.97 * 600 < wall.by_stage[3] < 1.02 * (600 + 2 * 40)
    assert wall.point is not None and wall.point[1] == pytest.approx(2)


def stack(*coats, role="robe"):
    return Scheme(name="dusk", roles=(RoleColour(role=role, coats=coats),))


def codes(scheme, plan=None, paints=PAINTS):
    plan = plan or ColourPlan(regions=(Region(role="robe", grows="part", part="figure"),), schemes=(scheme,))
    return [finding.code for finding in check_coats(plan, scheme, paints)]


def test_coats_that_eat_others_or_come_too_soon_are_told():
    base = Coat(kind="base", paint="tide-blue")
    assert codes(stack(Coat(kind="ground", paint="slate-primer"), base, Coat(kind="wash", paint="soot-wash"))) == []
    assert codes(stack(base, Coat(kind="clear", paint="gloss-clear"))) == ["eats-coat"]
    assert codes(stack(base.model_copy(update={"wait_min": 2.0}), base)) == ["too-soon"]
    assert codes(stack(Coat(kind="base", paint="gone"))) == ["no-colour"]
    assert codes(stack()) == ["no-colour"]
    assert codes(Scheme(name="empty")) == ["no-colour"]
    assert codes(Scheme(name="bare", roles=(RoleColour(role="robe", bare=True),))) == []
    mixed = Coat(kind="base", paint="mud", drops={"tide-blue": 2, "slate-primer": 1})
    assert codes(stack(mixed)) == ["eats-coat"]
    retired = tuple(one.model_copy(update={"retired": one.id == "tide-blue"}) for one in PAINTS)
    assert codes(stack(base), paints=retired) == ["no-colour"]


def test_amounts_follow_area_coats_and_what_stays_in_the_cup():
    coat = Coat(kind="base", paint="tide-blue", coats=2)
    (one,) = role_sums({"robe": RoleArea(3_000.0)}, stack(coat), PAINTS, "#b9b6ac")
    blue = KNOWN["tide-blue"]
    assert one.ml == pytest.approx(2 * (3_000 / blue.mm2_a_ml + 0.06))
    assert one.drops == pytest.approx(one.ml * blue.drops_a_ml)
    assert one.money == pytest.approx(one.ml * blue.price_a_ml)
    (half,) = role_sums({"robe": RoleArea(3_000.0)}, stack(coat.model_copy(update={"thinned": 0.5})), PAINTS, "#b9b6ac")
    assert half.ml == pytest.approx(one.ml / 2)
    mix = Coat(kind="base", paint="mix", drops={"tide-blue": 3, "bone": 1})
    (of_mix,) = role_sums({"robe": RoleArea(3_000.0)}, stack(mix), PAINTS, "#b9b6ac")
    assert of_mix.coats[0].drops["tide-blue"] == pytest.approx(3 * of_mix.coats[0].drops["bone"])
    assert [finding.code for finding in check_paints([one], PAINTS, {"paint:tide-blue": 0.1})] == ["short-of-paint"]
    # Enough, or never counted.
    assert not list(check_paints([one], PAINTS, {"paint:tide-blue": 15.0}))
    assert not list(check_paints([one], PAINTS, {}))


@pytest.mark.parametrize(
    "values",
    [
        {"role": "robe"},
        {"role": "robe", "grows": "band", "low": 3, "high": 3},
        {"role": "robe", "grows": "part"},
        {"role": "", "grows": "part", "part": "figure"},
    ],
)
def test_a_region_of_nothing_is_refused(values):
    with pytest.raises(ValueError):
        Region.model_validate(values)
    with pytest.raises(ValueError):
        Coat(kind="base", paint="bone", coats=-1)
    with pytest.raises(ValueError):
        Paint.model_validate({**PAINTS[0].model_dump(), "dry": "blue"})


def built(*steps, mesh=None, height=44.0):
    mesh = mesh or concatenated(box(10, 10, 24), cylinder(4, 20, 24, at=(5, 5, 23)))
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="crane.stl"), *steps))
    return build_kept(recipe, Edition(height=PrintMM(height)), {mesh.hash: mesh})


def place(row, names):
    return next(k for k, one in enumerate(names) if one.startswith(row))


@pytest.mark.parametrize("before", [False, True])
@pytest.mark.parametrize("cut", [False, True])
def test_an_order_of_work_obeys_every_rule(before, cut):
    plan = ColourPlan(
        id=9,
        regions=(Region(role="robe", grows="band", low=FigureMM(-1), high=FigureMM(99)),),
        schemes=(stack(Coat(kind="base", paint="tide-blue"), Coat(kind="wash", paint="soot-wash")),),
        painted_before=before,
        first=("figure.2-upper",) if cut else (),
    )
    done = built(*((Cut(id=2, offset=FigureMM(20)), Key(id=3, cut=2)) if cut else ()), plan)
    report = done.finish
    names = [row.what for row in report.work]
    assert place("Wash", names) < place("Dry", names) < place("Cure", names)
    assert place("Sand", names) < place("Rinse", names) < place("Prime", names)
    assert place("Prime", names) < place("Base", names) < place("Washes", names) < place("Last", names)
    assert all(row.hands_min >= 0 and row.wait_min >= 0 for row in report.work)
    if cut:
        together = place("Put together", names)
        assert (place("Base", names) < together) == before
        if not before:
            assert place("Paint what is out of reach", names) < together < place("Fill", names) < place("Prime", names)
        assert len(report.other_work) != len(report.work) or names != [row.what for row in report.other_work]
    assert report.meant is not None
    (robe,) = report.meant.roles
    assert robe.area_mm2 == pytest.approx(sum(facts.area_mm2 for facts in done.facts), rel=1e-6)
    assert robe.colour != "#b9b6ac" and robe.minutes > 0


@pytest.mark.parametrize("cured", [False, True])
def test_supports_come_off_before_the_cure_or_after_it(cured):
    part = PartFacts("figure", "figure", 900.0, 12.0, hollow=True)
    work = order_of_work("resin", [part], AssemblyReport(), (), DEFAULT_BENCH.stations, PRIMED, supports_cured=cured)
    names = [row.what for row in work]
    assert (place("Cure", names) < place("Take supports", names)) == cured
    assert "inside of figure" in work[0].says
    filament = order_of_work("filament", [part], AssemblyReport(), (), DEFAULT_BENCH.stations, PRIMED)
    assert not {"Wash", "Dry", "Cure"} & {row.what for row in filament}


def test_without_a_plan_there_is_an_order_of_work_and_nothing_to_say():
    done = built()
    assert [row.what for row in done.finish.work][:2] == ["Wash", "Dry"]
    assert done.finish.schemes == ()
    assert not [finding for finding in done.findings if finding.station == "finish"]
    assert DEFAULT_BENCH.paints == PAINTS


def test_lines_are_masked_where_roles_meet_and_are_as_long_as_they_are():
    cube = fine(box(10, 20, 30))
    regions = (Region(role="top", places=(at(5, 10, 30),)), Region(role="belt", grows="band", low=FigureMM(0.0),
                                                                   high=FigureMM(15.0)))  # fmt: skip
    opened = OpenedMesh.of(cube)
    labels = labels_of(Part("figure", cube), regions, 1.0, opened)
    lines = {line.roles: line for line in mask_lines(opened, labels, regions)}
    # The top ends at its sharp edges, the belt on flat walls.
    assert set(lines) == {("", "top"), ("", "belt")}
    assert lines["", "top"].length == pytest.approx(60, rel=0.03)
    assert lines["", "top"].along_seam == pytest.approx(60, rel=0.03)
    assert lines["", "belt"].along_seam < 1
    assert lines["", "belt"].length == pytest.approx(60, rel=0.2)
    sprayed = Scheme(name="a", roles=(RoleColour(role="top", coats=(Coat(kind="base", paint="bone", tool="spray"),)),))
    assert masked(lines["", "top"], sprayed) and not masked(lines["", "belt"], sprayed)
    assert not masked(lines["", "top"], stack(Coat(kind="base", paint="bone")))


def test_tape_on_a_pole_that_breaks_is_told_and_on_a_stout_one_not():
    def found(radius, tool):
        pole = fine(cylinder(radius, 24, 24, at=(0, 0, 3.5)), 0.25)
        mesh = concatenated(box(10, 10, 4, at=(-5, -5, 0)), pole)
        coats = (Coat(kind="base", paint="bone", tool=tool),)
        plan = ColourPlan(
            regions=(Region(role="tip", grows="band", low=FigureMM(18.0), high=FigureMM(99.0)),),
            schemes=(Scheme(name="dusk", roles=(RoleColour(role="tip", coats=coats),)),),
        )
        recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), plan))
        build = build_kept(recipe, Edition(), {mesh.hash: mesh})
        return [finding for finding in build.findings if finding.code == "mask-pulls"], build.finish.masks

    (thin,), (line,) = found(0.5, "airbrush")
    assert thin.measured < thin.limit and thin.where is not None
    assert line.roles == ("", "tip") and line.length_mm == pytest.approx(np.pi, rel=0.3)
    assert found(3.0, "airbrush")[0] == []
    assert found(0.5, "brush") == ([], ())


def test_a_mix_is_made_again_in_any_amount():
    day = date(2026, 12, 1)
    mix = Mix(name="dusk", amounts={"tide-blue": 3, "bone": 1}, made_ml=0.16, day=day)
    assert shares_of(mix, KNOWN) == pytest.approx({"tide-blue": 0.75, "bone": 0.25})
    assert amounts_for(mix, 1.6, KNOWN) == {"tide-blue": 30, "bone": 10}
    # Never none of a paint, however little is made.
    assert amounts_for(mix, 0.02, KNOWN) == {"tide-blue": 1, "bone": 1}
    parts = mix.model_copy(update={"by": "parts", "amounts": {"tide-blue": 2.0, "bone": 1.0}})
    assert amounts_for(parts, 9.0, KNOWN) == pytest.approx({"tide-blue": 2.0, "bone": 1.0})
    grams = mix.model_copy(update={"by": "grams", "amounts": {"tide-blue": 2.0, "bone": 1.0}})
    assert amounts_for(grams, 9.0, KNOWN) == pytest.approx({"tide-blue": 6.0, "bone": 3.0})


def test_the_air_has_to_suit_every_paint_of_the_scheme():
    (role,) = role_sums({"robe": RoleArea(3_000.0)}, stack(Coat(kind="ground", paint="slate-primer", tool="spray"),
                                                  Coat(kind="base", paint="tide-blue")), PAINTS, "#b9b6ac")  # fmt: skip
    assert not list(check_air([role], PAINTS, Air()))
    assert not list(check_air([role], PAINTS, Air(temperature=15, damp=65)))
    cold = list(check_air([role], PAINTS, Air(temperature=13, damp=70)))
    assert [(finding.code, finding.limit) for finding in cold] == [("too-cold", 15), ("too-damp", 65)]
    assert len(list(check_air([role], PAINTS, Air(temperature=2)))) == 2


def test_roles_without_paint_are_told_apart_and_stay_so_when_one_gets_its_paint():
    areas = {name: RoleArea(1.0) for name in ("robe", "feather", "punt")}
    unsaid = [one.colour for one in role_sums(areas, None, PAINTS, "#b9b6ac")]
    assert len(set(unsaid)) == 3
    coat = Coat(kind="base", paint="tide-blue")
    painted = role_sums(areas, Scheme(name="dusk", roles=(RoleColour(role="robe", coats=(coat,)),)), PAINTS, "#b9b6ac")
    assert [one.colour for one in painted][1:] == unsaid[1:] and painted[0].colour != unsaid[0]
    many = role_sums({str(k): RoleArea(1.0) for k in range(30)}, None, PAINTS, "#b9b6ac")
    assert len(many) == 30


def test_a_bare_role_shows_the_material_and_a_thin_coat_lets_it_through():
    bare = Scheme(name="a", roles=(RoleColour(role="robe", bare=True),))
    assert role_sums({"robe": RoleArea(1.0)}, bare, PAINTS, "#6b5140")[0].colour == "#6b5140"
    thin = stack(Coat(kind="base", paint="chalk", share=0.1))
    dark, light = (
        role_sums({"robe": RoleArea(1.0)}, thin, PAINTS, under)[0].colour for under in ("#202020", "#e0e0e0")
    )
    assert dark < light


def test_a_copy_tells_what_was_done_against_what_was_told():
    rows = (RowDone(what="Wash", says="", told_min=8, minutes=11), RowDone(what="Sand", says="", told_min=20),
            RowDone(what="Prime", says="", told_min=5, minutes=0))  # fmt: skip
    copy = PaintedCopy(figure=1, figure_name="Imp", edition="e1", edition_name="First",
                       began=datetime(2026, 12, 1, tzinfo=UTC), rows=rows)  # fmt: skip
    assert (copy.told_min, copy.took_min) == (13, 11)
    with pytest.raises(ValueError, match="before it began"):
        PaintedCopy(**{**copy.model_dump(), "ended": datetime(2026, 11, 1, tzinfo=UTC)})
