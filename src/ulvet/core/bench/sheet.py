"""The values of a bench as rows of a table: each with its label, unit, range, and where it comes from."""

from collections.abc import Iterator
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel, ConfigDict
from pydantic.fields import FieldInfo

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.bench_edits import is_shipped, shipped_value
from ulvet.core.bench.item import BenchItem, Origin

__all__ = ["ValueKind", "ValueRow", "value_rows"]

ValueKind = Literal["number", "whole number", "size", "text", "choice", "yes or no", "fixed"]
_NAMED = frozenset({"id", "name", "retired", "origins"})
"""Fields of every thing, which are no values of its table."""
_FIXED = frozenset({"process", "kind", "does", "first_layers"})
"""What a thing is: another one is another thing. The first layers of filament are none; those of resin are a number."""

Things = dict[str, dict[str, str]]
_OF_FILAMENT = frozenset({"nozzle", "line"})
"""What only filament has."""


class ValueRow(BaseModel):
    """One value of one thing on the bench."""

    model_config = ConfigDict(frozen=True)

    path: str
    label: str
    group: str
    """Label of the group it belongs to; empty for none."""
    unit: str
    kind: ValueKind
    value: float | bool | str | tuple[float, float, float] | None
    low: float | None
    high: float | None
    above: bool
    """Whether it has to be above ``low``, and may not be equal to it."""
    optional: bool
    """Whether it may be left empty, for what nobody has measured."""
    choices: dict[str, str]
    """Names of the values it may have, by the values."""
    origin: Origin
    shipped: float | bool | str | tuple[float, float, float] | None
    """What Ulvet comes with; None where that is nothing."""


def value_rows(bench: Bench, place: str, item: BenchItem) -> tuple[ValueRow, ...]:
    """The values of a thing that stands in the list ``place`` of the bench, in the order of its fields, those of groups
    last."""
    named = {"printer": bench.printers, "material": bench.materials}
    things = {field: {one.id: one.name for one in of} for field, of in named.items()}
    rows = [
        row for row in _rows(place, item, item, "", "", things) if not (row.path in _OF_FILAMENT and row.value is None)
    ]
    return (*(row for row in rows if not row.group), *(row for row in rows if row.group))


def _rows(place: str, item: BenchItem, model: BaseModel, group: str, before: str, things: Things) -> Iterator[ValueRow]:
    for name, field in type(model).model_fields.items():
        held, path = getattr(model, name), f"{before}{name}"
        if not before and name in _NAMED:
            continue
        if isinstance(held, BaseModel):
            yield from _rows(place, item, held, field.title or group or name.replace("_", " "), f"{path}.", things)
        elif field.title:
            yield _row(place, item, field, held, group, path, things.get(path, {}))


def _row(
    place: str, item: BenchItem, field: FieldInfo, held: Any, group: str, path: str, things: dict[str, str]
) -> ValueRow:
    extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
    low, high, above = _range(field)
    literal = get_args(field.annotation) if get_origin(field.annotation) is Literal else ()
    choices = things or {str(one): str(one) for one in literal}
    fixed = bool(things) and is_shipped(place, item.id)
    return ValueRow(
        path=path,
        label=field.title or path,
        group=group,
        unit=str(extra.get("unit", "")),
        kind="fixed" if fixed else _kind(field, path.rpartition(".")[2], bool(choices)),
        value=held,
        low=low,
        high=high,
        above=above,
        optional=type(None) in get_args(field.annotation),
        choices=choices,
        origin=item.origin_of(path),
        shipped=shipped_value(place, item.id, path),
    )


def _kind(field: FieldInfo, name: str, choices: bool) -> ValueKind:
    if name in _FIXED and (choices or name != "first_layers"):
        return "fixed"
    if choices:
        return "choice"
    kinds = {kind for kind in (field.annotation, *get_args(field.annotation)) if isinstance(kind, type)}
    if get_origin(field.annotation) is tuple:
        return "size"
    if bool in kinds:
        return "yes or no"
    if int in kinds:
        return "whole number"
    return "text" if str in kinds else "number"


def _range(field: FieldInfo) -> tuple[float | None, float | None, bool]:
    """The lowest and highest value a field may have, and whether it has to be above the lowest."""
    bounds: dict[str, Any] = {}
    for one in field.metadata:
        bounds |= {name: getattr(one, name) for name in ("ge", "gt", "le", "lt") if hasattr(one, name)}
    return bounds.get("gt", bounds.get("ge")), bounds.get("lt", bounds.get("le")), "gt" in bounds
