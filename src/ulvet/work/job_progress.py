"""What a job tells the server while it is at work."""

import time
from collections.abc import Callable
from typing import Any

__all__ = ["JobProgress"]

_BETWEEN_WORDS = 0.1
"""Seconds between two words of progress at least (bench default: what an eye can follow)."""


class JobProgress:
    """Called with the share done and what is being done. It leaves out what comes too soon after the word before: work
    that was done already passes in no time, and every word is drawn in every open page."""

    def __init__(self, send: Callable[[tuple[Any, ...]], None]) -> None:
        self._send = send
        self._last = -_BETWEEN_WORDS

    def __call__(self, share: float, says: str) -> None:
        now = time.monotonic()
        if now - self._last >= _BETWEEN_WORDS:
            self._last = now
            self._send(("progress", share, says))

    def seen(self, station: str, said: dict[str, Any]) -> None:
        """Hand over what was seen at a station (plain JSON values), before the whole is done."""
        self._send(("seen", station, said))
