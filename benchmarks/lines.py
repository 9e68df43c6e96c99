"""The lines that a benchmark prints, each as soon as it is known: what was measured, against what is allowed."""

from benchmarks.measured import Measured

__all__ = ["about", "at_least", "limit", "ratio"]


def about(what: str) -> None:
    """Say what the lines after this are of."""
    print(what, flush=True)


def limit(what: str, took: float, most: float, unit: str = "s") -> bool:
    """Whether a measure keeps within a stated limit."""
    return _line(took <= most, f"{what}, {took:.2f} {unit} of {most:g} {unit} allowed")


def at_least(what: str, found: float, least: float, unit: str) -> bool:
    """Whether a measure reaches what is asked for."""
    return _line(found >= least, f"{what}, {found:,.0f} {unit} of {least:,g} asked for")


def ratio(what: str, ours: Measured, theirs: Measured, most: float, measure: str = "seconds", unit: str = "s") -> bool:
    """Whether ours takes at most a share of what a general library takes in the same run."""
    us, them = getattr(ours, measure), getattr(theirs, measure)
    found = f" ({ours.result:,} and {theirs.result:,})"
    return _line(
        us <= most * them,
        f"{what} {us:.2f} {unit} against {them:.2f} {unit}, ratio {us / them:.3f} of {most} allowed{found}",
    )


def _line(kept: bool, says: str) -> bool:
    print(f"  {'kept' if kept else 'MISSED'}: {says}", flush=True)
    return kept
