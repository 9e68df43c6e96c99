"""Ulvet measures, checks and plans original figures for print."""

__version__ = "0.1.0"
