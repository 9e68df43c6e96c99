"""The steps of Stand: turning a figure for the printer, and holding it."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from ulvet.core.bench import Setup, holding_for
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.lengths import PrintMM
from ulvet.core.mesh import scaled
from ulvet.core.recipe.step import (
    Context,
    Count,
    Greatest,
    GreatestKnown,
    LeastKnown,
    Number,
    Part,
    Phase,
    Receipt,
    Sentence,
    Step,
    Total,
    says,
)
from ulvet.core.stance import Stance, Vector, unit_vector
from ulvet.core.stand.orienting import corners_of, fitting_spin, orient_figure
from ulvet.core.stand.supporting import hold_figure

__all__ = ["Orient", "Support"]

_NEEDS = ("factor", "printer", "material")


class OrientReceipt(Receipt):
    """Ways looked at, and by how much it leans, degrees."""

    screened: Count = 0
    lean: GreatestKnown = None


class Orient(Step):
    """Turn a figure for the printer: ``up`` is the figure's direction that points away from the plate.

    Without one, the best of all ways that were looked at is taken, anew for every size, printer and material.
    ``show_side`` is the figure's direction whose side is kept free of supports.
    """

    needs: ClassVar[tuple[str, ...]] = _NEEDS
    phase: ClassVar[Phase] = Phase.STAND
    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 60e-6
    makes: ClassVar[type[Receipt]] = OrientReceipt

    kind: Literal["orient"] = "orient"
    up: Vector | None = None
    show_side: Vector | None = None

    @field_validator("up", "show_side")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    def change(self, part: Part, context: Context) -> tuple[Part, OrientReceipt]:
        setup, mesh = Setup(context["printer"], context["material"]), scaled(part.mesh, context["factor"])
        show, screened = None if self.show_side is None else np.array(self.show_side), 0
        if self.up is None:
            try:
                ways = orient_figure(mesh, setup, show, context.told)
            except TooManyLayers as refusal:
                return part, OrientReceipt(not_done=str(refusal))
            up, spin, screened = ways.best[0].up, ways.best[0].spin, ways.screened
        else:
            lift = holding_for(setup.printer.process).lift
            up, spin = self.up, fitting_spin(corners_of(mesh), np.array(self.up), setup.printer, lift) or 0.0
        stance = Stance(up=up, spin=spin, show=self.show_side)
        receipt = OrientReceipt(screened=screened, lean=stance.lean)
        return replace(part, stance=stance, supports=None), receipt

    def sentence(self, receipt: OrientReceipt) -> Sentence:
        lean = receipt.lean
        if lean is None:
            return (f"Stands as it was: {receipt.not_done}",)
        stands = "Stands upright" if lean < 0.5 else f"Leans {lean:.0f}°"
        kept = ", the side that shows kept clean" if self.show_side else ""
        chosen = f", the best of {receipt.screened:,} ways" if receipt.screened else ""
        return (f"{stands}{kept}{chosen}.",)


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


class Support(Step):
    """Hold a figure at its islands and under its overhangs. Lengths stay in mm whatever the size.

    ``lift`` 0 stands it on the plate; without one, what lies flat stands and the rest hangs. ``spacing`` is the
    greatest distance between contacts under a level underside, the process's own without one.
    """

    needs: ClassVar[tuple[str, ...]] = _NEEDS
    phase: ClassVar[Phase] = Phase.STAND
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 20e-6
    makes: ClassVar[type[Receipt]] = SupportReceipt

    kind: Literal["support"] = "support"
    lift: PrintMM | None = Field(default=None, ge=0, le=50)
    spacing: PrintMM | None = Field(default=None, ge=1, le=50)

    def change(self, part: Part, context: Context) -> tuple[Part, SupportReceipt]:
        setup, stance = Setup(context["printer"], context["material"]), part.stance
        bare = stance.model_copy(update={"lift": PrintMM(0)}).in_print(part.mesh, context["factor"])
        show = None if stance.show is None else np.asarray(stance.turn @ np.array(stance.show))
        try:
            held = hold_figure(bare, setup, show, self.lift, self.spacing, context.told)
        except TooManyLayers as refusal:
            return part, SupportReceipt(not_done=str(refusal))
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
            spacing=self.spacing or holding_for(setup.printer.process).spacing,
        )
        return replace(part, stance=stance.model_copy(update=stood), supports=held.supports), receipt

    def sentence(self, receipt: SupportReceipt) -> Sentence:
        if not receipt.contacts:
            return (f"Not held: {receipt.not_done}" if receipt.not_done else "Needs no holding.",)
        lost = receipt.unheld
        return (
            f"Held by {says(receipt.contacts, 'contact')}, tips {receipt.tip_least or 0:.2f} to "
            f"{receipt.tip_most:.2f} mm, ",
            Number(field="spacing", value=receipt.spacing, unit="mm"),
            " apart, lifted ",
            Number(field="lift", value=receipt.lift, unit="mm"),
            f"; {receipt.support_ml:.1f} ml." + (f" {says(lost, 'island')} could not be reached." if lost else ""),
        )
