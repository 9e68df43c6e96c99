"""What is told without a new revision: a change that was tried, ways to stand, two builds side by side."""

from pydantic import BaseModel

from ulvet.core.blob_hash import BlobHash
from ulvet.core.build.figure_build import Facts
from ulvet.core.compare.findings import Matched
from ulvet.core.layers.estimate import Estimate
from ulvet.core.stand.ways import Way

__all__ = ["Comparison", "DrawnWay", "PartMoved", "Takes", "Trial", "TrialPart", "WaysTold"]


class TrialPart(BaseModel):
    """A part as a change would make it."""

    facts: Facts
    mesh: BlobHash
    display: BlobHash
    """Blob of its display mesh, of which no wall is known."""
    supports_display: BlobHash | None
    apart: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """How far it is drawn from where it belongs, figure mm, where a change would cut it off."""


class Takes(BaseModel):
    """What all parts of a figure take as they stand, with supports: an estimate."""

    estimate: Estimate
    grams: float
    tip_angle_deg: float | None
    """None where it does not close."""
    openings: int
    """To close again."""


class Trial(BaseModel):
    """What a change would make, tried without checks."""

    parts: list[TrialPart]
    size_mm: tuple[float, float, float]
    """Of all parts as they would stand to each other."""
    ml: float
    """How much more of the parts there would be, without supports."""
    triangles: int
    """How many more there would be."""
    said: str
    """What the record would say of it."""
    takes: Takes | None = None
    """What it would take, where a change is about that: solid or hollow."""


class DrawnWay(BaseModel):
    """A way to stand and its picture."""

    way: Way
    picture: BlobHash


class WaysTold(BaseModel):
    """Ways a part could stand, the first as it stands now; ``why`` there are none."""

    part: str
    ways: list[DrawnWay]
    why: str = ""


class PartMoved(BaseModel):
    """How far the surface of a part moved from one version to another, print mm."""

    part: str
    greatest: float
    mean: float
    display: BlobHash
    """Blob of a display mesh of the later part whose walls hold how much less than ``greatest`` each vertex moved, in
    figure mm."""


class Comparison(BaseModel):
    """Two builds side by side."""

    before: str
    after: str
    """Keys of the builds."""
    matched: list[Matched]
    facts_before: list[Facts]
    facts_after: list[Facts]
    moved: list[PartMoved]
    gone: list[str]
    """Parts that only the earlier build has."""
    added: list[str]
    """Parts that only the later build has."""
