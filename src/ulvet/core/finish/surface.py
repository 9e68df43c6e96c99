"""What a surface and its seams are made ready with: grits, fillers by the width of a gap, and what is left as it is."""

from collections.abc import Iterable, Sequence

from ulvet.core.bench.paints import Paint
from ulvet.core.bench.printers import Process
from ulvet.core.finish.steps import Scheme
from ulvet.core.lengths import PrintMM

__all__ = ["UNSEEN_STEP", "filler_for", "grits_for", "hidden_scratch"]

_GRAIN_UM = {120: 125.0, 180: 82.0, 240: 58.5, 320: 46.2, 400: 35.0, 600: 25.8, 800: 21.8, 1000: 18.3, 1500: 12.6,
             2000: 10.3}  # fmt: skip
"""By grit the mean grain in µm (FEPA 43, its P grades)."""
_SCRATCH = 0.25
"""Of its size how deep a grain scratches (bench default)."""
_BARE_UM, _GLOSS_UM = 3.2, 5.5
"""Scratches, µm, that are not seen in a bare or clear surface, and under a gloss coat (bench defaults)."""
_NO_PRIMER_UM = 8.8
"""What a primer hides of which nothing is known, µm (bench default)."""
_BEGIN_UM = {"resin": 15.0, "filament": 32.0}
"""Scratch of the grit to begin with, µm, by what is sanded away: dots of supports and layers (bench defaults)."""
_FINER = 0.68
"""Each grit scratches at most so much as deep as the one before, for otherwise it is left out (bench default)."""
UNSEEN_STEP = PrintMM(0.087)
"""Step of layers that is not seen: one minute of arc, which a sound eye tells apart, at 300 mm."""
_FILLERS: tuple[tuple[float, str, float, float], ...] = (
    (0.15, "light-cured resin", 4.0, 2.0),
    (0.5, "putty thinned to a paste", 5.0, 60.0),
    (1.5, "resin with powder, in thin layers", 7.0, 15.0),
    (float("inf"), "two-part body filler", 8.0, 90.0),
)
"""Up to which width of a gap, print mm, it is filled with what, minutes of hands and of waiting (bench defaults)."""
_HOT = (0.5, "a hot tool and its own filament", 5.0, 3.0)
"""The same where it is filament, which can be melted shut."""


def filler_for(gap: PrintMM, process: Process) -> tuple[str, float, float]:
    """What a gap is filled with, and minutes of hands and of waiting."""
    rows = (_HOT, *_FILLERS) if process == "filament" else _FILLERS
    return next((name, hands, waits) for widest, name, hands, waits in rows if gap <= widest)


def grits_for(process: Process, hides_um: float) -> tuple[int, ...]:
    """Grits in order, up to the first whose scratches are hidden where those of ``hides_um`` are."""
    grits: list[int] = []
    for grit, grain in _GRAIN_UM.items():
        depth = grain * _SCRATCH
        begins = depth <= _BEGIN_UM[process]
        if begins and (not grits or depth <= hides_um or depth <= _FINER * _GRAIN_UM[grits[-1]] * _SCRATCH):
            grits.append(grit)
        if begins and depth <= hides_um:
            break
    return tuple(grits)


def hidden_scratch(scheme: Scheme | None, paints: Iterable[Paint], bare: bool) -> float:
    """How deep a scratch, µm, may be that is not seen under a scheme: by its primer, and less under gloss or where it
    stays ``bare``."""
    if bare:
        return _BARE_UM
    known = {paint.id: paint for paint in paints}
    used = _used(scheme, known)
    primers = [paint.hides_um for paint in used if paint.kind == "primer"]
    hides = min(primers, default=_NO_PRIMER_UM)
    return min(hides, _GLOSS_UM) if any(paint.sheen == "gloss" for paint in used) else hides


def _used(scheme: Scheme | None, known: dict[str, Paint]) -> Sequence[Paint]:
    """Paints that a scheme's last coats and grounds are of: a gloss coat under matt is not seen."""
    if scheme is None:
        return ()
    stacks = [role.coats for role in scheme.roles if role.coats]
    coats = [coat for stack in stacks for coat in (*(one for one in stack if one.kind == "ground"), stack[-1])]
    return [known[name] for coat in coats for name in coat.drops or (coat.paint,) if name in known]
