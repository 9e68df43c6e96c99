"""All kinds of step as one discriminated union, gathered from the stations."""

from functools import cache, reduce
from importlib import import_module
from operator import or_
from pkgutil import iter_modules
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, GetJsonSchemaHandler, SerializeAsAny, TypeAdapter
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema

import ulvet.core
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.unknown import UnknownStep

__all__ = ["AnyStep", "step_adapter", "step_in", "step_kinds"]


@cache
def step_kinds() -> dict[str, type[Step]]:
    """Every kind of step by name: ``Step`` subclasses in ``steps.py`` and ``*_steps.py`` of the rooms of the core."""
    for room in iter_modules(ulvet.core.__path__):
        if room.ispkg:
            for module in iter_modules([f"{path}/{room.name}" for path in ulvet.core.__path__]):
                if module.name == "steps" or module.name.endswith("_steps"):
                    import_module(f"ulvet.core.{room.name}.{module.name}")
    named = {kind.model_fields["kind"].default: kind for kind in _below(Step) if not kind.__subclasses__()}
    kinds = {name: kind for name, kind in named.items() if isinstance(name, str)}
    return dict(sorted(kinds.items()))


def _below(kind: type[Step]) -> list[type[Step]]:
    return [below for child in kind.__subclasses__() for below in (child, *_below(child))]


@cache
def step_adapter() -> TypeAdapter[Any]:
    """Reads and checks one step of any kind, by its ``kind``."""
    union: Any = reduce(or_, step_kinds().values())
    return TypeAdapter[Any](Annotated[union, Field(discriminator="kind")])


def step_in(step: Step, variant: str) -> Step:
    """A step as a variant says it is; itself where that says nothing of it and no other does.

    Raises pydantic's ValidationError for fields that the step cannot have.
    """
    if not step.variants:
        return step
    values = step.variants.get(variant, {})
    if "kind" not in values:
        values = {**step.model_dump(exclude={"variants"}), **values}
    return _read({**values, "id": step.id})


def _read(value: Any) -> Step:
    if isinstance(value, Step):
        return value
    if isinstance(value, dict) and isinstance(kind := value.get("kind"), str) and kind not in step_kinds():
        return UnknownStep.model_validate(value)
    made: Step = step_adapter().validate_python(value)
    return made


class _AllKinds:
    """Puts every kind with all its fields into the contract, but for those of other versions, which have none."""

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        return handler(step_adapter().core_schema)


AnyStep = Annotated[SerializeAsAny[Step], BeforeValidator(_read), _AllKinds]
"""A field that holds a step of any kind."""
