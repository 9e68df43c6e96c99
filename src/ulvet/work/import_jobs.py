"""The jobs by which things come in: files read, objects scanned."""

import hashlib
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.archive import archive_bytes
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.read import read_file
from ulvet.core.formats.reading import Reading
from ulvet.core.formats.scans import scan_files
from ulvet.core.geometry.placement import placement_of
from ulvet.core.progress import Progress, progress_within
from ulvet.core.scan.steps import scan_steps
from ulvet.standins.objects import OBJECTS
from ulvet.standins.scanner import ScanSettings, scan_object
from ulvet.store.blobs import Blobs, file_hash
from ulvet.store.folder import DataFolder
from ulvet.work.display import first_look_bytes

__all__ = ["bring_in", "scan"]

Values = dict[str, Any]


def bring_in(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Read an uploaded file: ``path``, ``name``, and ``like`` what it is read where it does not say so itself.

    Gives the first step and, for a scan, those that follow from it, and hashes of file and mesh.
    """
    path = Path(values["path"])
    progress(0.05, "reading the file")
    with ThreadPoolExecutor(1) as beside:
        hashed = beside.submit(file_hash, path)
        try:
            source = read_file(path)
        except UnreadableFile as refusal:
            # The upload lies under a name of our own; the user knows it by theirs.
            raise UnreadableFile(str(refusal).replace(path.name, values["name"])) from refusal
    progress(0.7, "keeping the mesh")
    blobs = Blobs(folder.blobs)
    blobs.put_file(path, hashed.result())
    kept = _kept(blobs, source, values["name"], values.get("like") or {})
    return {**kept, "file_hash": hashed.result(), "file_bytes": path.stat().st_size}


def scan(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Put ``object`` on the simulated scanner's turntable and scan it as ``settings`` say: as if its ZIP, called
    ``name``, had been brought in.

    Raises CannotScan, whose text is for the user.
    """
    _, make = OBJECTS[values["object"]]
    progress(0.02, "putting it on the turntable")
    settings = ScanSettings.model_validate(values["settings"])
    delivered, fused = scan_object(make(), settings, progress_within(progress, 0.05, 0.8))
    progress(0.9, "keeping the passes")
    packed = archive_bytes(scan_files(delivered, fused))
    blobs = Blobs(folder.blobs)
    # As it would be read from the file, so that the same scan is the same source however it came.
    kept = _kept(blobs, _read_back(folder, packed), values["name"], {})
    return {**kept, "file_hash": blobs.put(packed), "file_bytes": len(packed)}


def _read_back(folder: DataFolder, packed: bytes) -> Reading:
    path = folder.uploads / f"scan-{hashlib.sha256(packed).hexdigest()[:24]}.zip"
    path.write_bytes(packed)
    try:
        return read_file(path)
    finally:
        path.unlink()


def _kept(blobs: Blobs, source: Reading, name: str, like: Values) -> Values:
    step = bring_in_step(source, name, source.unit or like.get("unit"), source.up or like.get("up"))
    for mesh in source.meshes.values():
        blobs.put_mesh(mesh)
    if source.scan:
        blobs.put(source.scan.to_bytes())
    more = scan_steps(source.scan, source.mesh) if source.scan else ()
    placed = placement_of(source.mesh, step.unit, step.up).placed(source.mesh)
    return {
        "step": step.model_dump(mode="json"),
        "more": [other.model_dump(mode="json") for other in more],
        "look": blobs.put(first_look_bytes(placed)),
        "mesh_hash": source.mesh.hash,
    }
