"""What everything on the bench is: values with unit, range and origin, under an id that stays."""

from datetime import date
from enum import StrEnum
from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict, Field

__all__ = ["BENCH_DEFAULT", "COLOUR", "ID", "BenchItem", "Origin", "OriginKind", "value", "with_only"]

ID = r"^[a-z0-9][a-z0-9-]{0,59}$"
"""Form of the id of anything on the bench: small letters, digits and hyphens."""
COLOUR = r"^#[0-9a-f]{6}$"
"""Form of a colour: red, green and blue as screens show them (sRGB), in hex."""


Model = TypeVar("Model", bound=BaseModel)


class OriginKind(StrEnum):
    """Where a value comes from; one learnt from the user's own proofs replaces the others."""

    BENCH_DEFAULT = "bench default"
    USER = "user"
    LEARNT = "learnt"


class Origin(BaseModel):
    """Where a value comes from, and since when where it is no bench default."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: OriginKind = OriginKind.BENCH_DEFAULT
    since: date | None = None
    proofs: tuple[int, ...] = Field(default=(), max_length=400)
    """Numbers of the proofs it was learnt from."""


BENCH_DEFAULT = Origin()
"""The origin of every value that nobody has changed."""


def value(title: str, unit: str = "", **limits: Any) -> Any:
    """The field of a value that a user sets: its label, its unit, and the range that Pydantic holds it to."""
    return Field(title=title, json_schema_extra={"unit": unit}, **limits)


def with_only(model: Model, names: set[str]) -> Model:
    """A model with these of its fields and nothing else, so that reading another raises AttributeError."""
    bare = type(model).model_construct(_fields_set=names)
    bare.__dict__.clear()
    bare.__dict__.update({name: getattr(model, name) for name in names})
    return bare


class BenchItem(BaseModel):
    """One thing on the bench. ``origins`` holds those of values that are no bench default, by the path of the field
    (``walls.pin.stop``); a retired item is offered no more and serves what used it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=ID)
    name: str = Field(min_length=1, max_length=60, title="Name")
    retired: bool = False
    origins: dict[str, Origin] = Field(default_factory=dict, max_length=200)

    def origin_of(self, path: str) -> Origin:
        """The origin of the value at a path, or of the group that it is in."""
        while path not in self.origins and "." in path:
            path = path.rpartition(".")[0]
        return self.origins.get(path, BENCH_DEFAULT)
