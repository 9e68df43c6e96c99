"""Geometry that no station owns: the mesh and what is asked of any."""
