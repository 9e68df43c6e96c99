"""Scans: passes of points brought together, fused, and cleaned of what was not the object."""
