"""Scans as folders or ZIPs of open files: ``scan.json``, one PLY of points with normals a pass, and ``fused.ply``."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ulvet.core.formats.archive import open_archive
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.ply import ply_bytes, points_ply_bytes, read_points_ply
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.sources.scan import Pass, Scan

__all__ = ["FUSED", "SCAN_HEAD", "read_scan_archive", "read_scan_folder", "scan_files"]

SCAN_HEAD, FUSED = "scan.json", "fused.ply"
_MOST_PASSES = 400
"""Passes of a scan, some turns of a table (bench default)."""
_MOST_POINTS = 40_000_000
"""Points of all passes, for memory."""

Number = Annotated[float, Field(allow_inf_nan=False)]
Direction = tuple[Number, Number, Number]


class _PassHead(BaseModel):
    model_config = ConfigDict(extra="ignore")

    file: str = Field(max_length=200)
    angle_degrees: Number
    tilt_degrees: Number = 0.0


class _ScanHead(BaseModel):
    model_config = ConfigDict(extra="ignore")

    device: str = Field(default="unknown scanner", max_length=200)
    table_point_mm: Direction
    table_axis: Direction
    noise_mm: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    passes: list[_PassHead] = Field(min_length=1, max_length=_MOST_PASSES)


def scan_files(scan: Scan, fused: Mesh) -> list[tuple[str, bytes]]:
    """The files of a scan by name, in mm; equal scans give equal files."""
    names = [f"pass-{number + 1:02}.ply" for number in range(len(scan.passes))]
    head = {
        "device": scan.device,
        "unit": "mm",
        "table_point_mm": [round(float(v), 6) for v in scan.table],
        "table_axis": [round(float(v), 9) for v in scan.axis],
        "noise_mm": scan.noise,
        "passes": [
            {"file": name, "angle_degrees": one.angle, "tilt_degrees": one.tilt, "points": len(one.points)}
            for name, one in zip(names, scan.passes, strict=True)
        ],
    }
    head_bytes = (json.dumps(head, indent=2, sort_keys=True) + "\n").encode()
    passes = [(name, points_ply_bytes(one.points, one.normals)) for name, one in zip(names, scan.passes, strict=True)]
    return [(SCAN_HEAD, head_bytes), *passes, (FUSED, ply_bytes(fused))]


def read_scan_folder(folder: Path) -> tuple[Scan, bytes]:
    """A scan that lies in a folder, and the bytes of the device's own fused mesh.

    Raises UnreadableFile, whose text is for the user.
    """

    def member(name: str) -> bytes:
        try:
            return (folder / Path(name).name).read_bytes()
        except OSError as error:
            raise UnreadableFile(
                f"{Path(name).name} is not in {folder.name}, or cannot be opened: bring the whole folder of the scan."
            ) from error

    return _scan(folder.name, member)


def read_scan_archive(path: Path) -> tuple[Scan, bytes] | None:
    """A scan in a ZIP, as ``read_scan_folder`` gives it; None when the ZIP holds none.

    Raises UnreadableFile.
    """
    with open_archive(path) as archive:
        held = {Path(name).name: name for name in archive.namelist()}
        if SCAN_HEAD not in held:
            return None

        def member(name: str) -> bytes:
            if Path(name).name not in held:
                raise UnreadableFile(f"{path.name} lacks {Path(name).name}: pack the whole folder of the scan.")
            return archive.read(held[Path(name).name])

        return _scan(path.name, member)


def _scan(name: str, member: Callable[[str], bytes]) -> tuple[Scan, bytes]:
    head_bytes = member(SCAN_HEAD)
    try:
        head = _ScanHead.model_validate(json.loads(head_bytes))
    except (ValueError, ValidationError, RecursionError) as error:
        raise UnreadableFile(
            f"{SCAN_HEAD} of {name} does not say what a scan has to: scan the object again."
        ) from error
    axis = np.array(head.table_axis)
    length = float(np.linalg.norm(axis))
    if not 1e-9 < length < 1e9:
        raise UnreadableFile(f"{SCAN_HEAD} of {name} gives no axis of the turntable: scan the object again.")
    passes, count = [], 0
    for one in head.passes:
        points, normals = read_points_ply(one.file, member(one.file))
        count += len(points)
        if count > _MOST_POINTS:
            raise UnreadableFile(f"{name} holds more than {_MOST_POINTS:,} points: scan in fewer passes, or coarser.")
        passes.append(Pass(points, normals, one.angle_degrees, one.tilt_degrees))
    if not count:
        raise UnreadableFile(
            f"{name} holds no points, nothing was in view: put the object on the table and scan again."
        )
    table: Points = np.array(head.table_point_mm)
    return Scan(tuple(passes), table, axis / length, head.noise_mm, head.device), member(FUSED)
