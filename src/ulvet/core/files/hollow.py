"""A file made hollow where it lies, without a recipe."""

from pathlib import Path
from typing import Any, Literal

import numpy as np

from ulvet.core.bench.edition import Edition, factor_for
from ulvet.core.bench.setup import Setup
from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import bounds, scaled
from ulvet.core.hollow.hollow_mesh import hollow_mesh, walls_between
from ulvet.core.hollow.opening_steps import Drain
from ulvet.core.hollow.retained_resin import pools_in, resin_cell
from ulvet.core.hollow.spaces import lies_in, mouths_of, spaces_of
from ulvet.core.hollow.survey import look_at_spaces
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Context, Part

__all__ = ["hollow_file"]


def hollow_file(
    path: Path,
    out: Path,
    wall: float,
    narrowest: float,
    drain: Literal["auto", "none"],
    edition: Edition,
    setup: Setup,
) -> tuple[bytes, dict[str, Any]]:
    """A file hollowed at print size and opened at both ends of its spaces, as it would print standing as it lies: the
    bytes of ``out``, and what was done as plain values. Points are print mm from the file's own origin, z up.

    Nothing is opened in filament, which leaves nothing to drain. Raises UnreadableFile and CannotHollow, both with
    a text for the user.
    """
    mesh = mesh_as_it_lies(path)
    low, high = bounds(mesh)
    mesh = scaled(mesh, factor_for(edition, FigureMM(float(high[2] - low[2]))))
    made = hollow_mesh(mesh, wall, narrowest)
    walls = walls_between(made.skin, made.spaces)
    part, notes = Part("figure", made.mesh), list[str]()
    if drain == "auto" and setup.process == "resin":
        part, notes = _opened(part)
    spaces = spaces_of(part.mesh, mouths_of(part.openings, 1.0))
    pools = pools_in(part.mesh, np.array([0.0, 0, 1]), resin_cell(part.mesh), told=0.0)
    places = np.array([pool.point for pool in pools]).reshape(-1, 3)
    return bytes_for(out, [("figure", part.mesh)]), {
        "file": str(path),
        "out": str(out),
        "setting": setup.setting.id,
        "wall": {
            "min": float(walls.min()),
            "p05": float(np.percentile(walls, 5)),
            "p50": float(np.median(walls)),
        },
        "pitch_mm": made.pitch,
        "mended": made.mended,
        "saved_ml": made.saved / 1000,
        "spaces": [
            {
                "volume_ml": space.millilitres,
                "openings": [
                    {"diameter_mm": float(part.openings[n].diameter), "point": list(map(float, part.openings[n].point))}
                    for n in space.mouths
                ],
                "left_ml": sum(
                    pool.millilitres for pool, inside in zip(pools, lies_in(space.mesh, places), strict=True) if inside
                ),
            }
            for space in spaces
        ],
        "notes": notes,
    }


def _opened(part: Part) -> tuple[Part, list[str]]:
    """A part with openings at the ends of its spaces, and what could not be opened."""
    notes = []
    for space in look_at_spaces(part, 1.0, None):
        if len(space.proposed) < 2:
            notes.append(
                f"A space of {space.millilitres:.2f} ml has {len(space.proposed)} of two openings: no place at an "
                "end of it could be drilled straight. Turn the figure, or open it by hand."
            )
        for planned in space.proposed:
            place = Anchor.at(np.array(planned.point), np.array(planned.way), "")
            step = Drain(places=(place,), diameter=PrintMM(planned.diameter))
            (part,), _ = step.divide(part, Context({"factor": 1.0, "show_side": None}, step.needs))
    return part, notes
