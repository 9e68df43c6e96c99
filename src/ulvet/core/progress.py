"""Word of how far long work is."""

from collections.abc import Callable

__all__ = ["Progress", "no_progress", "progress_within"]

Progress = Callable[[float, str], None]
"""Hears the share done, 0 to 1, and what is being done."""


def no_progress(share: float, says: str) -> None:
    """For when nobody listens."""


def progress_within(progress: Progress, begin: float, span: float, of: str = "") -> Progress:
    """What hears of a part of the work, which begins at a share of the whole and spans another; ``of`` names it."""
    return lambda share, says: progress(begin + span * share, f"{of}, {says}" if of else says)
