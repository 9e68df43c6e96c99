"""Proofs on a printer that speaks the printer protocol: sent, followed, and entered when they are done."""

import io
import json
import zipfile
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any

import httpx
import numpy as np
from pydantic import BaseModel, Field, ValidationError

from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, bounds, concatenated
from ulvet.core.proof.proof import Came, Cause, Copy, Outcome, Pin, Proof, When
from ulvet.core.recipe.anchors import Anchor
from ulvet.work.loopback import loopback_address
from ulvet.work.proof_files import PlacedCopy, placed_copies
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = [
    "CAUSES",
    "PrintNow",
    "answer_of",
    "follow",
    "length_of",
    "look_at",
    "picture_of",
    "send",
    "send_print",
    "stop",
]

_PATIENCE_S = 30.0
"""Seconds that a printer is waited for (bench default)."""
CAUSES: dict[str, tuple[Cause, When]] = {
    "island": (Cause.ISLAND, When.ON_PLATE),
    "came-off-supports": (Cause.CAME_OFF_SUPPORTS, When.ON_PLATE),
    "did-not-stick": (Cause.DID_NOT_STICK, When.ON_PLATE),
    "suction": (Cause.SUCTION, When.ON_PLATE),
    "broke": (Cause.THIN_PART, When.SUPPORTS_OFF),
    "trapped": (Cause.TRAPPED_RESIN, When.SUPPORTS_OFF),
    "layer-shift": (Cause.LAYER_SHIFT, When.ON_PLATE),
}
"""What a printer's events are in a proof."""


class PrintEvent(BaseModel):
    """Something that happened, as a printer tells it: where is in mm on the plate."""

    kind: str = Field(max_length=40)
    layer: int
    at: tuple[float, float, float]
    volume: float = 0.0
    after: bool = False


class PrintNow(BaseModel):
    """A print as its printer tells it."""

    protocol: str
    number: int = Field(alias="print")
    name: str
    state: str
    error: str = ""
    layer: int
    layers: int
    seconds: float
    ml: float
    events: list[PrintEvent] = Field(max_length=10_000)


def send(studio: Studio, number: int, printer: str) -> PrintNow:
    """Send a proof to the printer at an address, and remember where it is printed.

    Raises NotThere, Conflict, Refused.
    """
    now = studio.proofs.one(number)
    if now.value.came.printer:
        raise Refused(f"Proof {number} is on a printer already: follow it there, or begin another.")
    try:
        setup = studio.bench.value.setup(now.value.setting)
    except UnknownOnBench as error:
        raise Refused(f"{now.value.setting_name} is not on the bench any more: nothing was sent.") from error
    copies = placed_copies(studio, now.value)
    supports = [copy.supports for copy in copies if copy.supports is not None]
    asked = {"name": f"Proof {number}", "layer": setup.layer, "pixel": setup.pixel, "seconds": now.value.told.seconds}
    begun = send_print(
        printer, asked, concatenated(*(copy.mesh for copy in copies)), concatenated(*supports) if supports else None
    )
    address = f"{loopback_address(printer)}/prints/{begun.number}"
    studio.proofs.enter(
        number, now.revision, "sent to a printer", lambda proof: proof.came.model_copy(update={"printer": address})
    )
    return begun


def send_print(printer: str, asked: dict[str, Any], parts: Mesh, supports: Mesh | None) -> PrintNow:
    """Have a printer print parts with their supports, both in mm on its plate.

    Raises Refused.
    """
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("print.json", json.dumps(asked))
        archive.writestr("parts.stl", stl_bytes(parts))
        if supports is not None:
            archive.writestr("supports.stl", stl_bytes(supports))
    return _told("POST", f"{loopback_address(printer)}/prints", packed.getvalue())


def look_at(address: str) -> PrintNow:
    """How a print stands, by its address.

    Raises Refused.
    """
    return _told("GET", address)


def follow(studio: Studio, number: int) -> PrintNow:
    """How a proof's print stands. Once it is done, what came out is entered, once.

    Raises NotThere, Conflict, Refused.
    """
    now = studio.proofs.one(number)
    told = look_at(_address(studio, number))
    if told.state in ("done", "stopped") and now.value.came.ended is None:
        copies = placed_copies(studio, now.value)
        studio.proofs.enter(number, now.revision, "told by the printer", lambda proof: _entered(proof, told, copies))
    return told


def stop(studio: Studio, number: int) -> PrintNow:
    """Stop a proof's print.

    Raises NotThere, Refused.
    """
    return _told("DELETE", _address(studio, number))


def picture_of(studio: Studio, number: int) -> bytes:
    """A PNG of what came out, as the printer shows it.

    Raises NotThere, Refused.
    """
    return _asked("GET", f"{_address(studio, number)}/picture.png").content


def length_of(studio: Studio, number: int, part: int, begin: Anchor, end: Anchor, over: str) -> float:
    """What calipers read between two places of a part that was printed, mm, as the printer tells it.

    Raises NotThere, Refused.
    """
    address = _address(studio, number)
    copies = [one for one in placed_copies(studio, studio.proofs.one(number).value) if one.part == part]
    if not copies:
        raise Refused("That part was not printed in this proof: choose another.")
    ends = [",".join(f"{value:.4f}" for value in copies[0].on_plate(at.point)) for at in (begin, end)]
    answer = _asked("GET", f"{address}/length?begin={ends[0]}&end={ends[1]}&over={over}")
    return float(answer.json()["mm"])


def _address(studio: Studio, number: int) -> str:
    address = studio.proofs.one(number).value.came.printer
    if not address:
        raise Refused(f"Proof {number} was sent to no printer: enter by hand how it came out.")
    return address


def _entered(proof: Proof, told: PrintNow, copies: Sequence[PlacedCopy]) -> Came:
    """What came out, as the printer tells it: each event as a pin on the copy it happened to."""
    pins = list(proof.came.pins)
    spoilt: dict[int, bool] = {}
    for event in told.events:
        if event.kind not in CAUSES:
            continue
        copy = min(range(len(copies)), key=lambda k: _away(copies[k], event.at))
        cause, when = CAUSES[event.kind]
        spoilt[copy] = spoilt.get(copy, False) or event.kind != "trapped"
        if len(pins) < _MOST_PINS:
            part = proof.parts[copies[copy].part]
            at = Anchor.at(copies[copy].in_figure(event.at), None, part.source)
            number = 1 + max((pin.id for pin in pins), default=0)
            pins.append(Pin(id=number, part=copies[copy].part, at=at, when=when, cause=cause))
    stopped = told.state == "stopped"
    outcome = {k: Outcome.FAILED if stopped or spoilt.get(k) else Outcome.USABLE if k in spoilt else Outcome.SOUND
               for k in range(len(copies))}  # fmt: skip
    return proof.came.model_copy(
        update={
            "ended": datetime.now(UTC).replace(microsecond=0), "pins": tuple(pins),
            # What was broken off says nothing of how long it takes, nor of what it takes.
            "seconds": None if stopped else told.seconds, "ml": None if stopped else told.ml or None,
            "copies": tuple(
                one.model_copy(update={"outcome": outcome[k]}) for k, one in enumerate(_copies(proof, copies))
            ),
        }
    )  # fmt: skip


def _copies(proof: Proof, copies: Sequence[PlacedCopy]) -> Sequence[Copy]:
    """The copies of a proof; of one that names none, one of each part."""
    return proof.came.copies or [Copy(part=one.part) for one in copies]


_MOST_PINS = 40
"""Pins that are set from a printer's events; of a failure with more the first tell enough (bench default)."""


def _away(copy: PlacedCopy, at: tuple[float, float, float]) -> float:
    low, high = bounds(copy.mesh)
    off = np.maximum(np.maximum(low - at, np.array(at) - high), 0)
    return float(np.linalg.norm(off))


def _told(verb: str, address: str, data: bytes | None = None) -> PrintNow:
    try:
        return PrintNow.model_validate_json(_asked(verb, address, data).content)
    except ValidationError as error:
        raise Refused("What answers there is no printer that speaks this protocol; nothing was changed.") from error


def answer_of(address: str) -> httpx.Response:
    """What a printer answers at an address of its own.

    Raises Refused.
    """
    return _asked("GET", address)


def _asked(verb: str, address: str, data: bytes | None = None) -> httpx.Response:
    try:
        answer = httpx.request(verb, loopback_address(address), content=data, timeout=_PATIENCE_S)
    except httpx.HTTPError as error:
        raise Refused(
            "The printer does not answer. What was entered is safe; see that it is on, and ask again."
        ) from error
    if answer.status_code == 404:
        raise Refused("The printer knows nothing of that print: it was begun anew since. Enter by hand what came out.")
    if answer.is_error:
        raise Refused(f"The printer refused: {answer.text[:200]}. Nothing was changed.")
    return answer
