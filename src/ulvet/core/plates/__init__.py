"""Plates: what is printed together, where it lies, and what that takes."""
