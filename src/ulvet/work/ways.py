"""Ways to stand a part, set beside each other before one is taken."""

from ulvet.core.recipe.runner import Recipe
from ulvet.core.stand.steps import ShowSide
from ulvet.work.memory import build_memory
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job
from ulvet.work.trial_record import WaysTold
from ulvet.work.trials import record_at

__all__ = ["ways_of", "weigh_ways"]

_SECONDS, _SECONDS_A_TRIANGLE = 4.0, 60e-6
"""What weighing takes, roughly (bench default)."""


def weigh_ways(studio: Studio, number: int, key: str, part: str, edition: str = "") -> Job:
    """The job that weighs ways to stand a part of a figure; ``key`` is that of the build that is looked at.

    Raises NotThere.
    """
    record = record_at(studio, number, key, edition)
    figure, head, _, _ = studio.figure(number, edition)
    made = studio.edition(head, edition).made
    found = next((one for one in record.parts if one.facts.part == part), None)
    if found is None:
        raise NotThere("There is no such part any more; look at the figure again.")
    recipe = studio.recipe(head).in_variant(made.variant).made
    shown = next((step.direction for step in recipe.steps if isinstance(step, ShowSide) and step.on), None)
    facts = found.facts
    return studio.supervisor.submit(
        "ways",
        f"{key} {part} {shown}",
        {
            "part": part,
            "mesh": found.mesh,
            "factor": facts.factor,
            "bench": studio.bench.value.model_dump(mode="json"),
            "edition": made.model_dump(mode="json"),
            "show": shown,
            "up": facts.stance.up,
        },
        f"Weighing ways to stand {facts.called}",
        _SECONDS + facts.triangles * _SECONDS_A_TRIANGLE,
        figure.id,
        build_memory(Recipe(steps=()), facts.triangles),
    )


def ways_of(studio: Studio, name: str) -> WaysTold:
    """What came of weighing ways to stand, by the hash its job gave.

    Raises NotThere.
    """
    try:
        return WaysTold.model_validate_json(bytes(studio.blobs.read(name)))
    except ValueError as error:
        raise NotThere("Those ways are not there any more; ask for them again.") from error
