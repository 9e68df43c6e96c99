"""Flat drawings in true millimetres, as SVG on screen and as PDF on paper."""
