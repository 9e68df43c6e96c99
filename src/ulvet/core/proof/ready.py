"""What is looked at before a print is begun (bench defaults)."""

from ulvet.core.bench.printers import Printer, Process

__all__ = ["ready_list"]

_READY: dict[Process, tuple[str, ...]] = {
    "resin": (
        "plate clean, level and tight",
        "film clear, taut, nothing stuck to it",
        "resin stirred and at room temperature",
        "gloves on, room aired",
    ),
    "filament": (
        "plate clean and level",
        "nozzle clean, no thread hanging from it",
        "filament dry, and its end not tangled",
        "somebody is near while it begins",
    ),
}
_AFTER_FAILURE: dict[Process, tuple[str, ...]] = {
    "resin": ("resin sieved after the failed print", "every piece of the failed print found"),
    "filament": ("the failed print's pieces taken off plate and nozzle",),
}


def ready_list(printer: Printer, ml: float, after_failure: bool = False) -> tuple[str, ...]:
    """What is to be ticked before a print of so many millilitres is begun, ``after_failure`` of the last one: the
    printer's own list, or that of its process."""
    process = printer.process
    own = tuple(text for one in printer.ready.split(";") if (text := one.strip()))
    enough = f"at least {ml * _SPARE:.0f} ml of {'resin in the vat' if process == 'resin' else 'filament on the spool'}"
    return (*(own or _READY[process]), enough, *(_AFTER_FAILURE[process] if after_failure else ()))


_SPARE = 1.3
"""Times the material a print is told to take (bench default: what stays in the vat or on the spool)."""
