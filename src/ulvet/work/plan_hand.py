"""One part more on a plate, or one less, by hand."""

from ulvet.core.blob_hash import BlobHash
from ulvet.core.plates.wanted import HandPlate, Placed, WantedPart, WantedPlan, one_less, one_more
from ulvet.work.plan_record import LyingDrawn, PlanTold, PlateDrawn
from ulvet.work.plate_files import room_beside
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["put_one_more", "take_off"]


def put_one_more(studio: Studio, seen: int, told: PlanTold, plate: PlateDrawn, part: int) -> None:
    """Print one more of a part, on the plate that it lies on.

    Raises NotThere, Conflict, and Refused where there is no room.
    """
    one = _lying(plate, part)
    found = room_beside(studio, plate, one)
    if found is None:
        raise Refused(f"There is no room for another on plate {plate.number}: nothing was added.")
    placed = _placed(one).model_copy(update={"x": found.x, "y": found.y, "turn": found.turn})
    meant, by_hand = _meant(studio, one), _by_hand(told, {plate.number: placed})

    def added(plan: WantedPlan) -> WantedPlan:
        return one_more(plan, *meant).model_copy(update={"plates": by_hand})

    studio.plans.change(studio.plans.now().number, seen, f"one more: {one.name}", added)


def take_off(studio: Studio, seen: int, told: PlanTold, plate: PlateDrawn, part: int) -> None:
    """Print one less of a part, that which lies at a place of a plate.

    Raises NotThere, Conflict, Refused.
    """
    one = _lying(plate, part)
    meant, by_hand = _meant(studio, one), _by_hand(told, {}, without=(plate.number, part))

    def taken(plan: WantedPlan) -> WantedPlan:
        less = one_less(plan, *meant)
        if less is None:
            raise Refused(f"{one.name} is not wanted any more: look at the plan again; nothing was changed.")
        return less.model_copy(update={"plates": by_hand})

    studio.plans.change(studio.plans.now().number, seen, f"one less: {one.name}", taken)


def _lying(plate: PlateDrawn, part: int) -> LyingDrawn:
    if part >= len(plate.lying):
        raise NotThere("There is no such part on that plate: look at it again.")
    return plate.lying[part]


def _meant(studio: Studio, one: LyingDrawn) -> tuple[WantedPart, str, list[str]]:
    """A part as it may be wanted, the first edition of its figure, and all parts that it has in its own."""
    _, head, record, _ = studio.figure(one.figure, one.edition)
    parts = [held.facts.part for held in record.parts] if record else [one.part]
    return WantedPart(figure=one.figure, edition=one.edition, part=one.part), studio.edition(head, "").id, parts


def _by_hand(told: PlanTold, more: dict[int, Placed], without: tuple[int, int] | None = None) -> tuple[HandPlate, ...]:
    """What the hand placed on all plates of a plan, with ``more`` by the number of a plate, and without one part."""
    plates = []
    for plate in told.plates:
        lying = [_placed(one) for k, one in enumerate(plate.lying) if one.by_hand and (plate.number, k) != without]
        lying += [more[plate.number]] if plate.number in more else []
        if lying:
            plates.append(HandPlate(setting=plate.setting, lying=tuple(lying)))
    return tuple(plates)


def _placed(one: LyingDrawn) -> Placed:
    return Placed(
        figure=one.figure, edition=one.edition, part=one.part, layers=BlobHash(one.layers), x=one.x, y=one.y,
        turn=one.turn,
    )  # fmt: skip
