"""Strokes that touch a surface up: raise, lower, smooth, flatten, crease, thicken."""
