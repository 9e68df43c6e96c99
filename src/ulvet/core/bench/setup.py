"""A printer with a material it can print."""

from dataclasses import dataclass

from ulvet.core.bench.materials import MATERIALS, Material, material_named
from ulvet.core.bench.printers import PRINTERS, Printer, printer_named

__all__ = ["Setup", "UnknownOnBench", "setup_for"]


class UnknownOnBench(ValueError):
    """A printer or material that is not on the bench, or two that do not go together; its text is for the user."""


@dataclass(frozen=True)
class Setup:
    """What a figure is printed on and of; both of one process."""

    printer: Printer
    material: Material


def setup_for(printer_id: str | None = None, material_id: str | None = None) -> Setup:
    """The named printer and material; whichever is not named is the first on the bench that goes with the other.

    Raises UnknownOnBench.
    """
    printer = printer_named(printer_id) if printer_id else None
    material = material_named(material_id) if material_id else None
    if printer_id and printer is None:
        raise UnknownOnBench(_unknown("printer", printer_id, [p.id for p in PRINTERS]))
    if material_id and material is None:
        raise UnknownOnBench(_unknown("material", material_id, [m.id for m in MATERIALS]))
    if printer is None:
        printer = next(p for p in PRINTERS if material is None or p.process == material.process)
    if material is None:
        material = next(m for m in MATERIALS if m.process == printer.process)
    if printer.process != material.process:
        raise UnknownOnBench(
            f"{printer.name} prints {printer.process} and {material.name} is {material.process}: "
            "choose a printer and a material of one process."
        )
    return Setup(printer, material)


def _unknown(what: str, given: str, known: list[str]) -> str:
    return f"There is no {what} {given!r} on the bench; it has {', '.join(known)}."
