"""A value that proofs and coupons taught."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

__all__ = ["Learnt"]

Kind = Literal["value", "at least", "at most"]


class Learnt(BaseModel):
    """One value that was learnt, with the range that holds nine times in ten, None where too little is known."""

    model_config = ConfigDict(frozen=True)

    thing: str
    """Id of the setting it is of."""
    path: str
    """Of the value on the bench that it may replace; empty where there is none."""
    title: str
    unit: str
    value: float
    low: float | None
    high: float | None
    kind: Kind = "value"
    count: int
    """Readings it comes from."""
    proofs: tuple[int, ...]
    """Numbers of the proofs among them."""
    outliers: tuple[str, ...] = ()
    """Readings that were left out, in words."""
    now: float | None
    """The bench's value."""
    says: str = ""
