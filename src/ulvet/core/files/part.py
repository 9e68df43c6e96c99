"""A file cut into parts where it lies, without a recipe."""

import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Use
from ulvet.core.bench.setup import Setup
from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.check import check_joints
from ulvet.core.part.check_cuts import check_cuts
from ulvet.core.part.key_steps import Fit, Key
from ulvet.core.part.printers import printers_that_hold
from ulvet.core.part.report import JointRow, assembly_report
from ulvet.core.part.steps import Cut, CutBoxes, CutReceipt
from ulvet.core.part.survey import survey_parts
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Context, Part, Step, StepResult

__all__ = ["PLANE", "part_file"]

PLANE = tuple[float, float, float, float]
"""A plane's normal and how far along it the plane lies from the file's origin, mm."""


def part_file(
    path: Path,
    planes: Sequence[PLANE],
    grid: tuple[float, float, float] | None,
    key: dict[str, Any] | None,
    fit: Fit,
    painted: bool,
    setup: Setup,
    bench: Bench,
) -> tuple[dict[str, bytes], dict[str, Any]]:
    """A file cut by planes, then by boxes, and keyed: the bytes of each part's STL by file name, and what was done as
    plain values, with the findings that a studio would show. ``key`` are fields of a ``Key``; None sets none.

    Points are mm from the file's own origin. Raises UnreadableFile, and ValueError for a plane without direction or
    boxes that are too small.
    """
    mesh = mesh_as_it_lies(path)
    steps: list[Step] = [_cut(k, plane) for k, plane in enumerate(planes, 2)]
    if grid is not None:
        wide, deep, tall = map(PrintMM, grid)
        steps.append(CutBoxes(id=len(steps) + 2, size=(wide, deep, tall)))
    cuts = [step.id for step in steps]
    if key is not None:
        steps += [Key(id=50 + cut, cut=cut, fit=fit, painted=painted, **key) for cut in cuts]
    parts: tuple[Part, ...] = (Part("figure", mesh),)
    receipts: list[Receipt] = []
    values = {"factor": 1.0, "setup": setup}
    for step in steps:
        done = _run(step, parts, Context(values, step.needs))
        parts, receipts = done.parts, [*receipts, done.receipt]
    survey = survey_parts(parts, 1.0)
    glues = [glue for glue in bench.glues if not glue.retired]
    report = assembly_report(parts, survey, setup, glues)
    recipe = Recipe.model_construct(steps=tuple(steps), counted=len(steps), variants=(), variant="")
    findings = [
        *check_cuts(parts, recipe, receipts, 1.0),
        *check_joints(survey, recipe, setup, Use.TABLETOP, glues, bench.bought_parts),
    ]
    names = _file_names(path, parts)
    return {names[part.name]: stl_bytes(part.mesh) for part in parts}, {
        "file": str(path),
        "setting": setup.setting.id,
        "parts": [_said(part.mesh, part.called, names[part.name], bench) for part in parts],
        "joints": [_joint(row, parts, key, report.blocked) for row in report.joints],
        "order": _order(report, parts),
        "blocked": [
            {"part": _called(one.part, parts), "free_mm": one.free_mm, "meets": _called(one.meets, parts)}
            for one in report.blocked
        ],
        "findings": [
            {"code": one.code, "severity": one.severity.value, "title": one.title, "why": one.why} for one in findings
        ],
        "uncut": next((one.not_done for one in receipts if isinstance(one, CutReceipt) and one.not_done), ""),
        "notes": list(dict.fromkeys(receipt.not_done for receipt in receipts if receipt.not_done)),
    }


def _cut(number: int, plane: PLANE) -> Cut:
    normal, along = np.array(plane[:3], dtype=float), plane[3]
    length = float(np.linalg.norm(normal))
    if not np.isfinite(length) or length < 1e-9 or not np.isfinite(along):
        raise ValueError("A plane is NX,NY,NZ,D with a direction that has a length; nothing was written.")
    x, y, z = map(float, normal / length)
    return Cut(id=number, normal=(x, y, z), offset=FigureMM(along / length))


def _run(step: Step, parts: tuple[Part, ...], context: Context) -> StepResult:
    if not step.by_part:
        return step.run(parts, context)
    done = [step.divide(part, context) for part in parts]
    # What one of several parts is missed by is no news where another was cut.
    told = step.makes.together([receipt for _, receipt in done])
    return StepResult(tuple(piece for pieces, _ in done for piece in pieces), told)


def _said(mesh: Mesh, called: str, file: str, bench: Bench) -> dict[str, Any]:
    printers = [one for one in bench.printers if not one.retired]
    return {
        "name": called,
        "file": file,
        "size_mm": [float(side) for side in np.ptp(mesh.vertices, axis=0)],
        "volume_mm3": volume(mesh),
        "fits": list(printers_that_hold(mesh, 1.0, printers)),
    }


def _joint(row: JointRow, parts: Sequence[Part], key: dict[str, Any] | None, blocked: Sequence[Any]) -> dict[str, Any]:
    stuck = {one.part: one.free_mm for one in blocked}
    free = [stuck[name] for name in row.parts if name in stuck]
    return {
        "parts": [_called(name, parts) for name in row.parts],
        "area_mm2": row.area_mm2,
        "key": (key or {}).get("shape", (key or {}).get("joins", "none")) if row.keys else "none",
        "keys": row.keys,
        "gap_min_mm": row.gap_mm,
        "wall_mm": row.wall_mm,
        "overlap_mm3": row.overlap_mm3,
        "insertion": {"way": list(row.way), "free": not free, "free_mm": min(free, default=None)},
        "ways_round": row.ways_round,
        "opens_N": row.opens_N,
        "glue": row.glue,
    }


def _order(report: Any, parts: Sequence[Part]) -> list[dict[str, Any]]:
    if not report.first:
        return []
    first: dict[str, Any] = {"parts": [_called(report.first, parts)], "way": None, "joints": []}
    return [
        first,
        *(
            {
                "parts": [_called(name, parts) for name in step.parts],
                "way": list(step.way),
                "joints": list(step.joints),
                "glue": step.glue,
                "minutes": step.minutes,
                "sanding_minutes": step.sanding_minutes,
            }
            for step in report.order
        ),
    ]


def _called(name: str, parts: Sequence[Part]) -> str:
    return next((part.called for part in parts if part.name == name), name)


def _file_names(path: Path, parts: Sequence[Part]) -> dict[str, str]:
    """By part a file name that says what it is, and sorts as the parts do."""
    return {
        part.name: f"{path.stem}_{number:02d}_{re.sub(r'[^a-z0-9]+', '-', part.called.lower()).strip('-')}.stl"
        for number, part in enumerate(parts, 1)
    }
