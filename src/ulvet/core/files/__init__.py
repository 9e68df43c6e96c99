"""Whole files read, worked on and written for the command, without a recipe."""
