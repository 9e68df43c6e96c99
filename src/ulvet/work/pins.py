"""A build as its figure's proofs leave it: with what went wrong in them, and nothing decided, among its findings."""

from collections.abc import Container, Sequence

import numpy as np

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.proof.pin_findings import PartNow, pin_findings
from ulvet.core.proof.proof import PrintForm
from ulvet.core.stand.steps import Support
from ulvet.work.proofs import ProofNow
from ulvet.work.record import BuildRecord, PartRecord

__all__ = ["form_of", "forms_of", "with_open_pins"]


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
    held = [step.step for step in record.steps if isinstance(step.step, Support) and step.step.on]
    found = pin_findings(
        [(one.number, one.value) for one in proofs],
        {part.facts.part: _now(part, setups) for part in record.parts},
        record.findings,
        held[-1].spacing if held else None,
        revisions,
    )
    return record.model_copy(update={"findings": [*record.findings, *found]}) if found else record


def _now(part: PartRecord, setups: PartSetups) -> PartNow:
    facts = part.facts
    low = np.array(facts.low_mm) / facts.factor
    high = low + np.array(facts.size_mm) / facts.factor
    return PartNow(low, high, facts.factor, setups.of(facts.part))
