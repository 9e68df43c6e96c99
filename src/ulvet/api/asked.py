"""What a request names: the studio, a row, the revision that was seen and the edition that is looked at."""

from typing import Annotated

from fastapi import Depends, Header, Path, Query, Request

from ulvet.core.stations import Station
from ulvet.work.studio import Seen, Studio

__all__ = ["AtStudio", "IfMatch", "LookedEdition", "RowNumber", "look_at"]


def _studio(request: Request) -> Studio:
    studio: Studio = request.app.state.studio
    return studio


AtStudio = Annotated[Studio, Depends(_studio)]
RowNumber = Annotated[int, Path(ge=0, le=2**63 - 1, description="A number as the database counts.")]


def _looked_at(
    header: Annotated[
        str,
        Header(
            alias="X-Ulvet-Edition", max_length=20, description="Id of the edition that is looked at; else the first."
        ),
    ] = "",
    edition: Annotated[str, Query(max_length=20, description="The same, for what is opened by its address.")] = "",
) -> str:
    return edition or header


LookedEdition = Annotated[str, Depends(_looked_at)]


def _seen(
    revision: Annotated[int, Header(alias="If-Match", description="Number of the revision that was seen.")],
    edition: LookedEdition,
) -> Seen:
    return Seen(revision, edition)


IfMatch = Annotated[Seen, Depends(_seen)]


def look_at(
    number: RowNumber,
    studio: AtStudio,
    station: Annotated[
        Station | None, Header(alias="X-Ulvet-Station", description="The station whose sheet is open; seen first.")
    ] = None,
) -> None:
    """Remember which station of a figure is looked at."""
    if station is not None:
        studio.looked_at[number] = station
