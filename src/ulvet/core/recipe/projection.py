"""What a step or a check declares to read, by name, and nothing else."""

from collections.abc import Iterable, Mapping
from typing import Any

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.setup import Setup

__all__ = ["declared", "projected"]


def projected(values: Mapping[str, Any], names: Iterable[str]) -> dict[str, Any]:
    """The named values. Of a setup, of several and of the bench a path (``setup.setting.layer``, ``bench.printers``)
    gives the whole with nothing else in it, so that what was not declared cannot be read.

    Raises KeyError for a name that is not among the values.
    """
    paths: dict[str, list[str]] = {}
    for name in names:
        base, _, path = name.partition(".")
        paths.setdefault(base, []).append(path)
    return {base: _only(values[base], of) if any(of) else values[base] for base, of in paths.items()}


def declared(values: Mapping[str, Any], names: Iterable[str]) -> dict[str, Any]:
    """Every named value under its whole name, to make a key of."""
    found = {}
    for name in names:
        base, _, path = name.partition(".")
        found[name] = _at(values[base], path) if path else values[base]
    return found


def _only(value: Any, paths: list[str]) -> Any:
    if isinstance(value, Setup | Bench):
        return value.only(paths)
    return tuple(one.only(paths) for one in value)


def _at(value: Any, path: str) -> Any:
    if isinstance(value, Setup | Bench):
        return value.value(path)
    return [one.value(path) for one in value]
