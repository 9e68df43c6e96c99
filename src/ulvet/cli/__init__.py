"""The ``ulvet`` command: each station on files, without the server."""

from ulvet.cli import (
    figures,
    finishing,
    gauging,
    hollowing,
    making,
    mending,
    parting,
    planning,
    plating,
    proofing,
    releasing,
    sources,
    standing,
    standins,
    studio,
)
from ulvet.cli.common import app

__all__ = [
    "app",
    "figures",
    "finishing",
    "gauging",
    "hollowing",
    "making",
    "mending",
    "parting",
    "planning",
    "plating",
    "proofing",
    "releasing",
    "sources",
    "standing",
    "standins",
    "studio",
]
