"""The files of a release: figure, recipe, manifest, readable note; equal builds give equal bytes."""

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass

from ulvet import __version__
from ulvet.core.findings.finding import Finding
from ulvet.core.formats.archive import archive_bytes
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.lengths import spoken
from ulvet.core.provenance.named import named_in_release
from ulvet.core.recipe.runner import recipe_hash
from ulvet.core.recipe.step import Part
from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.item_files import closes_again, named_meshes, part_meshes
from ulvet.core.release.names import safe_name, unclashing
from ulvet.core.release.recipe_file import RecipeFile
from ulvet.core.release.sheet import sheet_pdf

__all__ = ["ReleaseFile", "release_files", "zip_bytes"]


@dataclass(frozen=True)
class ReleaseFile:
    """One file of a release."""

    name: str
    data: bytes

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def release_files(checked: CheckedFigure) -> tuple[ReleaseFile, ...]:
    """All files, sorted by name: each part as binary STL in mm at print size, bare and, where it is held, with its
    supports as it lies in the printer; all of them in one 3MF, supports by name; recipe, note, sheet, and a manifest
    with the SHA-256 of every other file. A mirrored edition is mirrored here, with how it stands and what holds it.

    Written coordinates are rounded to float32, so each STL is read back, and the manifest says whether it still closes.
    """
    if checked.edition.form.mirrored:
        checked = checked.mirrored()
    stem = safe_name(checked.figure)
    size = f"{stem}_{spoken(checked.tall)}mm"
    files = []
    closes = {}
    called = _file_names(checked.parts)
    factors = [facts.factor for facts in checked.facts]
    for part, factor in zip(checked.parts, factors, strict=True):
        name = size if len(checked.parts) == 1 else f"{size}_{called[part.name]}"
        for ending, mesh in part_meshes(part, factor):
            file = ReleaseFile(f"{name}{ending}.stl", stl_bytes(mesh))
            closes[file.name] = closes_again(file.data)
            files.append(file)
    named = named_meshes(checked.parts, factors, supported=True)
    files.append(ReleaseFile(f"{size}.3mf", threemf_bytes(named)))
    if checked.exploded is not None:
        files.append(ReleaseFile(f"{size}_pulled-apart.png", checked.exploded))
    recipe = RecipeFile.of(checked.figure, checked.recipe, checked.edition)
    files.append(ReleaseFile(f"{stem}_recipe.json", recipe.to_bytes()))
    files.append(ReleaseFile(f"{stem}_read-me.txt", _note(checked).encode()))
    files.append(ReleaseFile(f"{stem}_sheet.pdf", sheet_pdf(checked)))
    files.append(ReleaseFile(f"{stem}_manifest.json", _json(_manifest(checked, files, closes))))
    return tuple(sorted(files, key=lambda file: file.name))


def _file_names(parts: Sequence[Part]) -> dict[str, str]:
    """By part what it is called in the names of files; parts that are called alike are numbered."""
    names = unclashing(safe_name(part.called) for part in parts)
    return {part.name: name for part, name in zip(parts, names, strict=True)}


def zip_bytes(files: Sequence[ReleaseFile]) -> bytes:
    """The files as a ZIP; equal files give equal bytes."""
    return archive_bytes([(file.name, file.data) for file in files])


def _manifest(checked: CheckedFigure, files: Sequence[ReleaseFile], closes: dict[str, bool]) -> dict[str, object]:
    setup = checked.setup
    return {
        "figure": checked.figure,
        "made_with": f"Ulvet {__version__}",
        "unit": "mm",
        "up": "z",
        "recipe_sha256": recipe_hash(checked.recipe),
        "printer": setup.printer.name,
        "material": setup.material.name,
        "setting": setup.setting.name,
        "printed_otherwise": {part: one.setting.name for part, one in sorted(checked.own_setups.items())},
        "mirrored": checked.edition.form.mirrored,
        "parts": [facts.model_dump(mode="json") for facts in checked.facts],
        "estimates": [estimate and estimate.model_dump(mode="json") for estimate in checked.estimates],
        "proofed": checked.proofed,
        "sources": named_in_release(checked.recipe.steps),
        "open_findings": [_open(finding) for finding in checked.findings],
        "not_looked_at": [gap.model_dump(mode="json") for gap in checked.unseen],
        "cautions": list(cautions_for(setup.printer.process)),
        "files": [
            {
                "name": file.name,
                "bytes": len(file.data),
                "sha256": file.sha256,
                **({"watertight": closes[file.name]} if file.name in closes else {}),
            }
            for file in sorted(files, key=lambda file: file.name)
        ],
    }


def _open(finding: Finding) -> dict[str, object]:
    said = finding.model_dump(
        mode="json",
        include={"code", "severity", "part", "title", "measured", "limit", "unit", "count", "why"},
    )
    return {**said, "point_mm": finding.where and list(finding.where.point)}


def _note(checked: CheckedFigure) -> str:
    setup = checked.setup
    lines = [checked.figure, ""]
    for facts in checked.facts:
        size = " x ".join(spoken(side) for side in facts.size_mm)
        lines.append(f"{facts.called}: {size} mm, {facts.triangles:,} triangles, {facts.volume_mm3 / 1000:.1f} ml")
    lines.append(f"Checked for {setup.printer.name} and {setup.material.name.lower()}.")
    lines += [
        f"{part}: checked for {one.printer.name} and {one.material.name.lower()}."
        for part, one in sorted(checked.own_setups.items())
    ]
    lines += [
        f"Estimate: {estimate.layers:,} layers, {estimate.seconds / 3600:.1f} h, {estimate.material_ml:.1f} ml. "
        f"{estimate.model}"
        for estimate in checked.estimates
        if estimate
    ]
    lines += _assembly_lines(checked)
    if named := named_in_release(checked.recipe.steps):
        lines += ["", "Where it comes from", *(f"- {sentence}" for sentence in named), ""]
    lines += [checked.proofed, "", "Open findings"]
    lines += [f"- {finding.severity}: {finding.title}. {finding.why}" for finding in checked.findings] or ["- none"]
    lines += [f"- not looked at: {gap.part}, {gap.station}. {gap.why}" for gap in checked.unseen]
    lines += ["", "Cautions"]
    lines += [f"- {caution}" for caution in cautions_for(setup.printer.process)]
    return "\n".join(lines) + "\n"


def _assembly_lines(checked: CheckedFigure) -> list[str]:
    """In which order the parts go together, with what; nothing where nothing was cut."""
    assembly = checked.assembly
    if not assembly.joints:
        return []
    called = {facts.part: facts.called for facts in checked.facts}
    lines = [f"1. {called.get(assembly.first, assembly.first)}, laid ready"]
    for number, step in enumerate(assembly.order, 2):
        names = " with ".join(called.get(name, name) for name in step.parts)
        glue = f": {step.glue.lower()} on {step.area_mm2:.0f} mm², hold for {step.minutes:.0f} min" if step.glue else ""
        lines.append(f"{number}. {names}{glue}")
    lines += [f"- {called.get(one.part, one.part)} cannot be put in" for one in assembly.blocked]
    return ["", "How it goes together", *lines, "Sand faces that are glued flat, rough and free of dust first.", ""]


def _json(value: object) -> bytes:
    return (json.dumps(value, indent=2, sort_keys=True, ensure_ascii=False) + "\n").encode()
