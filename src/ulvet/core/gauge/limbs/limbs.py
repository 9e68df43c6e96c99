"""Limbs: what sticks out of a figure, found by its branching, with the sections along each."""

import random
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ulvet.core.gauge.limbs.branching import Branching, Ints, branching_of
from ulvet.core.gauge.limbs.sections import Section, Sections
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.splitting import split_longer

__all__ = ["Limb", "limbs_of"]

_LONGEST = 1 / 12
"""Longer edges, against the box of the figure, are split: the way along them is told at their ends only (bench
default)."""
_CUTS = 40
"""At how many places along a limb it is cut at most (bench default)."""
_OPENS = 1.4
"""A section so many times as large as the one beyond it is that of what a limb stands on (bench default)."""
_SHRINKS = 0.8
"""A section so much smaller than where the search for the root began cuts a corner off what the limb stands on (bench
default)."""
_ASIDE = 0.2
"""How far beside the way of a limb its next section may lie, times how wide it is (bench default)."""
_FOLLOWED = 2.5
"""How far below its lowest ring the root of a limb is looked for, times how thick it is (bench default)."""
_HALVINGS = 5
"""Times that the step toward a limb's root is halved."""
_AS_WIDE = 1.02
"""Times as large a section that still counts as the same (rounding of sections)."""
_LEAST_GIRTH, _MOST_GIRTH = 0.5, 1.25
"""The line of a section against that of its ring, which may lie aslant (bench default)."""
_MOVES = 0.5
"""Along a limb the middles of rings go on at least so far for every mm along its skin; over a flat end they stay (bench
default)."""
_STUB = 1.0
"""What sticks out by less than so many times its thickness is a bump and no limb (bench default)."""
_EYELET = 1.5
"""A cycle no longer than so many times the thickness where it closes is a hole in a limb (bench default)."""
_LEAST_BANDS = 4
"""Bands that a limb has to be long (bench default)."""


@dataclass(frozen=True)
class Limb:
    """A limb in print mm: its tip (3,), and the sections along it from the root to near the tip, with the lever (s,) of
    a push at the farthest place beyond each, and roughly how much volume (s,) hangs on it, mm³."""

    tip: Points
    sections: tuple[Section, ...]
    levers: Floats
    beyond: Floats


def limbs_of(mesh: Mesh) -> list[Limb]:
    """The limbs of a closed figure that stands on its lowest points, z up, print mm; none where nothing sticks out.

    A limb goes from its tip, or from where it parts into others, to what it stands on: the ground, a thicker limb, or
    something that is held at both ends.
    """
    mesh, edges = split_longer(mesh, float(np.ptp(bounds(mesh), axis=0).max()) * _LONGEST)
    branching = branching_of(mesh, edges)
    if branching is None:
        return []
    tree, sections = _Tree(branching), Sections(mesh, edges)
    limbs = (_limb(rings, tree, sections) for rings in tree.limbs())
    return [limb for limb in limbs if limb is not None]


class _Tree:
    """What hangs on what: ``below`` (r,) is the ring that each stands on, -1 for the ground; ``held`` (r,) marks those
    that are held at another end as well. Rings come after the one they stand on."""

    def __init__(self, branching: Branching) -> None:
        self.branching = branching
        self.below = _below(branching)
        self.held = _held(branching, self.below)
        self.thick = branching.girths / np.pi
        self.above: list[list[int]] = [[] for _ in self.below]
        for ring, under in enumerate(self.below):
            if under >= 0:
                self.above[under].append(ring)
        self.order, self.place, self.past = self._walked()
        self.volume = (branching.girths**2 / (4 * np.pi) * branching.width)[self.order]
        self.top = self._top()

    def _walked(self) -> tuple[Ints, Ints, Ints]:
        """Rings in an order in which all that hangs on one follows it, the place of each in it, and where what hangs on
        it ends."""
        order: list[int] = []
        waiting = [ring for ring, under in enumerate(self.below) if under < 0]
        while waiting:
            order.append(waiting.pop())
            waiting += self.above[order[-1]]
        place = np.empty(len(order), np.int64)
        place[order] = np.arange(len(order))
        size = np.ones(len(order), np.int64)
        for ring in range(len(order) - 1, -1, -1):
            if self.below[ring] >= 0:
                size[self.below[ring]] += size[ring]
        return np.array(order, np.int64), place, place + size

    def _top(self) -> Ints:
        """The farthest ring that hangs on each."""
        top = np.arange(len(self.below))
        for ring in range(len(top) - 1, -1, -1):
            under = self.below[ring]
            if under >= 0 and self.branching.bands[top[ring]] > self.branching.bands[top[under]]:
                top[under] = top[ring]
        return top

    def beyond(self, ring: int) -> Ints:
        """The ring and all that hang on it."""
        return self.order[self.place[ring] : self.past[ring]]

    def limbs(self) -> Iterator[list[int]]:
        """The rings of every limb, from its root on."""
        waiting = [r for r in range(len(self.below)) if not self.held[r] and self._begins(r)]
        while waiting:
            rings = [waiting.pop()]
            while len(onward := self._limbs_on(rings[-1])) == 1 and not self.held[onward[0]]:
                rings += onward
            waiting += [ring for ring in onward if not self.held[ring]]
            yield rings

    def _begins(self, ring: int) -> bool:
        under = self.below[ring]
        return under < 0 or (bool(self.held[under]) and self._is_limb(ring))

    def _limbs_on(self, ring: int) -> list[int]:
        above = self.above[ring]
        if not above:
            return []
        main = max(above, key=lambda r: self.branching.bands[self.top[r]])
        return [r for r in above if r == main or self._is_limb(r)]

    def _is_limb(self, ring: int) -> bool:
        bands = self.branching.bands
        long = bands[self.top[ring]] - bands[ring] + 1
        return bool(long > _LEAST_BANDS and long * self.branching.width > _STUB * self.thick[ring])


def _below(branching: Branching) -> Ints:
    """Give the ring that each ring stands on; of several, the one with the longest line."""
    below = np.full(len(branching.bands), -1, np.int64)
    order = np.argsort(branching.girths[branching.links[:, 0]], kind="stable")
    below[branching.links[order, 1]] = branching.links[order, 0]
    return below


def _held(branching: Branching, below: Ints) -> NDArray[np.bool_]:
    """Mark rings that are attached at a second end: those on a cycle that a link outside the tree closes.

    Each such link marks its two ends; a ring marked twice lies outside the cycle.
    """
    marks = [0] * len(below)
    draw = random.Random(0)
    for low, high in branching.links[below[branching.links[:, 1]] != branching.links[:, 0]].tolist():
        where = _meet(branching, below, low, int(below[high]))
        length = (branching.bands[high] - (branching.bands[where] if where >= 0 else -1)) * branching.width
        if where >= 0 and length <= max(_EYELET * branching.girths[high] / np.pi, _LEAST_BANDS * branching.width):
            continue
        mark = draw.getrandbits(64)
        marks[low] ^= mark
        marks[high] ^= mark
    for ring in range(len(below) - 1, -1, -1):
        if below[ring] >= 0:
            marks[below[ring]] ^= marks[ring]
    return np.array([mark != 0 for mark in marks])


def _meet(branching: Branching, below: Ints, one: int, other: int) -> int:
    """Give the ring where the paths down from two rings meet; -1 for the ground."""
    while one != other:
        if one < 0 or other < 0:
            return -1
        if branching.bands[one] >= branching.bands[other]:
            one = int(below[one])
        else:
            other = int(below[other])
    return one


@dataclass(frozen=True)
class _Cut:
    """A section, the ring whose all hangs on it, and the way on from there."""

    section: Section
    ring: int
    way: Points
    among: Ints
    """The faces near it."""


def _limb(rings: list[int], tree: _Tree, sections: Sections) -> Limb | None:
    """Sections across a limb, square to its middle line; None where none closes."""
    cuts = _across(rings, tree, sections)
    if not cuts:
        return None
    if tree.below[rings[0]] < 0:
        cuts = _from_widest(cuts)
    whole = _near_root(cuts[0], _way_on(cuts, 0), _FOLLOWED * cuts[0].section.along, tree, sections)
    for at, (cut, onward) in enumerate(pairwise(cuts)):
        whole.append(cut)
        if cut.section.area > _OPENS * onward.section.area:
            apart = float(np.linalg.norm(cut.section.middle - onward.section.middle))
            whole += _near_root(onward, _way_on(cuts, at + 1), apart, tree, sections)
    whole.append(cuts[-1])
    levers = np.array([_lever(cut, tree) for cut in whole])
    beyond = np.array([tree.volume[tree.place[cut.ring] : tree.past[cut.ring]].sum() for cut in whole])
    tip = tree.branching.ends[tree.top[rings[-1]]]
    return Limb(tip, tuple(cut.section for cut in whole), levers, beyond)


def _across(rings: list[int], tree: _Tree, sections: Sections) -> list[_Cut]:
    """Cuts through some rings from the root on, those left out whose line is not that of the ring."""
    branching = tree.branching
    if len(tree.above[rings[-1]]) > 1:
        # Where it parts, a section would be of one of its parts.
        rings = rings[: max(len(rings) - int(tree.thick[rings[-1]] / branching.width), 1)]
    cuts: list[_Cut] = []
    for at in np.unique(np.linspace(0, len(rings) - 1, min(len(rings), _CUTS)).round().astype(int)):
        ring = rings[at]
        span = max(2, int(np.ceil(tree.thick[ring] / branching.width)))
        low, high = max(at - span, 0), min(at + span, len(rings) - 1)
        way = branching.middles[rings[high]] - branching.middles[rings[low]]
        long = float(np.linalg.norm(way))
        if long <= _MOVES * (branching.bands[rings[high]] - branching.bands[rings[low]]) * branching.width:
            continue
        among = np.concatenate([branching.faces(near) for near in rings[low : high + 1]])
        section = sections.at(branching.middles[ring], way / long, among)
        if section is not None and _is_of(section, branching.middles[ring], float(branching.girths[ring])):
            cuts.append(_Cut(section, ring, way / long, among))
    return [_straightened(cut, _way_on(cuts, at), sections) for at, cut in enumerate(cuts)]


def _straightened(cut: _Cut, way: Points, sections: Sections) -> _Cut:
    """A cut square to the way from its own middle on, which lies amid a limb however aslant its ring is."""
    section = sections.at(cut.section.middle, way, cut.among)
    return _Cut(section, cut.ring, way, cut.among) if section and section.area < cut.section.area else cut


def _goes_on(section: Section, last: Section, expected: Points) -> bool:
    """Whether a section is of the same limb as the last one."""
    off = np.linalg.norm(section.middle - expected)
    return bool(1 / _OPENS <= section.area / last.area <= _OPENS and off <= _ASIDE * last.along)


def _is_of(section: Section, middle: Points, girth: float) -> bool:
    """Whether a section is that of a ring, and not across a corner of it or along it."""
    off = np.linalg.norm(section.middle - middle)
    return bool(_LEAST_GIRTH * girth < section.girth < _MOST_GIRTH * girth and off < girth / (2 * np.pi))


def _from_widest(cuts: list[_Cut]) -> list[_Cut]:
    """Without what only rests on the ground: where a figure narrows toward that it tips over, and does not break."""
    areas = [cut.section.area for cut in cuts]
    first = next((k for k in range(len(cuts) - 1) if areas[k + 1] <= _AS_WIDE * areas[k]), len(cuts) - 1)
    return cuts[first:]


def _way_on(cuts: list[_Cut], at: int) -> Points:
    """From a cut to those beyond it, as far as it is thick: below it the way is that of what the limb stands on."""
    here = cuts[at]
    for cut in cuts[at + 1 :]:
        way = cut.section.middle - here.section.middle
        long = float(np.linalg.norm(way))
        if long >= here.section.along:
            return np.asarray(way / long)
    return here.way


def _lever(cut: _Cut, tree: _Tree) -> float:
    """From a cut to the farthest middle of what hangs on it, or square to it as far as the very tip."""
    branching = tree.branching
    beyond = branching.middles[tree.beyond(cut.ring)]
    across = np.linalg.norm(beyond - cut.section.middle, axis=1).max()
    return float(max(across, (branching.ends[tree.top[cut.ring]] - cut.section.middle) @ cut.way))


def _near_root(cut: _Cut, way: Points, far: float, tree: _Tree, sections: Sections) -> list[_Cut]:
    """Cuts from the root of a limb, at most ``far`` mm below, up to one: where a limb begins, the fronts of the way up
    it lie aslant, and no ring is that of a section."""
    among, under = [tree.branching.faces(cut.ring)], cut.ring
    for _ in range(int(np.ceil((far + cut.section.along) / tree.branching.width))):
        under = int(tree.below[under])
        if under < 0:
            break
        among.append(tree.branching.faces(under))
    faces = np.concatenate(among)
    found = [cut.section]
    step, gone = cut.section.along / 4, 0.0
    halvings = 0
    while halvings <= _HALVINGS and gone + step <= far:
        at = found[-1].middle - way * step
        section = sections.at(at, way, faces)
        shrinks = section is not None and section.area < _SHRINKS * cut.section.area
        if section is None or shrinks or not _goes_on(section, found[-1], at):
            step /= 2
            halvings += 1
            continue
        found.append(section)
        gone += step
    return [_Cut(section, cut.ring, way, faces) for section in found[:0:-1]]
