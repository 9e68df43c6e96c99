"""What is measured of proofs: a simulated print, and learning from many."""

from datetime import UTC, datetime, timedelta

import numpy as np

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.blob_hash import BlobHash
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.proof.learning import learnt_of
from ulvet.core.proof.proof import Came, Copy, Length, Outcome, PrintedPart, PrintForm, Proof, Told
from ulvet.core.recipe.anchors import Anchor
from ulvet.standins.printing import print_of
from ulvet.standins.truths import truths_of

__all__ = ["learn_ours", "print_ours"]

_PROOFS = 200
_TALL = 75.0
"""Mm, which are 1,500 layers of the setting."""


def print_ours(path: str) -> int:
    """A figure printed by the simulated printer with its clock at its fastest; how many layers."""
    setup = DEFAULT_BENCH.setup(printer_id="lantern-6")
    mesh = read_mesh(path)
    low, high = bounds(mesh)
    placed = Mesh((mesh.vertices - low) * (_TALL / (high[2] - low[2])), mesh.faces)
    with clock():
        outcome = print_of(placed, None, setup.layer, setup.pixel, truths_of(1), 1)
    return outcome.layers


def learn_ours(path: str) -> int:
    """What two hundred proofs with eight lengths each teach; how many values."""
    dice = np.random.default_rng(3)
    setup = DEFAULT_BENCH.setup()
    form = PrintForm(mesh=BlobHash("a" * 64), supports=None, factor=1, up=(0, 0, 1), spin=0, lift=0,
                     setting=setup.setting.id)  # fmt: skip
    part = PrintedPart(
        figure=1, figure_name="", edition="e1", edition_name="", revision=1, build="", part="figure", called="figure",
        source="", form=form, size_mm=(10, 10, 40), ml=4, seconds=9_000,
    )  # fmt: skip
    at = Anchor(point=(0, 0, 0))
    proofs = []
    for k in range(_PROOFS):
        lengths = []
        for _ in range(8):
            way, drawn = np.eye(3)[dice.integers(3)], float(dice.uniform(5, 70))
            lengths.append(Length(part=0, begin=at, end=at, drawn=drawn, measured=drawn * 0.995 + dice.normal(0, 0.02),
                                  direction=tuple(way)))  # fmt: skip
        came = Came(seconds=9_000 * dice.normal(1.1, 0.02), ml=4.2, lengths=tuple(lengths),
                    copies=(Copy(part=0, outcome=Outcome.SOUND),))  # fmt: skip
        proofs.append((k + 1, Proof(
            began=datetime(2026, 1, 1, tzinfo=UTC) + timedelta(days=k), parts=(part,), setting=setup.setting.id,
            setting_name="", printer="", printer_name="", material="", material_name="", process="resin", bench="",
            told=Told(seconds=9_000, ml=4, money=1, layers=800), came=came,
        )))  # fmt: skip
    with clock():
        learnt = learnt_of(setup, proofs)
    return len(learnt)
