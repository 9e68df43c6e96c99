"""What a simulated printer really does, by its seed, and what is read from a print because of it."""

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

__all__ = ["Fit", "Truths", "caliper", "fit_of", "truths_of"]

Fit = Literal["none", "pressed", "slides", "turns"]


class Truths(BaseModel):
    """What a printer really does, which nobody is told."""

    model_config = ConfigDict(frozen=True)

    shrink: tuple[float, float, float]
    growth: float
    """Of edges, mm a side."""
    seconds_factor: float
    material_factor: float
    plate: float
    """N/mm² at which what lies on the plate lets go."""
    green: float
    """N/mm² at which uncured material tears."""
    pull: float
    """N/mm² by which a layer is torn off the film."""
    suction: float
    """N/mm² under a cup."""
    bending: float
    """N/mm² at which a limb breaks."""
    push: float
    """N by which limbs are pushed when supports come off."""
    gap: float
    """By which a gap comes out narrower than drawn, mm a side."""
    reading: float
    """Standard deviation of a caliper's reading, mm."""
    shifts: float
    """Chance that layers shift in a print."""
    slides: float
    turns: float
    """Air, mm a side, at which a peg slides in its hole, and at which it turns freely; with less it is pressed in."""


def truths_of(seed: int) -> Truths:
    """The truths of the printer with this number."""
    dice = np.random.default_rng(seed)
    across, deep, up = (float(value) for value in dice.uniform(0.001, 0.009, 3))
    return Truths(
        shrink=(across, deep, up),
        growth=float(dice.uniform(0.0, 0.06)),
        seconds_factor=float(dice.uniform(0.95, 1.25)),
        material_factor=float(dice.uniform(1.0, 1.15)),
        plate=float(dice.uniform(0.05, 0.12)),
        green=float(dice.uniform(7.0, 12.0)),
        pull=float(dice.uniform(0.006, 0.011)),
        suction=float(dice.uniform(0.02, 0.04)),
        bending=float(dice.uniform(35.0, 60.0)),
        push=float(dice.uniform(0.25, 0.45)),
        gap=float(dice.uniform(0.0, 0.05)),
        reading=float(dice.uniform(0.01, 0.03)),
        shifts=float(dice.uniform(0.0, 0.02)),
        slides=float(dice.uniform(0.03, 0.06)),
        turns=float(dice.uniform(0.08, 0.14)),
    )


def caliper(
    begin: tuple[float, float, float], end: tuple[float, float, float], over: str, truths: Truths, seed: int
) -> float:
    """What calipers would read between two places of a print, mm."""
    away = np.subtract(end, begin)
    real = away * (1 - np.array(truths.shrink))
    far = float(np.linalg.norm(real))
    level = 1 - (away[2] / np.linalg.norm(away)) ** 2 if far else 0.0
    grown = {"outside": 2.0, "inside": -2.0, "step": 0.0}[over] * truths.growth * level
    key = np.abs(np.round(np.concatenate([begin, end]) * 1000)).astype(np.int64).tolist()
    noise = np.random.default_rng([seed, *key]).normal(0, truths.reading)
    return round(max(far + grown + float(noise), 0.01), 3)


def fit_of(peg: float, hole: float, truths: Truths, seed: int) -> Fit:
    """How a peg goes into a hole, both by the widths they are drawn with, mm."""
    key = np.round([peg * 1000, hole * 1000]).astype(np.int64).tolist()
    noise = float(np.random.default_rng([seed, *key]).normal(0, truths.reading / 4))
    air = (hole - peg) / 2 - truths.gap + noise
    return "none" if air < 0 else "pressed" if air < truths.slides else "slides" if air < truths.turns else "turns"
