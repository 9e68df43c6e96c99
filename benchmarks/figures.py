"""The figures that are measured, each written when it is first asked for."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, concatenated, scaled
from ulvet.core.geometry.splitting import split_longer
from ulvet.core.mend.mend_mesh import mend_mesh
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.standins.objects import driftwood

__all__ = ["FIGURES", "Figures", "triangles"]


class Figures:
    """Figures as STL files in a folder, by name."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def __getitem__(self, name: str) -> Path:
        path = self._folder / f"{name}.stl"
        if not path.exists():
            path.write_bytes(stl_bytes(FIGURES[name](self)))
        return path


def triangles(path: Path) -> int:
    """How many triangles an STL file holds, by its length."""
    return (path.stat().st_size - 84) // 50


def _ball(rings: int, radius: float) -> Callable[[Figures], Mesh]:
    return lambda figures: _wavy_ball(rings, radius)


def _wavy_ball(rings: int, radius: float) -> Mesh:
    """A closed ball with ripples, 2 x rings² faces, its faces in random order as files often have them."""
    u = np.linspace(0, np.pi, rings + 1)[1:-1]
    v = np.arange(rings) * 2 * np.pi / rings
    su, sv = np.meshgrid(u, v, indexing="ij")
    r = radius * (1 + 0.01 * np.sin(24 * su) * np.sin(24 * sv))
    ring = np.stack([r * np.sin(su) * np.cos(sv), r * np.sin(su) * np.sin(sv), r * np.cos(su)], axis=-1)
    points = np.concatenate([ring.reshape(-1, 3), [[0, 0, radius], [0, 0, -radius]]])
    here = np.arange(rings)
    onward = (here + 1) % rings
    base = np.arange(rings - 2)[:, None] * rings
    a, b, c, d = base + here, base + rings + here, base + rings + onward, base + onward
    body = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    top, bottom, last = len(points) - 2, len(points) - 1, (rings - 2) * rings
    caps = [
        np.stack([np.full(rings, top), here, onward], 1),
        np.stack([np.full(rings, bottom), last + onward, last + here], 1),
    ]
    faces = np.concatenate([body, *caps])
    return Mesh(points, np.random.default_rng(0).permutation(faces).astype(np.int32))


def _rough_scan(figures: Figures) -> Mesh:
    """A ball as a scanner gives it: a hundredth of a mm of noise, and one place of a tenth."""
    smooth = _wavy_ball(660, 40.0)
    noise = np.random.default_rng(1).normal(0.0, 1.0, smooth.vertices.shape)
    place = np.linalg.norm(smooth.vertices - [40.0, 0, 0], axis=1) < 4
    return Mesh(smooth.vertices + noise * np.where(place, 0.1, 0.01)[:, None], smooth.faces)


def _shell(figures: Figures) -> Mesh:
    """A ball with a wall of 0.8 mm."""
    outer, inner = _wavy_ball(474, 15.0), _wavy_ball(474, 14.2)
    return concatenated(outer, Mesh(inner.vertices, inner.faces[:, ::-1]))


def _ferrywoman(figures: Figures) -> Mesh:
    """The demo's figure, 60 mm tall."""
    modelled = ferrywoman()
    return scaled(modelled, 60 / float(np.ptp(modelled.vertices[:, 2])))


def _fine_ferrywoman(figures: Figures) -> Mesh:
    """The same in many more triangles."""
    mesh = read_mesh(figures["ferrywoman"])
    return split_longer(mesh, float(np.ptp(mesh.vertices[:, 2])) * 0.006)[0]


def _mended_fine_ferrywoman(figures: Figures) -> Mesh:
    """The same, sound."""
    mesh = mend_mesh(read_mesh(figures["ferrywoman"])).mesh
    return split_longer(mesh, float(np.ptp(mesh.vertices[:, 2])) * 0.003)[0]


FIGURES: dict[str, Callable[[Figures], Mesh]] = {
    "3.5 million": _ball(1323, 40.0),
    "million": _ball(708, 30.0),
    "0.9 million": _ball(671, 15.0),
    "0.6 million": _ball(548, 30.0),
    "0.3 million": _ball(388, 30.0),
    "0.3 million, small": _ball(388, 10.0),
    "0.1 million": _ball(224, 30.0),
    "rough scan": _rough_scan,
    "shell": _shell,
    "ferrywoman": _ferrywoman,
    "fine ferrywoman": _fine_ferrywoman,
    "fine ferrywoman, mended": _mended_fine_ferrywoman,
    "driftwood": lambda figures: driftwood(),
}
