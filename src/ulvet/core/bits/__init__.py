"""Bits: parts of other figures, used again in this one."""
