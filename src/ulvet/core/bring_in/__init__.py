"""Bring in: which unit and which way up a source is, and how it comes to stand on the ground."""

from ulvet.core.bring_in.check import check_facets, check_unit
from ulvet.core.bring_in.guess import Guess, guess_unit, guess_up
from ulvet.core.bring_in.placement import Placement, placement_of

__all__ = ["Guess", "Placement", "check_facets", "check_unit", "guess_unit", "guess_up", "placement_of"]
