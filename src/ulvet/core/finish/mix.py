"""A mix that was made: its paints in drops, parts or grams, how much of it, and what it dried to."""

import datetime
from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.item import COLOUR, ID
from ulvet.core.bench.paints import Paint

__all__ = ["Mix", "amounts_for", "shares_of"]

_DROPS_A_ML = 25.0
"""Of a paint that is not on the bench any more (bench default)."""
PaintId = Annotated[str, Field(pattern=ID)]
Amount = Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]


class Mix(BaseModel):
    """One mix in a cup. Parts are by volume; grams count as if all paints were equally dense, which water paints are
    within a tenth."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(min_length=1, max_length=60)
    amounts: dict[PaintId, Amount] = Field(min_length=1, max_length=12)
    """By the id of a paint how much of it, in ``by``."""
    by: Literal["drops", "parts", "grams"] = "drops"
    made_ml: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]
    day: datetime.date
    dried: str | None = Field(default=None, pattern=COLOUR)
    """What it dried to, in hex; None where nobody has looked."""


def shares_of(mix: Mix, paints: Mapping[str, Paint]) -> dict[str, float]:
    """By paint the share of a mix's volume."""
    volumes = {
        name: amount / (paints[name].drops_a_ml if name in paints else _DROPS_A_ML) if mix.by == "drops" else amount
        for name, amount in mix.amounts.items()
    }
    whole = sum(volumes.values())
    return {name: volume / whole for name, volume in volumes.items()}


def amounts_for(mix: Mix, ml: float, paints: Mapping[str, Paint]) -> dict[str, float]:
    """By paint how much of it makes so many ml of a mix, in what the mix is counted by; drops are whole, and at least
    one."""
    shares = shares_of(mix, paints)
    if mix.by == "drops":
        drops = {name: share * ml * (paints[name].drops_a_ml if name in paints else _DROPS_A_ML)
                 for name, share in shares.items()}  # fmt: skip
        return {name: float(max(round(count), 1)) for name, count in drops.items()}
    whole = sum(mix.amounts.values())
    scale = ml if mix.by == "grams" else whole
    return {name: share * scale for name, share in shares.items()}
