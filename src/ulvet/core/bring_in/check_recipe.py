"""What of a recipe no longer lands on the figure."""

from collections.abc import Sequence

from ulvet.core.bits.placement import PlacedStep
from ulvet.core.bits.seat import Seat
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.lengths import spoken
from ulvet.core.recipe.anchors import LostAnchor
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import AnchoredStep, Part, Step, plural
from ulvet.core.recipe.unknown import UnknownStep
from ulvet.core.stations import Station

__all__ = ["check_recipe"]

_PARTS_OFFERED = 3
"""Parts that a remedy offers in place of one that is lost; more would not be read."""


def check_recipe(recipe: Recipe, receipts: Sequence[Receipt], parts: Sequence[Part], factor: float) -> list[Finding]:
    """``lost-anchor`` for a step with points that found no surface, ``lost-part`` for one whose part is not there, and
    ``unknown-step`` for one that this version does not know."""
    names = [part.name for part in parts]
    found = []
    for place, (step, receipt) in enumerate(zip(recipe.steps, receipts, strict=True)):
        if receipt.lost and isinstance(step, AnchoredStep):
            found.append(_lost_anchors(step, receipt.lost, factor))
        if receipt.lost and isinstance(step, PlacedStep):
            found.append(_lost_seat(step, receipt.lost[0], parts, factor))
        if step.on and isinstance(step, UnknownStep) and names:
            found.append(_unknown_step(place, step, names[0]))
        elif step.on and step.scope is not None and receipt.idle and names:
            found.append(_lost_part(step, step.scope, names))
    return found


def _lost_anchors(step: AnchoredStep, lost: tuple[LostAnchor, ...], factor: float) -> Finding:
    worst = max(lost, key=lambda one: one.away)
    away, limit = worst.away.printed(factor), worst.limit.printed(factor)
    wheres = tuple(
        Place(point=one.nearest.point, normal=one.nearest.normal, extent=one.away.printed(factor)) for one in lost
    )
    alone, all_of_it = len(lost) == 1, len(lost) == len(step.places)
    nearest = {one.number: one.nearest for one in lost}
    back = [nearest.get(k, anchor).model_dump(mode="json") for k, anchor in enumerate(step.places)]
    kept = [anchor.model_dump(mode="json") for k, anchor in enumerate(step.places) if k not in nearest]
    return Finding(
        code="lost-anchor",
        station=step.station,
        severity=Severity.CAUTION,
        part=worst.part,
        title=f"{plural(len(lost), 'point').capitalize()} to {_act(step)} off the figure, by {spoken(away)} mm",
        measured=away,
        limit=limit,
        unit="mm",
        count=len(lost),
        where=wheres[lost.index(worst)],
        places=wheres,
        why=(
            f"The figure is another than when {'this was' if alone else 'these were'} picked: no surface that looks "
            f"the same way lies within {spoken(limit)} mm, so the record's step did nothing there."
        ),
        remedies=(
            Remedy(
                label="Put it back here" if alone else f"Put all {len(lost)} back at the nearest surface",
                change=SetStep(kind=step.kind, step=step.id, values={"places": back}),
                cost=Cost(says=f"{spoken(away)} mm from where it was picked; see it first"),
            ),
            Remedy(
                label=f"Leave {'it' if alone else 'them'} out",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False} if all_of_it else {"places": kept}),
                cost=Cost(says="the step is switched off" if all_of_it else "its other points stay"),
            ),
        ),
    )


def _lost_seat(step: PlacedStep, lost: LostAnchor, parts: Sequence[Part], factor: float) -> Finding:
    away, limit = lost.away.printed(factor), lost.limit.printed(factor)
    frame = next((part.frame for part in parts if part.name == lost.part), None)
    back = Seat(**lost.nearest.model_dump(), host=lost.part, frame=frame)
    return Finding(
        code="lost-anchor",
        station=Station.BRING_IN,
        severity=Severity.CAUTION,
        part=lost.part,
        title=f"{step.name} has lost its seat, by {spoken(away)} mm",
        measured=away,
        limit=limit,
        unit="mm",
        where=Place(point=lost.nearest.point, normal=lost.nearest.normal, extent=away),
        why=(
            f"What it sat on is another than when its place was picked: no surface that looks the same way lies "
            f"within {spoken(limit)} mm, so it was left out of the figure."
        ),
        remedies=(
            Remedy(
                label="Seat it here",
                change=SetStep(kind=step.kind, step=step.id, values={"rests_on": back.model_dump(mode="json")}),
                cost=Cost(says=f"{spoken(away)} mm from where it was picked; see it first"),
            ),
            Remedy(
                label="Leave it out",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False}),
                cost=Cost(says="the step is switched off"),
            ),
        ),
    )


def _lost_part(step: Step, scope: str, names: list[str]) -> Finding:
    station = step.station if isinstance(step, AnchoredStep) else Station.MEND
    return Finding(
        code="lost-part",
        station=station,
        severity=Severity.CAUTION,
        part=names[0],
        title=f"No part {scope} to {_act(step)}",
        measured=1,
        limit=0,
        unit="step without its part",
        where=None,
        why=(
            f"A step of the record works on the part {scope}, and the figure has none of that name, so it did "
            "nothing. A part keeps its name from the file it came in."
        ),
        remedies=(
            *[
                Remedy(
                    label=f"Do it on {name}",
                    change=SetStep(kind=step.kind, step=step.id, values={"scope": name}),
                    cost=Cost(says="its points are looked for there"),
                )
                for name in names[:_PARTS_OFFERED]
            ],
            Remedy(
                label="Leave it out",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False}),
                cost=Cost(says="the step is switched off"),
            ),
        ),
    )


def _unknown_step(place: int, step: UnknownStep, part: str) -> Finding:
    return Finding(
        code="unknown-step",
        station=Station.BRING_IN,
        severity=Severity.CAUTION,
        part=part,
        title=f"Sentence {place + 1}, {_act(step)}, is not known here",
        measured=1,
        limit=0,
        unit="step without effect",
        where=None,
        why=(
            "Another version of Ulvet wrote it. It is kept as it is and does nothing here, so the figure may lack what "
            "it made."
        ),
        remedies=(
            Remedy(
                label="Leave it out",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False}),
                cost=Cost(says="the step is switched off, and stays in the record"),
            ),
        ),
    )


def _act(step: Step) -> str:
    return step.kind.replace("-", " ")
