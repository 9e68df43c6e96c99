"""Addresses on this machine, which alone are asked."""

from urllib.parse import urlsplit

from ulvet.work.refusals import Refused

__all__ = ["loopback_address"]


def loopback_address(address: str) -> str:
    """An address that may be asked, without a slash at its end.

    Raises Refused for one that is not of this machine.
    """
    parts = urlsplit(address)
    if parts.scheme != "http" or parts.hostname not in ("127.0.0.1", "localhost", "::1"):
        raise Refused(
            "The address of a printer or a shop begins with http://127.0.0.1 or http://localhost: nothing was sent."
        )
    return address.rstrip("/")
