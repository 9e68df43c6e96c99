"""The same recipe gives the same bytes, whatever was run before, in whatever order and with however many threads."""

from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn, SourcePiece
from ulvet.core.gauge.steps import Thicken
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces, Weld
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.runner import Recipe, Run, run_recipe
from ulvet.core.stand.steps import Orient, Support
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory

THREADED = ("layers.raster", "stand.screening", "stand.orientation", "stand.clearance_grid")


def dirtied(mesh: Mesh) -> Mesh:
    faces = mesh.faces.copy()
    faces[3:6] = faces[3:6, ::-1]
    return Mesh(mesh.vertices, np.concatenate([faces[1:], faces[8:10]]))


LEFT = dirtied(concatenated(ball(5, at=(-8, 0, 9), rounds=2), cylinder(1.2, 6, 12, at=(-8, 0, 0))))
RIGHT = dirtied(concatenated(box(6, 0.3, 12, at=(4, 0, 0)), box(8, 4, 1, at=(3, -2, 0))))
WHOLE = concatenated(LEFT, RIGHT)
SOURCES = {mesh.hash: mesh for mesh in (LEFT, RIGHT, WHOLE)}
PIECES = (SourcePiece(name="left", mesh=LEFT.hash), SourcePiece(name="right", mesh=RIGHT.hash))

parts = st.sampled_from([None, "left", "right", "gone"])
anchors = st.builds(
    lambda x, y, z: Anchor(point=(FigureMM(x), FigureMM(y), FigureMM(z)), normal=(0, 1, 0)),
    st.floats(-14, 14), st.floats(-3, 3), st.floats(0, 15),
)  # fmt: skip
steps = st.one_of(
    st.builds(Weld, scope=parts, on=st.booleans(), distance=st.sampled_from([FigureMM(0), FigureMM(0.01)])),
    st.builds(DropFaces, scope=parts),
    st.builds(OrientFaces, scope=parts),
    st.builds(CloseHoles, scope=parts, on=st.booleans()),
    st.builds(
        Thicken, scope=parts, wall=st.sampled_from([PrintMM(0.7), PrintMM(1.0)]), reach=st.just(FigureMM(5)),
        places=st.lists(anchors, min_size=1, max_size=3).map(tuple),
    ),
    st.builds(Orient, scope=parts, up=st.sampled_from([(0, 0, 1), (0.4, 0.1, 1), (1, 0, 0)])),
    st.builds(Support, scope=parts, spacing=st.sampled_from([None, PrintMM(6)])),
)  # fmt: skip
recipes = st.lists(steps, max_size=5).map(
    lambda some: with_steps_added(
        Recipe(steps=(BringIn(source=WHOLE.hash, name="two.3mf", pieces=PIECES),)), tuple(some)
    )
)
editions = st.sampled_from([Edition(height=PrintMM(14)), Edition(factor=1.7, setting="long-reed-300-matt-filament")])


def said(run: Run) -> list[object]:
    return [
        [(part.name, part.mesh.hash, part.stance, part.supports and part.supports.hash) for part in run.parts],
        run.receipts,
    ]


@settings(max_examples=of_all(40), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.lists(st.tuples(recipes, editions), min_size=2, max_size=3), st.randoms(use_true_random=False))
def test_neither_order_nor_threads_nor_what_is_remembered_change_a_byte(jobs, rng):
    alone = [said(run_recipe(recipe, SOURCES, edition)) for recipe, edition in jobs]
    order = list(range(len(jobs)))
    rng.shuffle(order)
    with TemporaryDirectory() as folder:
        memory = DiskMemory(DataFolder(Path(folder)))
        patches = [patch(f"ulvet.core.{module}.THREADS", 1) for module in THREADED]
        for one in patches:
            one.start()
        try:
            for k in order:
                assert said(run_recipe(*_asked(jobs[k]), memory)) == alone[k]
        finally:
            for one in patches:
                one.stop()
        for k in reversed(order):
            assert said(run_recipe(*_asked(jobs[k]), memory)) == alone[k], "remembered, it is the same"


def _asked(job):
    recipe, edition = job
    return recipe, SOURCES, edition
