"""What became of a figure from one version to another."""

from ulvet.core.compare.findings import Matched, Verdict, match_findings
from ulvet.core.compare.surface import moved_surface

__all__ = ["Matched", "Verdict", "match_findings", "moved_surface"]
