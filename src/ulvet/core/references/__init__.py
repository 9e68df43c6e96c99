"""Pictures to work from, drawn behind the figure. They change no mesh."""

from ulvet.core.references.picture import shown_picture
from ulvet.core.references.steps import ReferTo

__all__ = ["ReferTo", "shown_picture"]
