"""Hollow: spaces inside a figure, how they are made, opened, closed and filled with something else."""
