"""A bench as a file of its own: JSON that a person can read, and that is refused field by field."""

import json
from typing import Any, Final

from pydantic import ValidationError

from ulvet.core.bench.bench import Bench

__all__ = ["BENCH_VERSION", "UnusableBench", "bench_text", "read_bench"]

BENCH_VERSION: Final = 2
"""Version of the file's form, written into it."""


class UnusableBench(ValueError):
    """A bench file that cannot be used; ``problems`` has one sentence for each field that is wrong."""

    def __init__(self, *problems: str) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems


def bench_text(bench: Bench) -> str:
    """The bench as JSON; equal benches give equal text."""
    held = {"ulvet_bench": BENCH_VERSION, **bench.model_dump(mode="json")}
    return json.dumps(held, indent=2, ensure_ascii=False) + "\n"


def read_bench(text: str | bytes) -> Bench:
    """The bench in a file's text.

    Raises UnusableBench.
    """
    try:
        held = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise UnusableBench(
            "It is no JSON, so no bench can be read from it: write one with “ulvet bench export”."
        ) from error
    if not isinstance(held, dict) or "ulvet_bench" not in held:
        raise UnusableBench("It is no bench of Ulvet: write one with “ulvet bench export” and change that.")
    version = held.pop("ulvet_bench")
    if version != BENCH_VERSION:
        raise UnusableBench(f"It is a bench of version {version!r}, and this Ulvet reads version {BENCH_VERSION}.")
    try:
        return Bench.model_validate(held)
    except ValidationError as error:
        raise UnusableBench(*(_sentence(held, one) for one in error.errors())) from error


def _sentence(held: dict[str, Any], error: Any) -> str:
    """What is wrong with one field, with the name of the printer or material it is of."""
    value: Any = held
    path = []
    for step in error["loc"]:
        value = value[step] if isinstance(value, list) and isinstance(step, int) and step < len(value) else (
            value.get(step) if isinstance(value, dict) else None
        )  # fmt: skip
        named = value.get("name") if isinstance(value, dict) else None
        path.append(str(named) if isinstance(step, int) and named else str(step).replace("_", " "))
    says = error["msg"].removeprefix("Value error, ")
    return f"{', '.join(path)}: {says}." if path else says
