"""What a release is made from."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from io import BytesIO

from PIL import Image, ImageOps

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.bench.setup import Setup
from ulvet.core.build.figure_build import Build, Facts, build_exploded, build_pictures, whole_size
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.gauge.figure_measures import LimbRow
from ulvet.core.layers.estimate import Estimate
from ulvet.core.part.report import AssemblyReport
from ulvet.core.proof.state import NOT_PROOFED
from ulvet.core.recipe.mirroring import mirrored_part
from ulvet.core.recipe.receipt import Insert
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part

__all__ = ["CheckedFigure", "own_setups"]


@dataclass(frozen=True)
class CheckedFigure:
    """A figure as it was built and checked. ``parts`` and ``facts`` belong together."""

    figure: str
    recipe: Recipe
    edition: Edition
    setup: Setup
    own_setups: dict[str, Setup]
    """Of parts that are printed otherwise than the others, by their names."""
    parts: tuple[Part, ...]
    facts: tuple[Facts, ...]
    findings: tuple[Finding, ...]
    estimates: tuple[Estimate | None, ...]
    unseen: tuple[Unseen, ...]
    pictures: tuple[bytes, ...]
    """A PNG of each part from its front."""
    assembly: AssemblyReport = field(default_factory=AssemblyReport)
    """How the parts go together."""
    proofed: str = NOT_PROOFED
    """What proofs say of it, in a sentence."""
    exploded: bytes | None = None
    """A PNG of all parts pulled apart; None where nothing was cut."""
    limbs: tuple[LimbRow, ...] = ()
    """What breaks first."""
    inserts: tuple[Insert, ...] = ()
    """What is set into it, bought parts and wires."""

    @property
    def tall(self) -> float:
        """The height it was asked for, print mm; thickening may have added a little on top."""
        return self.edition.height or (whole_size(self.facts)[2] if self.facts else 0.0)

    def mirrored(self) -> "CheckedFigure":
        """The same with every part and its picture mirrored, left for right."""
        parts, pictures = map(mirrored_part, self.parts), map(_mirrored_picture, self.pictures)
        exploded = self.exploded and _mirrored_picture(self.exploded)
        return replace(self, parts=tuple(parts), pictures=tuple(pictures), exploded=exploded)

    @classmethod
    def of(cls, figure: str, build: Build) -> "CheckedFigure":
        """A build under the figure's name."""
        return cls(
            figure=figure,
            recipe=build.recipe,
            edition=build.edition,
            setup=build.checks.setups.usual,
            own_setups=own_setups(build.checks.setups, build.parts),
            parts=build.parts,
            facts=build.facts,
            findings=build.findings,
            estimates=build.estimates,
            unseen=build.unseen,
            pictures=build_pictures(build),
            assembly=build.assembly,
            exploded=build_exploded(build),
            limbs=build.gauge.limbs,
            inserts=build.checks.figure.inserts,
        )


def own_setups(setups: PartSetups, parts: Iterable[Part]) -> dict[str, Setup]:
    """The setups of those parts that have one of their own."""
    found = {part.name: setups.of(part.name) for part in parts}
    return {name: setup for name, setup in found.items() if setup is not setups.usual}


def _mirrored_picture(png: bytes) -> bytes:
    held = BytesIO()
    ImageOps.mirror(Image.open(BytesIO(png))).save(held, "PNG")
    return held.getvalue()
