"""Geometry that belongs to no single station: the mesh, and the questions that any mesh can be asked."""
