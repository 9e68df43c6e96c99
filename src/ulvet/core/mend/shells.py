"""How the shells of a mesh lie to each other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.mend.crossing import Crossings
from ulvet.core.mend.winding import Winding, shell_volumes
from ulvet.core.mesh import Mesh
from ulvet.core.rays import Rays
from ulvet.core.topology import Edges

__all__ = ["Shells", "shells_in"]

Ints = NDArray[np.int64]
_WAYS = np.array([[0.267, 0.535, 0.802], [-0.744, 0.331, 0.580], [0.424, -0.566, -0.707]])
_WAYS /= np.linalg.norm(_WAYS, axis=1)[:, None]


@dataclass(frozen=True)
class Shells:
    """The shells of a mesh: ``of`` (m,) the shell of each face, ``volumes`` (count,) signed, mm³.

    ``overlapping`` cross another shell; ``inner`` are closed, look outward and lie wholly inside another; ``voids`` are
    closed, look inward and are enclosed: cavities that nothing leads out of. All three by the shells' numbers.
    """

    count: int
    of: Ints
    volumes: NDArray[np.float64]
    overlapping: Ints
    inner: Ints
    voids: Ints


def shells_in(mesh: Mesh, edges: Edges, winding: Winding, crossings: Crossings) -> Shells:
    """Sort the shells of a mesh, whose faces are looked at as they are turned."""
    of = winding.shell
    count = len(winding.inverted)
    volumes = shell_volumes(mesh, edges, of, count)
    closed = np.bincount(of, edges.open[edges.of_half].reshape(-1, 3).any(axis=1), count) == 0
    meeting = of[crossings.pairs]
    overlapping = np.unique(meeting[meeting[:, 0] != meeting[:, 1]])
    apart = np.setdiff1d(np.arange(count), overlapping)
    asked = apart[closed[apart]] if count > 1 else np.empty(0, np.int64)
    enclosed = _enclosed(mesh, of, asked, closed)
    return Shells(
        count=count,
        of=of,
        volumes=volumes,
        overlapping=overlapping,
        inner=asked[enclosed & (volumes[asked] > 0)],
        voids=asked[enclosed & (volumes[asked] < 0)],
    )


def _enclosed(mesh: Mesh, of: Ints, asked: Ints, closed: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which of the asked shells lie in the material of others: more is entered than left on the way out, by two of
    three rays in unrelated directions, since one may graze an edge."""
    if not len(asked):
        return np.zeros(0, bool)
    _, first = np.unique(of, return_index=True)
    starts = mesh.vertices[mesh.faces[first[asked]]].mean(axis=1)
    rays = Rays(mesh)
    votes = np.zeros(len(asked), np.int64)
    for way in _WAYS:
        votes += rays.depth(starts, np.tile(way, (len(asked), 1)), of, asked, closed) > 0
    return np.asarray(votes >= 2)
