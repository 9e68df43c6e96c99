"""A build as proofs and buyers leave it: with what went wrong, and nothing decided, among its findings."""

from collections.abc import Container, Sequence

import numpy as np

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.proof.pin_findings import pin_findings
from ulvet.core.proof.proof import PrintForm
from ulvet.core.proof.remedies_by_cause import PartNow
from ulvet.core.release.release_set import ReleaseSet
from ulvet.core.release.report_findings import report_findings
from ulvet.core.stand.steps import Support
from ulvet.work.proofs import ProofNow
from ulvet.work.record import BuildRecord, PartRecord

__all__ = ["form_of", "forms_of", "with_open_pins", "with_open_reports"]


def form_of(part: PartRecord, setups: PartSetups, edition: Edition) -> PrintForm:
    """What a part of a build is when it is printed."""
    stance = part.facts.stance
    return PrintForm(
        mesh=part.mesh, supports=part.supports, factor=part.facts.factor, up=stance.up, spin=stance.spin,
        lift=stance.lift, mirrored=edition.form.mirrored, setting=setups.of(part.facts.part).setting.id,
    )  # fmt: skip


def forms_of(record: BuildRecord, setups: PartSetups, edition: Edition) -> dict[str, PrintForm]:
    """By part what it is when it is printed."""
    return {part.facts.part: form_of(part, setups, edition) for part in record.parts}


def with_open_pins(
    record: BuildRecord, proofs: Sequence[ProofNow], setups: PartSetups, revisions: Container[int]
) -> BuildRecord:
    """A build with findings of what went wrong in proofs of its edition, behind its own; ``revisions`` are numbers of
    those its own came from."""
    if not any(one.value.came.pins for one in proofs):
        return record
    found = pin_findings(
        [(one.number, one.value) for one in proofs], _parts_now(record, setups), record.findings, _spacing(record),
        revisions,
    )  # fmt: skip
    return record.model_copy(update={"findings": [*record.findings, *found]}) if found else record


def with_open_reports(
    record: BuildRecord, sets: Sequence[ReleaseSet], figure: int, edition: str, setups: PartSetups
) -> BuildRecord:
    """A build with findings of what buyers of its edition report, and nobody has ended, behind its own."""
    if not any(one.reports for one in sets):
        return record
    found = report_findings(sets, figure, edition, _parts_now(record, setups), record.findings, _spacing(record))
    return record.model_copy(update={"findings": [*record.findings, *found]}) if found else record


def _parts_now(record: BuildRecord, setups: PartSetups) -> dict[str, PartNow]:
    """By name the parts of a build as they are now."""
    return {part.facts.part: _now(part, setups) for part in record.parts}


def _spacing(record: BuildRecord) -> float | None:
    held = [step.step for step in record.steps if isinstance(step.step, Support) and step.step.on]
    return held[-1].spacing if held else None


def _now(part: PartRecord, setups: PartSetups) -> PartNow:
    facts = part.facts
    low = np.array(facts.low_mm) / facts.factor
    high = low + np.array(facts.size_mm) / facts.factor
    return PartNow(low, high, facts.factor, setups.of(facts.part))
