"""Size: the edition's placement, the ways to say it, what it does to walls, and whether it fits the printer."""
