"""Proofs of figures: beginning them, what they say of an edition, what is decided about them, what they teach."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import chain, islice, repeat

import numpy as np
from sqlalchemy import select

from ulvet.core.bench.editions import NamedEdition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Because, DecidePin, Finding, places_of
from ulvet.core.layers.clock import seconds_of_areas
from ulvet.core.plates.wanted import Placed, WantedPart
from ulvet.core.proof.proof import Came, Copy, Decision, LimbTold, Named, PrintedPart, PrintForm, Proof, Told
from ulvet.core.proof.ready import ready_list
from ulvet.core.proof.state import EditionState, state_of
from ulvet.core.recipe.runner import measured_key
from ulvet.store.models import Version
from ulvet.work.layer_store import layers_from
from ulvet.work.pins import form_of, forms_of
from ulvet.work.proofs import ProofNow
from ulvet.work.record import BuildRecord, PartRecord
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = ["begin_proofs", "decide", "ready_now", "redesigned", "state_now", "state_of_build"]

_MOST_LIMBS = 10
"""Limbs of a part that a proof remembers, the weakest first (bench default)."""
_MOST_PLACES = 20
"""Places of a finding that a proof remembers (bench default)."""


def begin_proofs(
    studio: Studio, wanted: Sequence[WantedPart], ready: Sequence[str] = (), lying: Sequence[Placed] = ()
) -> list[int]:
    """Begin a proof for each setting among the parts that are wanted, of the files as they are now; ``ready`` is what
    was ticked before the start, and ``lying`` where copies lie, as far as their layers are still those. Their numbers.

    Raises NotThere, and Refused for what is still being checked or is not there.
    """
    printed: dict[str, list[_Meant]] = defaultdict(list)
    for line in wanted:
        for one in _meant(studio, line):
            printed[one.printed.form.setting].append(one)
    if not printed:
        raise Refused("Nothing to print was named: choose a part, and begin again.")
    began = datetime.now(UTC).replace(microsecond=0)
    return studio.proofs.begin(
        _begun(studio, began, setting, lines, ready, lying) for setting, lines in sorted(printed.items())
    )


def state_now(studio: Studio, number: int, edition: str = "") -> tuple[EditionState, tuple[ProofNow, ...]]:
    """What proofs say of an edition of a figure as it is now, and these proofs; nothing of one that is not built.

    Raises NotThere.
    """
    _, head, record, _ = studio.figure(number, edition)
    proofs = studio.proofs.of_figure(number)
    return state_of_build(studio, studio.edition(head, edition), number, record), proofs


def state_of_build(
    studio: Studio, looked: NamedEdition, number: int, record: BuildRecord | None, mirrored: bool = False
) -> EditionState:
    """What proofs say of an edition of a figure as it was built, or, ``mirrored``, of its mirror image; nothing where
    it was not."""
    now = forms_of(record, PartSetups(studio.bench.value, looked.made), looked.made) if record else {}
    if mirrored:
        now = {part: form.model_copy(update={"mirrored": not form.mirrored}) for part, form in now.items()}
    proofs = studio.proofs.of_figure(number)
    return state_of(now, [(one.number, one.value, _forms(one, number, looked.id)) for one in proofs])


def ready_now(studio: Studio, number: int, edition: str = "") -> tuple[str, ...]:
    """What is to be ticked before an edition is printed.

    Raises NotThere.
    """
    _, head, record, _ = studio.figure(number, edition)
    setup = PartSetups(studio.bench.value, studio.edition(head, edition).made).usual
    on_printer = [one.value for one in studio.proofs.all() if one.value.printer == setup.printer.id]
    ml = record.estimate.material_ml if record and record.estimate else 0.0
    return ready_list(setup.printer, ml, bool(on_printer) and on_printer[-1].failed)


def decide(studio: Studio, change: DecidePin) -> None:
    """Say what is done about what went wrong.

    Raises NotThere, Conflict, Refused.
    """
    _decided(studio, Because(proof=change.proof, pin=change.pin), Decision(change.decision), None)


def redesigned(studio: Studio, because: Because, revision: int) -> None:
    """Say that a revision of the figure was made because of what went wrong.

    Raises NotThere, Conflict, Refused.
    """
    _decided(studio, because, Decision.REDESIGN, revision)


def _decided(studio: Studio, because: Because, decision: Decision, revision: int | None) -> None:
    now = studio.proofs.one(because.proof)

    def changed(proof: Proof) -> Came:
        pins = tuple(
            pin.model_copy(update={"decision": decision, "redesigned_in": revision}) if pin.id == because.pin else pin
            for pin in proof.came.pins
        )
        if pins == proof.came.pins:
            raise Refused("That is decided already, or was taken off the figure: look at the proof again.")
        return proof.came.model_copy(update={"pins": pins})

    studio.proofs.enter(because.proof, now.revision, f"decided: {decision}", changed)


def _forms(one: ProofNow, figure: int, edition: str) -> dict[str, PrintForm]:
    """By part its form in a proof: of this edition where it has any, else of another of the figure."""
    mine = [part for part in one.value.parts if part.figure == figure]
    of_edition = [part for part in mine if part.edition == edition]
    return {part.part: part.form for part in of_edition or mine}


@dataclass(frozen=True)
class _Meant:
    """A part that is to be printed, as it was built, how often, what was found in it, and its limbs, of which the place
    in the list of parts is not known yet."""

    printed: PrintedPart
    record: PartRecord
    count: int
    named: list[Named]
    limbs: list[LimbTold]


def _meant(studio: Studio, line: WantedPart) -> list[_Meant]:
    figure, head, record, _ = studio.figure(line.figure, line.edition)
    looked = studio.edition(head, line.edition)
    if record is None:
        raise Refused(f"{figure.name} is still being checked: begin when that is done.")
    setups = PartSetups(studio.bench.value, looked.made)
    with studio.sessions() as session:
        version = session.scalar(select(Version.number).where(Version.revision_id == head.id))
    found = []
    for part in record.parts:
        if line.part not in ("", part.facts.part):
            continue
        estimate = part.estimate
        if estimate is None:
            raise Refused(f"{figure.name} has layers that cannot be looked at: mend it first; nothing was begun.")
        printed = PrintedPart(
            figure=figure.id, figure_name=figure.name, edition=looked.id, edition_name=looked.name,
            revision=head.number, version=version, build=record.key, part=part.facts.part, called=part.facts.called,
            source=part.source, form=form_of(part, setups, looked.made), size_mm=part.facts.size_mm,
            ml=estimate.material_ml, seconds=estimate.seconds,
        )  # fmt: skip
        name, push = part.facts.part, looked.made.use.push
        limbs = [
            LimbTold(part=0, point=limb.point, force_N=limb.force_N, push_N=push)
            for limb in record.gauge.limbs if limb.part == name and not limb.joint and limb.force_N > 0
        ]  # fmt: skip
        found.append(_Meant(printed, part, line.count, _named(record, name), limbs[:_MOST_LIMBS]))
    if not found:
        raise Refused(f"{figure.name} has no such part any more: choose again; nothing was begun.")
    return found


def _named(record: BuildRecord, part: str) -> list[Named]:
    return [_as_named(finding) for finding in record.findings if finding.part in ("", part)]


def _as_named(finding: Finding) -> Named:
    places = places_of(finding)[:_MOST_PLACES]
    return Named(code=finding.code, part=finding.part, title=finding.title, places=places)


def _begun(
    studio: Studio, began: datetime, setting: str, lines: Sequence[_Meant], ready: Sequence[str],
    lying: Sequence[Placed],
) -> Proof:  # fmt: skip
    bench = studio.bench.value
    setup = bench.setup(setting)
    copies = tuple(
        Copy(part=k, lies=lies)
        for k, line in enumerate(lines)
        for lies in islice(chain(_lies(line, lying), repeat(None)), line.count)
    )
    named = [one for line in lines for one in line.named]
    return Proof(
        began=began, parts=tuple(line.printed for line in lines), setting=setting, setting_name=setup.setting.name,
        printer=setup.printer.id, printer_name=setup.printer.name, material=setup.material.id,
        material_name=setup.material.name, process=setup.process,
        bench=measured_key(bench.model_dump(mode="json")),
        told=_told(studio, setup, lines),
        named=tuple(dict.fromkeys(named)), came=Came(copies=copies, ready=tuple(ready)),
    )  # fmt: skip


def _lies(meant: _Meant, lying: Sequence[Placed]) -> list[tuple[float, float, float]]:
    """Where copies of a part lie that were laid with the layers that it has now."""
    mine = (meant.printed.figure, meant.printed.edition, meant.printed.part, meant.record.layers)
    return [(one.x, one.y, one.turn) for one in lying if (one.figure, one.edition, one.part, one.layers) == mine]


def _told(studio: Studio, setup: Setup, lines: Sequence[_Meant]) -> Told:
    """What all copies take together on one plate, and the limbs of their parts."""
    each = [
        layers_from(studio.blobs.read(line.record.layers)).areas * line.count for line in lines if line.record.layers
    ]
    areas = np.zeros(max(map(len, each), default=0))
    for one in each:
        areas[: len(one)] += one
    seconds = float(seconds_of_areas(areas, setup)[-1])
    ml = sum(line.record.estimate.material_ml * line.count for line in lines if line.record.estimate)
    limbs = [limb.model_copy(update={"part": k}) for k, line in enumerate(lines) for limb in line.limbs]
    peak = float(areas.max(initial=0.0)) * setup.supports.pull if setup.process == "resin" else None
    return Told(
        seconds=seconds, ml=ml, layers=len(areas), seconds_factor=setup.setting.times.factor,
        ml_factor=setup.setting.material_factor, peak_N=peak, limbs=tuple(limbs),
        money=ml * setup.material.price_per_litre / 1000 + seconds / 3600 * setup.printer.price_of_hour,
    )  # fmt: skip
