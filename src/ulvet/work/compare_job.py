"""The job that sets one build against another."""

from dataclasses import replace

import numpy as np

from ulvet.core.compare.findings import match_findings
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import scaled
from ulvet.core.progress import Progress
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.display import display_bytes
from ulvet.work.job_values import Values
from ulvet.work.record import BuildRecord, PartRecord
from ulvet.work.trial_record import Comparison, PartMoved

__all__ = ["compare"]


def compare(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Set the build record ``after`` against ``before``. Gives the hash of the comparison."""
    before, after = BuildRecord.model_validate(values["before"]), BuildRecord.model_validate(values["after"])
    blobs = Blobs(folder.blobs)
    old_parts = {part.facts.part: part for part in before.parts}
    new_names = [part.facts.part for part in after.parts]
    moved = []
    for number, part in enumerate(after.parts):
        progress(number / len(after.parts), f"surface of {part.facts.part}")
        if old := old_parts.get(part.facts.part):
            moved.append(_part_moved(blobs, old, part))
    longest = max(max(part.facts.size_mm) / part.facts.factor for part in before.parts)
    said = Comparison(
        before=before.key,
        after=after.key,
        matched=list(match_findings(before.findings, after.findings, longest, after.unseen)),
        facts_before=[part.facts for part in before.parts],
        facts_after=[part.facts for part in after.parts],
        moved=moved,
        gone=[name for name in old_parts if name not in new_names],
        added=[name for name in new_names if name not in old_parts],
    )
    return {"comparison": blobs.put(said.model_dump_json().encode())}


def _part_moved(blobs: Blobs, before: PartRecord, after: PartRecord) -> PartMoved:
    # As printed: another size moves the surface too.
    old = scaled(blobs.mesh(before.mesh), before.facts.factor)
    new = blobs.mesh(after.mesh)
    factor = after.facts.factor
    far = distance_to(old, scaled(new, factor).vertices)
    used = np.unique(new.faces)
    most = float(far[used].max(initial=0.0))
    drawn = replace(Thickness.unknown(new), walls=(most - far) / factor)
    return PartMoved(
        part=after.facts.part,
        greatest=most,
        mean=float(far[used].mean()) if len(used) else 0.0,
        display=blobs.put(display_bytes(new, drawn)),
    )
