"""What a release is made from."""

from dataclasses import dataclass

from ulvet.core.bench import Edition
from ulvet.core.build import Build, Facts, build_pictures
from ulvet.core.findings import Finding, Unseen
from ulvet.core.layers import Estimate
from ulvet.core.mesh import Mesh
from ulvet.core.recipe.runner import Recipe

__all__ = ["Checked"]


@dataclass(frozen=True)
class Checked:
    """A figure as it was built and checked. ``meshes`` in figure mm and ``facts`` belong together, part by part."""

    figure: str
    recipe: Recipe
    edition: Edition
    meshes: tuple[Mesh, ...]
    facts: tuple[Facts, ...]
    findings: tuple[Finding, ...]
    estimates: tuple[Estimate, ...]
    unseen: tuple[Unseen, ...]
    pictures: tuple[bytes, ...]
    """A PNG of each part from its front."""

    @classmethod
    def of(cls, figure: str, build: Build) -> "Checked":
        """A build under the figure's name."""
        return cls(
            figure=figure,
            recipe=build.recipe,
            edition=build.edition,
            meshes=tuple(part.mesh for part in build.parts),
            facts=build.facts,
            findings=build.findings,
            estimates=build.estimates,
            unseen=build.unseen,
            pictures=build_pictures(build),
        )
