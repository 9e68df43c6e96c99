"""The files of an item: its parts as STL and 3MF, with and without what holds them."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ulvet.core.formats.stl import read_back, stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, scaled
from ulvet.core.geometry.topology import edges_of, is_watertight, without_collapsed_faces
from ulvet.core.recipe.step import Part
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.names import part_names, unclashing
from ulvet.core.release.release_set import FileKind, Supported

__all__ = ["SUPPORTED", "ItemFile", "closes_again", "item_files", "named_meshes", "part_meshes"]

SUPPORTED = "_supported"
"""Behind the names of files that hold supports."""


@dataclass(frozen=True)
class ItemFile:
    """A file of an item, and the part it is of; empty for one of all parts."""

    name: str
    data: bytes
    part: str = ""
    watertight: bool | None = None


def part_meshes(part: Part, factor: float, supported: Supported = Supported.BOTH) -> Iterator[tuple[str, Mesh]]:
    """A part in print mm by what stands behind its name: bare, and, where it is held, as it lies in the printer, so
    that it is printed the way it was checked. One that nothing holds is bare in every case."""
    if part.supports is None or supported is not Supported.WITH:
        yield "", scaled(part.mesh, factor)
    if part.supports is not None and supported is not Supported.WITHOUT:
        yield SUPPORTED, part.whole(factor)


def named_meshes(parts: Sequence[Part], factors: Sequence[float], supported: bool) -> list[tuple[str, Mesh]]:
    """Parts in print mm by what they are called, for one file of them all; ``supported`` as they lie in the printer,
    with what holds each beside it."""
    named: list[tuple[str, Mesh]] = []
    for part, factor in zip(parts, factors, strict=True):
        if supported and part.supports is not None:
            held = (f"{part.called} supports", part.supports)
            named += [(part.called, part.stance.in_print(part.mesh, factor)), held]
        else:
            named.append((part.called, scaled(part.mesh, factor)))
    return named


def closes_again(stl: bytes) -> bool:
    """Whether a mesh still closes as an STL, whose coordinates are rounded to single precision."""
    return is_watertight(edges_of(without_collapsed_faces(read_back(stl))))


def item_files(
    checked: CheckedFigure, name: str, kinds: Sequence[FileKind], supported: Supported
) -> Iterator[ItemFile]:
    """The files of an item, in a folder of its name, one after the other so that no two are in memory: each part as
    binary STL in mm at print size, and all of them in one 3MF."""
    factors = [facts.factor for facts in checked.facts]
    numbered = part_names(part.called for part in checked.parts)
    behind = unclashing(f"{name}_{one}" if one else name for one in numbered)
    if FileKind.STL in kinds:
        for part, factor, stem in zip(checked.parts, factors, behind, strict=True):
            for ending, mesh in part_meshes(part, factor, supported):
                data = stl_bytes(mesh)
                yield ItemFile(f"{name}/{stem}{ending}.stl", data, part.name, closes_again(data))
    if FileKind.THREEMF in kinds:
        held = any(part.supports is not None for part in checked.parts)
        if supported is not Supported.WITH or not held:
            yield ItemFile(f"{name}/{name}.3mf", threemf_bytes(named_meshes(checked.parts, factors, False)))
        if supported is not Supported.WITHOUT and held:
            data = threemf_bytes(named_meshes(checked.parts, factors, True))
            yield ItemFile(f"{name}/{name}{SUPPORTED}.3mf", data)
