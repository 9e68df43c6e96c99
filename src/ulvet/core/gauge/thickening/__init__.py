"""Walls made thicker, and nothing else."""
