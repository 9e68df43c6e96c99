"""A bench of one's own: passed in as a value, kept as a file, refused field by field."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_looking import Remembering
from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.bench_file import UnusableBench, bench_text, read_bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe
from ulvet.core.size.ways import figure_size, way_adapter

PINNED = concatenated(box(20, 20, 4), cylinder(0.3, 10, 24, at=(10, 10, 3)))
"""A block with a pin of 0.6 mm."""


def changed(of: str, at: int, **fields) -> Bench:
    """The bench that ships with fields of one of its things set."""
    things = list(getattr(DEFAULT_BENCH, of))
    things[at] = things[at].model_copy(update=fields)
    return DEFAULT_BENCH.model_copy(update={of: tuple(things)})


def with_walls(stop: float, caution: float) -> Bench:
    walls = DEFAULT_BENCH.settings[0].walls
    pin = walls.pin.model_copy(update={"stop": PrintMM(stop), "caution": PrintMM(caution)})
    return changed("settings", 0, walls=walls.model_copy(update={"pin": pin, "free_standing": pin}))


def built(bench, memory=None, **edition):
    recipe = Recipe(steps=(BringIn(source=PINNED.hash, name="block.stl"),))
    return build_figure(recipe, Edition(**edition), {PINNED.hash: PINNED}, memory, bench=bench)


def test_a_wall_is_judged_by_the_bench_that_is_passed_in():
    codes = {finding.code: finding.severity.value for finding in built(with_walls(0.2, 0.3)).findings}
    assert "thin-wall" not in codes
    (thin,) = [one for one in built(with_walls(1.0, 1.4)).findings if one.code == "thin-wall"]
    assert thin.severity.value == "stop" and thin.limit == 1.0


def test_a_remedy_offers_what_is_on_that_bench_and_nothing_else():
    own = changed("materials", 2, name="Own soft")
    own = Bench(
        printers=own.printers,
        materials=(*own.materials, own.materials[2].model_copy(update={"id": "gone", "name": "Gone", "retired": True})),
        settings=(
            *own.settings,
            own.settings[2].model_copy(update={"id": "of-gone", "material": "gone"}),
            own.settings[2].model_copy(update={"id": "gone-too", "retired": True}),
        ),
    )
    thin = concatenated(box(20, 20, 4), cylinder(0.2, 10, 24, at=(10, 10, 3)))
    recipe = Recipe(steps=(BringIn(source=thin.hash, name="block.stl"),))
    build = build_figure(recipe, Edition(), {thin.hash: thin}, bench=own)
    asked = [
        (remedy.label, remedy.change.edition.setting)
        for finding in build.findings
        for remedy in finding.remedies
        if remedy.change.does == "set-edition" and remedy.change.edition.setting != "lantern-6-tough-grey"
    ]
    assert ("Print it in own soft", "lantern-6-bending-clear") in asked
    assert not {"of-gone", "gone-too"} & {setting for _, setting in asked}


def test_after_a_changed_limit_nothing_is_measured_that_did_not_read_it():
    memory = Remembering()
    before = built(DEFAULT_BENCH, memory)
    known, memory.fresh = len(memory.measured), 0
    price = built(changed("materials", 0, price_per_litre=99.0), memory)
    assert [one.code for one in price.findings] == [one.code for one in before.findings]
    of_price, memory.fresh = memory.fresh, 0
    built(with_walls(1.0, 1.4), memory)
    assert memory.fresh > 0 and of_price < known / 2
    memory.fresh = 0
    built(DEFAULT_BENCH, memory)
    assert memory.fresh == 0, "what was known of the first bench is known still"


def test_a_printer_of_ones_own_is_filled():
    small = DEFAULT_BENCH.printers[0].model_copy(
        update={"id": "own-small", "volume": tuple(map(PrintMM, (42, 42, 60)))}
    )
    setting = DEFAULT_BENCH.settings[0].model_copy(update={"printer": "own-small"})
    bench = DEFAULT_BENCH.model_copy(update={"printers": (small,), "settings": (setting,)})
    way = way_adapter.validate_python({"way": "fit", "printer": "own-small"})
    assert figure_size(PINNED).height * way.work(figure_size(PINNED), bench).factor == pytest.approx(26, abs=0.2)
    with pytest.raises(UnknownOnBench, match="own-small"):
        way.work(figure_size(PINNED))


@given(st.sampled_from([m.id for m in DEFAULT_BENCH.materials]), st.floats(0.1, 20), st.floats(0, 900))
def test_a_bench_is_the_same_when_it_is_read_again(material, density, price):
    at = [one.id for one in DEFAULT_BENCH.materials].index(material)
    bench = changed("materials", at, density=density, price_per_litre=price)
    assert read_bench(bench_text(bench)) == bench
    assert bench_text(read_bench(bench_text(bench))) == bench_text(bench)


def wrong(change):
    held = json.loads(bench_text(DEFAULT_BENCH))
    change(held)
    return json.dumps(held)


@pytest.mark.parametrize(
    ("change", "named"),
    [
        (lambda b: b["printers"][0].update(volume=[0, 74, 165]), "Lantern 6, volume, 0"),
        (lambda b: b["materials"][1].update(density=-1), "Plain ivory resin, density"),
        (
            lambda b: b["settings"][0]["walls"]["pin"].update(stop=-0.1),
            "Tough grey on Lantern 6, fine, walls, pin, stop",
        ),
        (lambda b: b["settings"][0]["walls"]["held"].update(caution=0.1), "cannot want care when less than"),
        (lambda b: b["printers"][1].update(id="lantern-6"), "same id"),
        (lambda b: b["printers"][0].update(name=""), "printers"),
        (lambda b: b["printers"][0].update(taste="sweet"), "taste"),
        (lambda b: b["settings"][0].update(printer="long-reed-300"), "all three have to be of one process"),
        (lambda b: b["settings"][0].update(material="none"), "not on the bench"),
        (lambda b: b["printers"][0].update(edge=40), "no room between them"),
        (lambda b: b["hours"][0].update(begin=20), "end before they begin"),
        (lambda b: b.pop("materials"), "materials"),
        (lambda b: b.update(ulvet_bench=3), "version 3"),
        (lambda b: b.pop("ulvet_bench"), "no bench"),
    ],
)
def test_what_is_wrong_with_a_bench_file_is_told_field_by_field(change, named):
    with pytest.raises(UnusableBench, match=named):
        read_bench(wrong(change))


@pytest.mark.parametrize("text", [b"", b"{", b"[1, 2]", b"null", "\xff".encode("latin-1"), b"[" * 100_000])
def test_what_is_no_bench_at_all_is_refused_with_a_sentence(text):
    with pytest.raises(UnusableBench, match=r"ulvet bench export"):
        read_bench(text)


def test_every_wrong_field_is_told_at_once():
    def spoil(bench):
        bench["materials"][0]["density"] = "heavy"
        bench["settings"][0]["layer"] = 0

    with pytest.raises(UnusableBench) as refused:
        read_bench(wrong(spoil))
    assert len(refused.value.problems) == 2
