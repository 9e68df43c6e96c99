"""Strokes that touch a surface up: raise, lower, smooth, flatten, crease, thicken."""

from ulvet.core.strokes.brush import TOOLS, Brush, Touched, Worked

__all__ = ["TOOLS", "Brush", "Touched", "Worked"]
