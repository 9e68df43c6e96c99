"""The runner of checks: what it measures it measures once, what one check declares is all it gets, and one that fails
costs no other."""

from typing import ClassVar

import pytest

from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.findings import check_run
from ulvet.core.findings.check import PartCheck, check_kinds
from ulvet.core.gauge.checks import HandlingCheck, WallsCheck
from ulvet.core.gauge.record_steps import Accept
from ulvet.core.lengths import PrintMM
from ulvet.core.mend.checks import MeshCheck
from ulvet.core.recipe.projection import declared
from ulvet.core.recipe.runner import Recipe
from ulvet.core.size.checks import SizesCheck
from ulvet.core.stations import Station

FIGURE = concatenated(box(12, 12, 2, at=(-6, -6, 0)), cylinder(0.5, 24, 12, at=(0, 0, 1)))


class Remembering:
    """Keeps what is measured, and which checks it was measured for."""

    def __init__(self):
        self.steps, self.measured, self.fresh = {}, {}, 0

    def recall(self, key, receipt):
        return self.steps.get(key)

    def keep(self, key, result):
        self.steps[key] = result

    def recall_measured(self, key):
        return self.measured.get(key)

    def holds_measured(self, key):
        return key in self.measured

    def keep_measured(self, key, measured):
        self.fresh += key not in self.measured
        self.measured[key] = measured


def built(memory=None, *steps, **edition):
    recipe = Recipe(steps=(BringIn(source=FIGURE.hash, name="x.stl"), *steps))
    return build_figure(recipe, Edition(**edition), {FIGURE.hash: FIGURE}, memory)


@pytest.fixture
def memory():
    memory = Remembering()
    built(memory, height=PrintMM(25)).gauge  # noqa: B018  (its measures are kept as well)
    memory.fresh = 0
    return memory


def test_a_change_without_a_mesh_measures_nothing(memory):
    accepted = Accept(finding="snap-risk", reason="may bend")
    build = built(memory, accepted, height=PrintMM(25))
    assert memory.fresh == 1, "what was said of it, and nothing else"
    assert [finding.accepted for finding in build.findings if finding.code == "snap-risk"] == [True]
    assert build.gauge.limbs and build.estimates[0].layers > 100


def reading_of(kind, setup):
    """What a check's measure reads of a setup, where its figure has one part."""
    names = [name for name in kind.context_names if name.startswith("setup")]
    return declared({"setup": setup, "setups": (setup,)}, names)


def names_read_by(kind):
    """What a check's measure reads of the context, itself or through the checks it is measured after."""
    return {*kind.context_names}.union(*(names_read_by(other) for other in kind.after))


def test_another_material_or_size_measures_only_what_depends_on_it(memory):
    before = set(memory.measured)
    built(memory, height=PrintMM(25), setting="lantern-6-bending-clear")
    kinds = [kind for kind in check_kinds() if kind.cached]
    grey, clear = (DEFAULT_BENCH.setup(setting) for setting in (None, "lantern-6-bending-clear"))
    reads = [reading_of(kind, grey) != reading_of(kind, clear) or "edition" in kind.context_names for kind in kinds]
    # One more is what was said of it.
    assert 0 < memory.fresh == sum(reads) + 1 < len(kinds)
    memory.fresh = 0
    built(memory, height=PrintMM(50))
    assert memory.fresh == sum(bool({"factor", "edition"} & names_read_by(kind)) for kind in kinds) + 1
    assert before <= set(memory.measured)
    assert "factor" not in WallsCheck.context_names, "walls are measured once for every size"


def test_a_check_that_fails_is_told_as_not_seen_and_costs_no_other(monkeypatch, caplog):
    whole = built(height=PrintMM(25))

    def fails(self, part, context, others):
        raise ZeroDivisionError

    monkeypatch.setattr(HandlingCheck, "measure", fails)
    build = built(height=PrintMM(25))
    gap, of_it = build.unseen
    assert (gap.station, gap.part) == (Station.GAUGE, "figure")
    assert of_it.station == Station.FINISH, "masking needs to know the thin limbs, and says so as well"
    assert "Ulvet made a mistake there" in gap.why and "ZeroDivisionError" in caplog.text
    left = [finding for finding in whole.findings if finding.code != "snap-risk"]
    assert list(build.findings) == left and len(left) < len(whole.findings)
    assert build.gauge.limbs == () and build.gauge.mass_g == whole.gauge.mass_g


@pytest.mark.parametrize("kind", [WallsCheck, SizesCheck])
def test_want_of_memory_is_not_taken_for_a_mistake(monkeypatch, kind):
    def fails(self, part, context, others):
        raise MemoryError

    monkeypatch.setattr(kind, "measure", fails)
    with pytest.raises(MemoryError):
        built(Remembering(), height=PrintMM(25))


def test_a_check_gets_nothing_that_it_did_not_declare(monkeypatch):
    got = []

    class Curious(PartCheck):
        station: ClassVar[Station] = Station.SIZE
        progress_text: ClassVar[str] = "size: curiosity"
        context_names: ClassVar[tuple[str, ...]] = ("setup.setting.layer",)
        judge_names: ClassVar[tuple[str, ...]] = ("setup.material.density",)

        def measure(self, part, context, others):
            got.append((part.name, part.source, sorted(context), others))
            with pytest.raises(AttributeError):
                _ = context["setup"].pixel
            return context["setup"].layer

        def judge(self, part, measured, seen):
            got.append((measured, seen.setup.material.density))
            return [seen.bench.printers]

    monkeypatch.setattr(check_run, "check_kinds", lambda: (MeshCheck, Curious))
    build = built(height=PrintMM(25))
    assert got == [("", "", ["setup"], {}), (0.05, 1.15)]
    assert [gap.station for gap in build.unseen] == [Station.SIZE]


def test_every_check_comes_after_those_it_reads_and_says_what_it_does():
    kinds = check_kinds()
    for place, kind in enumerate(kinds):
        assert set(kind.after) <= set(kinds[:place])
        assert kind.progress_text.split(":")[0].replace(" ", "-") == kind.station, kind
    looking = {
        Station.BRING_IN,
        Station.SIZE,
        Station.MEND,
        Station.GAUGE,
        Station.HOLLOW,
        Station.PART,
        Station.STAND,
        Station.LAYERS,
        Station.FINISH,
    }
    assert looking == {kind.station for kind in kinds}


def test_what_is_only_told_is_told_as_not_seen_too_when_it_fails(monkeypatch):
    def fails(self, parts, context, others):
        raise ZeroDivisionError

    monkeypatch.setattr(SizesCheck, "measure", fails)
    build = built(Remembering(), height=PrintMM(25))
    assert [gap.station for gap in build.unseen] == [Station.SIZE]
    assert build.checks.known(SizesCheck) is None


def test_each_station_says_what_it_sees_when_its_checks_are_done_the_one_looked_at_before_others():
    def looked(first):
        seen = []
        recipe = Recipe(steps=(BringIn(source=FIGURE.hash, name="x.stl"),))
        build = build_figure(recipe, Edition(height=PrintMM(25)), {FIGURE.hash: FIGURE}, first=first, seen=seen.append)
        return build, seen

    (plain, _), (build, seen) = looked(None), looked(Station.LAYERS)
    assert seen[0].station is Station.LAYERS
    assert {one.station for one in seen} == {kind.station for kind in check_kinds()}
    assert len({one.station for one in seen}) == len(seen)
    # Together they say what the whole says, and that is the same whichever came first.
    stations = list(Station)
    in_turn = sorted(seen, key=lambda one: stations.index(one.station))
    assert [finding for one in in_turn for finding in one.findings] == list(build.findings) == list(plain.findings)
    assert any(one.findings for one in seen)
