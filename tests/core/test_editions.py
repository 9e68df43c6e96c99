"""Editions: what one is made for, several side by side, and what of a recipe and a bench each reads."""

import json
import random
import zipfile
from datetime import date
from io import BytesIO

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.test_looking import Remembering
from tests.shapes import box, concatenated
from ulvet.core.bench import bench_edits
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, Form, brought_forward
from ulvet.core.bench.editions import (
    IllegalEdition,
    NamedEdition,
    edition_of,
    unlike,
    with_edition,
    with_edition_added,
    with_edition_moved,
    without_edition,
)
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.build_reads import values_read
from ulvet.core.build.figure_build import build_figure
from ulvet.core.findings.check import check_kinds
from ulvet.core.formats.stl import read_back
from ulvet.core.gauge.record_steps import Accept
from ulvet.core.gauge.steps import Thicken
from ulvet.core.geometry.mesh import volume
from ulvet.core.hollow.pocket_steps import Pocket
from ulvet.core.hollow.steps import Hollow
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.steps import Cut
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.in_edition import in_edition, left_out, with_new_steps_in, without_edition_named
from ulvet.core.recipe.mirroring import mirrored_part
from ulvet.core.recipe.projection import declared
from ulvet.core.recipe.reading import read_recipe
from ulvet.core.recipe.runner import Recipe, recipe_hash
from ulvet.core.recipe.stance import Stance
from ulvet.core.recipe.step import Part
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files, zip_bytes
from ulvet.core.size.more_editions import draft_of
from ulvet.core.stand.steps import Orient, Support

HOOK = concatenated(box(6, 4, 20), box(9, 1, 1, at=(0, 1, 18)))
"""A post with an arm to one side, so that left is not right."""


def recipe(*steps, mesh=HOOK) -> Recipe:
    return Recipe(steps=(BringIn(source=mesh.hash, name="hook.stl"), *steps))


def named(*names) -> tuple[NamedEdition, ...]:
    return tuple(NamedEdition(id=f"e{k}", name=name) for k, name in enumerate(names, 1))


def thicken(**over) -> Thicken:
    place = Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(5)))
    return Thicken(wall=PrintMM(0.8), places=(place,), reach=FigureMM(4), **over)


def test_editions_are_added_behind_the_one_looked_at_and_keep_their_ids():
    editions = with_edition_added(named("Tabletop", "Cabinet"), NamedEdition(id="e9", name="Draft"), "e1")
    assert [one.id for one in editions] == ["e1", "e9", "e2"]
    moved = with_edition_moved(editions, "e2", "e1")
    assert [one.name for one in moved] == ["Cabinet", "Tabletop", "Draft"]
    renamed = with_edition(moved, moved[0].model_copy(update={"name": "Vitrine"}))
    assert edition_of(renamed, "e2").name == "Vitrine" and edition_of(renamed, "") is renamed[0]
    assert [one.id for one in without_edition(renamed, "e1")] == ["e2", "e9"]
    assert edition_of(renamed, "gone") is None


@pytest.mark.parametrize(
    "change",
    [
        lambda known: with_edition_added(known, NamedEdition(id="e9", name="tabletop")),
        lambda known: with_edition(known, NamedEdition(id="e2", name="Tabletop")),
        lambda known: without_edition(known[:1], "e1"),
        lambda known: with_edition_added(tuple(named(*map(str, range(60)))), NamedEdition(id="new", name="one more")),
    ],
)
def test_two_of_one_name_none_at_all_or_far_too_many_are_refused(change):
    with pytest.raises(IllegalEdition):
        change(named("Tabletop", "Cabinet"))


def test_an_edition_of_an_earlier_version_is_of_the_fine_setting_of_both():
    held = {"height": 30.0, "printer": "long-reed-300", "material": "matt-filament"}
    assert Edition.model_validate(brought_forward(held)) == Edition(
        height=PrintMM(30), setting="long-reed-300-matt-filament"
    )
    assert Edition.model_validate(brought_forward({})).setting == "lantern-6-tough-grey"
    for printer in DEFAULT_BENCH.printers[:3]:
        for material in DEFAULT_BENCH.materials:
            if material.id not in ("stiff-umber", "tough-filament") and material.process == printer.process:
                made = brought_forward({"printer": printer.id, "material": material.id})
                DEFAULT_BENCH.setup(Edition.model_validate(made).setting)
    with pytest.raises(ValidationError):
        Edition.model_validate(held)


def test_what_is_unlike_its_neighbour_is_told_in_words():
    one = Edition(height=PrintMM(30))
    assert unlike(one, one) == ()
    other = Edition(height=PrintMM(40), setting="lantern-10-tough-grey", form=Form(mirrored=True))
    assert unlike(one, other) == ("size", "setting", "form")


def test_a_ways_printer_and_material_become_its_setting():
    taken = {"part": "figure", "up": (0, 0, 1), "spin": 0.1, "screened": 9, "size": {"height": 30, "factor": None},
             "printer": "lantern-10", "material": "plain-ivory"}  # fmt: skip
    held = recipe().model_dump(mode="json")
    orient = {"kind": "orient", "id": 2, "taken": [taken], "variants": {"lying": {"taken": [taken]}}}
    old = {**held, "version": 2, "counted": 2, "steps": [*held["steps"], orient], "variants": ["lying"]}
    for shown in ("", "lying"):
        (way,) = read_recipe(old).as_made(shown).steps[1].taken
        assert way.setting == "lantern-10-plain-ivory" and way.spin == 0.1


def test_a_step_holds_in_all_editions_or_only_in_those_it_names():
    made = recipe(thicken(editions=("e2",)), thicken())
    first, second = (in_edition(made, Edition(), one) for one in ("e1", "e2"))
    assert [step.on for step in first.steps] == [True, False, True]
    assert [step.on for step in second.steps] == [True, True, True]
    assert left_out(made.steps[1], Edition(), "e1") == "for other editions" and not left_out(
        made.steps[2], Edition(), ""
    )
    # What is made is the same in whichever editions a step is said to hold.
    assert recipe_hash(second) == recipe_hash(in_edition(recipe(thicken(), thicken()), Edition(), "e5"))


@pytest.mark.parametrize(
    ("form", "leaves"),
    [
        (Form(), ["", "", "", ""]),
        (Form(hollow=False), ["", "this edition is solid", "", ""]),
        (Form(parted=False), ["", "", "this edition is whole", ""]),
        (Form(pockets=False), ["", "", "", "this edition is without pockets"]),
    ],
)
def test_a_form_leaves_out_what_it_does_without_and_nothing_else(form, leaves):
    anchor = Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(0)), normal=(0, 0, -1))
    magnet = Pocket(places=(anchor,), item="magnet-3x2", name="Magnet", diameter=PrintMM(3), depth=PrintMM(2))
    made = recipe(Hollow(wall=PrintMM(2)), Cut(offset=FigureMM(12)), magnet)
    edition = Edition(form=form)
    assert [left_out(step, edition, "e1") for step in made.steps] == leaves
    assert [step.on for step in in_edition(made, edition, "e1").steps] == [not why for why in leaves]


def test_new_steps_hold_where_it_was_asked_and_an_acceptance_only_where_it_was_given():
    before = recipe()
    after = before.with_steps([*before.steps, thicken(), Accept(finding="snap-risk", reason="may bend")])
    assert [step.editions for step in with_new_steps_in(before, after, "e2", False).steps] == [(), (), ("e2",)]
    only = with_new_steps_in(before, after, "e2", True)
    assert [step.editions for step in only.steps] == [(), ("e2",), ("e2",)]
    assert without_edition_named(only, "e2").steps == before.steps


def test_a_variant_that_is_gone_is_the_figure_itself():
    assert in_edition(recipe(), Edition(variant="lying"), "e1").steps == recipe().steps


def test_a_draft_is_smaller_and_coarser_and_the_coarsest_stays_what_it_is():
    draft = draft_of(Edition(setting="lantern-10-tough-grey"), PrintMM(50), DEFAULT_BENCH)
    assert (draft.height, draft.setting) == (30, "lantern-10-tough-grey-draft")
    # Where the material has no coarser setting, another of the same printer has.
    assert draft_of(Edition(setting="lantern-6-plain-ivory"), PrintMM(50), DEFAULT_BENCH).setting.endswith("-draft")
    assert draft_of(draft, PrintMM(30), DEFAULT_BENCH).setting == draft.setting


def test_a_part_with_a_setting_of_its_own_is_judged_by_that_and_no_other():
    lamp = box(4, 4, 8)
    steps = recipe(AddBit(source=lamp.hash, name="lamp", x=FigureMM(20), y=FigureMM(0), z=FigureMM(0)))
    sources = {HOOK.hash: HOOK, lamp.hash: lamp}
    clear = "lantern-6-bending-clear"

    def built(**edition):
        return build_figure(steps, Edition(**edition), sources)

    both, one = built(), built(part_settings={"lamp": clear, "nowhere": clear})
    assert one.gauge.mass_g == pytest.approx(both.gauge.mass_g - 4 * 4 * 8 / 1000 * (1.15 - 1.13), rel=1e-6)
    names = [part.name for part in one.parts]
    money = dict(zip(names, (estimate.money for estimate in one.estimates), strict=True))
    usual = dict(zip(names, (estimate.money for estimate in both.estimates), strict=True))
    assert money["lamp"] > usual["lamp"] and money["figure"] == usual["figure"]
    with pytest.raises(UnknownOnBench):
        PartSetups(DEFAULT_BENCH, Edition(part_settings={"lamp": "none"}))


@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda up: np.linalg.norm(up) > 0.1), st.floats(-3, 3))
def test_a_mirrored_part_is_printed_as_the_mirror_image_of_its_print(up, spin):
    way = np.array(up) / np.linalg.norm(up)
    part = Part("hook", HOOK, Stance(up=tuple(map(float, way)), spin=spin))
    plain, mirror = part.whole(1.5), mirrored_part(part).whole(1.5)
    np.testing.assert_allclose(mirror.vertices, plain.vertices * [-1, 1, 1], atol=1e-9)
    assert volume(mirror) == pytest.approx(volume(plain)) and volume(plain) > 0


def test_a_mirrored_release_is_mirrored_with_what_holds_it():
    def files(mirrored):
        edition = Edition(form=Form(mirrored=mirrored))
        build = build_figure(recipe(Orient(up=(0.0, -0.6, 0.8)), Support()), edition, {HOOK.hash: HOOK})
        with zipfile.ZipFile(BytesIO(zip_bytes(release_files(CheckedFigure.of("Hook", build))))) as packed:
            stl = [name for name in packed.namelist() if name.endswith(".stl")]
            manifest = json.loads(packed.read("hook_manifest.json"))
            return {name: read_back(packed.read(name)) for name in stl}, manifest

    (plain, of_plain), (mirror, of_mirror) = files(False), files(True)
    assert len(plain) == 2 and plain.keys() == mirror.keys()
    for name, mesh in plain.items():
        low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
        there = mirror[name].vertices
        assert there.min(axis=0) == pytest.approx([-high[0], low[1], low[2]], abs=1e-4)
        assert volume(mirror[name]) == pytest.approx(volume(mesh), rel=1e-6)
    assert (of_plain["mirrored"], of_mirror["mirrored"]) == (False, True)


PLACES = [
    (place, one.id, path)
    for place, path in (
        ("printers", "price_of_hour"), ("printers", "power"), ("printers", "pixel"), ("printers", "edge"),
        ("materials", "density"), ("materials", "shrink"), ("materials", "strength"),
        ("settings", "layer"), ("settings", "walls.pin.caution"), ("settings", "supports.pull"),
        ("settings", "fits.free"), ("settings", "times.wait"), ("settings", "coat"),
        ("glues", "minutes"), ("stations", "minutes"), ("hours", "end"), ("bought_parts", "price"),
    )
    for one in getattr(DEFAULT_BENCH, place)[:2]
]  # fmt: skip


def test_a_changed_value_judges_and_measures_exactly_what_reads_it(monkeypatch):
    """Counted over random changes of the bench: every check that declares the value, and no other."""
    edition, made, sources, memory = Edition(), recipe(), {HOOK.hash: HOOK}, Remembering()
    judged: list[str] = []
    for kind in check_kinds():
        if kind.is_judged() and "judge" in vars(kind):

            def heard(self, part, measured, figure, kind=kind, plain=kind.judge):
                judged.append(kind.__qualname__)
                return plain(self, part, measured, figure)

            monkeypatch.setattr(kind, "judge", heard)
    build_figure(made, edition, sources, memory, bench=DEFAULT_BENCH)
    rng, today = random.Random(7), date(2026, 12, 1)
    for place, thing, path in rng.sample(PLACES, 14):
        now = DEFAULT_BENCH.model_dump(mode="json")
        held = next(one for one in now[place] if one["id"] == thing)
        for name in path.split("."):
            held = held[name]
        bench = bench_edits.with_value(DEFAULT_BENCH, place, thing, path, held * 1.01, today)
        before, after = (
            {"setup": at.setup(edition.setting), "setups": (at.setup(edition.setting),), "bench": at}
            for at in (DEFAULT_BENCH, bench)
        )

        def differs(names, before=before, after=after):
            of_bench = [name for name in names if name.partition(".")[0] in before]
            return declared(before, of_bench) != declared(after, of_bench)

        # What is measured from a measure that was taken anew is judged anew, too.
        anew = {kind for kind in check_kinds() if differs(kind.context_names)}
        for kind in check_kinds():
            anew |= {kind} if anew & {*kind.after} else set()
        expected = {
            kind.__qualname__
            for kind in check_kinds()
            if kind.is_judged() and "judge" in vars(kind) and (kind in anew or differs(kind.judge_names))
        }
        judged.clear()
        build_figure(made, edition, sources, memory, bench=bench)
        assert set(judged) == expected, (place, thing, path)
        assert len(judged) == len(set(judged))
        same = values_read(made, edition, bench) == values_read(made, edition, DEFAULT_BENCH)
        assert same == (not anew and not expected), (place, thing, path)
        # Back to the first bench, whose measures are known; what was said last is said anew.
        build_figure(made, edition, sources, memory, bench=DEFAULT_BENCH)
