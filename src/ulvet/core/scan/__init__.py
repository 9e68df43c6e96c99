"""Scans: passes of points brought together, fused, and cleaned of what was not the object."""

from ulvet.core.scan.check import check_scan
from ulvet.core.scan.passes import Pass, Scan

__all__ = ["Pass", "Scan", "check_scan"]
