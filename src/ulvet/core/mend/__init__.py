"""Mend: explain and repair a mesh, with a receipt and without moving what was right."""
