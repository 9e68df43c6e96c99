"""Every tolerance of the geometry in one value, so that a receipt can state what it worked with."""

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import FigureMM, PrintMM

__all__ = ["BENCH_TOLERANCES", "Tolerances"]


class Tolerances(BaseModel):
    """Lengths below which the geometry calls two things the same. Defaults are bench defaults."""

    model_config = ConfigDict(frozen=True)

    weld: FigureMM = FigureMM(0.0)
    """Corners no farther apart than this become one vertex; 0 joins only equal coordinates."""
    zero_area_height: FigureMM = FigureMM(1e-6)
    """A face whose least height is not above this has no area that a printer or a check could use."""
    export: PrintMM = PrintMM(1e-4)
    """Greatest rounding that a written file may add; well below any printer's pixel."""


BENCH_TOLERANCES = Tolerances()
