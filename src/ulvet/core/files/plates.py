"""Files as they lie, packed on plates."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.files.as_it_lies import mesh_as_it_lies
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, Points, bounds, concatenated
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.plate import Piece, PlateTold, Risk, piece_of, plates_of

__all__ = ["NothingFits", "placed_mesh", "placing", "plates_of_files"]


class NothingFits(ValueError):
    """A file that fits no plate; its text is for the user."""


def plates_of_files(
    paths: Sequence[Path], setup: Setup, count: int = 1, risk: Risk = Risk()
) -> list[tuple[bytes, dict[str, Any]]]:
    """Each file ``count`` times, as it lies with z up, on plates of a setup: for each plate its STL and what it is as
    plain values. Places are of the parts' middles, mm from the left front corner of the build volume.

    Raises UnreadableFile, TooManyLayers and NothingFits, all with a text for the user.
    """
    meshes = [mesh_as_it_lies(path)[0] for path in paths]
    seen = [piece_of(path.name, raster_layers(mesh, setup.layer, setup.pixel), setup)
            for path, mesh in zip(paths, meshes, strict=True)]  # fmt: skip
    numbers = [k for k in range(len(paths)) for _ in range(count)]
    pieces: list[Piece] = [seen[k] for k in numbers]
    plates, unfit = plates_of(pieces, setup, risk)
    if unfit:
        names = ", ".join(sorted({pieces[k].name for k in unfit}))
        raise NothingFits(f"{names} does not fit the plate of {setup.printer.name} as it lies; nothing was written.")
    return [_written(lying, told, setup, pieces, [meshes[k] for k in numbers]) for lying, told in plates]


def placing(mesh: Mesh, piece: Piece, one: Lying, setup: Setup) -> tuple[Points, Points]:
    """How a mesh comes to where its piece lies on the plate, its foot at 0, mm from the left front corner of the build
    volume: the turn (3, 3), and what is added after it (3,)."""
    angle = np.deg2rad(one.turn)
    turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1.0]])
    flat = np.array([one.x, one.y]) + float(setup.printer.edge) - turn[:2, :2] @ piece.shadow.middle
    return turn, np.array([*flat, -bounds(mesh)[0, 2]])


def placed_mesh(mesh: Mesh, piece: Piece, one: Lying, setup: Setup) -> Mesh:
    """A mesh where its piece lies on the plate."""
    turn, moved = placing(mesh, piece, one, setup)
    return Mesh(mesh.vertices @ turn.T + moved, mesh.faces)


def _written(
    lying: Sequence[Lying], told: PlateTold, setup: Setup, pieces: Sequence[Piece], meshes: Sequence[Mesh]
) -> tuple[bytes, dict[str, Any]]:
    placed = [placed_mesh(meshes[one.number], pieces[one.number], one, setup) for one in lying]
    edge = float(setup.printer.edge)
    parts = [{"file": pieces[one.number].name, "x": one.x + edge, "y": one.y + edge, "turn": one.turn} for one in lying]
    takes = told.model_dump(mode="json", exclude={"parts"})
    said = {"printer": setup.printer.id, "setting": setup.setting.id, "parts": parts, **takes}
    return stl_bytes(concatenated(*placed)), said
