"""The order in which parts go together, found by taking the whole apart. Print mm."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Points, volume
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.part.joints import Joint
from ulvet.core.part.ways_in import WAYS, Movable, free_way
from ulvet.core.recipe.stance import Vector

__all__ = ["Assembly", "AssemblyStep", "Stuck", "assembly_in_order", "assembly_of"]

_ONE_WAY = 1 - 1e-6
"""Cosine from which on two ways are one."""
_ENOUGH = 0.1
"""Mm: a way that is free for less is not looked at to the end, for time."""


@dataclass(frozen=True)
class AssemblyStep:
    """One act of putting together: the parts ``moved``, already one with each other, go ``onto`` those that are there,
    along ``way``; ``joints`` are the ones that close, by number."""

    moved: tuple[int, ...]
    onto: tuple[int, ...]
    way: Vector
    joints: tuple[int, ...]


@dataclass(frozen=True)
class Stuck:
    """A part that cannot be put in: the way that is free for longest, as it would be taken out, how far that is, and
    what it meets first."""

    part: int
    way: Vector
    free: float
    blocked_by: int


@dataclass(frozen=True)
class Assembly:
    """How parts go together: the first part, the steps in their order, and what cannot be put in."""

    first: int | None
    steps: tuple[AssemblyStep, ...]
    stuck: tuple[Stuck, ...] = ()


class _Ways:
    """Which parts can be moved which way past which, each looked at once."""

    def __init__(self, parts: Sequence[Movable], joints: Sequence[Joint]) -> None:
        self.parts, self.joints = parts, joints
        self._known: dict[tuple[int, int, tuple[float, ...]], float] = {}
        self._axes = _distinct([sign * joint.way for joint in joints for sign in (1.0, -1.0)])

    def candidates(self, group: Iterable[int]) -> list[Points]:
        """Ways in which a group may be moved out: along its joints first, then along others, then the 26."""
        inside = set(group)
        own = [
            joint.way * (-1.0 if joint.first in inside else 1.0)
            for joint in self.joints
            if (joint.first in inside) != (joint.second in inside)
        ]
        return _distinct([*own, *self._axes, *WAYS])

    def free(self, group: Iterable[int], rest: Iterable[int], way: Points) -> tuple[float, int]:
        """How far a group may be moved away from the rest, and the part it meets first."""
        least, met = np.inf, -1
        for moved in group:
            for other in rest:
                far = self._pair(moved, other, way)
                if far < least:
                    least, met = far, other
                if least < _ENOUGH:
                    return least, met
        return least, met

    def _pair(self, moved: int, other: int, way: Points) -> float:
        key, back = (moved, other, _rounded(way)), (other, moved, _rounded(-way))
        known = self._known.get(key, self._known.get(back))
        if known is None:
            known = self._known[key] = free_way(self.parts[moved], [self.parts[other]], way)
        return known

    def out_of(self, group: Sequence[int], rest: Sequence[int]) -> Points | None:
        """A way on which a group leaves the rest; None where there is none."""
        return next((way for way in self.candidates(group) if np.isinf(self.free(group, rest, way)[0])), None)

    def longest(self, part: int, rest: Sequence[int]) -> Stuck:
        """The way on which a part that cannot leave gets farthest."""
        best = Stuck(part, _vector(WAYS[0]), -1.0, -1)
        for way in self.candidates([part]):
            far, met = self.free([part], rest, way)
            if far > best.free:
                best = Stuck(part, _vector(way), far, met)
        return best


def assembly_of(parts: Sequence[Movable], joints: Sequence[Joint]) -> Assembly:
    """How parts go together: what can leave first goes in last.

    Single parts are taken off while any can be, those with the fewest joints and the least volume first; where none
    can, groups that hang together by one joint. What then is left whole is stuck.
    """
    ways, size = _Ways(parts, joints), [abs(volume(part.mesh)) for part in parts]
    removed, left, stuck = _taken_apart(list(range(len(parts))), ways, size)
    first = left[-1] if left else None
    if len(left) > 1:
        left = sorted(left, key=lambda one: size[one])
        first = left[-1]
        stuck = [ways.longest(one, [other for other in left if other != one]) for one in left[:-1]]
    return Assembly(first, tuple(reversed(removed)), tuple(stuck))


def assembly_in_order(parts: Sequence[Movable], joints: Sequence[Joint], order: Sequence[int]) -> Assembly:
    """The parts put together one by one in a given order; what cannot be put in then is stuck."""
    ways, placed = _Ways(parts, joints), list(order[:1])
    steps, stuck = list[AssemblyStep](), list[Stuck]()
    for part in order[1:]:
        way = ways.out_of([part], placed)
        if way is None:
            stuck.append(ways.longest(part, placed))
            way = np.array(stuck[-1].way)
        steps.append(_step([part], placed, way, joints))
        placed.append(part)
    return Assembly(order[0] if order else None, tuple(steps), tuple(stuck))


def _taken_apart(
    left: list[int], ways: _Ways, size: Sequence[float]
) -> tuple[list[AssemblyStep], list[int], list[Stuck]]:
    """What was taken off, in that order, and what is left."""
    removed = list[AssemblyStep]()
    while len(left) > 1:
        leaving = _single(left, ways, size) or _group(left, ways, size)
        if leaving is None:
            break
        group, way = leaving
        left = [one for one in left if one not in group]
        removed.append(_step(group, left, way, ways.joints))
        inner, rest, _ = _taken_apart(list(group), ways, size) if len(group) > 1 else ([], list(group), [])
        # A group is put together before it is put in.
        removed += inner
        if len(rest) > 1:
            left += [one for one in rest[1:] if one not in left]
    return removed, left, []


def _single(left: list[int], ways: _Ways, size: Sequence[float]) -> tuple[tuple[int, ...], Points] | None:
    def loose(part: int) -> tuple[int, float]:
        return sum(part in (j.first, j.second) for j in ways.joints if {j.first, j.second} <= set(left)), size[part]

    for part in sorted(left, key=loose):
        way = ways.out_of([part], [one for one in left if one != part])
        if way is not None:
            return (part,), way
    return None


def _group(left: list[int], ways: _Ways, size: Sequence[float]) -> tuple[tuple[int, ...], Points] | None:
    """The smaller side of a joint that is all that holds it, where it can leave along that joint."""
    inside = [joint for joint in ways.joints if {joint.first, joint.second} <= set(left)]
    place = {part: k for k, part in enumerate(left)}
    found = list[tuple[float, tuple[int, ...]]]()
    for joint in inside:
        pairs = [[place[j.first], place[j.second]] for j in inside if j is not joint]
        _, of = connected_groups(len(left), np.array(pairs, np.int64).reshape(-1, 2))
        for end in (joint.first, joint.second):
            side = tuple(part for part in left if of[place[part]] == of[place[end]])
            if 1 < len(side) < len(left):
                found.append((sum(size[part] for part in side), side))
    for _, side in sorted(found):
        way = ways.out_of(side, [one for one in left if one not in side])
        if way is not None:
            return side, way
    return None


def _step(moved: Sequence[int], onto: Sequence[int], out: Points, joints: Sequence[Joint]) -> AssemblyStep:
    closes = [
        number
        for number, joint in enumerate(joints)
        if (joint.first in moved and joint.second in onto) or (joint.second in moved and joint.first in onto)
    ]
    return AssemblyStep(tuple(moved), tuple(sorted(onto)), _vector(-out), tuple(closes))


def _distinct(ways: Iterable[Points]) -> list[Points]:
    found: list[Points] = []
    for way in ways:
        if all(float(np.dot(way, one)) < _ONE_WAY for one in found):
            found.append(way)
    return found


def _rounded(way: Points) -> tuple[float, ...]:
    return tuple(float(value) for value in np.round(way, 6) + 0.0)


def _vector(values: Points) -> Vector:
    x, y, z = (float(value) + 0.0 for value in values)
    return x, y, z
