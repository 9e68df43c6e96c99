"""What holds for the whole studio: its name, its money, and how it writes dates."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, StringConstraints

from ulvet.store.models import StudioValue
from ulvet.work.studio import Studio

__all__ = ["StudioProfile", "profile_of", "set_profile"]

_NAME = "studio"
Short = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
Currency = Annotated[str, StringConstraints(max_length=8, strip_whitespace=True)]


class StudioProfile(BaseModel):
    """The studio's name, the sign of its money, and the order in which it writes day, month and year."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Short = "Sedgewater"
    currency: Currency = ""
    """Empty where sums are written without one."""
    dates: Literal["day-month-year", "month-day-year", "year-month-day"] = "day-month-year"


def profile_of(studio: Studio) -> StudioProfile:
    """What the studio has said; the defaults before it has."""
    with studio.sessions() as session:
        held = session.get(StudioValue, _NAME)
    return StudioProfile() if held is None else StudioProfile.model_validate(held.value)


def set_profile(studio: Studio, profile: StudioProfile) -> None:
    """Keep what the studio says of itself."""
    with studio.sessions.begin() as session:
        session.merge(StudioValue(name=_NAME, value=profile.model_dump(mode="json")))
