"""Bring in: which unit and which way up a source is, and how it comes to stand on the ground."""
