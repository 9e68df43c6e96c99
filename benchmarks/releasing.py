"""What is measured of releases: a set packed, and its pack verified."""

import datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.facts import FactsMeasured
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.mesh import bounds
from ulvet.core.lengths import PrintMM
from ulvet.core.progress import no_progress
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.issue import ReadyItem, item_pictures, make_issue
from ulvet.core.release.pack import verify_pack
from ulvet.core.release.release_set import Item, ReleaseSet, Tier
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory

__all__ = ["ITEMS", "pack_ours", "verify_ours"]

ITEMS = 24


def pack_ours(path: str) -> int:
    """A figure in 24 sizes packed, its builds and their pictures known; MB of the pack."""
    with TemporaryDirectory() as folder:
        data, items = DataFolder(Path(folder) / "data"), _items(path)
        for one in items:
            item_pictures(one.checked, Blobs(data.blobs), DiskMemory(data))
        with clock():
            return _packed(items, data).stat().st_size // 1_000_000


def verify_ours(path: str) -> int:
    """The same pack verified; how many files it holds."""
    with TemporaryDirectory() as folder:
        pack = _packed(_items(path), DataFolder(Path(folder)))
        with clock():
            return verify_pack(pack).files


def _items(path: str) -> list[ReadyItem]:
    mesh = read_mesh(path)
    low, high = bounds(mesh)
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name=Path(path).name),))
    items = []
    for at in range(ITEMS):
        tall = 20.0 + 5 * at
        part, measured = Part("figure", mesh), FactsMeasured()
        facts = measured.measure(part, {"factor": tall / float(high[2] - low[2])}, {})
        checked = CheckedFigure(
            figure="Ball", recipe=recipe, edition=Edition(height=PrintMM(tall)), setup=DEFAULT_BENCH.setup(),
            own_setups={}, parts=(part,), facts=(facts,), findings=(), estimates=(None,), unseen=(), pictures=(b"",),
        )  # fmt: skip
        items.append(ReadyItem(Item(figure=1, edition=f"e{at}"), "Ball", f"{tall:.0f} mm", checked))
    return items


def _packed(items: list[ReadyItem], data: DataFolder) -> Path:
    release = ReleaseSet(
        name="Balls", items=tuple(one.item for one in items), tiers=(Tier(name="all", items=tuple(range(ITEMS))),)
    )
    (pack,) = make_issue(
        release, items, 1, datetime.date(2026, 12, 24), {}, Blobs(data.blobs), DiskMemory(data), data.root, no_progress
    )
    return data.root / pack.file_name
