"""The settings a new bench comes with: fine and draft, all invented."""

from ulvet.core.bench.limits import WallLimit, WallLimits
from ulvet.core.bench.materials import MATERIALS
from ulvet.core.bench.printers import PRINTERS
from ulvet.core.bench.settings import FilamentTimes, Fits, ResinTimes, Setting
from ulvet.core.bench.support_limits import FILAMENT_SUPPORTS, RESIN_SUPPORTS
from ulvet.core.lengths import PrintMM

__all__ = ["SETTINGS"]

_RESIN_FITS = Fits(press=PrintMM(0.05), slide=PrintMM(0.10), free=PrintMM(0.20), glued=PrintMM(0.10))
"""Air per side in resin, print mm (bench default)."""
_FILAMENT_FITS = Fits(press=PrintMM(0.10), slide=PrintMM(0.20), free=PrintMM(0.30), glued=PrintMM(0.20))
"""Air per side in filament, print mm (bench default)."""
_DRAFT_WALLS = 1.15
"""Times the walls of the fine setting that a draft wants (bench default: its layers hold each other less well)."""

_LEAST_WALLS = {
    "tough-grey": (0.36, 0.56, 0.45, 0.70),
    "plain-ivory": (0.48, 0.72, 0.60, 0.90),
    "bending-clear": (0.28, 0.48, 0.35, 0.60),
    "stiff-umber": (0.52, 0.78, 0.65, 0.95),
    "matt-filament": (0.64, 0.96, 0.80, 1.20),
    "tough-filament": (0.60, 0.90, 0.75, 1.10),
}
"""By material, mm: a held wall fails and wants care, a free-standing one or a pin does (bench defaults)."""
_RESINS = tuple(one.id for one in MATERIALS if one.process == "resin")
_FILAMENTS = tuple(one.id for one in MATERIALS if one.process == "filament")
_EXPOSURES = {"tough-grey": 0.0, "plain-ivory": -0.3, "bending-clear": 0.4, "stiff-umber": 0.6}
"""Seconds by which a resin wants more light than tough grey (bench default)."""


def _walls(material: str, times: float = 1.0) -> WallLimits:
    held_stop, held_care, free_stop, free_care = (round(wall * times, 2) for wall in _LEAST_WALLS[material])
    free = WallLimit(stop=PrintMM(free_stop), caution=PrintMM(free_care))
    held = WallLimit(stop=PrintMM(held_stop), caution=PrintMM(held_care))
    return WallLimits(held=held, free_standing=free, pin=free)


def _resin(printer: str, material: str, draft: bool) -> Setting:
    large = printer == "lantern-10"
    times = ResinTimes(
        exposure=round((2.6 if large else 2.2) + _EXPOSURES[material] + (0.9 if draft else 0.0), 1),
        first_layers=5,
        first_exposure=33.0 if large else 30.0,
        lift=PrintMM(7.0 if large else 6.0),
        lift_speed=3.5 if large else 3.0,
        wait=3.0 if large else 2.0,
    )
    return Setting(
        id=f"{printer}-{material}{'-draft' if draft else ''}",
        name=_name(printer, material, draft),
        printer=printer,
        material=material,
        layer=PrintMM(0.1 if draft else 0.05),
        times=times,
        walls=_walls(material, _DRAFT_WALLS if draft else 1.0),
        edge_growth=PrintMM(0.03 if draft else 0.02),
        fits=_RESIN_FITS,
        supports=RESIN_SUPPORTS,
    )


def _filament(printer: str, material: str, draft: bool) -> Setting:
    small = printer == "short-reed-120"
    line = 0.25 if small else 0.4
    layer = (0.14 if draft else 0.08) if small else (0.24 if draft else 0.16)
    return Setting(
        id=f"{printer}-{material}{'-draft' if draft else ''}",
        name=_name(printer, material, draft),
        printer=printer,
        material=material,
        layer=PrintMM(layer),
        line=PrintMM(line),
        times=FilamentTimes(
            wall_lines=3, infill=0.1 if draft else 0.15, speed=130.0 if draft else 100.0, layer_change=2.5
        ),
        walls=_walls(material, (0.7 if small else 1.0) * (_DRAFT_WALLS if draft else 1.0)),
        edge_growth=PrintMM(0.05),
        fits=_FILAMENT_FITS,
        supports=FILAMENT_SUPPORTS,
    )


def _name(printer: str, material: str, draft: bool) -> str:
    of = next(one.name for one in MATERIALS if one.id == material).removesuffix(" resin")
    on = next(one.name for one in PRINTERS if one.id == printer)
    return f"{of} on {on}, {'draft' if draft else 'fine'}"


SETTINGS: tuple[Setting, ...] = (
    *(_resin(printer, resin, False) for printer in ("lantern-6", "lantern-10") for resin in _RESINS),
    *(_resin(printer, resin, True) for printer in ("lantern-6", "lantern-10") for resin in ("tough-grey",)),
    *(_filament(printer, one, False) for printer in ("long-reed-300", "short-reed-120") for one in _FILAMENTS),
    *(_filament("long-reed-300", one, True) for one in _FILAMENTS),
)
"""Bench defaults; the first is used when none is named."""
