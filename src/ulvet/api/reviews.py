"""A second pair of eyes over HTTP."""

from fastapi import APIRouter, Request, Response

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.api.uploads import A_FILE
from ulvet.work import reviews
from ulvet.work.refusals import Refused
from ulvet.work.reviews import KeptReview

__all__ = ["router"]

router = APIRouter(prefix="/figures/{number}", tags=["proof"])

_MOST_BYTES = 1_000_000
"""Of an answer: one with a hundred pins has some sixty thousand."""


@router.get("/review.html", response_class=Response)
def page(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> Response:
    """One HTML file in which somebody else looks at the figure and answers."""
    name, data = reviews.page_for_review(studio, number, edition)
    # Handed out to be saved: it is never a page of this program.
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type="text/html", headers=headers)


@router.get("/reviews")
def said(number: RowNumber, studio: AtStudio) -> list[KeptReview]:
    """What others said, the newest first."""
    return reviews.reviews_of(studio, number)


@router.post("/reviews", openapi_extra=A_FILE)
async def keep(number: RowNumber, edition: LookedEdition, request: Request, studio: AtStudio) -> list[KeptReview]:
    """Keep an answer that came back, sent as the body."""
    data = b""
    async for chunk in request.stream():
        data += chunk
        if len(data) > _MOST_BYTES:
            raise Refused("That is too large for an answer: choose the file that was saved on the review's page.")
    reviews.keep_review(studio, number, data, edition)
    return reviews.reviews_of(studio, number)


@router.delete("/reviews/{place}")
def forget(number: RowNumber, place: RowNumber, studio: AtStudio) -> list[KeptReview]:
    """Forget a review, by its place in the list."""
    reviews.forget_review(studio, number, place)
    return reviews.reviews_of(studio, number)
