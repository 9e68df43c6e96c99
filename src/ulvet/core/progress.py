"""Word of how far long work is."""

from collections.abc import Callable

__all__ = ["Told", "unheard", "within"]

Told = Callable[[float, str], None]
"""Hears the share done, 0 to 1, and what is being done."""


def unheard(share: float, says: str) -> None:
    """For when nobody listens."""


def within(told: Told, begin: float, span: float, of: str = "") -> Told:
    """What hears of a part of the work, which begins at a share of the whole and spans another; ``of`` names it."""
    return lambda share, says: told(begin + span * share, f"{of}, {says}" if of else says)
