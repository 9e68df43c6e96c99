"""Proofs over HTTP: beginning them, entering what came out, their files, and their prints."""

from collections.abc import Sequence
from typing import Annotated, Literal

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.core.plates.wanted import WantedPart
from ulvet.core.proof.foretold import foretold_by
from ulvet.core.proof.lengths_before import LengthBefore, lengths_before, lengths_to_take
from ulvet.core.proof.proof import Came, Length, PrintedPart, PrintForm, Proof
from ulvet.core.proof.state import StateKind, differences
from ulvet.core.recipe.anchors import Anchor
from ulvet.work import printer_link, proof_files, proofing
from ulvet.work.printer_link import PrintNow
from ulvet.work.proofs import ProofNow

__all__ = ["router"]

router = APIRouter(tags=["proof"])

SeenProof = Annotated[int, Header(alias="If-Match", description="Number of the proof's revision that was seen.")]


class StateView(BaseModel):
    """What proofs say of an edition."""

    kind: StateKind
    proof: int | None
    differs: list[str]


class ProofView(BaseModel):
    """A proof as it stands."""

    number: int
    revision: int
    can_undo: bool
    can_redo: bool
    proof: Proof
    failed: bool
    held: bool
    differs: list[str] = Field(description="What is otherwise than in the proof before it of the same parts.")
    foretold: dict[int, list[str]] = Field(description="By pin the findings that had named it.")
    lengths_before: dict[int, LengthBefore] = Field(description="By length, what it was in the proof before.")
    lengths_to_take: list[Length] = Field(description="Lengths of the proof before that are not measured here yet.")


class FigureProofs(BaseModel):
    """The proofs of a figure, the oldest first, and what they say of the edition that is looked at."""

    state: StateView
    proofs: list[ProofView]
    ready: list[str] = Field(description="What is ticked before the next one is begun.")
    unreadable: int = Field(description="Proofs of the studio that another version wrote, which are kept unread.")


class BeginProof(BaseModel):
    """What is printed, and what was ticked before the start."""

    parts: list[WantedPart] = Field(min_length=1, max_length=200)
    ready: list[Annotated[str, Field(max_length=400)]] = Field(default=[], max_length=40)


class EnterCame(BaseModel):
    """What came out, whole; ``says`` names what was entered."""

    came: Came
    says: str = Field(min_length=1, max_length=200)


class SendProof(BaseModel):
    """The address of a printer on this machine."""

    printer: str = Field(min_length=8, max_length=200)


class MeasureLength(BaseModel):
    """Two places of a part that was printed, and how the calipers hold it."""

    part: int = Field(ge=0)
    begin: Anchor
    end: Anchor
    over: Literal["outside", "inside", "step"] = "outside"


class MeasuredLength(BaseModel):
    """What calipers read."""

    mm: float


class PrintView(BaseModel):
    """A print as its printer tells it."""

    state: str
    error: str
    layer: int
    layers: int
    seconds: float
    ml: float
    events: int = Field(description="Things that went wrong so far, as far as the printer tells.")


@router.get("/figures/{number}/proofs")
def of_figure(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> FigureProofs:
    """The proofs that have a part of a figure."""
    state, proofs = proofing.state_now(studio, number, edition)
    every = studio.proofs.all()
    return FigureProofs(
        state=StateView(kind=state.kind, proof=state.proof, differs=list(state.differs)),
        proofs=[_view(one, every) for one in proofs],
        ready=list(proofing.ready_now(studio, number, edition)),
        unreadable=studio.proofs.unreadable,
    )


@router.post("/proofs", status_code=201)
def begin(asked: BeginProof, studio: AtStudio) -> list[ProofView]:
    """Begin a proof of parts as they are now, one a setting."""
    numbers = set(proofing.begin_proofs(studio, asked.parts, asked.ready))
    proofs = studio.proofs.all()
    return [_view(one, proofs) for one in proofs if one.number in numbers]


@router.get("/proofs/{proof}")
def one(proof: RowNumber, studio: AtStudio) -> ProofView:
    """One proof."""
    return _view(studio.proofs.one(proof), studio.proofs.all())


@router.put("/proofs/{proof}")
def enter(proof: RowNumber, asked: EnterCame, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Enter what came out."""
    studio.proofs.enter(proof, seen, asked.says, lambda _: asked.came)
    return _view(studio.proofs.one(proof), studio.proofs.all())


@router.post("/proofs/{proof}/undo")
def undo(proof: RowNumber, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Take the last entry back."""
    studio.proofs.undo(proof, seen)
    return _view(studio.proofs.one(proof), studio.proofs.all())


@router.post("/proofs/{proof}/redo")
def redo(proof: RowNumber, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Make the entry again that was taken back last."""
    studio.proofs.redo(proof, seen)
    return _view(studio.proofs.one(proof), studio.proofs.all())


@router.delete("/proofs/{proof}", status_code=204)
def drop(proof: RowNumber, studio: AtStudio) -> Response:
    """Let a proof count no more; it can be put back."""
    studio.proofs.drop(proof)
    return Response(status_code=204)


@router.post("/proofs/{proof}/back")
def put_back(proof: RowNumber, studio: AtStudio) -> ProofView:
    """Let a proof count again."""
    studio.proofs.drop(proof, dropped=False)
    return _view(studio.proofs.one(proof), studio.proofs.all())


@router.get("/proofs/{proof}/parts/{part}.stl", response_class=Response)
def part_file(proof: RowNumber, part: RowNumber, studio: AtStudio) -> Response:
    """A part of a proof as it was printed."""
    data = proof_files.part_stl(studio, studio.proofs.one(proof).value, part)
    return _file(data, f"proof-{proof}-part-{part + 1}.stl", "model/stl")


@router.get("/proofs/{proof}/plate.stl", response_class=Response)
def plate_stl(proof: RowNumber, studio: AtStudio) -> Response:
    """The plate of a proof as STL."""
    return _file(proof_files.plate_stl(studio, studio.proofs.one(proof).value), f"proof-{proof}.stl", "model/stl")


@router.get("/proofs/{proof}/plate.3mf", response_class=Response)
def plate_threemf(proof: RowNumber, studio: AtStudio) -> Response:
    """The plate of a proof as 3MF."""
    return _file(proof_files.plate_threemf(studio, studio.proofs.one(proof).value), f"proof-{proof}.3mf", "model/3mf")


@router.post("/proofs/{proof}/print")
def send(proof: RowNumber, asked: SendProof, studio: AtStudio) -> PrintView:
    """Send a proof to a printer that speaks the printer protocol."""
    return _print_view(printer_link.send(studio, proof, asked.printer))


@router.put("/proofs/{proof}/print")
def follow(proof: RowNumber, studio: AtStudio) -> PrintView:
    """Ask how a proof's print stands; once it is done, what came out is entered."""
    return _print_view(printer_link.follow(studio, proof))


@router.delete("/proofs/{proof}/print")
def stop(proof: RowNumber, studio: AtStudio) -> PrintView:
    """Stop a proof's print."""
    return _print_view(printer_link.stop(studio, proof))


@router.get("/proofs/{proof}/print/picture.png", response_class=Response)
def picture(proof: RowNumber, studio: AtStudio) -> Response:
    """What came out, as the printer shows it."""
    return Response(printer_link.picture_of(studio, proof), media_type="image/png")


@router.post("/proofs/{proof}/print/lengths")
def measure(proof: RowNumber, asked: MeasureLength, studio: AtStudio) -> MeasuredLength:
    """Have the printer read calipers between two places of what came out."""
    read = printer_link.length_of(studio, proof, asked.part, asked.begin, asked.end, asked.over)
    return MeasuredLength(mm=read)


def _file(data: bytes, name: str, media: str) -> Response:
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _print_view(now: PrintNow) -> PrintView:
    said = now.model_dump(include={"state", "error", "layer", "layers", "seconds", "ml"})
    return PrintView(**said, events=len(now.events))


def _view(now: ProofNow, proofs: Sequence[ProofNow]) -> ProofView:
    """A proof as it stands among all of the studio."""
    proof = now.value
    figures = {part.figure for part in proof.parts}
    earlier = [
        (one.number, one.value)
        for one in proofs
        if one.number < now.number and figures & {part.figure for part in one.value.parts}
    ]
    return ProofView(
        number=now.number,
        revision=now.revision,
        can_undo=now.can_undo,
        can_redo=now.can_redo,
        # What was found before the print is told by pin; the rest of it would be most of what is sent.
        proof=proof.model_copy(update={"named": (), "told": proof.told.model_copy(update={"limbs": ()})}),
        lengths_before=lengths_before(proof, earlier),
        lengths_to_take=list(lengths_to_take(proof, earlier)),
        failed=proof.failed,
        held=proof.held,
        differs=_since(proof, [one for _, one in earlier]),
        foretold={pin.id: [named.title for named in foretold_by(pin, proof)] for pin in proof.came.pins},
    )


def _since(proof: Proof, earlier: Sequence[Proof]) -> list[str]:
    """What is otherwise than in the last proof before it that has a part of the same figure."""
    mine = {(part.figure, part.part): part for part in proof.parts}
    for other in reversed(earlier):
        theirs = {(part.figure, part.part): part for part in other.parts}
        if mine.keys() & theirs.keys():
            hands = [proof.came.hands] if proof.came.hands else []
            return [*differences(_forms(mine), _forms(theirs)), *hands]
    return []


def _forms(parts: dict[tuple[int, str], PrintedPart]) -> dict[str, PrintForm]:
    return {f"{figure} {part}": printed.form for (figure, part), printed in parts.items()}
