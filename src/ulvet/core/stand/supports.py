"""Holding a figure: contacts at islands and under overhangs, columns to the plate, and a look at the layers again."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Mesh, Points, concatenated, translated
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import Island, find_islands
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.stance import Contact
from ulvet.core.stand.by_hand import Beginning, PlacedAct, begun_with
from ulvet.core.stand.columns import supports_mesh
from ulvet.core.stand.holds import Holds
from ulvet.core.stand.orientation import lies_flat

__all__ = ["SupportedFigure", "support_figure"]

_ROUNDS = 6
"""Looks at the layers again, each holding what still begins in the air."""


@dataclass(frozen=True)
class SupportedFigure:
    """A figure with its supports, print mm, on the plate at z = 0."""

    lift: PrintMM
    contacts: tuple[Contact, ...]
    supports: Mesh | None
    islands_before: int
    unheld: tuple[Island, ...]
    support_ml: float
    """Resin or filament the supports add, outside the figure."""
    undone: frozenset[int] = frozenset()
    """Acts by hand, by their numbers, that found no contact or no way for one."""


def support_figure(
    figure: Mesh,
    setup: Setup,
    show: Points | None = None,
    lift: float | None = None,
    spacing: float | None = None,
    begin: Beginning = "proposal",
    acts: Sequence[PlacedAct] = (),
    progress: Progress = no_progress,
) -> SupportedFigure:
    """Hold a turned figure, in print mm with its lowest point at z = 0.

    Every island is held first, also on the show side ``show`` (3,); undersides are held elsewhere only. ``lift`` mm,
    rounded to whole layers; None stands what lies flat on the plate and hangs the rest. ``spacing`` mm replaces the
    process's own, ``begin`` makes all of it lighter or stronger. Then ``acts`` are done, at places of the figure as it
    is given: what they took away stays away, even where an island is left without a hold.

    After each round the layers of figure and supports are looked at again, and what still begins in the air is held
    too, until nothing does or no way is left. ``progress`` hears how far it is.

    Raises TooManyLayers.
    """
    holding = begun_with(setup.supports, begin)
    if spacing is not None:
        holding = holding.model_copy(update={"spacing": PrintMM(spacing)})
    progress(0.0, "layers of the figure")
    stack = raster_layers(figure, setup.layer, setup.pixel)
    progress(0.2, "where it must be held")
    if lift is None:
        lift = 0.0 if lies_flat(figure) else holding.lift
    lift = PrintMM(round(lift / setup.layer) * setup.layer)
    up = np.array([0.0, 0, lift])
    raised = [act.moved(np.eye(3), 1.0, up) for act in acts]
    work = Holds(translated(figure, up), stack, setup, holding, show, lift, raised)
    islands = find_islands(stack, island_dilation(setup), ISLAND_LEAST_AREA)
    if begin != "none":
        if lift > 0:
            # Lifted off the plate, the lowest layer begins in the air like any island.
            work.hold_places(_first_layer(stack) + up)
        work.hold_islands(islands, lift)
        work.hold_undersides()
    work.apply_acts()
    unheld: list[Island] = islands
    contacts: list[Contact] = []
    supports: Mesh | None = None
    whole = stack
    for number in range(_ROUNDS):
        progress(0.6 + 0.4 * number / _ROUNDS, f"columns and the layers again, round {number + 1}")
        contacts, columns = work.columns()
        supports = supports_mesh(columns, holding.raft, with_bars=lift > 0)
        if supports is None:
            break
        whole = raster_layers(concatenated(work.figure, supports), setup.layer, setup.pixel)
        unheld = find_islands(whole, island_dilation(setup), ISLAND_LEAST_AREA)
        if not unheld or begin == "none" or not work.hold_left(unheld):
            break
    added = float(whole.areas.sum() - stack.areas.sum()) * setup.layer / 1000
    return SupportedFigure(
        lift, tuple(contacts), supports, len(islands), tuple(unheld), max(added, 0.0), frozenset(work.undone)
    )


def _first_layer(stack: LayerStack) -> Points:
    """The middle of the longest run of pixels in the lowest layer that has any, (n, 3): one place, or none."""
    used = np.flatnonzero(np.diff(stack.starts))
    if not len(used):
        return np.empty((0, 3))
    runs = slice(int(stack.starts[used[0]]), int(stack.starts[used[0] + 1]))
    row, begin, end = stack.row[runs], stack.begin[runs], stack.end[runs]
    longest = int((end - begin).argmax())
    x = stack.origin[0] + (begin[longest] + end[longest]) / 2 * stack.pixel
    y = stack.origin[1] + (row[longest] + 0.5) * stack.pixel
    return np.array([[x, y, (used[0] + 0.5) * stack.layer]])
