"""Fewer triangles, with the price stated: how far the surface moved, both ways."""

from dataclasses import dataclass

import fast_simplification
import numpy as np

from ulvet.core.deviation import Deviation, deviation_between
from ulvet.core.mesh import Mesh, bounds, neighbours_together
from ulvet.core.told import Told, unheard
from ulvet.core.topology import edges_of, is_watertight, without_repeats

__all__ = ["Simplified", "simplify_to_count", "simplify_within"]

LEAST_TRIANGLES = 4
_TRIES = 6
_FIRST = 8  # the first try has so many times fewer triangles
_CAUTION = 0.9  # of what the last try says is possible
_CLOSE = 0.75  # of the deviation allowed: near enough to stop looking


@dataclass(frozen=True)
class Simplified:
    """A simplified mesh and how far it lies from the one before; ``why`` it is as it was, where nothing was done."""

    mesh: Mesh
    deviation: Deviation
    why: str = ""


def simplify_to_count(mesh: Mesh, triangles: int) -> Simplified:
    """A mesh of about so many triangles, by collapsing edges (quadric error, Garland and Heckbert 1997).

    A closed surface stays closed, or the mesh is left as it was. Raises ValueError for fewer than four triangles.
    """
    if triangles < LEAST_TRIANGLES:
        raise ValueError(f"No solid has fewer than {LEAST_TRIANGLES} triangles: ask for more.")
    if triangles >= len(mesh.faces):
        return _as_it_was(mesh, "it has no more triangles than that")
    # Everything is twice as fast where neighbours lie near each other in memory.
    near = neighbours_together(mesh)
    fewer = _collapsed(near, triangles)
    if fewer is None:
        return _as_it_was(mesh, "with fewer triangles it would not stay closed")
    return Simplified(fewer, deviation_between(near, fewer))


def simplify_within(mesh: Mesh, most: float, told: Told = unheard) -> Simplified:
    """The lightest mesh found that lies nowhere farther than ``most`` mm from the one before, nor that from it.

    Of a smooth surface the deviation grows as the count falls, so each try asks for the count that the last one leads
    to expect; at most six are made, and what is given was measured. Raises ValueError for a deviation not above 0.
    """
    if not (np.isfinite(most) and most > 0):
        raise ValueError("A deviation has to be above 0 mm.")
    before, mesh = mesh, neighbours_together(mesh)
    best: Simplified | None = None
    too_light, enough = LEAST_TRIANGLES - 1, len(mesh.faces)
    count = max(enough // _FIRST, LEAST_TRIANGLES)
    for number in range(_TRIES):
        if not too_light < count < enough:
            break
        told(number / _TRIES, f"trying {count:,} triangles")
        fewer = _collapsed(mesh, count)
        found = Deviation(np.inf, np.inf) if fewer is None else deviation_between(mesh, fewer)
        if fewer is None or found.greatest > most:
            too_light = count
        elif len(fewer.faces) < enough:
            best, enough = Simplified(fewer, found), len(fewer.faces)
            if found.greatest >= _CLOSE * most:
                break
        wanted = count * found.greatest / most / _CAUTION if np.isfinite(found.greatest) else 2.0 * count
        room = enough - too_light
        count = int(np.clip(wanted, too_light + 0.1 * room, too_light + 0.9 * room))
    if best is None:
        worn = "" if is_watertight(edges_of(mesh)) else ", since open rims wear away; mend them first"
        return _as_it_was(before, f"every lighter mesh that was tried lies farther off{worn}")
    return best


def _collapsed(mesh: Mesh, triangles: int) -> Mesh | None:
    """About so many triangles; None where a closed surface would not stay closed."""
    middle = bounds(mesh).mean(axis=0)
    # The simplifier works in float32.
    points, faces = fast_simplification.simplify(
        (mesh.vertices - middle).astype(np.float32), np.array(mesh.faces), target_count=triangles
    )
    fewer = without_repeats(Mesh(points + middle, faces.astype(np.int32)))
    if not len(fewer.faces):
        return None
    lost = is_watertight(edges_of(mesh)) and not is_watertight(edges_of(fewer))
    return None if lost else fewer


def _as_it_was(mesh: Mesh, why: str) -> Simplified:
    return Simplified(mesh, Deviation(0.0, 0.0), why)
