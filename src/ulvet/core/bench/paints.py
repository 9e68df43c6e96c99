"""Paints on the bench. All are invented; colours are as they look wet and dried, estimates until somebody enters what a
swatch shows."""

from typing import Annotated, Any, Literal

from pydantic import model_validator

from ulvet.core.bench.item import COLOUR, BenchItem, value

__all__ = ["PAINTS", "Paint", "PaintBase"]

PaintBase = Literal["water", "spirit", "lacquer"]


class Paint(BenchItem):
    """One paint, primer, wash or clear coat."""

    kind: Annotated[Literal["paint", "primer", "wash", "clear"], value("Kind")]
    base: Annotated[PaintBase, value("What thins it")]
    dry: Annotated[str, value("Colour, dried", pattern=COLOUR)]
    wet: Annotated[str, value("Colour, wet", pattern=COLOUR)]
    covers: Annotated[float, value("How well one coat covers", "share", ge=0, le=1)]
    strength: Annotated[float, value("How strongly it tints a mix", "times", gt=0, le=20)] = 1.0
    """1 until a mix with a known paint was entered."""
    hides_um: Annotated[float, value("Scratches it hides, as a primer", "µm", ge=0, le=200)] = 8.8
    sheen: Annotated[Literal["matt", "satin", "gloss"], value("Sheen")] = "matt"
    recoat_min: Annotated[float, value("Next coat after", "min", ge=0, le=20_160)]
    least_temperature: Annotated[float, value("Not colder than", "°C", ge=-10, le=40)] = 12.0
    most_damp: Annotated[float, value("Not damper than", "%", ge=0, le=100)] = 75.0
    mm2_a_ml: Annotated[float, value("Area that a ml covers once", "mm²", gt=0, le=1e6)] = 12_000.0
    drops_a_ml: Annotated[float, value("Drops of a ml", "drops", gt=0, le=200)] = 25.0
    price_a_ml: Annotated[float, value("Price of a ml", "money", ge=0, le=1_000)] = 0.22

    @model_validator(mode="before")
    @classmethod
    def _stock_is_in_the_ledger(cls, held: Any) -> Any:
        # Benches of an earlier version had it with the paint.
        return {name: one for name, one in held.items() if name != "stock_ml"} if isinstance(held, dict) else held


def _paint(name: str, dry: str, wet: str, covers: float = 0.7, **more: float) -> Paint:
    return Paint(
        id=name.lower().replace(" ", "-"), name=name, kind="paint", base="water", dry=dry, wet=wet, covers=covers,
        recoat_min=20.0, **more,
    )  # fmt: skip


PAINTS: tuple[Paint, ...] = (
    _paint("Tide blue", "#2f4a66", "#3a5878"),
    _paint("Bone", "#e4dac2", "#efe7d2", covers=0.5),
    _paint("Soot", "#23242a", "#1a1b20", covers=0.9),
    _paint("Reed ochre", "#b98a35", "#c99b42", covers=0.6),
    _paint("Rust", "#8c4226", "#9c4d2e"),
    _paint("Moss", "#56643a", "#647344"),
    _paint("Peat", "#4b382c", "#574234", covers=0.8),
    _paint("Mist", "#9aa4a8", "#a8b3b8"),
    _paint("Sloe", "#4a3350", "#573d5e"),
    _paint("Marsh yellow", "#d8b93c", "#e6c94a", covers=0.35),
    _paint("Berry", "#8e2433", "#a02c3d", covers=0.55),
    _paint("Chalk", "#f4f2ec", "#fbfaf6", covers=0.5),
    Paint(
        id="slate-primer", name="Slate primer", kind="primer", base="spirit", dry="#5b6168", wet="#666d75", covers=0.95,
        hides_um=9.0, recoat_min=45.0, mm2_a_ml=9_000.0, price_a_ml=0.05, least_temperature=15.0, most_damp=65.0,
    ),
    Paint(
        id="soot-wash", name="Soot wash", kind="wash", base="water", dry="#2c2b2b", wet="#242323", covers=0.2,
        recoat_min=60.0, mm2_a_ml=20_000.0,
    ),
    Paint(
        id="matt-clear", name="Matt clear", kind="clear", base="water", dry="#ffffff", wet="#ffffff", covers=0.0,
        recoat_min=120.0, mm2_a_ml=10_000.0, price_a_ml=0.12,
    ),
    Paint(
        id="gloss-clear", name="Gloss clear", kind="clear", base="lacquer", dry="#ffffff", wet="#ffffff", covers=0.0,
        sheen="gloss", recoat_min=30.0, mm2_a_ml=10_000.0, price_a_ml=0.14,
    ),
)  # fmt: skip
"""Bench defaults, invented."""
