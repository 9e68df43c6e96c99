"""Colours over HTTP: which mix comes nearest to one, and what a mix dries to."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio
from ulvet.core.bench.item import COLOUR
from ulvet.core.bench.paints import Paint
from ulvet.core.finish.colour import difference, lab_of, light_of
from ulvet.core.finish.mixing import Proposal, mixed_colour, proposals, strength_from
from ulvet.core.stock.good import key_of_paint
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["finish"])

Colour = Annotated[str, Field(pattern=COLOUR)]
Drops = dict[str, Annotated[float, Field(gt=0, le=10_000)]]


class WantColour(BaseModel):
    """A colour that is wanted; of which paints, all in use where none is named."""

    want: Colour
    paints: list[str] = Field(default=[], max_length=60)


class DriedMix(BaseModel):
    """A mix, and what it dried to, where somebody has seen that; the paint whose strength that tells."""

    drops: Drops = Field(min_length=1, max_length=12)
    dried: Colour | None = None
    tells: str | None = Field(default=None, max_length=60)


class MixTold(BaseModel):
    """What a mix dries to, an estimate; how far that is from what it dried to (CIEDE2000), and the strength of the
    paint that was asked for."""

    colour: str
    difference: float | None
    strength: float | None


@router.post("/colours/proposals")
def propose(asked: WantColour, studio: AtStudio) -> list[Proposal]:
    """The mixes in whole drops that come nearest to a colour."""
    there = _paints(studio)
    chosen = [there[name] for name in asked.paints if name in there] or list(there.values())
    stock = studio.stock.there()
    found = proposals(asked.want, [one for one in chosen if stock.get(key_of_paint(one.id), 1.0) > 0])
    if not found:
        raise Refused("There is no paint to mix: put paints on the bench, or count what is in their bottles.")
    return list(found)


@router.post("/colours/mixes")
def mix(asked: DriedMix, studio: AtStudio) -> MixTold:
    """What a mix dries to."""
    there = _paints(studio)
    if missing := sorted(set(asked.drops) - set(there)):
        raise Refused(f"{missing[0]} is not on the bench: choose another paint.")
    if len({there[name].base for name in asked.drops}) > 1:
        raise Refused("Paints that are thinned with different things curdle in one cup: mix paints of one base.")
    colour = mixed_colour(there, asked.drops)
    if asked.dried is None:
        return MixTold(colour=colour, difference=None, strength=None)
    away = float(difference(lab_of(light_of(colour)), lab_of(light_of(asked.dried))))
    strength = None
    if asked.tells in asked.drops and len(asked.drops) > 1:
        strength = strength_from(there[asked.tells], there, asked.drops, asked.dried)
    return MixTold(colour=colour, difference=away, strength=strength)


def _paints(studio: Studio) -> dict[str, Paint]:
    return {one.id: one for one in studio.bench.value.paints if not one.retired}
