"""The bench as one immutable value, which is passed into whatever reads it."""

from typing import Self, TypeVar

from pydantic import BaseModel, ConfigDict, model_validator

from ulvet.core.bench.materials import MATERIALS, Material
from ulvet.core.bench.printers import PRINTERS, Printer, Process
from ulvet.core.bench.setup import Setup, UnknownOnBench
from ulvet.core.bench.support_limits import FILAMENT_SUPPORTS, RESIN_SUPPORTS, SupportLimits

__all__ = ["DEFAULT_BENCH", "Bench"]

Item = TypeVar("Item", Printer, Material)


class Bench(BaseModel):
    """The printers and materials one has, and how each process holds a figure while it grows."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    printers: tuple[Printer, ...]
    """The first is used when none is named."""
    materials: tuple[Material, ...]
    """The first that fits the printer is used when none is named."""
    supports: dict[Process, SupportLimits]

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        for what, named in (("printers", self.printers), ("materials", self.materials)):
            ids = [one.id for one in named]
            if len(set(ids)) < len(ids):
                raise ValueError(f"Two {what} have the same id: give each one of its own.")
        for printer in self.printers:
            if printer.process not in self.supports:
                raise ValueError(f"{printer.name} prints {printer.process}, and nothing says how that holds a figure.")
        return self

    def setup(self, printer_id: str | None = None, material_id: str | None = None) -> Setup:
        """The named printer and material; whichever is not named is the first that goes with the other.

        Raises UnknownOnBench.
        """
        printer = self._named("printer", self.printers, printer_id)
        material = self._named("material", self.materials, material_id)
        if printer is None:
            printer = next((p for p in self.printers if material is None or p.process == material.process), None)
        if material is None and printer:
            material = next((m for m in self.materials if m.process == printer.process), None)
        if printer is None or material is None:
            raise UnknownOnBench("The bench has no printer and material that go together: add one to it.")
        if printer.process != material.process:
            raise UnknownOnBench(
                f"{printer.name} prints {printer.process} and {material.name} is {material.process}: "
                "choose a printer and a material of one process."
            )
        return Setup(printer, material, self.supports[printer.process])

    def materials_like(self, material: Material) -> tuple[Material, ...]:
        """All materials of the process of one, that one among them."""
        return tuple(one for one in self.materials if one.process == material.process)

    @staticmethod
    def _named(what: str, there: tuple[Item, ...], named: str | None) -> Item | None:
        found = next((one for one in there if one.id == named), None)
        if named and found is None:
            known = ", ".join(one.id for one in there)
            raise UnknownOnBench(f"There is no {what} {named!r} on the bench; it has {known}.")
        return found


DEFAULT_BENCH = Bench(
    printers=PRINTERS, materials=MATERIALS, supports={"resin": RESIN_SUPPORTS, "filament": FILAMENT_SUPPORTS}
)
"""What ships: invented printers and materials, until the user has entered others."""
