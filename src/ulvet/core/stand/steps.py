"""The steps of Stand: turning a figure for the printer, and holding it."""

import operator
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from ulvet.core.bench.edition import AskedSize
from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Mesh, scaled
from ulvet.core.layers.estimate import ESTIMATED
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.receipt import Count, Greatest, GreatestKnown, LeastKnown, Merge, Receipt, Total
from ulvet.core.recipe.stance import Stance, Vector, side_named, unit_vector
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Phase, Sentence, Step, StepResult, plural
from ulvet.core.stand.by_hand import Beginning, HandAct, placed_acts
from ulvet.core.stand.orientation import corners_of, fitting_spin, orient_figure
from ulvet.core.stand.supports import support_figure
from ulvet.core.stations import Station

__all__ = ["MOST_ACTS", "Orient", "ShowSide", "Support", "WayTaken"]

_MOST_TAKEN = 500
"""Ways that are written down, the latest ones (bench default)."""

MOST_ACTS = 400
"""Acts by hand on the supports of a figure (bench default)."""
_BEGUN: dict[Beginning, str] = {"proposal": "", "light": "lightly ", "strong": "strongly ", "none": ""}
"""How the record says with what the supports began."""

_NEEDS = (
    "factor",
    "show_side",
    "setup.printer.volume",
    "setup.printer.edge",
    "setup.printer.pixel",
    "setup.printer.process",
    "setup.setting.supports",
    *ESTIMATED,
)
"""What both steps read of a setup; an estimate tells ways apart."""


class ShowSide(Step):
    """Which side of a figure shows, as a direction of the figure: that side is kept free of supports."""

    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 9
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["show-side"] = "show-side"
    direction: Vector

    @field_validator("direction")
    @classmethod
    def _unit(cls, value: Vector) -> Vector | None:
        return unit_vector(value)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts)

    def context_after(self) -> Mapping[str, Any]:
        return {"show_side": self.direction}

    def sentence(self, receipt: Receipt) -> Sentence:
        return (f"Its {side_named(self.direction)} shows: no supports there unless an island begins on it.",)


class WayTaken(BaseModel):
    """A way to stand that was found for a part, and what it was sought for: a size and a setting."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    part: str
    up: Vector
    spin: float
    """Radians."""
    screened: int
    """Ways looked at."""
    size: AskedSize
    setting: str

    def same_asked(self, other: "WayTaken") -> bool:
        """Whether both were sought for the same part, size and setting."""
        return self._asked == other._asked

    @property
    def _asked(self) -> tuple[object, ...]:
        return self.part, self.size, self.setting


class OrientReceipt(Receipt):
    """Ways looked at, by how much it leans, degrees, and the ways that were taken."""

    screened: Count = 0
    lean: GreatestKnown = None
    ways: Annotated[tuple[WayTaken, ...], Merge.ALL] = ()


class Orient(Step):
    """Turn a figure for the printer: ``up`` is the figure's direction that points away from the plate.

    Without one, the best of all ways that were looked at is taken. It is written down in ``taken`` and holds for a new
    sculpt too; another size or setting has a way of its own. Without ``taken`` it is sought anew.
    """

    needs: ClassVar[tuple[str, ...]] = (*_NEEDS, "size", "setup.setting.id")
    phase: ClassVar[Phase] = Phase.STAND
    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 60e-6
    makes: ClassVar[type[Receipt]] = OrientReceipt

    kind: Literal["orient"] = "orient"
    up: Vector | None = None
    taken: tuple[WayTaken, ...] = Field(default=(), max_length=_MOST_TAKEN)

    @field_validator("up")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    def change(self, part: Part, context: Context) -> tuple[Part, OrientReceipt]:
        setup, mesh = context["setup"], scaled(part.mesh, context["factor"])
        way = None
        if self.up is None:
            try:
                way = self._way(part, mesh, setup, context)
            except TooManyLayers as refusal:
                return part, OrientReceipt(not_done=str(refusal))
            up, spin = way.up, way.spin
        else:
            lift = setup.supports.lift
            up, spin = self.up, fitting_spin(corners_of(mesh), np.array(self.up), setup.printer, lift) or 0.0
        stance = Stance(up=up, spin=spin)
        receipt = OrientReceipt(screened=way.screened if way else 0, lean=stance.lean, ways=(way,) if way else ())
        return replace(part, stance=stance, supports=None), receipt

    def _way(self, part: Part, mesh: Mesh, setup: Setup, context: Context) -> WayTaken:
        """The way that was taken for this part as it is asked for now, or the best that is found.

        Raises TooManyLayers.
        """
        asked = WayTaken(
            part=part.name, up=(0, 0, 1), spin=0, screened=0, size=context["size"],
            setting=setup.setting.id,
        )  # fmt: skip
        if taken := next((way for way in self.taken if way.same_asked(asked)), None):
            return taken
        show = None if context["show_side"] is None else np.array(context["show_side"])
        ways = orient_figure(mesh, setup, show, context.progress)
        best = ways.best[0]
        return asked.model_copy(update={"up": best.up, "spin": best.spin, "screened": ways.screened})

    def written_down(self, receipt: OrientReceipt) -> "Orient":
        others = [way for way in self.taken if not any(way.same_asked(new) for new in receipt.ways)]
        ways = (*others, *receipt.ways)[-_MOST_TAKEN:]
        return self if set(ways) == set(self.taken) else self.model_copy(update={"taken": ways})

    def sentence(self, receipt: OrientReceipt) -> Sentence:
        lean = receipt.lean
        if lean is None:
            return (f"Stands as it was: {receipt.not_done}",)
        stands = "Stands upright" if lean < 0.5 else f"Leans {lean:.0f}°"
        chosen = f", the best of {receipt.screened:,} ways" if receipt.screened else ""
        return (f"{stands}{chosen}.",)


class SupportReceipt(Receipt):
    """Contacts, islands before, islands not reached, contacts on the figure itself; tips, lift and spacing, print mm;
    and what the supports take."""

    contacts: Count = 0
    islands: Count = 0
    unheld: Count = 0
    on_figure: Count = 0
    tip_least: LeastKnown = None
    tip_most: Greatest = 0.0
    support_ml: Total = 0.0
    lift: Greatest = 0.0
    spacing: Greatest = 0.0
    by_hand: Count = 0
    undone: Annotated[tuple[int, ...], Merge.ALL] = ()
    """Acts by hand, by their numbers, that found no contact or no way for one on a part they fell on."""


class Support(AnchoredStep):
    """Hold a figure at its islands and under its overhangs. Lengths stay in mm whatever the size.

    ``lift`` 0 stands it on the plate; without one, what lies flat stands and the rest hangs. ``spacing`` is the
    greatest distance between contacts under a level underside, the process's own without one. What is proposed is
    begun lighter or stronger by ``begin``, then changed by ``acts`` at ``places``, which stay where they were picked
    under a new sculpt and at other sizes.
    """

    needs: ClassVar[tuple[str, ...]] = _NEEDS
    phase: ClassVar[Phase] = Phase.STAND
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 20e-6
    makes: ClassVar[type[Receipt]] = SupportReceipt

    station: ClassVar[Station] = Station.STAND

    kind: Literal["support"] = "support"
    places: tuple[Anchor, ...] = Field(default=(), max_length=2 * MOST_ACTS, exclude_if=operator.not_)
    begin: Beginning = Field(default="proposal", exclude_if=lambda value: value == "proposal")
    acts: tuple[HandAct, ...] = Field(default=(), max_length=MOST_ACTS, exclude_if=operator.not_)
    lift: PrintMM | None = Field(default=None, ge=0, le=50)
    spacing: PrintMM | None = Field(default=None, ge=1, le=50)

    @model_validator(mode="after")
    def _acts_have_places(self) -> "Support":
        for act in self.acts:
            if (act.does == "move") != (act.to is not None):
                raise ValueError("a contact that is moved needs a place to go to, and no other act has one")
            if max(act.place, act.to or 0) >= len(self.places):
                raise ValueError("an act by hand names a place that was not picked")
        return self

    def change(self, part: Part, context: Context) -> tuple[Part, SupportReceipt]:
        setup, stance, factor = context["setup"], part.stance, context["factor"]
        acts, lost = placed_acts(self.acts, self.places, part.mesh, part.name, part.source)
        offset = stance.model_copy(update={"lift": PrintMM(0)}).offset(part.mesh, factor)
        acts = tuple(act.moved(stance.turn, factor, offset) for act in acts)
        bare = stance.model_copy(update={"lift": PrintMM(0)}).in_print(part.mesh, context["factor"])
        show = None if context["show_side"] is None else np.asarray(stance.turn @ np.array(context["show_side"]))
        try:
            held = support_figure(bare, setup, show, self.lift, self.spacing, self.begin, acts, context.progress)
        except TooManyLayers as refusal:
            return part, SupportReceipt(not_done=str(refusal), lost=lost)
        stood = {"lift": held.lift, "contacts": held.contacts, "support_ml": held.support_ml}
        tips = [float(contact.tip_mm) for contact in held.contacts]
        receipt = SupportReceipt(
            contacts=len(held.contacts),
            islands=held.islands_before,
            unheld=len(held.unheld),
            on_figure=sum(contact.on_figure for contact in held.contacts),
            tip_least=min(tips, default=None),
            tip_most=max(tips, default=0.0),
            support_ml=held.support_ml,
            lift=held.lift,
            spacing=self.spacing or setup.supports.spacing,
            by_hand=len(acts),
            undone=tuple(sorted(held.undone)),
            lost=lost,
        )
        return replace(part, stance=stance.model_copy(update=stood), supports=held.supports), receipt

    def sentence(self, receipt: SupportReceipt) -> Sentence:
        if not receipt.contacts:
            return (f"Not held: {receipt.not_done}" if receipt.not_done else "Needs no holding.",)
        unheld, undone = receipt.unheld, len(set(receipt.undone))
        hand = f" {plural(len(self.acts), 'act')} by hand" if self.acts else ""
        if undone:
            hand += f", {undone} without effect: no contact there, or no way for one"
        return (
            f"Held {_BEGUN[self.begin]}by {plural(receipt.contacts, 'contact')}, tips {receipt.tip_least or 0:.2f} to "
            f"{receipt.tip_most:.2f} mm, ",
            Number(field="spacing", value=receipt.spacing, unit="mm"),
            " apart, lifted ",
            Number(field="lift", value=receipt.lift, unit="mm"),
            f"; {receipt.support_ml:.1f} ml.{hand}{'.' if hand else ''}"
            + (f" {plural(unheld, 'island')} left without a hold." if unheld else ""),
        )
