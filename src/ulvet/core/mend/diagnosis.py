"""All mesh defects, found in one pass."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.crossing import Crossings, crossing_faces
from ulvet.core.geometry.degenerate_faces import duplicate_faces, zero_area_faces
from ulvet.core.geometry.face_orientation import FaceOrientation, face_orientation_of
from ulvet.core.geometry.fans import fans_of
from ulvet.core.geometry.holes import Hole, holes_of
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.topology import Edges, edges_of, paired_half_edges, without_collapsed_faces
from ulvet.core.mend.shells import Shells, shells_in

__all__ = ["HARMLESS", "Diagnosis", "diagnose", "nonmanifold_vertices"]

Ints = NDArray[np.int64]
Mask = NDArray[np.bool_]
HARMLESS = ("sealed-void", "specks")
"""What a sound mesh may have."""


@dataclass(frozen=True)
class Diagnosis:
    """The defects of ``mesh``, which is the given mesh without faces that repeat a vertex.

    ``flat`` (m,) marks faces without area in the given mesh; all else refers to ``mesh``. ``pinched`` holds vertices
    whose faces are connected only through the vertex.
    """

    mesh: Mesh
    edges: Edges
    winding: FaceOrientation
    holes: tuple[Hole, ...]
    flat: Mask
    twice: Mask
    pinched: Ints
    crossings: Crossings
    shells: Shells

    @property
    def counts(self) -> dict[str, int]:
        """How many there are of each kind, by the code of its finding."""
        against = int((self.winding.against | self.winding.twisted[self.winding.shell]).sum())
        return {
            "open-edges": int(self.edges.open.sum()),
            "nonmanifold-edges": int(self.edges.nonmanifold.sum()),
            "nonmanifold-vertices": len(self.pinched),
            "inconsistent-winding": against,
            "inverted-shell": int(self.winding.inverted.sum()),
            "zero-area-faces": int(self.flat.sum()),
            "doubled-faces": int(self.twice.sum()),
            "crossing-faces": len(self.crossings.faces),
            "overlapping-shells": len(self.shells.overlapping),
            "inner-shells": len(self.shells.inner),
            "sealed-void": len(self.shells.voids),
            "specks": len(self.shells.specks),
        }

    def corners_of(self, shells: Ints) -> list[Points]:
        """The corners (k, 3) of each of some shells, by their numbers."""
        order = np.argsort(self.shells.of, kind="stable")
        starts, ends = np.searchsorted(self.shells.of[order], [shells, shells + 1])
        faces = (self.mesh.faces[order[start:end]] for start, end in zip(starts, ends, strict=True))
        return [self.mesh.vertices[np.unique(one)] for one in faces]

    def sound_with(self, overlaps_left: bool) -> bool:
        """Whether it is sound, where shells may overlap each other or not."""
        if not overlaps_left:
            return self.sound
        between = ("crossing-faces", "overlapping-shells", "inner-shells")
        own = self.shells.of[self.crossings.pairs]
        others = {code: count for code, count in self.counts.items() if code not in (*between, *HARMLESS)}
        return self.crossings.whole and not any(others.values()) and not (own[:, 0] == own[:, 1]).any()

    @property
    def closed(self) -> bool:
        """Whether nothing is open, so that there is an inside."""
        return not (self.edges.open.any() or self.edges.nonmanifold.any())

    @property
    def sound(self) -> bool:
        """Whether it is one solid after another, closed, outward and apart; a cavity or a speck is no fault."""
        return self.crossings.whole and not any(n for code, n in self.counts.items() if code not in HARMLESS)


def diagnose(mesh: Mesh, flat_height: float) -> Diagnosis:
    """Look a mesh over. ``flat_height`` (mm) is the least height of a face that has an area."""
    flat = zero_area_faces(mesh, flat_height)
    whole = without_collapsed_faces(mesh)
    edges = edges_of(whole)
    winding = face_orientation_of(whole, edges)
    crossings = crossing_faces(whole)
    return Diagnosis(
        mesh=whole,
        edges=edges,
        winding=winding,
        holes=tuple(holes_of(whole, edges)),
        flat=flat,
        twice=duplicate_faces(whole),
        pinched=nonmanifold_vertices(whole, edges),
        crossings=crossings,
        shells=shells_in(whole, edges, winding, crossings),
    )


def nonmanifold_vertices(mesh: Mesh, edges: Edges) -> Ints:
    """Vertices whose faces do not hang together over edges of two faces, in order.

    Vertices on an edge of more than two faces are left to that edge.
    """
    # Fans are numbered by their first corner, so each begins where the number rises.
    begins = np.diff(np.maximum.accumulate(fans_of(mesh, paired_half_edges(edges))), prepend=-1) > 0
    fans = np.bincount(mesh.faces.ravel()[begins], minlength=len(mesh.vertices))
    fans[edges.ends[edges.nonmanifold]] = 0
    return np.flatnonzero(fans > 1)
