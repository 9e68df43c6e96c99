"""Stock over HTTP: what is there, the ledger, and both as CSV."""

import datetime
from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, RowNumber
from ulvet.api.uploads import A_FILE
from ulvet.core.stock.ledger import MOST_AMOUNT, Entry, EntryKind, Standing, standing
from ulvet.core.stock.ledger_csv import ledger_csv
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(prefix="/stock", tags=["stock"])

_MOST_BYTES = 4_000_000
"""Of a ledger as CSV: one of twenty thousand lines has some two million."""


class LineView(BaseModel):
    """A line of the ledger; ``number`` is None of one that follows from a print, which cannot be struck out here."""

    number: int | None
    entry: Entry


class StockView(BaseModel):
    """What is there, and the ledger, the newest line first."""

    standing: list[Standing]
    lines: list[LineView]


class EnterStock(BaseModel):
    """So much delivered, used or thrown away, or, of a count, so much there."""

    good: str = Field(max_length=90)
    kind: EntryKind
    amount: Annotated[float, Field(ge=0, le=MOST_AMOUNT, allow_inf_nan=False)]
    day: datetime.date
    says: str = Field(default="", max_length=200)


class StockEntered(BaseModel):
    """Numbers of the lines that were entered, by which they can be struck out again, and the stock after it."""

    numbers: list[int]
    stock: StockView


@router.get("")
def stock(studio: AtStudio) -> StockView:
    """What is there, and how it came to be."""
    return _view(studio)


@router.post("", status_code=201)
def enter(asked: EnterStock, studio: AtStudio) -> StockEntered:
    """Enter a line."""
    number = studio.stock.enter(asked.good, asked.kind, asked.amount, asked.day, asked.says)
    return StockEntered(numbers=[number], stock=_view(studio))


@router.delete("/{line}")
def strike(line: RowNumber, studio: AtStudio) -> StockView:
    """Let a line count no more."""
    studio.stock.strike(line)
    return _view(studio)


@router.post("/{line}/put-back")
def put_back(line: RowNumber, studio: AtStudio) -> StockView:
    """Let a line count again."""
    studio.stock.strike(line, struck=False)
    return _view(studio)


@router.get("/ledger.csv", response_class=Response)
def as_csv(studio: AtStudio) -> Response:
    """The ledger as CSV, the oldest line first."""
    text = ledger_csv([line.entry for line in studio.stock.lines()], studio.stock.goods())
    headers = {"Content-Disposition": 'attachment; filename="ledger.csv"'}
    return Response(text, media_type="text/csv", headers=headers)


@router.post("/ledger.csv", status_code=201, openapi_extra=A_FILE)
async def from_csv(request: Request, studio: AtStudio) -> StockEntered:
    """Enter the lines of a CSV that are not there yet, sent as the body."""
    data = b""
    async for chunk in request.stream():
        data += chunk
        if len(data) > _MOST_BYTES:
            raise Refused("That is too large for a ledger: part it; nothing was entered.")
    numbers = studio.stock.enter_csv(data)
    return StockEntered(numbers=list(numbers), stock=_view(studio))


def _view(studio: Studio) -> StockView:
    lines = studio.stock.lines()
    return StockView(
        standing=list(standing(studio.stock.goods(), [line.entry for line in lines])),
        lines=[LineView(number=line.number, entry=line.entry) for line in reversed(lines)],
    )
