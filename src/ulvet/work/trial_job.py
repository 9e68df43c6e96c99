"""The job that tries a change of a figure without checks."""

from collections.abc import Sequence

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.build.figure_build import whole_size
from ulvet.core.findings.facts import FactsMeasured
from ulvet.core.gauge.balance.balance import balance_of_solids
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import scaled, volume
from ulvet.core.layers.estimate import estimate_print, printed_together
from ulvet.core.layers.raster import TooManyLayers, raster_layers
from ulvet.core.part.report import off_its_seam
from ulvet.core.progress import Progress
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe, Run, run_recipe
from ulvet.core.recipe.step import Context
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory
from ulvet.work.build_job import supports_drawn
from ulvet.work.display import display_bytes
from ulvet.work.job_values import Values, asked, sources_of
from ulvet.work.trial_record import Takes, Trial, TrialPart

__all__ = ["preview"]

_ABOUT_WHAT_IT_TAKES = ("hollow", "drain", "leave-solid")
"""Kinds of step that are chosen by what they save."""


def preview(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Run ``recipe`` in ``edition`` on ``bench`` without checks. Gives the hash of a ``Trial``: the parts, how
    much more of them there is than ``before``, and what the record would say of the last step of ``kind``."""
    recipe, edition, bench = asked(values)
    run = run_recipe(recipe, sources_of(folder, recipe), edition, DiskMemory(folder), progress, bench)
    blobs, factor = Blobs(folder.blobs), run.factor
    facts = [FactsMeasured().measure(part, Context({"factor": factor}, ("factor",)), {}) for part in run.parts]
    newest = max((step.id for step in recipe.steps), default=0)
    tried = Trial(
        parts=[
            TrialPart(
                facts=of,
                mesh=blobs.put_mesh(part.mesh),
                display=blobs.put(display_bytes(part.mesh, Thickness.unknown(part.mesh))),
                supports_display=None if part.supports is None else blobs.put(supports_drawn(part, factor)),
                apart=off_its_seam(part, newest),
            )
            for part, of in zip(run.parts, facts, strict=True)
        ],
        size_mm=whole_size(facts),
        ml=sum(of.volume_mm3 for of in facts) / 1000 - values["before"]["ml"],
        triangles=sum(of.triangles for of in facts) - values["before"]["triangles"],
        said=_said_of(values["kind"], recipe, run.receipts),
        takes=_takes(run, bench, edition) if values["kind"] in _ABOUT_WHAT_IT_TAKES else None,
    )
    return {"tried": blobs.put(tried.model_dump_json().encode())}


def _takes(run: Run, bench: Bench, edition: Edition) -> Takes | None:
    """What the parts take, printed together; None where the layers of one cannot be looked at."""
    setups = PartSetups(bench, edition)
    estimates, solids = [], []
    for part in run.parts:
        setup = setups.of(part.name)
        try:
            stack = raster_layers(part.whole(run.factor), setup.layer, setup.pixel)
        except TooManyLayers:
            return None
        estimates.append(estimate_print(stack, setup, held=part.supports is not None))
        solids.append((scaled(part.mesh, run.factor), setup.material.density))
    whole, balance = printed_together(estimates), balance_of_solids(solids)
    if whole is None:
        return None
    return Takes(
        estimate=whole,
        grams=sum(volume(mesh) * density for mesh, density in solids) / 1000,
        tip_angle_deg=balance.tip_angle if balance else None,
        openings=sum(len(part.openings) for part in run.parts),
    )


def _said_of(kind: str, recipe: Recipe, receipts: Sequence[Receipt]) -> str:
    """What the record would say of the last step of a kind; nothing where there is none."""
    for step, receipt in reversed(list(zip(recipe.steps, receipts, strict=True))):
        if step.kind == kind:
            # What was not done has no counts to make a sentence of.
            pieces = (f"Not done: {receipt.not_done}.",) if receipt.not_done else step.sentence(receipt)
            return "".join(
                piece if isinstance(piece, str) else f"{round(piece.value, 2):g} {piece.unit}" for piece in pieces
            )
    return ""
