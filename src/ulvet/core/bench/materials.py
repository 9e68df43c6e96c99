"""Materials: typed bench defaults. All are invented; a value learnt from the user's own coupons replaces them."""

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.limits import WallLimit, WallLimits
from ulvet.core.bench.printers import ID, Process
from ulvet.core.lengths import PrintMM

__all__ = ["MATERIALS", "Material"]


class Material(BaseModel):
    """One resin or filament."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=ID)
    name: str = Field(min_length=1, max_length=60)
    process: Process
    walls: WallLimits
    density: float = Field(gt=0, le=25)
    """Printed and cured, g/cm³."""
    strength: float | None = Field(default=None, gt=0, le=2_000)
    """N/mm² at which a bent bar breaks; None where nobody has measured it."""
    modulus: float | None = Field(default=None, gt=0, le=500_000)
    """N/mm² by which it resists bending."""
    brittleness: float = Field(default=1.0, ge=1, le=20)
    """How many times less a sudden knock has to be than a slow push."""
    across_layers: float = Field(default=1.0, gt=0, le=1)
    """Its strength where a pull takes layers apart, as a share."""
    price_per_litre: float = Field(ge=0, le=1e6)
    """Money in the user's currency for a litre, which for filament is about 1.24 kg."""


def _walls(held: tuple[float, float], free_standing: tuple[float, float], pin: tuple[float, float]) -> WallLimits:
    """Where each kind stops, and where it wants care."""
    kinds = {"held": held, "free_standing": free_standing, "pin": pin}
    limits = {kind: WallLimit(stop=PrintMM(stop), caution=PrintMM(care)) for kind, (stop, care) in kinds.items()}
    return WallLimits(**limits)


MATERIALS: tuple[Material, ...] = (
    Material(
        id="tough-grey",
        name="Tough grey resin",
        process="resin",
        walls=_walls(held=(0.36, 0.56), free_standing=(0.45, 0.70), pin=(0.45, 0.70)),
        density=1.15,
        strength=55.0,
        modulus=1900.0,
        brittleness=1.2,
        across_layers=0.9,
        price_per_litre=42.0,
    ),
    Material(
        id="plain-ivory",
        name="Plain ivory resin",
        process="resin",
        walls=_walls(held=(0.48, 0.72), free_standing=(0.60, 0.90), pin=(0.60, 0.90)),
        density=1.17,
        strength=62.0,
        modulus=2600.0,
        brittleness=2.0,
        across_layers=0.9,
        price_per_litre=24.0,
    ),
    Material(
        id="bending-clear",
        name="Bending clear resin",
        process="resin",
        walls=_walls(held=(0.28, 0.48), free_standing=(0.35, 0.60), pin=(0.35, 0.60)),
        density=1.13,
        strength=28.0,
        modulus=600.0,
        brittleness=1.0,
        across_layers=0.9,
        price_per_litre=58.0,
    ),
    Material(
        id="matt-filament",
        name="Matt filament",
        process="filament",
        walls=_walls(held=(0.64, 0.96), free_standing=(0.80, 1.20), pin=(0.80, 1.20)),
        density=1.24,
        strength=70.0,
        modulus=3000.0,
        brittleness=1.3,
        across_layers=0.5,
        price_per_litre=29.0,
    ),
)
"""Bench defaults; the first that fits the printer is used when none is named."""
