"""Painted copies, mixes that were made, and the air where it is painted, over HTTP."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Header
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.core.bench.paints import Paint
from ulvet.core.finish.amounts import sums_of_paint
from ulvet.core.finish.check_air import Air
from ulvet.core.finish.checks import colour_plan
from ulvet.core.finish.mix import Mix, amounts_for
from ulvet.core.finish.mixing import mixed_colour
from ulvet.core.finish.painted import PaintedCopy, RowDone
from ulvet.core.stock.good import key_of_mix
from ulvet.work.painting import PaintedNow, air_of, set_air
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["painting"])

SeenCopy = Annotated[int, Header(alias="If-Match", description="Number of the copy's revision that was seen.")]


class PaintedView(BaseModel):
    """A painted copy as it stands."""

    number: int
    revision: int
    can_undo: bool
    can_redo: bool
    painted: PaintedCopy
    told_min: float = Field(description="Minutes that were told for what is done.")
    took_min: float


class EnterPainted(BaseModel):
    """A painted copy, whole; ``says`` names what was entered."""

    painted: PaintedCopy
    says: str = Field(min_length=1, max_length=200)


class MixView(BaseModel):
    """A mix that was made, and what is left of it by the ledger."""

    number: int
    mix: Mix
    colour: str = Field(description="What it dries to: as somebody saw it, else an estimate.")
    left_ml: float


class AmountsView(BaseModel):
    """How much of each paint makes so much of a mix, in what the mix is counted by."""

    amounts: dict[str, float]


@router.get("/figures/{number}/painted")
def copies(number: RowNumber, studio: AtStudio) -> list[PaintedView]:
    """The painted copies of a figure, the oldest first."""
    studio.figure_and_head(number)
    return _of_figure(studio, number)


@router.post("/figures/{number}/painted", status_code=201)
def begin(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> list[PaintedView]:
    """Begin a copy, with the order of work and the stacks as they are planned now."""
    figure, head, record, _ = studio.figure(number, edition)
    if record is None:
        raise Refused(f"{figure.name} is still being checked: begin when that is done.")
    looked = studio.edition(head, edition)
    finish = record.finish
    plan = colour_plan(studio.asked(head, edition)[0])
    takes = sums_of_paint(finish.meant.roles, studio.bench.value.paints) if finish.meant else {}
    rows = tuple(RowDone(what=row.what, says=row.says[:400], told_min=row.hands_min) for row in finish.work)
    begun = PaintedCopy(
        figure=figure.id, figure_name=figure.name, edition=looked.id, edition_name=looked.name,
        began=datetime.now(UTC).replace(microsecond=0), rows=rows, takes=takes, done=plan.meant if plan else None,
    )  # fmt: skip
    studio.painted.begin([begun])
    return _of_figure(studio, number)


@router.put("/painted/{copy}")
def enter(copy: RowNumber, asked: EnterPainted, seen: SeenCopy, studio: AtStudio) -> PaintedView:
    """Enter what was done to a copy."""
    of = studio.painted.one(copy).value
    fixed = {"figure": of.figure, "figure_name": of.figure_name, "edition": of.edition, "began": of.began}
    studio.painted.change(copy, seen, asked.says, lambda _: asked.painted.model_copy(update=fixed))
    return _view(studio.painted.one(copy))


@router.post("/painted/{copy}/undo")
def undo(copy: RowNumber, seen: SeenCopy, studio: AtStudio) -> PaintedView:
    """Take the last entry back."""
    studio.painted.undo(copy, seen)
    return _view(studio.painted.one(copy))


@router.post("/painted/{copy}/redo")
def redo(copy: RowNumber, seen: SeenCopy, studio: AtStudio) -> PaintedView:
    """Make the entry again that was taken back last."""
    studio.painted.redo(copy, seen)
    return _view(studio.painted.one(copy))


@router.delete("/painted/{copy}")
def drop(copy: RowNumber, studio: AtStudio) -> list[PaintedView]:
    """Let a copy count no more, of one that was begun by mistake."""
    figure = studio.painted.one(copy).value.figure
    studio.painted.drop(copy)
    return _of_figure(studio, figure)


@router.post("/painted/{copy}/put-back")
def put_back(copy: RowNumber, studio: AtStudio) -> PaintedView:
    """Let a copy count again."""
    studio.painted.drop(copy, dropped=False)
    return _view(studio.painted.one(copy))


@router.get("/mixes")
def mixes(studio: AtStudio) -> list[MixView]:
    """Mixes that were made, the newest first."""
    return _mixes(studio)


@router.post("/mixes", status_code=201)
def make(asked: Mix, studio: AtStudio) -> list[MixView]:
    """Keep a mix that was made: its paints are taken off the ledger, and what it came to is put there."""
    _check(studio, asked)
    studio.mixes.make(asked)
    return _mixes(studio)


@router.put("/mixes/{mix}")
def change(mix: RowNumber, asked: Mix, studio: AtStudio) -> list[MixView]:
    """Say otherwise what a mix was, or what it dried to."""
    _check(studio, asked)
    studio.mixes.change(mix, asked)
    return _mixes(studio)


@router.delete("/mixes/{mix}")
def strike(mix: RowNumber, studio: AtStudio) -> list[MixView]:
    """Let a mix count no more."""
    studio.mixes.strike(mix)
    return _mixes(studio)


@router.post("/mixes/{mix}/put-back")
def put_mix_back(mix: RowNumber, studio: AtStudio) -> list[MixView]:
    """Let a mix count again."""
    studio.mixes.strike(mix, struck=False)
    return _mixes(studio)


@router.post("/mixes/amounts")
def amounts(asked: Mix, studio: AtStudio) -> AmountsView:
    """How much of each paint makes as much of a mix as it names, whatever amounts it was written down with."""
    _check(studio, asked)
    return AmountsView(amounts=amounts_for(asked, asked.made_ml, _paints(studio)))


@router.get("/air")
def air(studio: AtStudio) -> Air:
    """The air where it is painted, as it was read last."""
    with studio.sessions() as session:
        return air_of(session)


@router.put("/air")
def say_air(asked: Air, studio: AtStudio) -> Air:
    """Say what the air is where it is painted."""
    set_air(studio.sessions, asked)
    return asked


def _check(studio: Studio, mix: Mix) -> None:
    there = _paints(studio)
    if missing := sorted(set(mix.amounts) - set(there)):
        raise Refused(f"{missing[0]} is not on the bench: choose another paint; nothing was changed.")
    if len({there[name].base for name in mix.amounts}) > 1:
        raise Refused("Paints that are thinned with different things curdle in one cup: mix paints of one base.")


def _paints(studio: Studio) -> dict[str, Paint]:
    return {one.id: one for one in studio.bench.value.paints}


def _mixes(studio: Studio) -> list[MixView]:
    paints, there = _paints(studio), studio.stock.there()
    return [
        MixView(
            number=number, mix=mix, left_ml=there.get(key_of_mix(number), 0.0),
            colour=mix.dried or mixed_colour(paints, {name: amount for name, amount in mix.amounts.items()
                                                      if name in paints}),
        )
        for number, mix in reversed(studio.mixes.all())
    ]  # fmt: skip


def _of_figure(studio: Studio, figure: int) -> list[PaintedView]:
    return [_view(one) for one in studio.painted.of_figure(figure)]


def _view(one: PaintedNow) -> PaintedView:
    return PaintedView(
        number=one.number, revision=one.revision, can_undo=one.can_undo, can_redo=one.can_redo, painted=one.value,
        told_min=one.value.told_min, took_min=one.value.took_min,
    )  # fmt: skip
