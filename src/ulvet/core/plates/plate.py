"""A plate: what lies on it, what that takes, and what is lost when it fails."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Floats
from ulvet.core.layers.clock import seconds_of_areas
from ulvet.core.layers.look import first_look
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM
from ulvet.core.plates.packing import Lying, Room, pack
from ulvet.core.plates.shadow import Shadow, shadow_of

__all__ = ["Piece", "PlateTold", "Risk", "piece_of", "plates_of", "room_of"]

_MARGINS = {"resin": 2.0, "filament": 5.0}
"""Mm that parts keep from each other on a plate (bench default)."""


@dataclass(frozen=True)
class Piece:
    """One part to print, as it stands with its supports: its shadow, the area of its layers (layers,) mm², and the
    layer from which on a failure of it could be seen, if any."""

    name: str
    shadow: Shadow
    areas: Floats
    look: int | None


class Risk(BaseModel):
    """How much may be lost at once: parts on one plate at most, None for as many as find room."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    most_parts: int | None = None


class PlateTold(BaseModel):
    """What a plate takes: estimates by the setting's own times."""

    model_config = ConfigDict(frozen=True)

    parts: int
    layers: int
    tall_mm: PrintMM
    seconds: float
    material_ml: float
    money: float
    """Material and hours of the printer."""
    peak_mm2: float
    pull_N: float | None  # noqa: N815  (newtons are written so)
    """At which its largest layer is torn off; None in filament."""
    look_s: float | None
    """When to look at it first."""
    lost_ml: float
    """What is lost beside the largest part where one lets go and takes the rest with it."""


def piece_of(name: str, stack: LayerStack, setup: Setup) -> Piece:
    """A part as its layers show it, with supports."""
    look = first_look(stack, setup)
    return Piece(name, shadow_of(stack), stack.areas, look.layer if look else None)


def room_of(setup: Setup, risk: Risk = Risk()) -> Room:
    """What of a plate may be used."""
    wide, deep, tall = map(float, setup.printer.room)
    return Room(wide, deep, tall, _MARGINS[setup.process], risk.most_parts)


def plates_of(
    pieces: Sequence[Piece], setup: Setup, risk: Risk = Risk(), fixed: Sequence[Sequence[Lying]] = ()
) -> tuple[list[tuple[tuple[Lying, ...], PlateTold]], list[int]]:
    """Pieces on as few plates of a setup as are found, with what each takes; and the numbers of those that fit none."""
    packed, unfit = pack([piece.shadow for piece in pieces], room_of(setup, risk), fixed)
    return [(tuple(lying), told_of([pieces[one.number] for one in lying], setup)) for lying in packed], unfit


def told_of(pieces: Sequence[Piece], setup: Setup) -> PlateTold:
    """What pieces on one plate take together: in resin the tallest sets the time, in filament every one adds to it."""
    layers = max((len(piece.areas) for piece in pieces), default=0)
    areas = np.zeros(layers)
    for piece in pieces:
        areas[: len(piece.areas)] += piece.areas
    seconds = seconds_of_areas(areas, setup)
    ml = float(setup.layer) * setup.setting.material_factor / 1000
    each = [float(piece.areas.sum()) * ml for piece in pieces]
    millilitres = sum(each)
    looks = [piece.look for piece in pieces if piece.look is not None]
    peak = float(areas.max(initial=0.0))
    return PlateTold(
        parts=len(pieces),
        layers=layers,
        tall_mm=PrintMM(layers * setup.layer),
        seconds=float(seconds[-1]),
        material_ml=millilitres,
        money=millilitres * setup.material.price_per_litre / 1000
        + float(seconds[-1]) / 3600 * setup.printer.price_of_hour,
        peak_mm2=peak,
        pull_N=peak * setup.supports.pull if setup.process == "resin" else None,
        look_s=float(seconds[min(looks)]) if looks else None,
        lost_ml=millilitres - max(each, default=0.0),
    )
