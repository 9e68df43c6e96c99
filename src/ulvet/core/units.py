"""Units and axes that files come in."""

from typing import Literal

__all__ = ["UNITS", "UNIT_NAMES", "Axis", "Unit"]

Unit = Literal["mm", "cm", "m", "in"]
Axis = Literal["x", "y", "z"]

UNITS: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""Millimetres in each unit."""

UNIT_NAMES: dict[Unit, str] = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches"}
