"""The simulated shop over HTTP, with moods of its own by seed; its protocol is in docs/shop-protocol.md."""

import hashlib
import json
import random
import threading
import time
import zipfile
from pathlib import Path
from typing import Annotated, Any

from fastapi import FastAPI, HTTPException, Request
from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.formats.stl import read_back
from ulvet.core.release.manifest import MANIFEST, ItemEntry, Manifest

__all__ = ["PROTOCOL", "Offer", "create_shop"]

PROTOCOL = "ulvet-shop/1"
_MOST_BYTES = 4_000_000_000
"""Of a pack that is sent (stand-in)."""
_REFUSES, _IS_SLOW, _IS_SILENT, _LIES = 0.15, 0.1, 0.1, 0.05
"""Shares of requests that a moody shop refuses, answers late, does but does not answer, or answers with a wrong
hash."""
_LATE_S, _SILENCE_S = 0.4, 4.0
"""Seconds that it is late, and that it keeps silent."""
_BUYERS = (6, 30)
"""Who buys while an issue is on offer, at least and at most."""
_REPORTS = 2
"""Reports on each issue, the first of them told twice."""
_FETCH = 0.7
"""Share of buyers who fetch an issue that replaces theirs."""


class Offer(BaseModel):
    """What is offered: a pack by its hash, and what is said of it. ``notice`` is what buyers of an earlier issue are
    told."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    pack: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    issue: int = Field(ge=1)
    title: str = Field(max_length=200)
    text: str = Field(max_length=4_000)
    price: float = Field(ge=0, allow_inf_nan=False)
    tags: tuple[str, ...] = Field(default=(), max_length=40)
    terms: tuple[str, ...] = Field(default=(), max_length=200)
    notice: tuple[str, ...] = Field(default=(), max_length=400)


class _Shop:
    """Packs by hash and offers by name, in a folder so that they outlast the process."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.folder, self.seed = folder, seed
        self._dice = random.Random(seed)
        self._lock = threading.Lock()
        (folder / "packs").mkdir(parents=True, exist_ok=True)
        (folder / "offers").mkdir(exist_ok=True)

    def mood(self) -> str:
        """How it takes a request: always well where its seed is 0."""
        if not self.seed:
            return "well"
        with self._lock:
            at = self._dice.random()
        for share, mood in ((_REFUSES, "refuses"), (_IS_SLOW, "slow"), (_IS_SILENT, "silent"), (_LIES, "lies")):
            if at < share:
                return mood
            at -= share
        return "well"

    def offer(self, name: str) -> dict[str, Any]:
        path = self.folder / "offers" / f"{name}.json"
        if not path.exists():
            raise HTTPException(404, "There is no such offer here.")
        found: dict[str, Any] = json.loads(path.read_bytes())
        return found

    def put(self, name: str, offer: Offer) -> dict[str, Any]:
        """Offer a pack, or replace what was offered under this name; the same again changes nothing."""
        with self._lock:
            if not (self.folder / "packs" / offer.pack).exists():
                raise HTTPException(409, "That pack is not here: send it first.")
            path = self.folder / "offers" / f"{name}.json"
            new: dict[str, Any] = {"offer": name, "buyers": {}, "times": 0}
            held = json.loads(path.read_bytes()) if path.exists() else new
            if held.get("now") == offer.model_dump(mode="json"):
                return held
            dice = random.Random(f"{self.seed} {name} {offer.pack}")
            for buyer, issue in held["buyers"].items():
                held["buyers"][buyer] = offer.issue if dice.random() < _FETCH else issue
            known = len(held["buyers"])
            came = range(known, known + dice.randint(*_BUYERS))
            held["buyers"].update({f"buyer-{at + 1}": offer.issue for at in came})
            held |= {"now": offer.model_dump(mode="json"), "times": held["times"] + 1}
            _write(path, json.dumps(held).encode())
            return held

    def reports(self, name: str) -> list[dict[str, Any]]:
        """What buyers of an offer report: of parts that are thin or tall, one of them told twice."""
        held = self.offer(name)
        with zipfile.ZipFile(self.folder / "packs" / held["now"]["pack"]) as packed:
            manifest = Manifest.model_validate_json(packed.read(MANIFEST))
            told = [_report(packed, manifest, name, at) for at in range(_REPORTS)]
        return [*told, told[0]]


def create_shop(folder: Path, seed: int = 0) -> FastAPI:
    """A shop that keeps what it has in a folder; with a ``seed`` other than 0 it is slow, refuses, is silent, and lies
    about a hash now and then."""
    app = FastAPI(title="A simulated shop", docs_url=None, redoc_url=None)
    shop = _Shop(folder, seed)

    def _mood() -> str:
        mood = shop.mood()
        if mood == "refuses":
            raise HTTPException(503, "Too much to do: ask again.")
        if mood == "slow":
            time.sleep(_LATE_S)
        return mood

    @app.get("/")
    def about() -> dict[str, Any]:
        return {"protocol": PROTOCOL, "name": f"Simulated shop {seed}"}

    @app.put("/packs/{digest}", status_code=201)
    async def pack(digest: str, request: Request) -> dict[str, Any]:
        if len(digest) != 64 or not set(digest) <= set("0123456789abcdef"):
            raise HTTPException(422, "A pack is named by its SHA-256.")
        came, count = hashlib.sha256(), 0
        path = folder / "packs" / f"{digest}.part-{id(request)}"
        try:
            with path.open("wb") as file:
                async for chunk in request.stream():
                    count += len(chunk)
                    if count > _MOST_BYTES:
                        raise HTTPException(413, "That is more than this shop takes.")
                    came.update(chunk)
                    file.write(chunk)
            if came.hexdigest() != digest:
                raise HTTPException(422, "What came is not what its name says: send it again.")
            path.replace(folder / "packs" / digest)
        finally:
            path.unlink(missing_ok=True)
        return {"sha256": digest if _mood() != "lies" else "0" * 64, "bytes": count}

    @app.get("/packs/{digest}")
    def has(digest: str) -> dict[str, Any]:
        path = folder / "packs" / digest
        if len(digest) != 64 or not path.exists():
            raise HTTPException(404, "That pack is not here.")
        return {"sha256": digest, "bytes": path.stat().st_size}

    @app.put("/offers/{name}")
    def put(name: str, offer: Offer) -> dict[str, Any]:
        if not name.replace("-", "").replace(".", "").isalnum() or len(name) > 130:
            raise HTTPException(422, "An offer is named with letters, digits, hyphens and points.")
        mood = _mood()
        held = shop.put(name, offer)
        if mood == "silent":
            time.sleep(_SILENCE_S)
        return _told(held, lies=mood == "lies")

    @app.get("/offers/{name}")
    def offer(name: str) -> dict[str, Any]:
        return _told(shop.offer(name), lies=_mood() == "lies")

    @app.get("/offers/{name}/reports")
    def reports(name: str) -> list[dict[str, Any]]:
        _mood()
        return shop.reports(name)

    return app


def _told(held: dict[str, Any], lies: bool) -> dict[str, Any]:
    now = held["now"]
    have = [sum(issue == one for issue in held["buyers"].values()) for one in range(1, now["issue"] + 1)]
    return {
        "protocol": PROTOCOL, "offer": held["offer"], "issue": now["issue"],
        "sha256": "0" * 64 if lies else now["pack"], "times": held["times"], "buyers": len(held["buyers"]),
        "buyers_by_issue": have,
    }  # fmt: skip


def _report(packed: zipfile.ZipFile, manifest: Manifest, offer: str, at: int) -> dict[str, Any]:
    """A report on an item: its thinnest thing broke, or a joint does not fit. ``at`` is in mm of the file."""
    dice = random.Random(f"{offer} {manifest.number} {at}")
    item = dice.choice(manifest.items)
    thin = next((one.part for one in item.open if one.code in ("thin-wall", "snap-risk")), None)
    part = next((one for one in item.parts if one.part == thin), item.parts[0])
    return {
        "id": f"{offer}-{manifest.number}-{at + 1}", "issue": manifest.number, "item": item.name, "part": part.number,
        "at": _top_of(packed, manifest, item, part.part), "cause": "thin-part" if thin else "unknown",
        "setting": dice.choice(("another printer, 0.03 mm layers", "another printer, clear resin", item.setting)),
        "says": "It broke when I took the supports off." if thin else "It came out with a mark.",
    }  # fmt: skip


def _top_of(packed: zipfile.ZipFile, manifest: Manifest, item: ItemEntry, part: str) -> list[float] | None:
    """The highest point of a part's file, mm; None where it has none of its own."""
    files = [one.name for one in manifest.files if (one.item, one.part) == (item.name, part)]
    bare = next((name for name in files if not name.endswith("_supported.stl")), None)
    if bare is None:
        return None
    points = read_back(packed.read(bare)).vertices
    return [round(float(value), 3) for value in points[points[:, 2].argmax()]]


def _write(path: Path, data: bytes) -> None:
    """Write a file whole or not at all."""
    new = path.with_suffix(".new")
    new.write_bytes(data)
    new.replace(path)
