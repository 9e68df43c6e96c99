"""A scan in a folder, cleaned up without the server."""

from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.files.clean_scan import clean_scan
from ulvet.core.formats.read import read_scan
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.mend.steps import CloseHolesReceipt
from ulvet.core.progress import Progress, no_progress
from ulvet.core.scan.captured import compare_captured
from ulvet.core.scan.check import LENGTHS_AGREE
from ulvet.core.scan.receipts import CutReceipt, FuseReceipt
from ulvet.core.size.ways import UnusableSize

__all__ = ["clean_scan_folder"]

_SIDES = ("wide", "deep", "tall")


def clean_scan_folder(
    folder: Path,
    out: Path,
    lengths: dict[str, float],
    mount: float | None = None,
    keep_mount: bool = False,
    progress: Progress = no_progress,
) -> tuple[bytes, dict[str, Any]]:
    """The bytes of ``out``, a closed mesh in mm made of the scan in ``folder``, and what was done as plain values.

    ``lengths`` are sides by calipers, mm: any of ``wide``, ``deep``, ``tall``.

    Raises UnreadableFile and UnusableSize, both with a text for the user.
    """
    if unknown := set(lengths) - set(_SIDES):
        raise UnusableSize(f"{sorted(unknown)[0]} is no side: give wide, deep or tall.")
    if any(not (np.isfinite(value) and value > 0) for value in lengths.values()):
        raise UnusableSize("A length by calipers has to be above 0 mm.")
    read = read_scan(folder)
    assert read.scan is not None  # what read_scan gives
    recipe, run = clean_scan(read.mesh, read.scan, mount, keep_mount, progress)
    by_kind = {step.kind: receipt for step, receipt in zip(recipe.steps, run.receipts, strict=True)}
    if by_kind["fuse-passes"].idle:
        raise UnusableSize(f"Of {folder.name} {by_kind['fuse-passes'].not_done}: scan it from more sides.")
    part = run.parts[0]
    size = dict(zip(_SIDES, map(float, np.ptp(bounds(part.mesh), axis=0)), strict=True))
    ratios = np.array([value / size[side] for side, value in lengths.items()])
    factor = float(ratios.mean()) if len(ratios) else 1.0
    disagreement = float(np.abs(ratios / factor - 1).max()) if len(ratios) else 0.0
    mesh = Mesh(part.mesh.vertices * factor, part.mesh.faces)
    assert part.captured is not None  # every fused part has it
    compared, _ = compare_captured(mesh, part.captured.vertices * factor)
    data = bytes_for(out, [("figure", mesh)])
    fused, closed = by_kind["fuse-passes"], by_kind["close-holes"]
    off = by_kind.get("take-off-mount")
    assert isinstance(fused, FuseReceipt) and isinstance(closed, CloseHolesReceipt)  # what these steps make
    return data, {
        "scan": str(folder),
        "out": str(out),
        "passes": fused.passes,
        "points": fused.points,
        "outliers": fused.outliers,
        "residual_mm": fused.residual_mm,
        "by_table_mm": fused.by_table_mm,
        "pitch_mm": fused.pitch_mm,
        "noise_mm": fused.noise_mm,
        "mount_height_mm": off.height_mm if isinstance(off, CutReceipt) and not off.idle else None,
        "holes_closed": closed.closed,
        "holes_left": closed.left,
        "invented_mm2": closed.surface_added + by_kind["right-axis"].surface_added,
        "unseen_mm2": compared.invented,
        "deviation_mean_mm": compared.mean,
        "deviation_95_mm": compared.most,
        "histogram": {"counts": list(compared.counts), "edges_mm": list(compared.edges)},
        "factor": factor,
        "disagreement": disagreement,
        "lengths_disagree": disagreement > LENGTHS_AGREE,
        "triangles": len(mesh.faces),
        "watertight": is_watertight(edges_of(mesh)),
        "size_mm": [side * factor for side in size.values()],
        "bytes": len(data),
        "record": [
            "".join(str(getattr(w, "value", w)) for w in s.said(r))
            for s, r in zip(recipe.steps, run.receipts, strict=True)
        ],
    }
