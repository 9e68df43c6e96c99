"""The steps of Stand: turning a figure for the printer, and holding it."""

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from ulvet.core.bench import Setup, holding_for
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.lengths import PrintMM
from ulvet.core.mesh import scaled
from ulvet.core.recipe.step import Context, Number, Part, Phase, Receipt, Sentence, Step, StepResult, says
from ulvet.core.stance import Stance, Vector
from ulvet.core.stand.orienting import corners_of, fitting_spin, orient_figure
from ulvet.core.stand.supporting import hold_figure

__all__ = ["Orient", "Support"]

_NEEDS = ("factor", "printer", "material")


class Orient(Step):
    """Turn a figure for the printer: ``up`` is the figure's direction that points away from the plate.

    Without one, the best of all ways that were looked at is taken, anew for every size, printer and material.
    ``show_side`` is the figure's direction whose side is kept free of supports.
    """

    needs: ClassVar[tuple[str, ...]] = _NEEDS
    phase: ClassVar[Phase] = Phase.STAND
    once: ClassVar[bool] = True

    kind: Literal["orient"] = "orient"
    up: Vector | None = None
    show_side: Vector | None = None

    @field_validator("up", "show_side")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        if value is None:
            return None
        length = float(np.linalg.norm(value))
        if not np.isfinite(length) or length < 1e-9:
            raise ValueError("A direction needs a length.")
        x, y, z = (float(v) / length for v in value)
        return x, y, z

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        setup, factor = Setup(context["printer"], context["material"]), context["factor"]
        show = None if self.show_side is None else np.array(self.show_side)

        def stand(part: Part) -> tuple[Part, Receipt]:
            mesh = scaled(part.mesh, factor)
            if self.up is None:
                ways = orient_figure(mesh, setup, show)
                up, spin, counts = ways.best[0].up, ways.best[0].spin, {"screened": ways.screened}
            else:
                lift = holding_for(setup.printer.process).lift
                spin = fitting_spin(corners_of(mesh), np.array(self.up), setup.printer, lift) or 0.0
                up, counts = self.up, {"screened": 0}
            stance = Stance(up=up, spin=spin, show=self.show_side)
            return Part(part.name, part.mesh, stance), Receipt(counts=counts, measures={"lean": stance.lean})

        return _stood(self.scope, parts, stand)

    def sentence(self, receipt: Receipt) -> Sentence:
        if "lean" not in receipt.measures:
            return (f"Stands as it was: {receipt.not_done}",)
        lean = receipt.measures["lean"]
        stands = "Stands upright" if lean < 0.5 else f"Leans {lean:.0f}°"
        kept = ", the side that shows kept clean" if self.show_side else ""
        chosen = f", the best of {receipt.counts['screened']:,} ways" if receipt.counts["screened"] else ""
        return (f"{stands}{kept}{chosen}.",)


class Support(Step):
    """Hold a figure at its islands and under its overhangs. Lengths stay in mm whatever the size.

    ``lift`` 0 stands it on the plate; without one, what lies flat stands and the rest hangs. ``spacing`` is the
    greatest distance between contacts under a level underside, the process's own without one.
    """

    needs: ClassVar[tuple[str, ...]] = _NEEDS
    phase: ClassVar[Phase] = Phase.STAND
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True

    kind: Literal["support"] = "support"
    lift: PrintMM | None = Field(default=None, ge=0, le=50)
    spacing: PrintMM | None = Field(default=None, ge=1, le=50)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        setup, factor = Setup(context["printer"], context["material"]), context["factor"]

        def stand(part: Part) -> tuple[Part, Receipt]:
            stance = part.stance
            bare = stance.model_copy(update={"lift": PrintMM(0)})
            show = None if stance.show is None else np.asarray(stance.turn @ np.array(stance.show))
            held = hold_figure(bare.in_print(part.mesh, factor), setup, show, self.lift, self.spacing)
            stance = stance.model_copy(
                update={"lift": held.lift, "contacts": held.contacts, "support_ml": held.support_ml}
            )
            tips = [float(contact.tip_mm) for contact in held.contacts] or [0.0]
            receipt = Receipt(
                counts={
                    "contacts": len(held.contacts),
                    "islands": held.islands_before,
                    "unheld": len(held.unheld),
                    "on_figure": sum(contact.on_figure for contact in held.contacts),
                },
                measures={
                    "tip_least": min(tips),
                    "tip_most": max(tips),
                    "support_ml": held.support_ml,
                    "lift": held.lift,
                    "spacing": self.spacing or holding_for(setup.printer.process).spacing,
                },
            )
            return replace(part, stance=stance, supports=held.supports), receipt

        return _stood(self.scope, parts, stand)

    def sentence(self, receipt: Receipt) -> Sentence:
        if not receipt.counts:
            return (f"Not held: {receipt.not_done}",)
        if not receipt.counts["contacts"]:
            return ("Needs no holding.",)
        measures = receipt.measures
        lost = receipt.counts["unheld"]
        return (
            f"Held by {says(receipt.counts['contacts'], 'contact')}, tips {measures['tip_least']:.2f} to "
            f"{measures['tip_most']:.2f} mm, ",
            Number(field="spacing", value=measures["spacing"], unit="mm"),
            " apart, lifted ",
            Number(field="lift", value=measures["lift"], unit="mm"),
            f"; {measures['support_ml']:.1f} ml." + (f" {says(lost, 'island')} could not be reached." if lost else ""),
        )


def _stood(scope: str | None, parts: tuple[Part, ...], stand: Callable[[Part], tuple[Part, Receipt]]) -> StepResult:
    """Each part in scope, stood on its own; what has too many layers stays as it was, and the receipt says so."""
    done, receipts, refused = [], [], ""
    for part in parts:
        stood = part
        if scope in (None, part.name) and len(part.mesh.faces):
            try:
                stood, receipt = stand(part)
                receipts.append(receipt)
            except TooManyLayers as refusal:
                refused = str(refusal)
        done.append(stood)
    if not receipts:
        return StepResult(tuple(done), Receipt(not_done=refused))
    counts = {name: sum(receipt.counts[name] for receipt in receipts) for name in receipts[0].counts}
    return StepResult(tuple(done), Receipt(counts=counts, measures=receipts[0].measures, not_done=refused))
