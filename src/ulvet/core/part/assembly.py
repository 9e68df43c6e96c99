"""The order in which parts go together, found by taking the whole apart. Print mm."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Points, volume
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.part.joints import Joint
from ulvet.core.part.ways_in import WAYS, Movable, blocks, free_way
from ulvet.core.recipe.stance import Vector

__all__ = ["Assembly", "AssemblyStep", "Stuck", "assembly_in_order", "assembly_of"]

_ON_GROUND = 0.02
"""Of the height of all: so near its foot a part stands on the ground."""
_ONE_WAY = 1 - 1e-6
"""Cosine from which on two ways are one."""


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
        self._blocked: dict[tuple[int, int, tuple[float, ...]], bool] = {}
        self._volumes = [abs(volume(part.mesh)) for part in parts]
        feet = [float(part.box[0, 2]) for part in parts]
        tall = max((float(part.box[1, 2]) for part in parts), default=0.0) - min(feet, default=0.0)
        self._stands = [foot <= min(feet) + _ON_GROUND * tall for foot in feet]
        self._joined = [{joint.first, joint.second} for joint in joints]
        self._axes = _distinct([sign * joint.way for joint in joints for sign in (1.0, -1.0)])

    def weight(self, *group: int) -> tuple[bool, float]:
        """By what a group stays rather than leaves: whether any of it stands on the ground, then its volume."""
        return any(self._stands[part] for part in group), sum(self._volumes[part] for part in group)

    def stands(self, part: int) -> bool:
        """Whether a part stands on the ground."""
        return self._stands[part]

    def candidates(self, group: Iterable[int], all_ways: bool = True) -> list[Points]:
        """Ways in which a group may be moved out: along its joints first, then along others, then the 26."""
        inside = set(group)
        own = [
            joint.way * (-1.0 if joint.first in inside else 1.0)
            for joint in self.joints
            if (joint.first in inside) != (joint.second in inside)
        ]
        return _distinct([*own, *self._axes, *(WAYS if all_ways else ())])

    def out_of(self, group: Sequence[int], rest: Sequence[int], all_ways: bool = True) -> Points | None:
        """A way on which a group leaves the rest; None where there is none."""
        # What it is joined to is in its way first.
        pairs = [(moved, other) for moved in group for other in rest]
        pairs.sort(key=lambda pair: set(pair) not in self._joined)
        for way in self.candidates(group, all_ways):
            if not any(self._blocks(moved, other, way) for moved, other in pairs):
                return way
        return None

    def _blocks(self, moved: int, other: int, way: Points) -> bool:
        # The other part is as much in the way, seen from there.
        key, back = (moved, other, _rounded(way)), (other, moved, _rounded(-way))
        known = self._blocked.get(key, self._blocked.get(back))
        if known is None:
            known = self._blocked[key] = blocks(self.parts[moved], self.parts[other], way)
        return known

    def longest(self, part: int, rest: Sequence[int]) -> Stuck:
        """The way on which a part that cannot leave gets farthest."""
        best = Stuck(part, _vector(WAYS[0]), -1.0, -1)
        for way in self.candidates([part]):
            least, met = np.inf, -1
            for other in rest:
                if least > best.free and self._blocks(part, other, way):
                    far = free_way(self.parts[part], self.parts[other], way)
                    least, met = (far, other) if far < least else (least, met)
            if least > best.free:
                best = Stuck(part, _vector(way), least, met)
        return best


def assembly_of(parts: Sequence[Movable], joints: Sequence[Joint]) -> Assembly:
    """How parts go together: what can leave first goes in last.

    Single parts are taken off while any can be, those that do not stand on the ground first, of those the ones with the
    fewest joints and the least volume; where none can, groups on one side of a joint or of a cut. What then is left
    whole is stuck.
    """
    ways = _Ways(parts, joints)
    removed, left = _taken_apart(list(range(len(parts))), ways)
    left.sort(key=ways.weight)
    stuck = [ways.longest(one, [other for other in left if other != one]) for one in left[:-1]]
    return Assembly(left[-1] if left else None, tuple(reversed(removed)), tuple(stuck))


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


def _taken_apart(left: list[int], ways: _Ways) -> tuple[list[AssemblyStep], list[int]]:
    """What was taken off, in that order, and what is left."""
    removed, whole = list[AssemblyStep](), list[int]()
    while len(left) > 1:
        leaving = _leaving(left, ways)
        if leaving is None:
            break
        group, way = leaving
        left = [one for one in left if one not in group]
        removed.append(_step(group, left, way, ways.joints))
        if len(group) > 1:
            # A group is put together before it is put in.
            inner, rest = _taken_apart(list(group), ways)
            removed += inner
            whole += rest[1:]
    return removed, [*whole, *left]


def _leaving(left: list[int], ways: _Ways) -> tuple[tuple[int, ...], Points] | None:
    """What can be taken off next and its way: along joints before the 26 other ways; a part before a group, but a group
    before a part that stands on the ground, or without which others would hang on nothing."""
    for all_ways in (False, True):
        found = _single(left, ways, all_ways, rather_not=False) or _group(left, ways, all_ways)
        found = found or _single(left, ways, all_ways, rather_not=True)
        if found is not None:
            return found
    return None


def _single(left: list[int], ways: _Ways, all_ways: bool, rather_not: bool) -> tuple[tuple[int, ...], Points] | None:
    joined = {part: _joined_to(part, left, ways.joints) for part in left}

    def loose(part: int) -> tuple[bool, int, float]:
        stands, filled = ways.weight(part)
        return stands, len(joined[part]), filled

    # Where all stand on the ground, that keeps none of them.
    grounded = set() if all(map(ways.stands, left)) else {part for part in left if ways.stands(part)}
    for part in sorted(left, key=loose):
        stays = part in grounded or any(joined[other] == {part} for other in joined[part])
        if len(left) > 2 and stays != rather_not:
            continue
        way = ways.out_of([part], [one for one in left if one != part], all_ways)
        if way is not None:
            return (part,), way
    return None


def _joined_to(part: int, left: Sequence[int], joints: Sequence[Joint]) -> set[int]:
    """The parts of those left that a part has a joint with."""
    ends = [{joint.first, joint.second} for joint in joints if part in (joint.first, joint.second)]
    return {other for pair in ends for other in pair - {part} if other in left}


def _group(left: list[int], ways: _Ways, all_ways: bool) -> tuple[tuple[int, ...], Points] | None:
    """The smaller side of a joint, or of all joints of a cut, where it can leave."""
    inside = [joint for joint in ways.joints if {joint.first, joint.second} <= set(left)]
    opened = [[joint] for joint in inside]
    opened += [[joint for joint in inside if joint.cut == cut] for cut in sorted({joint.cut for joint in inside})]
    place = {part: k for k, part in enumerate(left)}
    found = set[tuple[tuple[bool, float], tuple[int, ...]]]()
    for without in opened:
        pairs = [[place[j.first], place[j.second]] for j in inside if all(j is not one for one in without)]
        _, of = connected_groups(len(left), np.array(pairs, np.int64).reshape(-1, 2))
        for end in {part for joint in without for part in (joint.first, joint.second)}:
            side = tuple(part for part in left if of[place[part]] == of[place[end]])
            if 1 < len(side) < len(left):
                found.add((ways.weight(*side), side))
    for _, side in sorted(found):
        way = ways.out_of(side, [one for one in left if one not in side], all_ways)
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
