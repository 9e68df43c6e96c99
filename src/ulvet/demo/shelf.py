"""Putting the demo figures on the shelf."""

import hashlib
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import select

from ulvet.core.bench import Edition
from ulvet.core.io import stl_bytes
from ulvet.core.lengths import PrintMM
from ulvet.core.mesh import Mesh
from ulvet.demo.ferrywoman import ferrywoman
from ulvet.demo.reed_imp import reed_imp
from ulvet.standins.objects import clay_otter
from ulvet.standins.scanner import ScanSettings
from ulvet.store.folder import DataFolder, default_data_folder
from ulvet.store.models import Source
from ulvet.work import editing
from ulvet.work.bits import bits_like, shelve_part
from ulvet.work.bringing import add_figure
from ulvet.work.jobs import JOBS
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Supervisor
from ulvet.work.telling import Telling

__all__ = ["DEMO_FIGURES", "fill_shelf"]

DEMO_FIGURES: dict[str, tuple[Callable[[], Mesh], Edition]] = {
    "Ferrywoman": (ferrywoman, Edition(height=PrintMM(75))),
    "Reed imp": (reed_imp, Edition(height=PrintMM(28))),
    "Bow otter": (clay_otter, Edition(height=PrintMM(24))),
}
"""The figures of the demo that are sculpted, and the edition each is shown in."""
_UNHEARD = Telling(lambda said: None)
_SCANNED = "Driftwood"
_SCANNED_EDITION = Edition(height=PrintMM(40))
_OTTER = {
    "maker": "Withy Marlow",
    "terms": "cc-by-nc-sa-4.0",
    "proof": "Mail of 3 May: the otter may go on under the terms on its page.",
    "dated": "2026-05-03",
}


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
            brought = JOBS["bring-in"](folder, {"path": str(path), "name": file_name}, _UNHEARD)
            path.unlink()
            number = add_figure(studio, name, file_name, brought)
            editing.set_edition(studio, number, 1, edition)
            said = _OTTER if name == "Bow otter" else {"terms": "own-work"}
            _credit(studio, number, file_name, said)
        _build(studio, number, name, say)
        if name == "Bow otter" and not bits_like(studio, name):
            shelve_part(studio, number, "figure", name, ["otter", "animal", "bow"])
    file_name = "driftwood.scan.zip"
    number = _number_of(studio, file_name)
    if number is None:
        say(f"scanning the {_SCANNED}")
        asked = {"object": "driftwood", "settings": ScanSettings().model_dump(mode="json"), "name": file_name}
        number = add_figure(studio, _SCANNED, file_name, JOBS["scan"](folder, asked, _UNHEARD))
        editing.set_edition(studio, number, 1, _SCANNED_EDITION)
        _credit(studio, number, file_name, {"terms": "own-work"})
    _build(studio, number, _SCANNED, say)


def _credit(studio: Studio, number: int, file_name: str, said: dict[str, str]) -> None:
    _, head, _, _ = studio.figure(number)
    source = head.recipe["steps"][0]["source"]
    editing.add_steps(
        studio, number, head.number, [{"kind": "credit", "source": source, "file": file_name, **said}], "credited"
    )


def _number_of(studio: Studio, file_name: str) -> int | None:
    with studio.sessions() as session:
        return session.scalar(select(Source.figure_id).where(Source.file_name == file_name))


def _build(studio: Studio, number: int, name: str, say: Callable[[str], None]) -> None:
    _, head, record, _ = studio.figure(number)
    if record is not None:
        return
    say(f"checking the {name}")
    asked = {"recipe": head.recipe, "edition": head.edition}
    result = JOBS["build"](studio.folder, asked, _UNHEARD)
    studio.keep_build(result)
