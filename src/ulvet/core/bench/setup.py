"""A printer with a material it can print, and the setting of both."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar

from ulvet.core.bench.item import BenchItem, with_only
from ulvet.core.bench.limits import WallLimits
from ulvet.core.bench.materials import Material
from ulvet.core.bench.printers import Printer, Process
from ulvet.core.bench.settings import Setting
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.lengths import PrintMM

__all__ = ["Setup", "UnknownOnBench"]

Item = TypeVar("Item", bound=BenchItem)


class UnknownOnBench(ValueError):
    """A printer, material or setting that is not on the bench, or that do not go together; its text is for the user."""


@dataclass(frozen=True)
class Setup:
    """What a figure is printed on and of, all of one process."""

    printer: Printer
    material: Material
    setting: Setting

    @property
    def retired(self) -> bool:
        """Whether anything of it is offered no more."""
        return self.printer.retired or self.material.retired or self.setting.retired

    @property
    def process(self) -> Process:
        """What prints it."""
        return self.printer.process

    @property
    def layer(self) -> PrintMM:
        """Layer height."""
        return self.setting.layer

    @property
    def pixel(self) -> PrintMM:
        """Finest step across."""
        return self.printer.pixel

    @property
    def line(self) -> PrintMM:
        """Narrowest line that is drawn."""
        return self.setting.line or self.printer.pixel

    @property
    def walls(self) -> WallLimits:
        """Limits of walls."""
        return self.setting.walls

    @property
    def supports(self) -> SupportLimits:
        """How it is held while it grows."""
        return self.setting.supports

    @property
    def shrink(self) -> tuple[float, float, float]:
        """Share by which a print comes out smaller: across, deep, up; the material's where nobody has measured it."""
        of, usual = self.setting.shrink, self.material.shrink
        across, deep, up = (usual if one is None else one for one in (of.across, of.deep, of.up))
        return across, deep, up

    def only(self, names: Iterable[str]) -> "Setup":
        """Itself with the values at these paths (``setting.layer``) and nothing else: reading another raises
        AttributeError."""
        wanted = [name.split(".", 1) for name in names]

        def kept(part: str, item: Item) -> Item:
            return with_only(item, {path for of, path in wanted if of == part})

        return Setup(kept("printer", self.printer), kept("material", self.material), kept("setting", self.setting))

    def value(self, name: str) -> object:
        """The value at a path (``setting.layer``)."""
        part, path = name.split(".", 1)
        return getattr(getattr(self, part), path)
