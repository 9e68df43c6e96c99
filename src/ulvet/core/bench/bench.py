"""The bench as one immutable value, which is passed into whatever reads it."""

from collections.abc import Iterable
from typing import Self, TypeVar

from pydantic import BaseModel, ConfigDict, model_validator

from ulvet.core.bench.default_settings import SETTINGS
from ulvet.core.bench.item import BenchItem, value, with_only
from ulvet.core.bench.materials import MATERIALS, Material
from ulvet.core.bench.paints import PAINTS, Paint
from ulvet.core.bench.printers import PRINTERS, Printer
from ulvet.core.bench.settings import ResinTimes, Setting
from ulvet.core.bench.setup import Setup, UnknownOnBench
from ulvet.core.bench.workshop import (
    BOUGHT_PARTS,
    GLUES,
    HOURS,
    WORK_STATIONS,
    BoughtPart,
    Glue,
    Hours,
    WorkStation,
)

__all__ = ["DEFAULT_BENCH", "SETUPS_ON_BENCH", "Bench"]

Item = TypeVar("Item", bound=BenchItem)


class Bench(BaseModel):
    """What one has: printers, materials, the settings of both, and what else lies on the bench."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    printers: tuple[Printer, ...] = value("Printers")
    materials: tuple[Material, ...] = value("Materials")
    settings: tuple[Setting, ...] = value("Settings")
    """The first that fits what is named is used when none is."""
    bought_parts: tuple[BoughtPart, ...] = value("Bought parts", default=())
    glues: tuple[Glue, ...] = value("Glues", default=())
    stations: tuple[WorkStation, ...] = value("Stations to wash and cure", default=())
    hours: tuple[Hours, ...] = value("When somebody is there", default=())
    paints: tuple[Paint, ...] = value("Paints", default=())

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        for name in type(self).model_fields:
            ids = [one.id for one in getattr(self, name)]
            if len(set(ids)) < len(ids):
                raise ValueError(f"Two {name.replace('_', ' ')} have the same id: give each one of its own.")
        for setting in self.settings:
            _go_together(setting, self._of(setting))
        return self

    def only(self, names: Iterable[str]) -> "Bench":
        """Itself with these of its lists and nothing else: reading another raises AttributeError."""
        return with_only(self, set(names))

    def value(self, name: str) -> object:
        """One of its lists."""
        return getattr(self, name)

    def setup(
        self, setting_id: str | None = None, printer_id: str | None = None, material_id: str | None = None
    ) -> Setup:
        """The named setting, or the first of the named printer and material; a retired one serves if it is named.

        Raises UnknownOnBench.
        """
        named = _named("setting", self.settings, setting_id)
        if named is not None:
            return Setup(*self._of(named), named)
        printer = _named("printer", self.printers, printer_id)
        material = _named("material", self.materials, material_id)
        if printer and material and printer.process != material.process:
            raise UnknownOnBench(
                f"{printer.name} prints {printer.process} and {material.name} is {material.process}: "
                "choose a printer and a material of one process."
            )
        for setting in self.settings:
            pair = self._of(setting)
            retired = setting.retired or (pair[0].retired and not printer) or (pair[1].retired and not material)
            if not retired and (printer or pair[0]) == pair[0] and (material or pair[1]) == pair[1]:
                return Setup(*pair, setting)
        both = " and ".join(one.name for one in (printer, material) if one)
        raise UnknownOnBench(
            f"The bench has no setting{' of ' if both else ''}{both}: add one, or name a printer and a material that "
            "have one."
        )

    def setups_like(self, setup: Setup) -> tuple[Setup, ...]:
        """One setup in use of every other material, on the same printer at the same layer height."""
        found: dict[str, Setup] = {}
        for one in self.in_use():
            if one.printer.id == setup.printer.id and one.layer == setup.layer:
                found.setdefault(one.material.id, one)
        return tuple(one for material, one in found.items() if material != setup.material.id)

    def setups_elsewhere(self, setup: Setup) -> tuple[Setup, ...]:
        """For every other printer the setup in use that is most like this one: of its material where there is one."""
        found: dict[str, Setup] = {}
        for one in self.in_use():
            known = found.get(one.printer.id)
            if one.printer.id != setup.printer.id and (
                known is None or (known.material.id != setup.material.id and one.material.id == setup.material.id)
            ):
                found[one.printer.id] = one
        return tuple(found.values())

    def in_use(self) -> tuple[Setup, ...]:
        """Every setup of which nothing is retired."""
        setups = (Setup(*self._of(setting), setting) for setting in self.settings)
        return tuple(one for one in setups if not one.retired)

    def _of(self, setting: Setting) -> tuple[Printer, Material]:
        printer = next((one for one in self.printers if one.id == setting.printer), None)
        material = next((one for one in self.materials if one.id == setting.material), None)
        if printer is None or material is None:
            missing = f"printer {setting.printer!r}" if printer is None else f"material {setting.material!r}"
            raise ValueError(f"{setting.name} is for the {missing}, which is not on the bench.")
        return printer, material


def _go_together(setting: Setting, pair: tuple[Printer, Material]) -> None:
    printer, material = pair
    if not printer.process == material.process == setting.times.process:
        raise ValueError(
            f"{setting.name} is {setting.times.process}, {printer.name} prints {printer.process} and {material.name} "
            f"is {material.process}: all three have to be of one process."
        )
    if not isinstance(setting.times, ResinTimes) and setting.line is None:
        raise ValueError(f"{setting.name} lays lines, and nothing says how wide they are.")


def _named(what: str, there: tuple[Item, ...], named: str | None) -> Item | None:
    found = next((one for one in there if one.id == named), None)
    if named and found is None:
        known = ", ".join(one.id for one in there)
        raise UnknownOnBench(f"There is no {what} {named!r} on the bench; it has {known}.")
    return found


SETUPS_ON_BENCH = ("bench.printers", "bench.materials", "bench.settings")
"""What a check declares that offers another setting."""

DEFAULT_BENCH = Bench(
    printers=PRINTERS,
    materials=MATERIALS,
    settings=SETTINGS,
    bought_parts=BOUGHT_PARTS,
    glues=GLUES,
    stations=WORK_STATIONS,
    hours=HOURS,
    paints=PAINTS,
)
"""What a new studio has."""
