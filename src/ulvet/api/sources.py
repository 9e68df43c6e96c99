"""Where things come from: terms, evidence, bits, the scanner."""

from datetime import datetime
from pathlib import PurePath
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from ulvet.api.asked import AtStudio, IfMatch, LookedEdition, RowNumber
from ulvet.api.figure import changed_page
from ulvet.api.uploads import A_FILE, FileName
from ulvet.api.views import FigurePage, JobView, job_view
from ulvet.core.provenance.steps import DEPICTED, Credit
from ulvet.core.provenance.terms import NO_ADVICE, TERMS, Terms
from ulvet.core.references.picture import shown_picture
from ulvet.core.sources.picture import UnusablePicture, narrowest_stroke, picture_of
from ulvet.standins.objects import OBJECTS
from ulvet.standins.scanner import DEVICE, LARGEST_MM, SMALLEST_MM, ScanSettings
from ulvet.store.models import Bit
from ulvet.work import bits
from ulvet.work.refusals import Refused
from ulvet.work.scanning import scan_to_shelf

__all__ = ["router"]

router = APIRouter(tags=["sources"])

_MOST_FILE = 20_000_000
"""Bytes of evidence of terms: a large photograph or a letter (bench default)."""
_EVIDENCE = {
    "image/png": (b"\x89PNG\r\n\x1a\n",),
    "image/jpeg": (b"\xff\xd8\xff",),
    "application/pdf": (b"%PDF-",),
}


class TermsList(BaseModel):
    """The terms that ship, what a figure can depict, and what none of it is."""

    terms: list[Terms]
    depicted: dict[str, str]
    no_advice: str


class EvidenceView(BaseModel):
    """A file kept as evidence."""

    sha256: str
    file_name: str


class PictureView(BaseModel):
    """A picture kept for stamps: its strokes as they would be pressed, in shares of its width."""

    sha256: str
    file_name: str
    ratio: float
    """Height over width."""
    narrowest: float
    """Width of its narrowest strokes."""


class ReferenceView(BaseModel):
    """A picture kept to work from; ``shown`` is the blob of its PNG, ``ratio`` its height over its width."""

    shown: str
    file_name: str
    ratio: float


class BitView(BaseModel):
    """A bit on the shelf, ``size_mm`` as it was sculpted, or a stamp."""

    id: int
    name: str
    tags: list[str]
    picture: str
    size_mm: tuple[float, float, float] | None
    stamp: PictureView | None
    figure: str
    terms: str
    shelved: datetime


class ShelvePart(BaseModel):
    """A part of a figure, and what it is to be called."""

    figure: int = Field(ge=0, le=2**63 - 1)
    part: str = Field(max_length=80)
    name: str = Field(min_length=1, max_length=80)
    tags: list[str] = Field(default=[], max_length=20)


class ShelveStamp(BaseModel):
    """A picture that was kept for stamps, what it is to be called, and the figure that says its terms."""

    picture: str = Field(pattern="^[0-9a-f]{64}$")
    file_name: str = Field(min_length=1, max_length=255)
    figure: int | None = Field(default=None, ge=0, le=2**63 - 1)
    name: str = Field(min_length=1, max_length=80)
    tags: list[str] = Field(default=[], max_length=20)


class UseBit(BaseModel):
    """A bit, and where in the figure it is to stand, mm of the figure."""

    bit: int = Field(ge=0, le=2**63 - 1)
    at: tuple[
        Annotated[float, Field(ge=-1e5, le=1e5)],
        Annotated[float, Field(ge=-1e5, le=1e5)],
        Annotated[float, Field(ge=-1e5, le=1e5)],
    ] = (0.0, 0.0, 0.0)


class ScannerView(BaseModel):
    """The scanner and what can be put on it."""

    device: str
    smallest_mm: float
    largest_mm: float
    objects: dict[str, str]
    settings: ScanSettings


class AskScan(BaseModel):
    """What to scan, and how."""

    object: str = Field(max_length=40)
    name: str = Field(default="", max_length=120)
    settings: ScanSettings = ScanSettings()


@router.get("/terms")
def terms() -> TermsList:
    """Common open terms with their answers, and the kinds of thing a figure depicts."""
    return TermsList(terms=list(TERMS), depicted=DEPICTED, no_advice=NO_ADVICE)


@router.post("/evidence", openapi_extra=A_FILE)
async def keep_evidence(request: Request, studio: AtStudio, file_name: FileName) -> EvidenceView:
    """Keep a file, sent as the body, as evidence of terms: a PNG, JPEG, PDF, or plain text up to 20 MB."""
    clean = PurePath(file_name.replace("\\", "/")).name or "evidence"
    data = await _body(request, clean)
    if not data:
        raise Refused(f"{clean} is empty: choose the file again.")
    if _kind(data) is None:
        raise Refused(f"{clean} is neither PNG, JPEG, PDF nor plain text: keep a picture of it instead.")
    return EvidenceView(sha256=studio.blobs.put(data), file_name=clean)


@router.get("/evidence/{name}", response_class=Response)
def evidence(name: str, studio: AtStudio) -> Response:
    """A file kept as evidence."""
    data = bytes(studio.blobs.read(name))
    kind = _kind(data)
    if kind is None:
        raise Refused("That is no evidence.")
    # Handed out to be saved, never to be shown as a page of this program.
    return Response(data, media_type=kind, headers={"Content-Disposition": "attachment"})


@router.get("/bits")
def list_bits(studio: AtStudio, words: Annotated[str, Query(max_length=200)] = "") -> list[BitView]:
    """Bits whose name, tags or figure hold all of some words, the newest first."""
    return [_bit_view(bit) for bit in bits.bits_like(studio, words)]


@router.post("/bits", status_code=201)
def shelve(asked: ShelvePart, edition: LookedEdition, studio: AtStudio) -> BitView:
    """Put a part of a figure on the shelf of bits, with the terms of its source."""
    return _bit_view(bits.shelve_part(studio, asked.figure, asked.part, asked.name, asked.tags, edition))


@router.post("/stamps", status_code=201)
def shelve_stamp(asked: ShelveStamp, studio: AtStudio) -> BitView:
    """Put a picture on the shelf as a stamp."""
    try:
        bit = bits.shelve_stamp(studio, asked.picture, asked.file_name, asked.name, asked.tags, asked.figure)
    except UnusablePicture as refusal:
        raise Refused(str(refusal)) from refusal
    return _bit_view(bit)


@router.delete("/bits/{bit}", status_code=204, response_class=Response)
def drop(bit: RowNumber, studio: AtStudio) -> Response:
    """Take a bit off the shelf; figures that use it keep it."""
    bits.drop_bit(studio, bit)
    return Response(status_code=204)


@router.post("/bits/{bit}/put-back", status_code=204, response_class=Response)
def put_bit_back(bit: RowNumber, studio: AtStudio) -> Response:
    """Put a bit back on the shelf that was taken off it."""
    bits.put_bit_back(studio, bit)
    return Response(status_code=204)


@router.post("/figures/{number}/bits")
def use(number: RowNumber, asked: UseBit, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add a bit to a figure as a part of its own; its terms come along."""
    bits.use_bit(studio, number, seen, asked.bit, asked.at)
    return changed_page(studio, number, seen)


@router.get("/scanner")
def scanner() -> ScannerView:
    """The simulated scanner, what can be put on it, and how it is set unless told otherwise."""
    return ScannerView(
        device=DEVICE,
        smallest_mm=SMALLEST_MM,
        largest_mm=LARGEST_MM,
        objects={name: title for name, (title, _) in OBJECTS.items()},
        settings=ScanSettings(),
    )


@router.post("/scans", status_code=202)
def start_scan(asked: AskScan, studio: AtStudio) -> JobView:
    """Scan an object; when it is done it stands on the shelf as a new figure."""
    return job_view(scan_to_shelf(studio, asked.object, asked.settings, asked.name.strip()))


@router.post("/pictures", openapi_extra=A_FILE)
async def keep_picture(request: Request, studio: AtStudio, file_name: FileName) -> PictureView:
    """Keep a PNG or SVG, sent as the body, for stamps."""
    clean = PurePath(file_name.replace("\\", "/")).name or "picture"
    data = await _body(request, clean)
    try:
        picture = await run_in_threadpool(picture_of, data)
        narrowest = await run_in_threadpool(narrowest_stroke, picture)
    except UnusablePicture as refusal:
        raise Refused(f"{clean}: {refusal}") from refusal
    width = picture.strength.shape[1]
    return PictureView(sha256=studio.blobs.put(data), file_name=clean, ratio=picture.ratio, narrowest=narrowest / width)


@router.post("/references", openapi_extra=A_FILE)
async def keep_reference(request: Request, studio: AtStudio, file_name: FileName) -> ReferenceView:
    """Keep a PNG or JPEG, sent as the body, to be drawn behind a figure."""
    clean = PurePath(file_name.replace("\\", "/")).name or "picture"
    data = await _body(request, clean)
    try:
        png, ratio = await run_in_threadpool(shown_picture, data)
    except UnusablePicture as refusal:
        raise Refused(f"{clean}: {refusal}") from refusal
    return ReferenceView(shown=await run_in_threadpool(studio.blobs.put, png), file_name=clean, ratio=ratio)


async def _body(request: Request, name: str) -> bytes:
    """The body of a request.

    Raises Refused where it is too large.
    """
    data = b""
    async for chunk in request.stream():
        data += chunk
        if len(data) > _MOST_FILE:
            raise Refused(f"{name} is larger than {_MOST_FILE / 1e6:.0f} MB: save it smaller and choose it again.")
    return data


def _kind(data: bytes) -> str | None:
    for kind, heads in _EVIDENCE.items():
        if data.startswith(heads):
            return kind
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        return None
    return None if any(chr(k) in text for k in range(9)) else "text/plain"


def _bit_view(bit: Bit) -> BitView:
    credit = Credit.model_validate(bit.credit) if bit.credit else None
    return BitView(
        id=bit.id,
        name=bit.name,
        tags=bit.tags,
        picture=bit.picture,
        size_mm=(bit.size[0], bit.size[1], bit.size[2]) if bit.size else None,
        stamp=PictureView.model_validate(bit.stamp.model_dump()) if bit.stamp else None,
        figure=bit.figure,
        terms=credit.under.name if credit else "terms nobody gave yet",
        shelved=bit.created,
    )
