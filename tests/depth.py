"""How much of a large set is tried: a share of it in the usual run, all of it in ``make test-deep``."""

import os

__all__ = ["DEEP", "of_all"]

DEEP = "ULVET_DEEP" in os.environ
_SHARE = 5
_LEAST = 4


def of_all(number: int) -> int:
    """How many of so many are tried."""
    return number if DEEP else max(number // _SHARE, min(number, _LEAST))
