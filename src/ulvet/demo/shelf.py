"""The demo figures, sent to a studio that is being served, as any other program would send them."""

import json
import time
import urllib.request
from collections.abc import Callable
from datetime import date
from typing import Any
from urllib.parse import quote

from ulvet.core.bench.edition import Edition
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import PrintMM
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.demo.reed_imp import reed_imp
from ulvet.standins.objects import clay_otter

__all__ = ["DEMO_FIGURES", "send_demo"]

DEMO_FIGURES: dict[str, tuple[Callable[[], Mesh], Edition]] = {
    "Ferrywoman": (ferrywoman, Edition(height=PrintMM(75))),
    "Reed imp": (reed_imp, Edition(height=PrintMM(28))),
    "Bow otter": (clay_otter, Edition(height=PrintMM(24))),
}
"""The figures of the demo that are sculpted, and the edition each is shown in."""
_COLLECTION = "Fen folk"
_SCANNED = "Driftwood"
_SCANNED_EDITION = Edition(height=PrintMM(40))
"""What the scanned figure is made for."""
_STOCK = {"material:tough-grey": 180.0, "material:matt-filament": 640.0, "paint:slate-primer": 200.0,
          "paint:tide-blue": 15.0, "paint:bone": 12.0, "paint:moss": 15.0, "bought:wire-0-8": 6.0}  # fmt: skip
"""What is there, by good in its unit."""
_WANTED = {"Ferrywoman": 4, "Reed imp": 12, "Bow otter": 6}
"""How many of which figure the first release wants."""
_OWN = {"terms": "own-work"}
_OTTER = {
    "maker": "Withy Marlow",
    "terms": "cc-by-nc-sa-4.0",
    "proof": "Mail of 3 May: the otter may go on under the terms on its page.",
    "dated": "2026-05-03",
}
_LOOKS_AGAIN_S = 0.3
"""Seconds between two looks at a job."""


def send_demo(address: str, say: Callable[[str], None]) -> None:
    """Send every demo figure that is not on the shelf of the studio at ``address``, nor was deleted from it, saying
    what is being done. A figure is known by the file it came in.

    Raises OSError where the studio does not answer, or not as it should.
    """
    studio = _Client(address)
    files = {name for figure in studio.ask("GET", "/shelf") for name in figure["files"]}
    files |= {name for figure in studio.ask("GET", "/shelf/deleted") for name in figure["files"]}
    for name, (make, edition) in DEMO_FIGURES.items():
        file_name = f"{name.lower().replace(' ', '_')}.stl"
        if file_name in files:
            continue
        say(f"modelling the {name}")
        job = studio.ask("POST", f"/figures?file_name={quote(file_name)}", stl_bytes(make()))
        number = studio.done(job)["figure"]
        _say_of(studio, number, edition, _OTTER if name == "Bow otter" else _OWN)
        studio.ask("PUT", f"/figures/{number}/collection", {"collection": _COLLECTION})
        if name == "Bow otter":
            say(f"checking the {name}, which goes on the shelf of bits")
            studio.built(number)
            asked = {"figure": number, "part": "figure", "name": name, "tags": ["otter", "animal", "bow"]}
            studio.ask("POST", "/bits", asked)
    if f"{_SCANNED.lower()}.scan.zip" not in files:
        say(f"scanning the {_SCANNED}")
        job = studio.ask("POST", "/scans", {"object": _SCANNED.lower(), "name": _SCANNED})
        _say_of(studio, studio.done(job)["figure"], _SCANNED_EDITION, _OWN)
    _begin_studio(studio, {figure["name"]: figure["id"] for figure in studio.ask("GET", "/shelf")})


def _begin_studio(studio: "_Client", numbers: dict[str, int]) -> None:
    """Say what is there and what is to be printed, where nobody has said either."""
    if not studio.ask("GET", "/stock")["lines"]:
        for good, amount in _STOCK.items():
            line = {"good": good, "kind": "counted", "amount": amount, "day": date.today().isoformat()}
            studio.ask("POST", "/stock", line)
    plan = studio.ask("GET", "/plan")
    if not plan["plan"]["wanted"] and not plan["can_undo"]:
        wanted = [{"figure": numbers[name], "count": count} for name, count in _WANTED.items() if name in numbers]
        studio.ask("PUT", "/plan", {"plan": {"wanted": wanted}, "says": "the first release"}, plan["revision"])


def _say_of(studio: "_Client", number: int, edition: Edition, terms: dict[str, str]) -> None:
    """Set the edition of a figure that was just brought in, and say whose it is."""
    studio.change(number, "PUT", "/edition", edition.model_dump(mode="json"))
    first = studio.ask("GET", f"/figures/{number}/recipe.json")["recipe"]["steps"][0]
    credit = {"kind": "credit", "source": first["source"], "file": first["name"], **terms}
    studio.change(number, "POST", "/record", {"step": credit, "says": "credited"})


class _Client:
    """The API of a studio."""

    def __init__(self, address: str) -> None:
        self._address = f"{address}/api"

    def ask(self, verb: str, path: str, body: bytes | dict[str, Any] | None = None, seen: int | None = None) -> Any:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        kind = "application/octet-stream" if isinstance(body, bytes) else "application/json"
        headers = {"X-Ulvet": "demo", "Content-Type": kind}
        if seen is not None:
            headers["If-Match"] = str(seen)
        asked = urllib.request.Request(self._address + path, data, headers, method=verb)
        with urllib.request.urlopen(asked) as answer:
            return json.load(answer)

    def change(self, number: int, verb: str, path: str, body: dict[str, Any]) -> None:
        seen = self.ask("GET", f"/figures/{number}")["revision"]
        self.ask(verb, f"/figures/{number}{path}", body, seen)

    def done(self, job: dict[str, Any]) -> dict[str, Any]:
        """What a job made, once it has ended."""
        while job["state"] in ("queued", "running"):
            time.sleep(_LOOKS_AGAIN_S)
            job = self.ask("GET", f"/jobs/{job['id']}")
        if job["state"] != "done":
            raise OSError(job["error"] or f"{job['says']} was stopped.")
        made: dict[str, Any] = job["made"]
        return made

    def built(self, number: int) -> None:
        """Wait until a figure is checked."""
        page = self.ask("GET", f"/figures/{number}")
        while page["build"] is None:
            self.done(page["job"])
            page = self.ask("GET", f"/figures/{number}")
