"""A file's mesh where the file has it."""

from pathlib import Path

from ulvet.core.formats.read import read_file
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.placement import placement_of

__all__ = ["mesh_as_it_lies"]


def mesh_as_it_lies(path: Path) -> Mesh:
    """The mesh of a file, z up, neither moved nor guessed at: its numbers are mm unless it says otherwise itself.

    Raises UnreadableFile.
    """
    source = read_file(path)
    placement = placement_of(source.mesh, source.unit or "mm", source.up or "z")
    return Mesh(source.mesh.vertices @ placement.turn.T * placement.unit_mm, source.mesh.faces)
