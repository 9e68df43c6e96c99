"""Files in and out. The only part of the core that touches the disk."""

from ulvet.core.io.errors import UnreadableFile, UnwritableFile
from ulvet.core.io.glb import glb_bytes
from ulvet.core.io.obj import obj_bytes
from ulvet.core.io.ply import ply_bytes
from ulvet.core.io.read import FORMATS, MOST_BYTES, PACKED, read_file, read_mesh, read_scan
from ulvet.core.io.reading import Reading
from ulvet.core.io.scans import scan_files
from ulvet.core.io.stl import stl_bytes
from ulvet.core.io.threemf import threemf_bytes
from ulvet.core.io.write import WRITTEN, bytes_for

__all__ = [
    "FORMATS",
    "MOST_BYTES",
    "PACKED",
    "WRITTEN",
    "Reading",
    "UnreadableFile",
    "UnwritableFile",
    "bytes_for",
    "glb_bytes",
    "obj_bytes",
    "ply_bytes",
    "read_file",
    "read_mesh",
    "read_scan",
    "scan_files",
    "stl_bytes",
    "threemf_bytes",
]
