"""What is measured of Part: cuts with keys, fits, ways in and order."""

import numpy as np

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.key_steps import Key
from ulvet.core.part.steps import Cut, CutBoxes
from ulvet.core.part.survey import survey_parts
from ulvet.core.recipe.step import Context, Part

__all__ = ["assembly_ours", "cut_ours", "fit_ours"]


def cut_ours(path: str) -> int:
    """A plane cut with four keys; how many keys."""
    mesh = read_mesh(path)
    with clock():
        parts, keys = _halves(mesh)
    if len(parts) != 2:
        raise ValueError("the cut did not make two parts")
    return keys


def fit_ours(path: str) -> int:
    """Gaps, overlap, ways round, way in and strength of one joint; how many keys were looked at."""
    parts, _ = _halves(read_mesh(path))
    with clock():
        (joint,) = survey_parts(parts, 1.0).joints
    if joint.gap_mm is None or joint.gap_mm < 0:
        raise ValueError("the keys do not fit")
    return joint.keys


def assembly_ours(path: str) -> int:
    """Joints, ways in and order of some thirty keyed parts; how many."""
    mesh = read_mesh(path)
    low, high = bounds(mesh)
    wide, deep, tall = (PrintMM(float(side)) for side in (high - low) / [2, 2, 7] * 1.01)
    boxes = CutBoxes(id=2, size=(wide, deep, tall))
    parts, _ = boxes.divide(Part("figure", mesh), _context(boxes))
    key = Key(id=3, cut=2, number=1)
    parts = key.run(parts, _context(key)).parts
    with clock():
        survey = survey_parts(parts, 1.0)
    if len(survey.order) + len(survey.blocked) + 1 < len(parts):
        raise ValueError("parts are missing in the order")
    return len(parts)


def _halves(mesh: Mesh) -> tuple[tuple[Part, ...], int]:
    low, high = bounds(mesh)
    cut = Cut(id=2, offset=FigureMM(float(np.mean([low[2], high[2]]))))
    parts, _ = cut.divide(Part("figure", mesh), _context(cut))
    key = Key(id=3, cut=2, number=4, shape="round")
    done = key.run(parts, _context(key))
    return done.parts, done.receipt.keys


def _context(step: Cut | CutBoxes | Key) -> Context:
    return Context({"factor": 1.0, "setup": DEFAULT_BENCH.setup()}, step.needs)
