"""How the shells of a mesh lie to each other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.mend.crossing import Crossings
from ulvet.core.mend.winding import Winding, enclosure_of, shell_volumes
from ulvet.core.mesh import Mesh
from ulvet.core.topology import Edges

__all__ = ["Shells", "shells_in"]

Ints = NDArray[np.int64]


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
    asked = apart[closed[apart]]
    enclosed = enclosure_of(mesh, of, asked, closed)[1]
    return Shells(
        count=count,
        of=of,
        volumes=volumes,
        overlapping=overlapping,
        inner=asked[enclosed & (volumes[asked] > 0)],
        voids=asked[enclosed & (volumes[asked] < 0)],
    )
