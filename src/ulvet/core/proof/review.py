"""A second pair of eyes: one HTML file that shows a figure and takes an answer, and the answer as it comes back."""

import base64
import html
import json
from collections.abc import Sequence
from importlib.resources import files
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ulvet.core.geometry.mesh import Mesh, bounds, concatenated

__all__ = ["Review", "ReviewPin", "UnusableReview", "read_review", "review_page", "seal_of"]

_KIND = "ulvet-review/1"
_STEPS = 65_535
"""Of each side of the figure's box: under a thousandth of a mm of 60 mm."""


class UnusableReview(ValueError):
    """An answer that cannot be used; its text is for the user."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class ReviewPin(_Value):
    """A place that somebody pointed at, figure mm, and what it is."""

    part: Annotated[str, Field(max_length=400)]
    point: tuple[float, float, float]
    says: Annotated[str, Field(max_length=400)]


class Review(_Value):
    """What somebody said of a version."""

    review: Literal["ulvet-review/1"] = "ulvet-review/1"
    build: Annotated[str, Field(max_length=64)]
    by: Annotated[str, Field(max_length=80)] = ""
    verdict: Literal["yes", "no"]
    words: Annotated[str, Field(max_length=4_000)] = ""
    pins: tuple[ReviewPin, ...] = Field(default=(), max_length=100)
    seal: Annotated[str, Field(max_length=8)]
    """Sum over all that is said, by which a change on the way is seen."""


def review_page(
    name: str, about: str, build: str, parts: Sequence[tuple[str, Mesh]], known: Sequence[str], file: str
) -> bytes:
    """One HTML file that needs nothing else: the parts by name (figure mm) to turn, what is known of them, pins to set,
    words, yes or no. The answer is saved under the name ``file``."""
    low, high = bounds(concatenated(*(mesh for _, mesh in parts)))
    size = np.where(high > low, high - low, 1.0)
    data = {
        "review": _KIND, "name": name, "about": about, "build": build, "known": list(known), "file": file,
        "low": low.tolist(), "size": size.tolist(),
        "parts": [
            {
                "name": part,
                "corners": _text(np.round((mesh.vertices - low) / size * _STEPS).astype("<u2")),
                "faces": _text(mesh.faces.astype("<u4")),
            }
            for part, mesh in parts
        ],
    }  # fmt: skip
    template = files("ulvet.core.proof").joinpath("review.html").read_text("utf-8")
    # What ends a script would end the page's data.
    written = json.dumps(data, ensure_ascii=False).replace("<", "\\u003c")
    return template.replace("{{title}}", html.escape(name)).replace("{{data}}", written).encode()


def read_review(data: bytes) -> Review:
    """An answer as it came back.

    Raises UnusableReview for what is none, or was changed on the way.
    """
    try:
        review = Review.model_validate_json(data)
    except ValidationError as error:
        raise UnusableReview(
            "This is no answer to a review: choose the file that was saved on its page; nothing was kept."
        ) from error
    if seal_of(review) != review.seal:
        raise UnusableReview(
            "This answer was changed after it was saved: ask for it again as it was; nothing was kept."
        )
    return review


def seal_of(review: Review) -> str:
    """The sum over what a review says, as its page makes it (FNV-1a with 32 bits; Fowler, Noll and Vo 1991)."""
    lines = [review.build, review.by, review.verdict, review.words]
    for pin in review.pins:
        lines += [pin.part, ",".join(f"{value:.3f}" for value in pin.point), pin.says]
    total = 0x811C9DC5
    for byte in "\n".join(lines).encode("utf-8", "replace"):
        total = ((total ^ byte) * 0x01000193) & 0xFFFFFFFF
    return f"{total:08x}"


def _text(values: np.ndarray) -> str:
    return base64.b64encode(np.ascontiguousarray(values).tobytes()).decode()
