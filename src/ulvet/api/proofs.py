"""Proofs over HTTP: beginning them, entering what came out, their files, and what they teach."""

from typing import Annotated, Literal

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel, Field

from ulvet.api.views import AtStudio, LookedEdition, RowNumber
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.plates.wanted import WantedPart
from ulvet.core.proof.coupon_told import CouponTold, UnreadableCoupon
from ulvet.core.proof.coupons import CouponKind, coupon_of
from ulvet.core.proof.foretold import foretold_by
from ulvet.core.proof.learning import Learnt
from ulvet.core.proof.proof import Came, PrintedPart, PrintForm, Proof
from ulvet.core.proof.state import StateKind, differences
from ulvet.core.recipe.anchors import Anchor
from ulvet.work import learning, printer_link, proof_files, proofing
from ulvet.work.printer_link import PrintNow
from ulvet.work.proofs import ProofNow
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

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


class RateView(BaseModel):
    """How often what a check said came true."""

    code: str
    told: int
    came_true: int
    unsaid: int


class LearntView(BaseModel):
    """What was learnt of a setting, what was read from its coupons, and how right the checks were everywhere."""

    setting: str
    setting_name: str
    learnt: list[Learnt]
    coupons: list[CouponTold]
    rates: list[RateView]


class TakeOver(BaseModel):
    """A value that was learnt, by its path on the bench."""

    path: str = Field(min_length=1, max_length=80)


class FeatureView(BaseModel):
    """Something on a coupon: where it is, mm from its left front corner, and how large."""

    name: str
    kind: str
    x: float
    y: float
    mm: float
    gap: float
    over: str


@router.get("/figures/{number}/proofs")
def of_figure(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> FigureProofs:
    """The proofs that have a part of a figure."""
    state, proofs = proofing.state_now(studio, number, edition)
    return FigureProofs(
        state=StateView(kind=state.kind, proof=state.proof, differs=list(state.differs)),
        proofs=[_view(studio, one) for one in proofs],
        ready=list(proofing.ready_now(studio, number, edition)),
        unreadable=studio.proofs.unreadable,
    )


@router.post("/proofs", status_code=201)
def begin(asked: BeginProof, studio: AtStudio) -> list[ProofView]:
    """Begin a proof of parts as they are now, one a setting."""
    numbers = proofing.begin_proofs(studio, asked.parts, asked.ready)
    return [_view(studio, studio.proofs.one(number)) for number in numbers]


@router.get("/proofs/{proof}")
def one(proof: RowNumber, studio: AtStudio) -> ProofView:
    """One proof."""
    return _view(studio, studio.proofs.one(proof))


@router.put("/proofs/{proof}")
def enter(proof: RowNumber, asked: EnterCame, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Enter what came out."""
    studio.proofs.enter(proof, seen, asked.says, lambda _: asked.came)
    return _view(studio, studio.proofs.one(proof))


@router.post("/proofs/{proof}/undo")
def undo(proof: RowNumber, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Take the last entry back."""
    studio.proofs.undo(proof, seen)
    return _view(studio, studio.proofs.one(proof))


@router.post("/proofs/{proof}/redo")
def redo(proof: RowNumber, seen: SeenProof, studio: AtStudio) -> ProofView:
    """Make the entry again that was taken back last."""
    studio.proofs.redo(proof, seen)
    return _view(studio, studio.proofs.one(proof))


@router.delete("/proofs/{proof}", status_code=204)
def drop(proof: RowNumber, studio: AtStudio) -> Response:
    """Let a proof count no more; it can be put back."""
    studio.proofs.drop(proof)
    return Response(status_code=204)


@router.post("/proofs/{proof}/back")
def put_back(proof: RowNumber, studio: AtStudio) -> ProofView:
    """Let a proof count again."""
    studio.proofs.drop(proof, dropped=False)
    return _view(studio, studio.proofs.one(proof))


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


@router.get("/settings/{setting}/learnt")
def learnt(setting: str, studio: AtStudio) -> LearntView:
    """What proofs and coupons teach of a setting."""
    told = learning.learnt_in(studio, setting)
    return LearntView(
        setting=setting,
        setting_name=studio.bench.value.setup(setting).setting.name,
        learnt=list(told),
        coupons=[one for one in learning.coupons_of(studio) if one.setting == setting],
        rates=[RateView(**vars(rate)) for rate in learning.rates_of(studio)],
    )


@router.post("/settings/{setting}/learnt")
def take_over(setting: str, asked: TakeOver, studio: AtStudio) -> LearntView:
    """Put a value that was learnt on the bench."""
    learning.take_over(studio, setting, asked.path)
    return learnt(setting, studio)


@router.put("/settings/{setting}/coupons")
def set_coupons(setting: str, told: list[CouponTold], studio: AtStudio) -> LearntView:
    """Keep what was read from the coupons of a setting, in place of what was kept of it."""
    if any(one.setting != setting for one in told):
        raise Refused("A coupon teaches the setting it was printed in: choose that. Nothing was kept.")
    others = [one for one in learning.coupons_of(studio) if one.setting != setting]
    try:
        learning.set_coupons(studio, [*others, *told])
    except UnreadableCoupon as error:
        raise Refused(str(error)) from error
    return learnt(setting, studio)


@router.get("/settings/{setting}/coupons/{kind}.stl", response_class=Response)
def coupon_file(setting: str, kind: CouponKind, studio: AtStudio) -> Response:
    """A coupon for a setting, to print."""
    return _file(stl_bytes(coupon_of(kind, studio.bench.value.setup(setting)).mesh), f"{kind}-coupon.stl", "model/stl")


@router.get("/settings/{setting}/coupons/{kind}")
def coupon(setting: str, kind: CouponKind, studio: AtStudio) -> list[FeatureView]:
    """What is read from a coupon."""
    return [
        FeatureView(name=f.name, kind=f.kind, x=f.at[0], y=f.at[1], mm=f.size, gap=f.gap, over=f.over)
        for f in coupon_of(kind, studio.bench.value.setup(setting)).features
    ]


def _file(data: bytes, name: str, media: str) -> Response:
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _print_view(now: PrintNow) -> PrintView:
    said = now.model_dump(include={"state", "error", "layer", "layers", "seconds", "ml"})
    return PrintView(**said, events=len(now.events))


def _view(studio: Studio, now: ProofNow) -> ProofView:
    proof = now.value
    return ProofView(
        number=now.number,
        revision=now.revision,
        can_undo=now.can_undo,
        can_redo=now.can_redo,
        # What was found before the print is told by pin; the rest of it would be most of what is sent.
        proof=proof.model_copy(update={"named": ()}),
        failed=proof.failed,
        held=proof.held,
        differs=_since(studio, now),
        foretold={pin.id: [named.title for named in foretold_by(pin, proof)] for pin in proof.came.pins},
    )


def _since(studio: Studio, now: ProofNow) -> list[str]:
    """What is otherwise than in the last proof before it that has a part of the same figure."""
    mine = {(part.figure, part.part): part for part in now.value.parts}
    for other in reversed(studio.proofs.all()):
        if other.number >= now.number:
            continue
        theirs = {(part.figure, part.part): part for part in other.value.parts}
        if mine.keys() & theirs.keys():
            hands = [now.value.came.hands] if now.value.came.hands else []
            return [*differences(_forms(mine), _forms(theirs)), *hands]
    return []


def _forms(parts: dict[tuple[int, str], PrintedPart]) -> dict[str, PrintForm]:
    return {f"{figure} {part}": printed.form for (figure, part), printed in parts.items()}
