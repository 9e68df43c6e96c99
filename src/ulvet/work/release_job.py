"""The job that packs a build for release."""

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.progress import Progress
from ulvet.core.recipe.step import Part
from ulvet.core.release.checked_figure import CheckedFigure, own_setups
from ulvet.core.release.names import safe_name
from ulvet.core.release.package import release_files, zip_bytes
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job_values import Values, asked
from ulvet.work.record import BuildRecord

__all__ = ["checked_figure", "release"]


def release(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Package a finished build, its ``record``, with its ``recipe`` and ``edition`` under the figure's ``name``;
    ``proofed`` is what proofs say of it.

    Gives the ZIP's hash and what is in it.
    """
    progress(0.1, "writing the files")
    blobs = Blobs(folder.blobs)
    files = release_files(checked_figure(blobs, values))
    progress(0.6, "packing")
    packed = zip_bytes(files)
    return {
        "file_name": f"{safe_name(values['name'])}_release.zip",
        "zip_hash": blobs.put(packed),
        "zip_bytes": len(packed),
        "files": [{"name": file.name, "bytes": len(file.data), "sha256": file.sha256} for file in files],
    }


def checked_figure(blobs: Blobs, values: Values) -> CheckedFigure:
    """A build as it was kept: its ``record``, ``recipe``, ``edition`` and ``bench``, the figure's ``name``, and what
    proofs say of it as ``proofed``."""
    recipe, edition, bench = asked(values)
    record = BuildRecord.model_validate(values["record"])
    setups = PartSetups(bench, edition)
    parts = tuple(
        Part(
            part.facts.part,
            blobs.mesh(part.mesh),
            part.facts.stance,
            None if part.supports is None else blobs.mesh(part.supports),
            openings=tuple(part.openings),
            title=part.facts.called,
        )
        for part in record.parts
    )
    return CheckedFigure(
        figure=values["name"],
        recipe=recipe,
        edition=edition,
        setup=setups.usual,
        own_setups=own_setups(setups, parts),
        parts=parts,
        facts=tuple(part.facts for part in record.parts),
        findings=tuple(record.findings),
        estimates=tuple(part.estimate for part in record.parts),
        unseen=tuple(record.unseen),
        pictures=tuple(bytes(blobs.read(part.picture)) for part in record.parts),
        assembly=record.assembly,
        proofed=values["proofed"],
        exploded=None if record.exploded is None else bytes(blobs.read(record.exploded)),
        limbs=record.gauge.limbs,
        inserts=tuple(record.inserts),
    )
