"""Why the studio does not do what it was asked; each text is for the user."""

from pydantic import ValidationError

from ulvet.core.bench.editions import IllegalEdition
from ulvet.core.recipe.changes import IllegalOrder

__all__ = ["Conflict", "NotThere", "Refused", "refusal"]


class NotThere(LookupError):
    """Something asked for that does not exist; its text is for the user."""


class Refused(ValueError):
    """A change that cannot be made; its text is for the user."""


def refusal(error: ValidationError | IllegalOrder | IllegalEdition) -> Refused:
    """Why a change cannot be made, for the user."""
    if isinstance(error, IllegalOrder | IllegalEdition):
        return Refused(str(error))
    return Refused(f"That cannot be used: {error.errors()[0]['msg'].lower()}.")


class Conflict(Exception):
    """A change to a revision that is no longer the head; its text is for the user."""
