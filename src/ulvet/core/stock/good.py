"""Goods: what a studio keeps in stock, from its bench."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench

__all__ = ["Good", "Unit", "goods_of", "key_of_material", "key_of_mix", "key_of_paint", "material_amount"]

Unit = Literal["ml", "g", "pieces"]
_ML_OF_LITRE = 1_000.0
"""Ml of a litre."""


class Good(BaseModel):
    """Something kept in stock, by its key: ``material:tough-grey``, ``paint:bone``, ``bought:magnet-3x2``."""

    model_config = ConfigDict(frozen=True)

    key: str
    name: str
    unit: Unit
    price: float
    """Money a unit."""


def goods_of(bench: Bench) -> tuple[Good, ...]:
    """What a bench names: resins in ml, filaments in g, paints in ml, bought parts by the piece. What is retired stays,
    as some of it may still be there."""
    materials = [
        Good(key=key_of_material(one.id), name=one.name, unit="ml" if one.process == "resin" else "g",
             price=one.price_per_litre / _ML_OF_LITRE / (1.0 if one.process == "resin" else one.density))
        for one in bench.materials
    ]  # fmt: skip
    paints = [Good(key=key_of_paint(one.id), name=one.name, unit="ml", price=one.price_a_ml) for one in bench.paints]
    bought = [Good(key=f"bought:{one.id}", name=one.name, unit="pieces", price=one.price) for one in bench.bought_parts]
    return (*materials, *paints, *bought)


def key_of_material(material: str) -> str:
    """The key of a material by its id."""
    return f"material:{material}"


def key_of_paint(paint: str) -> str:
    """The key of a paint by its id."""
    return f"paint:{paint}"


def key_of_mix(number: int) -> str:
    """The key of a mix by its number."""
    return f"mix:{number}"


def material_amount(bench: Bench, material: str, ml: float) -> float:
    """Millilitres of a material in the unit it is kept in; of one that is not on the bench any more as they are."""
    held = next((one for one in bench.materials if one.id == material), None)
    return ml if held is None or held.process == "resin" else ml * held.density
