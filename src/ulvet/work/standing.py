"""A build as it stands in the studio: behind its own findings what proofs, buyers, the ledger and the air say of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.finish.check_air import check_air
from ulvet.core.stock.check_paints import check_paints
from ulvet.store.models import Revision
from ulvet.work.painting import air_of
from ulvet.work.pins import with_open_pins, with_open_reports
from ulvet.work.record import BuildRecord
from ulvet.work.revisions import numbers_before

if TYPE_CHECKING:
    from ulvet.work.studio import Studio

__all__ = ["as_it_stands"]


def as_it_stands(studio: Studio, session: Session, head: Revision, edition: str, record: BuildRecord) -> BuildRecord:
    """A build of an edition of a figure with everything that is said of it behind its own findings."""
    looked = studio.edition(head, edition)
    setups = PartSetups(studio.bench.value, looked.made)
    proofs = studio.proofs.of_figure(head.figure_id, looked.id)
    if proofs:
        record = with_open_pins(record, proofs, setups, numbers_before(session, head))
    sets = [one.value for one in studio.release_sets.of_figure(head.figure_id)]
    record = with_open_reports(record, sets, head.figure_id, looked.id, setups)
    if record.finish.meant is None:
        return record
    roles, paints = record.finish.meant.roles, studio.bench.value.paints
    found = [*check_paints(roles, paints, studio.stock.there()), *check_air(roles, paints, air_of(session))]
    return record.model_copy(update={"findings": [*record.findings, *found]}) if found else record
