"""Figures of every sort of trouble, walked through: every kind of remedy applied one after the other, then stood and
released. Whatever is refused is refused with a sentence; no job fails for want of one."""

import itertools

import numpy as np
import pytest

from tests.conftest import dirty_figure
from tests.core.test_mend_corpus import CORPUS
from tests.shapes import ball, box, concatenated, cylinder, tapered, tube
from tests.work.test_studio import OnTheSpot
from ulvet.core.bench.edition import Edition
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.findings.finding import AddSteps
from ulvet.core.formats.reading import Reading, named_pieces
from ulvet.core.geometry.mesh import Mesh, scaled, translated
from ulvet.core.lengths import PrintMM
from ulvet.store.folder import DataFolder
from ulvet.work import edits as editing
from ulvet.work.folder_check import check_folder
from ulvet.work.importing import add_figure
from ulvet.work.refusals import Refused
from ulvet.work.releasing import make_release, releases_of
from ulvet.work.remedies import apply, preview, remedy_of
from ulvet.work.studio import Seen, Studio


def open_pot():
    """Two pots of one wall each that cross, both open at the top."""
    pot = tapered(6, 9, 14, 24)
    keep = pot.vertices[pot.faces][:, :, 2].min(axis=1) < pot.vertices[:, 2].max() - 1e-6
    shell = Mesh(pot.vertices, pot.faces[keep])
    return concatenated(shell, translated(shell, np.array([4.0, 0, 0])), box(2, 2, 20, at=(-1, -1, 4)))


def sheet():
    """One side of a wavy surface."""
    x, y = np.meshgrid(np.linspace(0, 20, 14), np.linspace(0, 20, 14))
    points = np.stack([x.ravel(), y.ravel(), 8 * np.sin(x.ravel() / 3)], axis=1)
    k = np.arange(13 * 14).reshape(13, 14)[:, :-1].ravel()
    faces = np.concatenate([np.stack([k, k + 1, k + 14], 1), np.stack([k + 1, k + 15, k + 14], 1)])
    return Mesh(points, faces.astype(np.int32))


def twisted():
    """A band with one side, and a ball beside it."""
    t = np.linspace(0, 2 * np.pi, 33)[:-1]
    rims = [np.stack([(10 + s * np.cos(t / 2)) * np.cos(t), (10 + s * np.cos(t / 2)) * np.sin(t), s * np.sin(t / 2)], 1)
            for s in (-2, 2)]  # fmt: skip
    a = np.arange(32)
    b = np.where(a == 31, 32, a + 1)  # the rims change sides where the band closes
    other = np.where(a == 31, 0, a + 33)
    faces = np.concatenate([np.stack([a, b, a + 32], 1), np.stack([b, other, a + 32], 1)])
    return concatenated(Mesh(np.concatenate(rims), faces.astype(np.int32)), ball(4, at=(0, 0, 12)))


def crumbs():
    """Many shells, some inside others, some that touch."""
    return concatenated(
        *(box(2, 2, 2, at=(1.7 * i, 2.5 * j, 0)) for i, j in itertools.product(range(7), range(7))), ball(5)
    )


def with_equal_corners():
    """A body with faces of two equal corners, as scanners leave them."""
    body = ball(8)
    return Mesh(body.vertices, np.concatenate([body.faces, [[0, 0, 1], [2, 3, 3], [4, 4, 4]]]).astype(np.int32))


def slender():
    """A pole on a plate, and a cup on it that holds what it should let go."""
    return concatenated(box(12, 12, 1.2, at=(-6, -6, 0)), cylinder(0.4, 30, 12, at=(0, 0, 1)), ball(1.5, at=(0, 0, 31)))


FIGURES = {
    "dirty": dirty_figure(),
    "open pot": open_pot(),
    "sheet": sheet(),
    "twisted": twisted(),
    "crumbs": crumbs(),
    "equal corners": with_equal_corners(),
    "slender": slender(),
    "tiny": scaled(dirty_figure(), 1e-3),
    "large": scaled(slender(), 40.0),
    "flat": box(40, 40, 0.15),
    "tube": tube(6, 5.8, 20, 24),
    "parts": [("body", dirty_figure()), ("arm", translated(slender(), np.array([30.0, 0, 0]))), ("sheet", sheet())],
}
BRIEFLY = ("twisted", "slender", "parts")
"""Those of the usual run; all of them and the corpus are walked in the deep one."""
MOST_REMEDIES = 14


def on_the_shelf(studio, meshes):
    pieces = [("figure", meshes)] if isinstance(meshes, Mesh) else meshes
    whole = concatenated(*(mesh for _, mesh in pieces)) if len(pieces) > 1 else pieces[0][1]
    reading = Reading(whole, unit="mm", up="z", pieces=named_pieces(pieces))
    for mesh in reading.meshes.values():
        studio.blobs.put_mesh(mesh)
    step = bring_in_step(reading, "walked.stl").model_dump(mode="json")
    file = studio.blobs.put(b"the file")
    return add_figure(studio, "Walked", "walked.stl",
                      {"step": step, "mesh_hash": whole.hash, "file_hash": file, "file_bytes": 8})  # fmt: skip


def kind_of(finding, remedy):
    """Remedies that differ in their numbers only are of one kind."""
    steps = remedy.change.steps if isinstance(remedy.change, AddSteps) else ()
    return finding.code, remedy.change.does, *(step.kind for step in steps), *(getattr(s, "method", "") for s in steps)


def walk(studio, number, most):
    """Apply remedies of kinds that were not applied yet until none is left, trying each first; the kinds, in order."""
    done = []
    for _ in range(most):
        studio.want_build(number)
        _, head, record, _ = studio.figure(number)
        assert not [gap for gap in record.unseen if "mistake" in gap.why], "a check failed"
        offered = (
            (at, k) for at, finding in enumerate(record.findings) for k, remedy in enumerate(finding.remedies)
            if kind_of(finding, remedy) not in done
        )  # fmt: skip
        at, k = next(offered, (None, None))
        if at is None:
            break
        done.append(kind_of(record.findings[at], record.findings[at].remedies[k]))
        if record.findings[at].remedies[k].change.does == "add-steps":
            preview(studio, record.key, at, k, number)
        try:
            apply(studio, number, Seen(head.number), remedy_of(record, at, k))
        except Refused as refusal:
            assert str(refusal).endswith(".")
    return done


def stand_and_release(studio, number):
    stood = [("orient", {"up": None}), ("support", {})]
    editing.set_steps(studio, number, Seen(studio.figure(number)[1].number), stood, "stood")
    _, head, _, _ = studio.figure(number)
    credit = {"kind": "credit", "source": head.recipe["steps"][0]["source"], "terms": "own-work"}
    editing.add_steps(studio, number, Seen(head.number), [credit], "my own")
    studio.want_build(number)
    _, _, record, _ = studio.figure(number)
    assert all(step.sentence for step in record.steps)
    make_release(studio, number)
    (release,) = releases_of(studio, number)
    return {file["name"].rsplit(".")[-1] for file in release.files}


def walked(tmp_path, meshes, most=MOST_REMEDIES, edition=None):
    folder = DataFolder(tmp_path)
    studio = Studio(folder, OnTheSpot(folder))
    number = on_the_shelf(studio, meshes)
    editing.set_edition(studio, number, Seen(1), edition or Edition(height=PrintMM(32)))
    kinds = walk(studio, number, most)
    assert {"stl", "3mf", "json", "pdf", "txt"} == stand_and_release(studio, number)
    assert check_folder(folder).whole
    return kinds


@pytest.mark.parametrize("name", BRIEFLY)
def test_every_kind_of_remedy_can_be_taken_and_what_comes_of_it_released(tmp_path, name):
    assert walked(tmp_path, FIGURES[name], 5)


@pytest.mark.deep
@pytest.mark.parametrize("height", [8, 32, 300])
@pytest.mark.parametrize("name", FIGURES)
def test_every_figure_is_walked_far_at_every_size(tmp_path, name, height):
    walked(tmp_path, FIGURES[name], MOST_REMEDIES, Edition(height=PrintMM(height)))


@pytest.mark.deep
@pytest.mark.parametrize("name", CORPUS)
def test_the_whole_corpus_is_walked(tmp_path, name):
    walked(tmp_path, CORPUS[name][0])
