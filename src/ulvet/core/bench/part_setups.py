"""The setups of a figure in one edition: the usual one, and those of parts that have their own."""

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.lineage import own_or_inherited

__all__ = ["PartSetups"]


class PartSetups:
    """By part the setup it is printed with.

    Raises UnknownOnBench for a setting that is not on the bench.
    """

    def __init__(self, bench: Bench, edition: Edition) -> None:
        self.usual = bench.setup(edition.setting)
        self._own = {part: bench.setup(setting) for part, setting in edition.part_settings.items()}

    def of(self, part: str) -> Setup:
        """The setup of a part by its name; one that was cut off has that of what it was cut from."""
        held = own_or_inherited(part, self._own)
        return self.usual if held is None else self._own[held]

    @property
    def all(self) -> tuple[Setup, ...]:
        """Every setup, the usual one first, the others by part."""
        return (self.usual, *(self._own[part] for part in sorted(self._own)))
