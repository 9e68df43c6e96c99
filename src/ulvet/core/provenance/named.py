"""What goes out with a figure about where it came from."""

from collections.abc import Sequence

from ulvet.core.provenance.steps import Credit, Depict, Offer
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Step

__all__ = ["named_in_release"]


def named_in_release(steps: Sequence[Step]) -> list[str]:
    """A sentence for every source, for what is depicted, and for the terms it goes out under, as the record says it."""
    said = [step for step in steps if isinstance(step, Credit | Depict | Offer) and step.on]
    return [_to_buyers(step) for step in said]


def _to_buyers(step: Step) -> str:
    if isinstance(step, Credit) and step.terms == "own-work":
        return f"{step.file or 'The source'} is the designer's own work."
    return "".join(map(str, step.sentence(Receipt())))
