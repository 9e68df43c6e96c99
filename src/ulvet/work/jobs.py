"""The jobs: functions of plain values that run in a process of their own. Done twice, they do the same."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.bench import Edition
from ulvet.core.bring_in import placement_of
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build import build_figure, build_pictures, whole_size
from ulvet.core.compare import match_findings
from ulvet.core.deviation import distance_to
from ulvet.core.gauge import Thickness
from ulvet.core.inspect import bring_in_step
from ulvet.core.io import UnreadableFile, read_file
from ulvet.core.layers import LayerStack, printed_together
from ulvet.core.mesh import Mesh, scaled
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.step import Part
from ulvet.core.release import Checked, release_files, safe_name, zip_bytes
from ulvet.core.told import Told, within
from ulvet.store.blobs import Blobs, file_hash
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory
from ulvet.work.display import display_bytes, first_look_bytes, soundings
from ulvet.work.layer_store import layers_bytes
from ulvet.work.record import BuildRecord, Comparison, LayerFrame, PartMoved, PartRecord, SaidStep, Sounding, build_key

__all__ = ["JOBS"]

_AREAS = 400
Values = dict[str, Any]


def bring_in(folder: DataFolder, values: Values, told: Told) -> Values:
    """Read an uploaded file: ``path``, ``name``, and ``like`` what it is read where it does not say so itself.

    Gives the first step, and hashes of file and mesh.
    """
    path = Path(values["path"])
    told(0.05, "reading the file")
    with ThreadPoolExecutor(1) as beside:
        hashed = beside.submit(file_hash, path)
        try:
            source = read_file(path)
        except UnreadableFile as refusal:
            # The upload lies under a name of our own; the user knows it by theirs.
            raise UnreadableFile(str(refusal).replace(path.name, values["name"])) from refusal
    told(0.7, "keeping the mesh")
    blobs = Blobs(folder.blobs)
    blobs.put_file(path, hashed.result())
    like = values.get("like") or {}
    step = bring_in_step(source, values["name"], source.unit or like.get("unit"), source.up or like.get("up"))
    for mesh in source.meshes.values():
        blobs.put_mesh(mesh)
    placed = placement_of(source.mesh, step.unit, step.up).placed(source.mesh)
    return {
        "step": step.model_dump(mode="json"),
        "look": blobs.put(first_look_bytes(placed)),
        "mesh_hash": source.mesh.hash,
        "file_hash": hashed.result(),
        "file_bytes": path.stat().st_size,
    }


def build(folder: DataFolder, values: Values, told: Told) -> Values:
    """Build ``recipe`` in ``edition``. Gives the build record."""
    recipe, edition = _asked(values)
    done = build_figure(
        recipe,
        edition,
        _sources(folder, recipe),
        DiskMemory(folder),
        within(told, 0.0, 0.9),
    )
    told(0.92, "drawing")
    blobs = Blobs(folder.blobs)
    parts = []
    pictures = build_pictures(done)
    for part, facts, walls, report, picture in zip(
        done.parts, done.facts, done.thickness, done.layers, pictures, strict=True
    ):
        parts.append(
            PartRecord(
                facts=facts,
                mesh=blobs.put_mesh(part.mesh),
                display=blobs.put(display_bytes(part.mesh, walls)),
                layers=blobs.put(layers_bytes(report.stack)) if report else None,
                layer_frame=_layer_frame(part, report.stack) if report else None,
                estimate=report.estimate if report else None,
                areas=_thinned(report.stack.areas) if report else [],
                soundings=soundings(part.mesh, walls),
                tips=_tips(part, facts.factor),
                picture=blobs.put(picture),
                supports=None if part.supports is None else blobs.put_mesh(part.supports),
                supports_display=None if part.supports is None else blobs.put(_supports_drawn(part, facts.factor)),
            )
        )
    steps = [
        SaidStep(
            kind=step.kind,
            phase=step.phase,
            rank=step.rank,
            on=step.on,
            sentence=list(step.said(receipt)),
            receipt=receipt,
        )
        for step, receipt in zip(done.recipe.steps, done.receipts, strict=True)
    ]
    record = BuildRecord(
        key=build_key(done.recipe, done.edition),
        size_mm=whole_size(done.facts),
        estimate=None if None in done.estimates else printed_together([e for e in done.estimates if e]),
        parts=parts,
        steps=steps,
        findings=list(done.findings),
        unseen=list(done.unseen),
        seconds=done.seconds,
    )
    return record.model_dump(mode="json")


def preview(folder: DataFolder, values: Values, told: Told) -> Values:
    """Run ``recipe`` in ``edition`` without checks. Gives the hash of each part's mesh by its name."""
    recipe, edition = _asked(values)
    run = run_recipe(recipe, _sources(folder, recipe), edition, DiskMemory(folder), told)
    blobs = Blobs(folder.blobs)
    return {"meshes": {part.name: blobs.put_mesh(part.mesh) for part in run.parts}}


def compare(folder: DataFolder, values: Values, told: Told) -> Values:
    """Set the build record ``after`` against ``before``. Gives the hash of the comparison."""
    before, after = BuildRecord.model_validate(values["before"]), BuildRecord.model_validate(values["after"])
    blobs = Blobs(folder.blobs)
    old_parts = {part.facts.part: part for part in before.parts}
    new_names = [part.facts.part for part in after.parts]
    moved = []
    for number, part in enumerate(after.parts):
        told(number / len(after.parts), f"surface of {part.facts.part}")
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


def release(folder: DataFolder, values: Values, told: Told) -> Values:
    """Package a finished build, its ``record``, with its ``recipe`` and ``edition`` under the figure's ``name``.

    Gives the ZIP's hash and what is in it.
    """
    told(0.1, "writing the files")
    recipe, edition = _asked(values)
    record = BuildRecord.model_validate(values["record"])
    blobs = Blobs(folder.blobs)
    files = release_files(
        Checked(
            figure=values["name"],
            recipe=recipe,
            edition=edition,
            parts=tuple(
                Part(
                    part.facts.part,
                    blobs.mesh(part.mesh),
                    part.facts.stance,
                    None if part.supports is None else blobs.mesh(part.supports),
                )
                for part in record.parts
            ),
            facts=tuple(part.facts for part in record.parts),
            findings=tuple(record.findings),
            estimates=tuple(part.estimate for part in record.parts),
            unseen=tuple(record.unseen),
            pictures=tuple(bytes(blobs.read(part.picture)) for part in record.parts),
        )
    )
    told(0.6, "packing")
    packed = zip_bytes(files)
    return {
        "file_name": f"{safe_name(values['name'])}_release.zip",
        "zip_hash": blobs.put(packed),
        "zip_bytes": len(packed),
        "files": [{"name": file.name, "bytes": len(file.data), "sha256": file.sha256} for file in files],
    }


JOBS: dict[str, Callable[[DataFolder, Values, Told], Values]] = {
    "bring-in": bring_in,
    "build": build,
    "preview": preview,
    "compare": compare,
    "release": release,
}
"""Every kind of job by name."""


def _supports_drawn(part: Part, factor: float) -> bytes:
    """The supports as they are drawn: in figure mm and axes, as their figure is."""
    assert part.supports is not None
    mesh = Mesh(part.stance.in_figure(part.supports.vertices, part.mesh, factor), part.supports.faces)
    return display_bytes(mesh, Thickness.unknown(mesh))


def _layer_frame(part: Part, stack: LayerStack) -> LayerFrame:
    deep, wide = (count * stack.pixel for count in stack.shape)
    foot = 0.0 if part.supports is not None else part.stance.lift
    left, front = stack.origin
    return LayerFrame(left=left, front=front, foot=foot, wide=wide, deep=deep, layer=stack.layer)


def _tips(part: Part, factor: float) -> list[Sounding]:
    contacts = part.stance.contacts
    points = part.stance.in_figure(np.array([c.point for c in contacts]).reshape(-1, 3), part.mesh, factor)
    return [
        Sounding(point=(float(a), float(b), float(c)), normal=None, wall=contact.tip_mm / factor)
        for (a, b, c), contact in zip(points, contacts, strict=True)
    ]


def _asked(values: Values) -> tuple[Recipe, Edition]:
    return Recipe.model_validate(values["recipe"]), Edition.model_validate(values["edition"])


def _sources(folder: DataFolder, recipe: Recipe) -> dict[str, Mesh]:
    blobs = Blobs(folder.blobs)
    brought = [step for step in recipe.steps if isinstance(step, BringIn)]
    return {mesh: blobs.mesh(mesh) for step in brought for mesh in step.meshes}


def _thinned(areas: np.ndarray[Any, np.dtype[np.float64]]) -> list[float]:
    """The largest area of each of at most 400 bands of layers, so that no peak is lost."""
    bands = np.array_split(areas, min(len(areas), _AREAS)) if len(areas) else []
    return [round(float(band.max()), 3) for band in bands]
