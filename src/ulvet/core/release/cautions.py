"""The cautions that go with every release."""

from ulvet.core.bench.printers import Process

__all__ = ["cautions_for"]

_RESIN = (
    "Uncured resin, the wash it was cleaned in and any rinse water irritate skin and eyes and can make you allergic: "
    "wear nitrile gloves and eye protection, air the room, and cure every rest before you throw it away; none of it "
    "goes down a drain.",
    "Wash alcohol burns and so does its vapour: no flame, good air, closed containers.",
    "Do not look into a curing lamp.",
)
_FILAMENT = (
    "Nozzle, bed and fresh parts of a filament printer are hot; do not leave it printing where nobody would notice "
    "smoke.",
)
_ALL = (
    "Sand wet or wear a dust mask; dust of resin, filler and filament does not belong in lungs.",
    "Cut away from your hands; knives and side cutters send bits flying, so shield your eyes.",
    "The print is not food-safe, and it is no toy for small children: it has small parts and sharp ends.",
    "Rules on waste, toys and trade differ from place to place: look up the local ones, or ask somebody licensed. "
    "This sheet does not say that the print complies with any of them.",
)


def cautions_for(process: Process) -> tuple[str, ...]:
    """Plain cautions for whoever prints and finishes the figure."""
    return (*(_RESIN if process == "resin" else _FILAMENT), *_ALL)
