import pytest
from pydantic import ValidationError

from tests.core.test_build import built
from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, factor_for
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.release.cautions import cautions_for


def test_every_printer_has_a_material_and_every_material_a_printer():
    for printer in DEFAULT_BENCH.printers:
        assert DEFAULT_BENCH.setup(printer_id=printer.id).material.process == printer.process
    for material in DEFAULT_BENCH.materials:
        assert DEFAULT_BENCH.setup(material_id=material.id).printer.process == material.process


def test_the_bench_holds_together():
    assert len({thing.id for thing in (*DEFAULT_BENCH.printers, *DEFAULT_BENCH.materials)}) == len(
        DEFAULT_BENCH.printers
    ) + len(DEFAULT_BENCH.materials)
    for printer in DEFAULT_BENCH.printers:
        assert (printer.nozzle is None) == (printer.process == "resin")
    for setup in DEFAULT_BENCH.in_use():
        assert setup.pixel <= setup.line and setup.layer < (setup.line if setup.process == "filament" else 0.2)
        assert (setup.setting.mm3_per_second is None) == (setup.process == "resin")
        held, free, pin = setup.walls.held, setup.walls.free_standing, setup.walls.pin
        assert 0 < held.stop < free.stop <= pin.stop < pin.caution == setup.walls.thin_from
        assert held.stop < held.caution < free.caution <= pin.caution
        assert held.stop >= setup.line, "a wall that passes must be one the printer can lay"
    assert {setup.material.id for setup in DEFAULT_BENCH.in_use()} == {one.id for one in DEFAULT_BENCH.materials}


@pytest.mark.parametrize(
    ("printer", "material", "said"),
    [("nothing", None, "lantern-6"), (None, "nothing", "tough-grey"), ("long-reed-300", "tough-grey", "one process")],
)
def test_what_is_not_on_the_bench_is_refused_with_what_is(printer, material, said):
    with pytest.raises(UnknownOnBench, match=said):
        DEFAULT_BENCH.setup(None, printer, material)


@pytest.mark.parametrize(
    "wrong",
    [{"height": 0}, {"height": -3}, {"height": float("nan")}, {"height": float("inf")}, {"factor": 0}, {"height": 1e6},
     {"factor": float("inf")}, {"height": 3, "factor": 2}],
)  # fmt: skip
def test_an_edition_that_cannot_be_printed_cannot_be_made(wrong):
    with pytest.raises(ValidationError):
        Edition.model_validate(wrong)


def test_the_factor_follows_from_the_height_and_flat_things_stay_as_they_are():
    assert factor_for(Edition(height=PrintMM(30)), FigureMM(60)) == 0.5
    assert factor_for(Edition(factor=2.5), FigureMM(60)) == 2.5
    assert factor_for(Edition(height=PrintMM(30)), FigureMM(0)) == 1
    assert factor_for(Edition(), FigureMM(60)) == 1


def test_the_same_figure_is_judged_by_what_it_is_printed_on_and_of():
    mesh = concatenated(box(30, 30, 8), cylinder(0.4, 30, 32, at=(15, 15, 7)))
    resin = built(mesh, Edition())
    filament = built(mesh, Edition(setting="long-reed-300-matt-filament"))
    assert not [f for f in resin.findings if f.severity == "stop"]
    (thin,) = [f for f in filament.findings if f.code == "thin-wall"]
    assert (thin.severity, thin.limit, thin.measured) == ("stop", pytest.approx(0.8), pytest.approx(0.796, abs=0.004))
    assert filament.estimates[0].layers == 232  # 37 mm at 0.16
    assert resin.estimates[0].layers == 740


def test_cautions_name_what_can_hurt_and_defer_to_those_who_know():
    for process, words in (("resin", ("gloves", "air the room", "local")), ("filament", ("hot",))):
        said = " ".join(cautions_for(process)).lower()
        for word in words:
            assert word in said, (process, word)
