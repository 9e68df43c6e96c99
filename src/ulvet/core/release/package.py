"""The files of a release: figure, recipe, manifest, readable note; equal builds give equal bytes."""

import hashlib
import io
import json
import re
import unicodedata
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass

from ulvet import __version__
from ulvet.core.bench import setup_for
from ulvet.core.build import Build
from ulvet.core.findings import Finding
from ulvet.core.io import stl_bytes
from ulvet.core.lengths import spoken
from ulvet.core.mesh import scaled
from ulvet.core.release.cautions import cautions_for

__all__ = ["ReleaseFile", "release_files", "safe_name", "zip_bytes"]


@dataclass(frozen=True)
class ReleaseFile:
    """One file of a release."""

    name: str
    data: bytes

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def release_files(build: Build, figure: str) -> tuple[ReleaseFile, ...]:
    """All files, sorted by name: each part as binary STL in mm at print size, recipe, note, and a manifest with the
    SHA-256 of every other file.
    """
    stem = safe_name(figure)
    height = max((facts.size_mm[2] for facts in build.facts), default=0.0)
    files = []
    for part, facts in zip(build.parts, build.facts, strict=True):
        name = f"{stem}_{spoken(height)}mm" + ("" if len(build.parts) == 1 else f"_{safe_name(part.name)}")
        files.append(ReleaseFile(f"{name}.stl", stl_bytes(scaled(part.mesh, facts.factor))))
    recipe = {
        "recipe": build.recipe.model_dump(mode="json"),
        "edition": build.edition.model_dump(mode="json"),
        "recipe_sha256": build.recipe_hash,
    }
    files.append(ReleaseFile(f"{stem}_recipe.json", _json(recipe)))
    files.append(ReleaseFile(f"{stem}_read-me.txt", _note(build, figure).encode()))
    manifest = _manifest(build, figure, files)
    files.append(ReleaseFile(f"{stem}_manifest.json", _json(manifest)))
    return tuple(sorted(files, key=lambda file: file.name))


def zip_bytes(files: Sequence[ReleaseFile]) -> bytes:
    """The files as a ZIP with fixed dates, so that equal files give equal bytes."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
        for file in files:
            entry = zipfile.ZipInfo(file.name, (1980, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, file.data)
    return buffer.getvalue()


def safe_name(text: str) -> str:
    """A name that any file system takes: lower-case ASCII letters, digits and hyphens.

    >>> safe_name("Ferrywoman, früh / 2"), safe_name("../..")
    ('ferrywoman-fruh-2', 'figure')
    """
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "figure"


def _manifest(build: Build, figure: str, files: Sequence[ReleaseFile]) -> dict[str, object]:
    setup = setup_for(build.edition.printer, build.edition.material)
    return {
        "figure": figure,
        "made_with": f"Ulvet {__version__}",
        "unit": "mm",
        "up": "z",
        "recipe_sha256": build.recipe_hash,
        "printer": setup.printer.name,
        "material": setup.material.name,
        "parts": [facts.model_dump(mode="json") for facts in build.facts],
        "estimates": [estimate.model_dump(mode="json") for estimate in build.estimates],
        "proofed": "not proofed: no test print of exactly these files is on record",
        "open_findings": [_open(finding) for finding in build.findings],
        "not_looked_at": list(build.unseen),
        "cautions": list(cautions_for(setup.printer.process)),
        "files": [
            {"name": file.name, "bytes": len(file.data), "sha256": file.sha256}
            for file in sorted(files, key=lambda file: file.name)
        ],
    }


def _open(finding: Finding) -> dict[str, object]:
    said = finding.model_dump(
        mode="json",
        include={"code", "severity", "part", "title", "measured", "limit", "unit", "count", "why"},
    )
    return {**said, "point_mm": list(finding.where.point)}


def _note(build: Build, figure: str) -> str:
    setup = setup_for(build.edition.printer, build.edition.material)
    lines = [f"{figure}", ""]
    for facts in build.facts:
        size = " x ".join(spoken(side) for side in facts.size_mm)
        lines.append(f"{facts.part}: {size} mm, {facts.triangles:,} triangles, {facts.volume_mm3 / 1000:.1f} ml")
    lines.append(f"Checked for {setup.printer.name} and {setup.material.name.lower()}.")
    for estimate in build.estimates:
        lines.append(
            f"Estimate: {estimate.layers:,} layers, {estimate.seconds / 3600:.1f} h, "
            f"{estimate.material_ml:.1f} ml. {estimate.model}"
        )
    lines += ["Not proofed: no test print of exactly these files is on record.", "", "Open findings"]
    lines += [
        f"- {finding.severity}: {finding.title}. {finding.why}" for finding in build.findings
    ] or ["- none"]
    lines += [f"- not looked at: {reason}" for reason in build.unseen]
    lines += ["", "Cautions"]
    lines += [f"- {caution}" for caution in cautions_for(setup.printer.process)]
    return "\n".join(lines) + "\n"


def _json(value: object) -> bytes:
    return (json.dumps(value, indent=2, sort_keys=True, ensure_ascii=False) + "\n").encode()
