"""Putting the demo figures on the shelf."""

import hashlib
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import select

from ulvet.core.bench import Edition
from ulvet.core.io import stl_bytes
from ulvet.core.lengths import PrintMM
from ulvet.core.mesh import Mesh
from ulvet.core.told import unheard
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.demo.reed_imp import reed_imp
from ulvet.store.folder import DataFolder, default_data_folder
from ulvet.store.models import BuildRow, Source
from ulvet.work.bringing import add_figure
from ulvet.work.jobs import JOBS
from ulvet.work.record import build_key
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Supervisor

__all__ = ["DEMO_FIGURES", "fill_shelf"]

DEMO_FIGURES: dict[str, tuple[Callable[[], Mesh], Edition]] = {
    "Ferrywoman": (ferrywoman, Edition(height=PrintMM(75))),
    "Reed imp": (reed_imp, Edition(height=PrintMM(28))),
}
"""The figures of the demo and the edition each is shown in."""


def fill_shelf(data: Path | None, say: Callable[[str], None]) -> None:
    """Make every demo figure that is not on the shelf yet, and check it, saying what is being done."""
    folder = DataFolder(data or default_data_folder())
    with folder.lock():
        _fill(Studio(folder, Supervisor(folder.root)), say)


def _fill(studio: Studio, say: Callable[[str], None]) -> None:
    folder = studio.folder
    for name, (make, edition) in DEMO_FIGURES.items():
        file_name = f"{name.lower().replace(' ', '_')}.stl"
        number = _number_of(studio, file_name)
        if number is None:
            say(f"modelling the {name}")
            written = stl_bytes(make())
            path = folder.uploads / f"demo-{hashlib.sha256(written).hexdigest()[:12]}.stl"
            path.write_bytes(written)
            brought = JOBS["bring-in"](folder, {"path": str(path), "name": file_name}, unheard)
            path.unlink()
            number = add_figure(studio, name, file_name, brought)
            studio.set_edition(number, 1, edition)
        _build(studio, number, name, say)


def _number_of(studio: Studio, file_name: str) -> int | None:
    with studio.sessions() as session:
        return session.scalar(select(Source.figure_id).where(Source.file_name == file_name))


def _build(studio: Studio, number: int, name: str, say: Callable[[str], None]) -> None:
    _, head, record, _ = studio.figure(number)
    if record is not None:
        return
    say(f"checking the {name}")
    asked = {"recipe": head.recipe, "edition": head.edition}
    result = JOBS["build"](studio.folder, asked, unheard)
    with studio.sessions.begin() as session:
        session.merge(BuildRow(key=build_key(*studio.asked(head)), record=result))
