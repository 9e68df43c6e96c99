"""Changes of a bench, each as a new bench: a value set, taken back to the default, a thing added, copied, retired."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.item import BENCH_DEFAULT, BenchItem, Origin, OriginKind

__all__ = [
    "IllegalBench",
    "default_of",
    "is_shipped",
    "shipped_value",
    "with_copy",
    "with_learnt",
    "with_retired",
    "with_value",
    "with_value_as_shipped",
]


class IllegalBench(ValueError):
    """A change that a bench cannot take; its text is for the user."""


def with_value(bench: Bench, place: str, thing: str, path: str, value: Any, today: date) -> Bench:
    """The bench with one value set, at the path of its field (``walls.pin.stop``), which is the user's own from today.

    Raises IllegalBench where there is no such value, and pydantic's ValidationError for what it may not be.
    """
    held = _item(bench, place, thing)
    origin = Origin(kind=OriginKind.USER, since=today)
    value = list(value) if isinstance(value, tuple) else value
    if value == _at(held.model_dump(mode="json"), path):
        return bench
    if _shipped(place, thing, path) == value:
        origin = BENCH_DEFAULT
    return _with_item(bench, place, _with(held, path, value, origin))


def with_learnt(
    bench: Bench, place: str, thing: str, path: str, value: Any, proofs: Sequence[int], today: date
) -> Bench:
    """The bench with one value as proofs, or coupons where there are none, have taught it.

    Raises IllegalBench where there is no such value, and pydantic's ValidationError for what it may not be.
    """
    origin = Origin(kind=OriginKind.LEARNT, since=today, proofs=tuple(proofs))
    return _with_item(bench, place, _with(_item(bench, place, thing), path, value, origin))


def with_value_as_shipped(bench: Bench, place: str, thing: str, path: str) -> Bench:
    """The bench with one value as Ulvet comes with it.

    Raises IllegalBench where it does not come with one.
    """
    held = _item(bench, place, thing)
    return _with_item(bench, place, _with(held, path, default_of(place, thing, path), BENCH_DEFAULT))


def default_of(place: str, thing: str, path: str) -> Any:
    """The value that Ulvet comes with.

    Raises IllegalBench where it comes with none.
    """
    shipped = _shipped(place, thing, path)
    if shipped is _NONE:
        raise IllegalBench("Ulvet comes with no value of that: it is your own.")
    return shipped


def with_copy(bench: Bench, place: str, thing: str, name: str, today: date) -> tuple[Bench, str]:
    """The bench with a copy of a thing under another name, behind it, and the id of the copy. All its values are the
    user's own.

    Raises IllegalBench, pydantic's ValidationError.
    """
    held = _item(bench, place, thing)
    known = {one.id for one in getattr(bench, place)}
    stem = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in name.lower()).strip("-")[:50]
    ids = (stem or place, *(f"{stem or place}-{number}" for number in range(2, len(known) + 3)))
    new = next(one for one in ids if one not in known)
    mine = Origin(kind=OriginKind.USER, since=today)
    said = {field: mine for field in type(held).model_fields if field not in BenchItem.model_fields}
    copy = type(held).model_validate({**held.model_dump(), "id": new, "name": name, "retired": False, "origins": said})
    items = list(getattr(bench, place))
    items.insert(items.index(held) + 1, copy)
    return _checked(bench, place, items), new


def with_retired(bench: Bench, place: str, thing: str, retired: bool) -> Bench:
    """The bench with a thing offered no more, or offered again.

    Raises IllegalBench where nothing would be left to print with.
    """
    held = _item(bench, place, thing).model_copy(update={"retired": retired})
    changed = _with_item(bench, place, held)
    if not changed.in_use():
        raise IllegalBench("Nothing would be left to print with: add another setting before you retire this.")
    return changed


def is_shipped(place: str, thing: str) -> bool:
    """Whether Ulvet comes with a thing."""
    return (place, thing) in _SHIPPED


def shipped_value(place: str, thing: str, path: str) -> Any:
    """The value that Ulvet comes with, None where it comes with none."""
    found = _shipped(place, thing, path)
    return None if found is _NONE else found


_NONE = object()
_SHIPPED = {
    (place, one.id): one.model_dump(mode="json")
    for place in Bench.model_fields
    for one in getattr(DEFAULT_BENCH, place)
}


def _shipped(place: str, thing: str, path: str) -> Any:
    """The value Ulvet comes with; ``_NONE`` where it comes with none."""
    found = _SHIPPED.get((place, thing))
    return _NONE if found is None else _at(found, path)


def _item(bench: Bench, place: str, thing: str) -> BenchItem:
    items: tuple[BenchItem, ...] = getattr(bench, place, ()) if place in Bench.model_fields else ()
    found = next((one for one in items if one.id == thing), None)
    if found is None:
        raise IllegalBench("That is not on the bench any more: look at it again.")
    return found


def _with_item(bench: Bench, place: str, item: BenchItem) -> Bench:
    return _checked(bench, place, [item if one.id == item.id else one for one in getattr(bench, place)])


def _checked(bench: Bench, place: str, items: list[BenchItem]) -> Bench:
    """The bench with other items, checked as a whole."""
    return Bench.model_validate({**{name: getattr(bench, name) for name in Bench.model_fields}, place: tuple(items)})


def _with(item: BenchItem, path: str, value: Any, origin: Origin) -> BenchItem:
    held = item.model_dump(mode="json")
    _at(held, path)
    inner, names = held, path.split(".")
    for name in names[:-1]:
        inner = inner[name]
    inner[names[-1]] = value
    others = {name: one for name, one in item.origins.items() if name != path}
    if origin != BENCH_DEFAULT or (item.origin_of(path) != BENCH_DEFAULT and path not in item.origins):
        others[path] = origin
    return type(item).model_validate({**held, "origins": others})


def _at(held: dict[str, Any], path: str) -> Any:
    value: Any = held
    for name in path.split("."):
        if not isinstance(value, dict) or name not in value or name in ("id", "origins"):
            raise IllegalBench("There is no such value on the bench: look at it again.")
        value = value[name]
    return value
