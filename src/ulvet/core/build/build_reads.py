"""What a build reads of the bench, to know it by."""

from functools import cache
from typing import Any

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.findings.check import check_kinds
from ulvet.core.recipe.runner import Recipe, plain_value

__all__ = ["values_read"]


def values_read(recipe: Recipe, edition: Edition, bench: Bench) -> dict[str, Any]:
    """Every value of the bench that a build of a recipe in an edition reads, by name, as plain values; those of parts
    that have their own setting after the usual ones.

    Raises UnknownOnBench.
    """
    names = {name for step in recipe.steps if step.on for name in step.needs} | _read_by_checks()
    setups = PartSetups(bench, edition).all
    of_setup = sorted({name.partition(".")[2] for name in names if name.startswith(("setup.", "setups."))})
    of_bench = sorted({name.partition(".")[2] for name in names if name.startswith("bench.")})
    return {
        "setups": [[plain_value(setup.value(path)) for path in of_setup] for setup in setups],
        "bench": [plain_value(bench.value(path)) for path in of_bench],
        "names": [of_setup, of_bench],
    }


@cache
def _read_by_checks() -> frozenset[str]:
    return frozenset(name for kind in check_kinds() for name in (*kind.context_names, *kind.judge_names))
