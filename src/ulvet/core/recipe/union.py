"""All kinds of step as one discriminated union, gathered from the stations."""

from functools import cache, reduce
from importlib import import_module
from operator import or_
from pkgutil import iter_modules
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, SerializeAsAny, TypeAdapter

import ulvet.core
from ulvet.core.recipe.step import AnchoredStep, Step

__all__ = ["AnyStep", "step_adapter", "step_kinds"]


@cache
def step_kinds() -> dict[str, type[Step]]:
    """Every kind of step by name: the ``Step`` subclasses of each ``ulvet.core.<station>.steps``."""
    for station in iter_modules(ulvet.core.__path__):
        names = iter_modules([f"{path}/{station.name}" for path in ulvet.core.__path__])
        if station.ispkg and any(module.name == "steps" for module in names):
            import_module(f"ulvet.core.{station.name}.steps")
    subclasses = [*Step.__subclasses__(), *AnchoredStep.__subclasses__()]
    kinds = {kind.model_fields["kind"].default: kind for kind in subclasses if kind is not AnchoredStep}
    return dict(sorted(kinds.items()))


@cache
def step_adapter() -> TypeAdapter[Any]:
    """Reads and checks one step of any kind, by its ``kind``."""
    union: Any = reduce(or_, step_kinds().values())
    return TypeAdapter[Any](Annotated[union, Field(discriminator="kind")])


def _read(value: object) -> object:
    return value if isinstance(value, Step) else step_adapter().validate_python(value)


AnyStep = Annotated[SerializeAsAny[Step], BeforeValidator(_read)]
"""A field that holds a step of any kind."""
