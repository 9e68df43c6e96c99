"""Foreign objects: things a figure must mate with, or is sized by. They are drawn and never exported."""

from ulvet.core.foreign.shapes import foreign_mesh, yardsticks
from ulvet.core.foreign.steps import Foreign

__all__ = ["Foreign", "foreign_mesh", "yardsticks"]
