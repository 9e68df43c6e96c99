"""What a release is made from."""

from dataclasses import dataclass

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.build.figure_build import Build, Facts, build_pictures
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.layers.estimate import Estimate
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part

__all__ = ["CheckedFigure"]


@dataclass(frozen=True)
class CheckedFigure:
    """A figure as it was built and checked. ``parts`` and ``facts`` belong together."""

    figure: str
    recipe: Recipe
    edition: Edition
    setup: Setup
    parts: tuple[Part, ...]
    facts: tuple[Facts, ...]
    findings: tuple[Finding, ...]
    estimates: tuple[Estimate | None, ...]
    unseen: tuple[Unseen, ...]
    pictures: tuple[bytes, ...]
    """A PNG of each part from its front."""

    @classmethod
    def of(cls, figure: str, build: Build) -> "CheckedFigure":
        """A build under the figure's name."""
        return cls(
            figure=figure,
            recipe=build.recipe,
            edition=build.edition,
            setup=build.checks.figure.setup,
            parts=build.parts,
            facts=build.facts,
            findings=build.findings,
            estimates=build.estimates,
            unseen=build.unseen,
            pictures=build_pictures(build),
        )
