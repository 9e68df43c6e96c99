"""Bits: parts of other figures, used again in this one."""

from ulvet.core.bits.steps import AddBit

__all__ = ["AddBit"]
