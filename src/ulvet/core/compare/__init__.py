"""What became of a figure from one version to another."""

from ulvet.core.compare.findings import Matched, Verdict, match_findings

__all__ = ["Matched", "Verdict", "match_findings"]
