"""The simulated printer over HTTP, with a clock that may run fast; its protocol is in docs/printer-protocol.md."""

import io
import threading
import time
import zipfile
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import FastAPI, HTTPException, Query, Request, Response
from PIL import Image
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ulvet.core.formats.stl import read_back
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.layers.raster import TooManyLayers
from ulvet.standins.growth import Event
from ulvet.standins.printing import Outcome, is_left, print_of
from ulvet.standins.truths import caliper, fit_of, truths_of

__all__ = ["PROTOCOL", "PrintAsked", "create_printer"]

PROTOCOL = "ulvet-printer/1"
_MOST_BYTES = 400_000_000
"""Of a print that is sent: a full plate of two million triangles has a quarter (stand-in)."""
_MOST_PRINTS = 200
"""That are remembered (stand-in)."""
State = Literal["waiting", "printing", "done", "stopped", "failed"]
Point = tuple[float, float, float]


class PrintAsked(BaseModel):
    """What is printed how: print.json in the ZIP that is sent."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    protocol: Literal["ulvet-printer/1"] = "ulvet-printer/1"
    name: str = Field(max_length=200)
    layer: float = Field(ge=0.005, le=2)
    """Height of a layer, mm."""
    pixel: float = Field(ge=0.01, le=2)
    """Finest step across, mm."""
    seconds: float = Field(gt=0, le=1e7)
    """That the print is told to take."""


@dataclass
class _Print:
    """A print: what was asked, what will come of it, and since when it runs."""

    number: int
    asked: PrintAsked
    parts: Mesh
    supports: Mesh | None
    began: float = field(default_factory=time.monotonic)
    stopped: float | None = None
    outcome: Outcome | None = None
    error: str = ""


class _Printer:
    """One printer with its truths, its clock and its prints."""

    def __init__(self, speed: float, seed: int) -> None:
        self.speed, self.seed, self.truths = speed, seed, truths_of(seed)
        self.prints: dict[int, _Print] = {}
        self._lock = threading.Lock()

    def begin(self, asked: PrintAsked, parts: Mesh, supports: Mesh | None) -> _Print:
        with self._lock:
            if len(self.prints) >= _MOST_PRINTS:
                self.prints.pop(min(self.prints))
            one = _Print(max(self.prints, default=0) + 1, asked, parts, supports)
            self.prints[one.number] = one
        threading.Thread(target=self._work_out, args=(one,), daemon=True).start()
        return one

    def _work_out(self, one: _Print) -> None:
        try:
            one.outcome = print_of(
                one.parts, one.supports, one.asked.layer, one.asked.pixel, self.truths, self.seed * 1000 + one.number
            )
        except (TooManyLayers, ValueError, MemoryError) as error:
            one.error = str(error) or "the print is too large"

    def one(self, number: int) -> _Print:
        found = self.prints.get(number)
        if found is None:
            raise HTTPException(404, "There is no such print here.")
        return found

    def done(self, number: int) -> Outcome:
        """What came out of a print that is done."""
        one = self.one(number)
        if one.outcome is None or self.state(one)["state"] != "done":
            raise HTTPException(409, "There is nothing to look at before it is done.")
        return one.outcome

    def takes(self, one: _Print) -> float:
        """Seconds of the printer's clock that a print really takes."""
        return one.asked.seconds * self.truths.seconds_factor

    def clock(self, one: _Print) -> float:
        """Seconds of the printer's clock since a print began."""
        until = one.stopped if one.stopped is not None else time.monotonic()
        return (until - one.began) * self.speed

    def state(self, one: _Print) -> dict[str, Any]:
        takes, at = self.takes(one), self.clock(one)
        outcome = one.outcome
        state: State = (
            "failed" if one.error else "stopped" if one.stopped is not None
            else "waiting" if outcome is None else "done" if at >= takes else "printing"
        )  # fmt: skip
        share = min(at / takes, 1.0) if outcome else 0.0
        layers = outcome.layers if outcome else 0
        seen = [event for event in outcome.events if self._is_seen(event, share, layers, state)] if outcome else []
        return {
            "protocol": PROTOCOL, "print": one.number, "name": one.asked.name, "state": state, "error": one.error,
            "layer": int(share * layers), "layers": layers, "seconds": round(min(at, takes), 1),
            "ml": round(outcome.ml * share, 3) if outcome else 0.0,
            "events": [event.model_dump(mode="json") for event in seen],
        }  # fmt: skip

    @staticmethod
    def _is_seen(event: Event, share: float, layers: int, state: State) -> bool:
        return state == "done" or (not event.after and event.layer <= share * layers)


def create_printer(speed: float = 60.0, seed: int = 1) -> FastAPI:
    """A printer whose clock runs ``speed`` times as fast, with the hidden truths of ``seed``."""
    app = FastAPI(title="A simulated printer", docs_url=None, redoc_url=None)
    printer = _Printer(speed, seed)

    @app.get("/")
    def about() -> dict[str, Any]:
        return {
            "protocol": PROTOCOL,
            "name": f"Simulated printer {seed}",
            "speed": speed,
            "prints": len(printer.prints),
        }

    @app.post("/prints", status_code=201)
    async def submit(request: Request) -> dict[str, Any]:
        data = b""
        async for chunk in request.stream():
            data += chunk
            if len(data) > _MOST_BYTES:
                raise HTTPException(413, "That is more than this printer takes.")
        return printer.state(printer.begin(*_asked(data)))

    @app.get("/prints/{number}")
    def state(number: int) -> dict[str, Any]:
        return printer.state(printer.one(number))

    @app.delete("/prints/{number}")
    def stop(number: int) -> dict[str, Any]:
        one = printer.one(number)
        if one.stopped is None and printer.state(one)["state"] in ("waiting", "printing"):
            one.stopped = time.monotonic()
        return printer.state(one)

    @app.get("/prints/{number}/picture.png")
    def picture(number: int) -> Response:
        return Response(_picture(printer.done(number)), media_type="image/png")

    @app.get("/prints/{number}/length")
    def length(
        number: int,
        begin: Annotated[str, Query(max_length=90)],
        end: Annotated[str, Query(max_length=90)],
        over: Literal["outside", "inside", "step"] = "outside",
    ) -> dict[str, float]:
        printer.done(number)
        return {"mm": caliper(_point(begin), _point(end), over, printer.truths, printer.seed * 1000 + number)}

    @app.get("/prints/{number}/fit")
    def fit(
        number: int,
        peg: Annotated[float, Query(gt=0, le=1_000)],
        hole: Annotated[float, Query(gt=0, le=1_000)],
    ) -> dict[str, str]:
        printer.done(number)
        return {"fit": fit_of(peg, hole, printer.truths, printer.seed * 1000 + number)}

    @app.get("/prints/{number}/there")
    def there(number: int, at: Annotated[str, Query(max_length=90)]) -> dict[str, bool]:
        return {"there": is_left(printer.done(number), _point(at))}

    return app


def _asked(data: bytes) -> tuple[PrintAsked, Mesh, Mesh | None]:
    """What a ZIP asks for: print.json, parts.stl and, where it is held, supports.stl."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            asked = PrintAsked.model_validate_json(packed.read("print.json"))
            parts = read_back(packed.read("parts.stl"))
            held = "supports.stl" in packed.namelist()
            supports = read_back(packed.read("supports.stl")) if held else None
    except (zipfile.BadZipFile, KeyError, ValidationError, ValueError) as error:
        raise HTTPException(422, f"That is no print: {error}") from error
    if not len(parts.faces):
        raise HTTPException(422, "That is no print: it is empty.")
    return asked, parts, supports


def _point(text: str) -> Point:
    try:
        x, y, z = (float(one) for one in text.split(","))
    except ValueError as error:
        raise HTTPException(422, "A place is three numbers with commas between them.") from error
    return x, y, z


def _picture(outcome: Outcome) -> bytes:
    """What is left, from its front, nearer cells lighter."""
    left = outcome.left
    near = left.argmax(axis=1)
    there = left.any(axis=1)
    shade = np.where(there, 210 - 120 * near / max(left.shape[1], 1), 255).astype(np.uint8)[::-1]
    up, _, across = outcome.sides
    image = Image.fromarray(shade, "L")
    scale = min(800 / max(image.width * across, image.height * up), 40)
    image = image.resize((max(int(image.width * across * scale), 1), max(int(image.height * up * scale), 1)))
    drawn = io.BytesIO()
    image.save(drawn, "PNG")
    return drawn.getvalue()
