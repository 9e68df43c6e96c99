"""Files in and out. The only part of the core that touches the disk."""

from ulvet.core.io.errors import UnreadableFile
from ulvet.core.io.read import FORMATS, read_mesh
from ulvet.core.io.stl import stl_bytes

__all__ = ["FORMATS", "UnreadableFile", "read_mesh", "stl_bytes"]
