"""A proof: one print of exact files, what came out of it, and what was decided."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.findings.finding import Place
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor

__all__ = [
    "MOST_PINS",
    "Came",
    "Cause",
    "Copy",
    "Decision",
    "Length",
    "LimbTold",
    "Named",
    "Outcome",
    "Pin",
    "PrintForm",
    "PrintedPart",
    "Proof",
    "Scars",
    "Told",
    "When",
]

MOST_PINS = 200
"""Pins, lengths or copies of one proof (bench default)."""
Sentence = Annotated[str, Field(max_length=400)]
_FARTHEST_MM = 5_000.0
"""How far from the corner of a plate a place may be (bench default)."""
OnPlate = Annotated[float, Field(ge=-_FARTHEST_MM, le=_FARTHEST_MM, allow_inf_nan=False)]
Minutes = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Outcome(StrEnum):
    """How a printed copy came out."""

    SOUND = "sound"
    USABLE = "usable"
    FAILED = "failed"
    SPARE = "spare"
    """Failed, and kept for its pieces."""


class When(StrEnum):
    """When something went wrong, or was seen to have."""

    ON_PLATE = "on-plate"
    SUPPORTS_OFF = "supports-off"
    SANDING = "sanding"
    GLUING = "gluing"
    MASKING = "masking"
    PAINTING = "painting"
    CARRIED = "carried"
    IN_USE = "in-use"


class Cause(StrEnum):
    """Why something went wrong, as far as anybody knows."""

    DID_NOT_STICK = "did-not-stick"
    CAME_OFF_SUPPORTS = "came-off-supports"
    ISLAND = "island"
    SUCTION = "suction"
    THIN_PART = "thin-part"
    LAYERS_PARTED = "layers-parted"
    LAYER_SHIFT = "layer-shift"
    WARP = "warp"
    """Or a corner that lifted."""
    SAG = "sag"
    """Or a drip, or a wall that sank."""
    TRAPPED_RESIN = "trapped-resin"
    CLOG = "clog"
    """Or banding."""
    SUPPORT_MOVED = "support-moved"
    JOINT_MISFIT = "joint-misfit"
    HANDS = "hands"
    UNKNOWN = "unknown"


class Decision(StrEnum):
    """What is done about what went wrong."""

    REPRINT = "reprint"
    REPAIR = "repair"
    REDESIGN = "redesign"
    LEAVE = "leave"


class PrintForm(_Value):
    """What a part is when it is printed: two parts of one form are printed from the same bytes."""

    mesh: BlobHash
    """Of the part, in figure mm."""
    supports: BlobHash | None
    factor: float
    """Print mm for one figure mm."""
    up: tuple[float, float, float]
    spin: float
    lift: PrintMM
    mirrored: bool = False
    setting: str
    """Id of the setting that it is printed in."""


class PrintedPart(_Value):
    """A part as it was printed, with the figure, edition and build that it came from."""

    figure: int
    figure_name: str
    edition: str
    edition_name: str
    revision: int
    version: int | None = None
    """Number of the version that had this revision, where there was one."""
    build: str
    part: str
    """Its lineage, by which it is found again."""
    called: str
    source: str
    form: PrintForm
    size_mm: tuple[float, float, float]
    ml: float
    """Of the part with its supports."""
    seconds: float
    """Printed alone."""


class Named(_Value):
    """A finding that was open when a proof was begun."""

    code: str
    part: str
    title: str
    places: tuple[Place, ...] = ()
    """None where it is of the whole."""


class LimbTold(_Value):
    """A limb of a part, by its place in the list of parts: where it breaks, figure mm, the push at its tip that was
    told to break it, and the push that its use asks it to bear."""

    part: int = Field(ge=0)
    point: tuple[float, float, float]
    force_N: Annotated[float, Field(gt=0)]  # noqa: N815  (newtons are written so)
    push_N: Annotated[float, Field(gt=0)]  # noqa: N815


class Told(_Value):
    """What a proof was told to take."""

    seconds: float
    ml: float
    money: float
    layers: int
    seconds_factor: float = 1.0
    """Of the setting then, which is in the seconds that were told."""
    ml_factor: float = 1.0
    peak_N: float | None = None  # noqa: N815  (newtons are written so)
    """Pull on its largest layer; None in filament."""
    limbs: tuple[LimbTold, ...] = Field(default=(), max_length=2_000)


class Copy(_Value):
    """One printed copy of a part: the part's place in the list of parts, and how it came out."""

    part: int = Field(ge=0)
    outcome: Outcome | None = None
    lies: tuple[OnPlate, OnPlate, OnPlate] | None = None
    """Where its middle lies from the left front corner of what may be used of the plate, mm, and its turn in degrees;
    None where nobody has laid it."""


class Pin(_Value):
    """Something that went wrong, pinned on the figure."""

    id: int = Field(ge=1)
    part: int = Field(ge=0)
    """Place of the part in the list of parts."""
    at: Anchor
    what: Sentence = ""
    """What it was, in a few words of whoever saw it."""
    when: When
    cause: Cause
    photos: tuple[BlobHash, ...] = Field(default=(), max_length=12)
    decision: Decision | None = None
    redesigned_in: int | None = None
    """Number of the figure's revision that changed the recipe because of it; undone, it is open again."""
    minutes: Minutes = 0.0
    """Of hands that it took to repair."""


class Length(_Value):
    """A length by calipers between two places on a part, or across one."""

    part: int = Field(ge=0)
    name: Sentence = ""
    begin: Anchor
    end: Anchor
    drawn: Annotated[PrintMM, Field(gt=0, le=5_000)]
    measured: Annotated[PrintMM, Field(gt=0, le=5_000)]
    over: Literal["outside", "inside", "step"] = "outside"
    """Whether edges that grow make it longer, shorter, or leave it as it is."""
    direction: tuple[float, float, float]
    """Of length one, in print axes."""


class Scars(_Value):
    """Scars of supports on a side of a part."""

    side: Literal["front", "back", "left", "right", "top", "underside"]
    count: int = Field(ge=0, le=10_000)


class Came(_Value):
    """What came out: everything that is entered by hand or sent by a printer."""

    ended: AwareDatetime | None = None
    seconds: Annotated[float | None, Field(gt=0, le=1e7)] = None
    ml: Annotated[float | None, Field(gt=0, le=1e5)] = None
    copies: tuple[Copy, ...] = Field(default=(), max_length=MOST_PINS)
    pins: tuple[Pin, ...] = Field(default=(), max_length=MOST_PINS)
    lengths: tuple[Length, ...] = Field(default=(), max_length=MOST_PINS)
    scars: tuple[Scars, ...] = Field(default=(), max_length=6)
    cleanup_min: Minutes | None = None
    hands: Sentence = ""
    """What was done otherwise by hand than usual."""
    remarks: Annotated[str, Field(max_length=4_000)] = ""
    printer: Annotated[str, Field(max_length=400)] = ""
    """Address of its print, where it was sent to a printer."""
    ready: tuple[Sentence, ...] = Field(default=(), max_length=40)
    """What was ticked before the start."""


class Proof(_Value):
    """One print of exact files."""

    began: AwareDatetime
    parts: tuple[PrintedPart, ...] = Field(min_length=1, max_length=MOST_PINS)
    setting: str
    setting_name: str
    printer: str
    printer_name: str
    material: str
    material_name: str
    process: Literal["resin", "filament"]
    bench: str
    """Hash of the bench it was begun with."""
    told: Told
    named: tuple[Named, ...] = Field(default=(), max_length=2_000)
    """What was found in it before it was printed."""
    came: Came = Came()

    @model_validator(mode="after")
    def _parts_are_there(self) -> Self:
        came = self.came
        named = [one.part for of in (came.copies, came.pins, came.lengths, self.told.limbs) for one in of]
        if any(part >= len(self.parts) for part in named):
            raise ValueError(f"part {max(named) + 1} was not printed: this proof has {len(self.parts)}")
        ids = [pin.id for pin in came.pins]
        if len(set(ids)) < len(ids):
            raise ValueError("two pins have one number: give each its own")
        if came.ended is not None and came.ended < self.began:
            raise ValueError("it ended before it began: give a later end")
        return self

    @property
    def failed(self) -> bool:
        """Whether a copy of it failed."""
        return any(copy.outcome in (Outcome.FAILED, Outcome.SPARE) for copy in self.came.copies)

    @property
    def held(self) -> bool:
        """Whether every copy came out sound or usable."""
        outcomes = [copy.outcome for copy in self.came.copies]
        return bool(outcomes) and all(one in (Outcome.SOUND, Outcome.USABLE) for one in outcomes)
