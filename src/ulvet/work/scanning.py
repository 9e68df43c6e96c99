"""Scans of the simulated device, put on the shelf like files that are brought in."""

import hashlib
import json
from typing import Any

from ulvet.standins.objects import OBJECTS
from ulvet.standins.scanner import ScanSettings
from ulvet.work.importing import add_figure
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["scan_to_shelf"]

_MEMORY = 1_500_000_000
"""Bytes that a scan takes, roughly."""
_SECONDS_A_PASS = 0.4
"""Seconds that a pass takes, roughly."""


def scan_to_shelf(studio: Studio, thing: str, settings: ScanSettings, name: str) -> Job:
    """The job that scans a demo object and puts it on the shelf as a new figure.

    Raises NotThere for an object there is none of.
    """
    if thing not in OBJECTS:
        raise NotThere(f"There is no {thing} to put on the turntable; there are {', '.join(OBJECTS)}.")
    called = name or OBJECTS[thing][0]
    file_name = f"{thing}.scan.zip"
    said = {"object": thing, "settings": settings.model_dump(mode="json"), "name": file_name}

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        number = add_figure(studio, called, file_name, result)
        studio.want_build(number)
        return {"figure": number}

    key = hashlib.sha256(json.dumps([said, called], sort_keys=True).encode()).hexdigest()
    passes = settings.steps * len(settings.tilts)
    return studio.supervisor.submit(
        "scan", key, said, f"Scanning {called}", 5 + passes * _SECONDS_A_PASS, memory=_MEMORY, then=keep
    )
