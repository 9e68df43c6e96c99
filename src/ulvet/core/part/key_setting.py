"""Setting keys into a joint: both its caps are drawn anew round them, and nothing else is touched."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, Protocol

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.geometry.mesh import Floats, Mesh, Points, scaled
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.caps import Cap, Embossed, cap_in_plane, embossed, lofted
from ulvet.core.part.joints import Joint
from ulvet.core.part.key_places import JointRoom, KeyPlan, KeyWish, plan_at, plan_keys, usual_number
from ulvet.core.part.key_shapes import TIP_CLEAR, key_ring, peg_of, pin_of, pocket_of, socket_of
from ulvet.core.recipe.anchors import Place
from ulvet.core.recipe.receipt import Insert
from ulvet.core.recipe.seams import KeyRole, KeyShape, MadeKey
from ulvet.core.recipe.stance import Stance, Vector
from ulvet.core.recipe.step import Part

__all__ = ["Bought", "KeyKind", "KeyPlace", "KeySetter"]

KeyKind = Literal["peg", "pin", "magnets", "rod"]
_BELOW = 0.1
"""Mm by which a magnet lies below its joint, so that it does not hold the faces apart (bench default)."""
_HARD_BY = 1e-6
"""Mm by which a key may be nearer the rim than its wall asks: rounding."""
_HOLES: dict[KeyKind, KeyRole] = {"peg": "socket", "pin": "socket", "magnets": "pocket", "rod": "bore"}


class KeyPlace(BaseModel):
    """A key where somebody wants it: its middle, figure mm, its own width, depth and turn."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    point: Place
    size: PrintMM = Field(ge=0.5, le=50)
    deep: PrintMM = Field(ge=0.5, le=100)
    turned: float = Field(default=0.0, ge=-360, le=360)
    """Degrees."""
    socket_in: str = Field(default="", max_length=300)
    """The part that has the hole; empty for the one with more flesh."""


@dataclass(frozen=True)
class Bought:
    """A bought magnet or rod: its id on the bench, its name, width and how deep it goes on each side, mm, and density,
    g/cm³."""

    item: str
    name: str
    size: float
    deep: float
    density: float


class Asked(Protocol):
    """What is asked of keys."""

    @property
    def id(self) -> int: ...
    @property
    def joins(self) -> KeyKind: ...
    @property
    def shape(self) -> KeyShape: ...
    @property
    def fit(self) -> str: ...
    @property
    def number(self) -> int | None: ...
    @property
    def size(self) -> PrintMM | None: ...
    @property
    def places(self) -> tuple[KeyPlace, ...]: ...
    def piece_name(self, part: Part, piece: str) -> str: ...


@dataclass(frozen=True)
class _Side:
    """One part of a joint: its number, its cap, figure mm, and the way out of it there."""

    number: int
    cap: Cap
    way: Points


class KeySetter:
    """The parts while keys are set into them; ``gap`` and ``wall`` in print mm."""

    def __init__(
        self, parts: Sequence[Part], factor: float, asked: Asked, gap: float, wall: float, bought: Bought | None
    ) -> None:
        self.parts, self._factor, self._asked = list(parts), factor, asked
        self._gap, self._wall, self._bought = gap, wall, bought
        self.pins: list[Part] = []
        self.inserts: list[Insert] = []
        self.refusals: list[str] = []
        self.walls: list[float] = []
        self.keys = 0

    def set_into(self, joint: Joint) -> None:
        """Keys into one joint, or why there are none."""
        sides = [self._side(number, joint, sign) for number, sign in ((joint.first, 1.0), (joint.second, -1.0))]
        plans = self._plans(joint)
        if not plans:
            return
        shaped = [self._shaped(plan) for plan in plans]
        done = []
        for at, side in enumerate(sides):
            rings = [self._on_cap(both[at], plan, joint, side) for both, plan in zip(shaped, plans, strict=True)]
            mesh = embossed(self.parts[side.number].mesh, side.cap, side.way, rings)
            if mesh is None:
                self.refusals.append("a key would run over the rim of the joint, or into another: move it")
                return
            done.append(mesh)
        for at, (side, mesh) in enumerate(zip(sides, done, strict=True)):
            part = self.parts[side.number]
            there = sum(key.cut == joint.cut for key in part.keys)
            made = tuple(self._made(plan, there + k, joint, at == 0) for k, plan in enumerate(plans))
            self.parts[side.number] = replace(part, mesh=mesh, keys=(*part.keys, *made))
        self.keys += len(plans)
        self.walls += [plan.wall for plan in plans]
        self._add_what_goes_in(plans, joint)

    def _side(self, number: int, joint: Joint, sign: float) -> _Side:
        cap = cap_in_plane(self.parts[number].mesh, joint.origin / self._factor, joint.way * sign)
        assert cap is not None  # a joint is where two caps meet
        return _Side(number, cap, joint.way * sign)

    def _plans(self, joint: Joint) -> list[KeyPlan]:
        meshes = [scaled(self.parts[number].mesh, self._factor) for number in (joint.first, joint.second)]
        room = JointRoom.of(meshes[0], meshes[1], joint.origin, joint.way, joint.outline)
        if self._asked.places:
            return self._at_places(joint, room)
        number = self._asked.number or usual_number(joint.outline.area)
        size = self._bought.size if self._bought else self._asked.size
        plans = plan_keys(joint.outline, room, self._wish(size, self._depth), number)
        if not plans:
            self.refusals.append(
                f"no key {f'{size:g} mm wide ' if size else ''}fits with {self._wall:.2f} mm of wall about it: "
                "leave the joint to its glue, or cut where there is more flesh"
            )
        return plans

    def _wish(self, size: float | None, deep: float | None) -> KeyWish:
        both = self._asked.joins != "peg"
        return KeyWish("round" if self._bought else self._asked.shape, self._gap, self._wall, size, deep, both)

    @property
    def _depth(self) -> float | None:
        return self._bought.deep + self._below if self._bought else None

    @property
    def _below(self) -> float:
        """How far what is bought lies below the joint; a rod goes through it."""
        return _BELOW if self._asked.joins == "magnets" else 0.0

    def _at_places(self, joint: Joint, room: JointRoom) -> list[KeyPlan]:
        """Keys where somebody wants them."""
        shape, plans = self._asked.shape, list[KeyPlan]()
        allowed = joint.outline.buffer(_HARD_BY - self._wall)
        for place in self._asked.places:
            middle = (np.array(place.point) * self._factor - joint.origin) @ joint.axes.T
            if not joint.whole.contains(shapely.Point(middle)):
                continue
            turned, size, deep = np.deg2rad(place.turned), float(place.size), self._depth or float(place.deep)
            socket_first = self._socket_first(place, joint, room, middle)
            plan = plan_at(room, middle, size, self._wish(size, deep), socket_first, float(turned))
            ring = shapely.Polygon(middle + key_ring(shape, size, self._gap, turned))
            if plan is not None and allowed.contains(ring):
                plans.append(plan)
            else:
                self.refusals.append(
                    f"a key {size:.1f} mm wide and {deep:.1f} mm deep leaves less than {self._wall:.2f} mm of wall "
                    "there: move it, or make it smaller"
                )
        return plans

    def _socket_first(self, place: KeyPlace, joint: Joint, room: JointRoom, middle: Floats) -> bool:
        first, second = (self.parts[number].name for number in (joint.first, joint.second))
        if place.socket_in in (first, second):
            return place.socket_in == first
        behind = [room.behind(side, middle, float(place.size) / 2, float(place.deep))[0] for side in (True, False)]
        return behind[0] >= behind[1]

    def _shaped(self, plan: KeyPlan) -> tuple[Embossed, Embossed]:
        """What is set into the first part and into the second, about the key's middle."""
        asked = self._asked
        if self._bought:
            pocket = pocket_of(plan.size + 2 * self._gap, plan.deep)
            return pocket, pocket
        socket = socket_of(asked.shape, plan.size, plan.deep, self._gap, plan.turned)
        if asked.joins == "pin":
            return socket, socket
        peg = peg_of(asked.shape, plan.size, plan.deep, plan.turned)
        return (socket, peg) if plan.socket_first else (peg, socket)

    def _on_cap(self, made: Embossed, plan: KeyPlan, joint: Joint, side: _Side) -> Embossed:
        """Rings about a key's middle in the axes of a side's cap, figure mm; they stay counter-clockwise there."""
        turn = joint.axes @ side.cap.axes.T
        shift = side.cap.to_plane(joint.origin[None] / self._factor)[0]
        turned = [(ring + plan.middle) @ turn / self._factor + shift for ring in made.rings]
        # The second part looks at the joint from behind.
        behind = np.linalg.det(turn) < 0
        heights = tuple(high / self._factor for high in made.heights)
        return Embossed(tuple(ring[::-1] if behind else ring for ring in turned), heights)

    def _made(self, plan: KeyPlan, number: int, joint: Joint, of_first: bool) -> MadeKey:
        x, y, z = (FigureMM(float(v)) for v in (joint.origin + plan.middle @ joint.axes) / self._factor)
        role = _HOLES[self._asked.joins]
        if self._asked.joins == "peg" and plan.socket_first != of_first:
            role = "peg"
        return MadeKey(
            step=self._asked.id,
            cut=joint.cut,
            number=number,
            role=role,
            shape="round" if self._bought else self._asked.shape,
            point=(x, y, z),
            way=_vector(joint.way if of_first else -joint.way),
            across=_vector(np.array([np.cos(plan.turned), np.sin(plan.turned)]) @ joint.axes),
            size=PrintMM(plan.size + (0.0 if role == "peg" else 2 * self._gap)),
            deep=PrintMM(plan.deep + (TIP_CLEAR if role == "socket" else 0.0)),
            gap=PrintMM(self._gap),
            glued=self._asked.fit == "glued",
            wall=PrintMM(plan.wall),
        )

    def _add_what_goes_in(self, plans: list[KeyPlan], joint: Joint) -> None:
        """Pins as parts of their own, and magnets as what is bought."""
        part, factor = self.parts[joint.second], self._factor
        for plan in plans:
            at = joint.origin + plan.middle @ joint.axes
            if self._asked.joins == "pin":
                shaped = pin_of(self._asked.shape, plan.size, plan.deep, plan.turned)
                mesh = lofted(shaped, joint.axes, joint.way)
                name = self._asked.piece_name(part, f"pin-{len(self.pins) + 1}")
                placed = Mesh((mesh.vertices + at) / factor, mesh.faces)
                self.pins.append(Part(name, placed, Stance(up=_vector(joint.axes[0])), source=part.source))
            if self._bought:
                self.inserts += self._bought_for(self._bought, at, joint)

    def _bought_for(self, bought: Bought, at: Points, joint: Joint) -> list[Insert]:
        grams = float(np.pi / 4 * bought.size**2 * bought.deep * bought.density / 1000)
        if self._asked.joins == "rod":
            middle, length = _vector(at / self._factor), PrintMM(2 * bought.deep)
            return [Insert(middle=middle, grams=2 * grams, item=bought.item, name=bought.name, length=length)]
        sides = [(at + sign * joint.way * (_BELOW + bought.deep / 2)) / self._factor for sign in (-1, 1)]
        return [Insert(middle=_vector(one), grams=grams, item=bought.item, name=bought.name) for one in sides]


def _vector(values: Points) -> Vector:
    x, y, z = map(float, values)
    return x, y, z
