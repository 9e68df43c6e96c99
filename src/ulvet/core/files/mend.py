"""A file made sound where it lies, without a recipe."""

from pathlib import Path
from typing import Any

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import translated
from ulvet.core.geometry.precision import offset_beyond_precision
from ulvet.core.geometry.rays import Rays
from ulvet.core.mend.diagnosis import Diagnosis
from ulvet.core.mend.gaps import gaps_in, least_gap
from ulvet.core.mend.mend_mesh import Method, mend_mesh

__all__ = ["mend_file"]


def mend_file(
    path: Path, out: Path, method: Method, pitch: float | None, overlaps_left: bool = False
) -> tuple[bytes, dict[str, Any]]:
    """A file mended by a method, on a grid of ``pitch`` mm where it is remade: the bytes of ``out``, in mm where the
    file lies, and as plain values what was wrong before and after, by the codes of findings, with the receipt.

    Where single precision would blur it that far from the origin, it is set down there by whole mm, which the receipt
    tells. Gaps are those that the printer taken where none is named would close. With ``overlaps_left`` shells that
    overlap are left so. Raises UnreadableFile and CannotMend, both with a text for the user.
    """
    mesh = mesh_as_it_lies(path)
    off = offset_beyond_precision(mesh.vertices)
    done = mend_mesh(translated(mesh, -off) if off.any() else mesh, method, pitch, overlaps_left)
    before = _counts(done.before)
    data = bytes_for(out, [("figure", done.mesh)])
    return data, {
        "file": str(path),
        "out": str(out),
        "before": before,
        "after": before if done.after is done.before else _counts(done.after),
        "receipt": {
            "holes_closed": done.holes_closed,
            "area_added_mm2": done.area_added,
            "area_removed_mm2": done.area_removed,
            "faces_added": done.faces_added,
            "faces_removed": done.faces_removed,
            "max_move_mm": done.max_move,
            "mean_move_mm": done.mean_move,
            "volume_before_mm3": done.volume_before,
            "volume_after_mm3": done.volume_after,
            "shells_before": done.before.shells.count,
            "shells_after": done.after.shells.count,
            "method": done.method,
            "pitch_mm": done.pitch,
            "methods": [
                {
                    "method": one.method,
                    "came_of_it": one.came_of_it,
                    "seconds": one.seconds,
                    "regions_mm": one.regions.tolist(),
                }
                for one in done.methods
            ],
            "set_down_mm": (0.0 - off).tolist(),
            "seconds": done.seconds,
        },
        "triangles": len(done.mesh.faces),
    }


def _counts(found: Diagnosis) -> dict[str, int]:
    """How many of each trouble there are, by the codes of findings."""
    gaps = gaps_in(found, Rays(found.mesh), least_gap(DEFAULT_BENCH.setup())) if len(found.mesh.faces) else []
    return {**found.counts, "thin-gap": len(gaps)}
