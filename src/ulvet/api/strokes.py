"""Strokes as they are drawn: samples come in over a websocket, what they moved goes back."""

import asyncio
import struct
from contextlib import suppress

import numpy as np
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from starlette.concurrency import run_in_threadpool

from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part
from ulvet.core.strokes.steps import Stroke
from ulvet.core.strokes.working import DrawnUpdate, StrokeSession
from ulvet.work.display import display_from
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["MOST_BRUSHES", "MOST_TRIANGLES", "router"]

router = APIRouter(prefix="/figures/{number}", tags=["figure"])

MOST_TRIANGLES = 800_000
"""More would keep too much of the server's memory while a brush lies ready."""
MOST_BRUSHES = 3
"""Brushes open at once; each holds a figure's mesh in memory (bench default)."""
_HEAD = struct.Struct("<4sI")


class _Opens(BaseModel):
    """First message: the part that is to be worked on, and the build that is seen."""

    model_config = ConfigDict(extra="forbid")

    build: str = Field(max_length=64)
    edition: str = Field(default="", max_length=20)
    part: str = Field(max_length=120)


class _Message(BaseModel):
    """Any later message, one of its fields: a stroke with its first place, another place of it, its end, or that it is
    taken back."""

    model_config = ConfigDict(extra="forbid")

    stroke: Stroke | None = None
    place: Anchor | None = None
    end: bool = False
    leave: bool = False


class _Brush:
    """A brush on one part, from the page's first stroke to its last."""

    def __init__(self, working: StrokeSession) -> None:
        self._working = working
        self._stroke: Stroke | None = None

    def hear(self, said: _Message) -> bytes | None:
        """Do what a message asks: bytes of what is drawn anew, None where a stroke has ended.

        Raises Refused for a place or an end without a stroke.
        """
        if said.stroke is not None:
            if self._stroke is not None:
                self._working.leave()
            self._stroke = said.stroke
            return _bytes_of(self._working.sample(said.stroke, said.stroke.places[0]))
        if self._stroke is None:
            raise Refused("No stroke has begun, and nothing was changed: draw it again.")
        if said.place is not None:
            return _bytes_of(self._working.sample(self._stroke, said.place))
        self._stroke = None
        if said.leave:
            return _bytes_of(self._working.leave())
        self._working.end()
        return None


@router.websocket("/brush")
async def brush(socket: WebSocket, number: int) -> None:
    """A brush on a part of a figure, for as long as the page holds it.

    The page says JSON: which part of which build; then strokes place by place. Every place is answered by bytes: head
    (magic "ULT1", count k), vertices of the display mesh k uint32, positions k x 3, normals k x 3 and walls k float32,
    figure mm, little-endian; an end by ``{"ended": true}``; what cannot be done by ``{"error": sentence}``. Nothing is
    kept here: the page adds the stroke to the record when it ends.
    """
    await socket.accept()
    with suppress(WebSocketDisconnect):
        opening = await socket.receive_text()
        brushes: asyncio.Semaphore = socket.app.state.brushes
        if brushes.locked():
            await _refuse(socket, "Other pages hold as many brushes as there is room for: put one of them down first.")
            return
        async with brushes:
            await _paint(socket, number, opening)


async def _paint(socket: WebSocket, number: int, opening: str) -> None:
    studio: Studio = socket.app.state.studio
    try:
        opens = _Opens.model_validate_json(opening)
        held = _Brush(await run_in_threadpool(_working, studio, number, opens))
    except ValidationError:
        await _refuse(socket, "The page and the server do not understand each other: reload the page.")
        return
    except (NotThere, Refused) as refusal:
        await _refuse(socket, str(refusal))
        return
    await socket.send_json({"ready": True})
    while True:
        try:
            said = _Message.model_validate_json(await socket.receive_text())
            answer = await run_in_threadpool(held.hear, said)
        except ValidationError as error:
            first = error.errors()[0]
            await socket.send_json({"error": f"That stroke cannot be drawn: {first['msg'].lower()}."})
        except Refused as refusal:
            await socket.send_json({"error": str(refusal)})
        else:
            await (socket.send_json({"ended": True}) if answer is None else socket.send_bytes(answer))


async def _refuse(socket: WebSocket, sentence: str) -> None:
    await socket.send_json({"error": sentence})
    await socket.close()


def _working(studio: Studio, number: int, opens: _Opens) -> StrokeSession:
    """The part as the build has it, with what the page shows of it.

    Raises NotThere, Refused.
    """
    _, _, record, _ = studio.figure(number, opens.edition)
    if record is None or record.key != opens.build:
        raise Refused("The figure has changed and is being checked: take the brush up again when that is done.")
    named = [part for part in record.parts if part.facts.part == opens.part]
    if not named:
        raise NotThere("There is no such part in the figure.")
    part = named[0]
    if part.facts.triangles > MOST_TRIANGLES:
        raise Refused(
            f"The part has {part.facts.triangles:,} triangles, and a brush follows up to {MOST_TRIANGLES:,}: "
            "thin it out, or have the stroke applied when it is drawn."
        )
    drawn, walls = display_from(studio.blobs.read(part.display))
    mesh = studio.blobs.mesh(part.mesh)
    return StrokeSession(Part(part.facts.part, mesh, source=part.source), drawn, walls, part.facts.factor)


def _bytes_of(followed: DrawnUpdate | None) -> bytes:
    if followed is None:
        return _HEAD.pack(b"ULT1", 0)
    walls = np.where(np.isfinite(followed.walls), followed.walls, np.float32(1e6))
    return b"".join(
        [
            _HEAD.pack(b"ULT1", len(followed.vertices)),
            followed.vertices.astype("<u4").tobytes(),
            followed.points.astype("<f4").tobytes(),
            followed.normals.astype("<f4").tobytes(),
            walls.astype("<f4").tobytes(),
        ]
    )
