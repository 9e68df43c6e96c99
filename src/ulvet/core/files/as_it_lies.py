"""One file as it lies, without a recipe: thinned out, seen as the printer sees it, stood and held."""

from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.bring_in.simplify import simplify_to_count, simplify_within
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.read import read_file
from ulvet.core.formats.write import bytes_for
from ulvet.core.gauge.walls.thickness import measure_thickness
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.placement import Placement, placement_of
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.hollow.survey import resin_left
from ulvet.core.layers.check import check_layers
from ulvet.core.layers.cup_findings import VentedCup, cups_of
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.step import Part
from ulvet.core.size.scales import survey_sizes
from ulvet.core.size.ways import AnyWay, figure_size
from ulvet.core.units import Axis, Unit

__all__ = ["layers_of_file", "mesh_as_it_lies", "simplify_file", "size_of_file"]


def mesh_as_it_lies(path: Path) -> tuple[Mesh, Placement, Unit]:
    """The mesh of a file in mm, z up and resting on the plate, and how it came there.

    Raises UnreadableFile.
    """
    source = read_file(path)
    step = bring_in_step(source, path.name, up="z")
    placement = placement_of(source.mesh, step.unit, "z")
    return placement.placed(source.mesh), placement, step.unit


def simplify_file(
    path: Path, out: Path, deviation: float | None, triangles: int | None
) -> tuple[bytes, dict[str, Any]]:
    """A file thinned out, to a ``deviation`` in mm or about so many ``triangles``, of which one is given: the bytes of
    ``out``, in mm where the file lies, and what was done as plain values.

    Raises UnreadableFile and ValueError, both with a text for the user.
    """
    source = read_file(path)
    step = bring_in_step(source, path.name, up=source.up or "z")
    placement = placement_of(source.mesh, step.unit, step.up)
    mesh = Mesh(source.mesh.vertices @ placement.turn.T * placement.unit_mm, source.mesh.faces)
    thinned = simplify_within(mesh, deviation or 0.0) if triangles is None else simplify_to_count(mesh, triangles)
    data = bytes_for(out, [("figure", thinned.mesh)])
    return data, {
        "file": str(path),
        "out": str(out),
        "unit": step.unit,
        "triangles_before": len(mesh.faces),
        "triangles": len(thinned.mesh.faces),
        "deviation_max_mm": thinned.deviation.greatest,
        "deviation_mean_mm": thinned.deviation.mean,
        "bytes": len(data),
        "why": thinned.why,
    }


def size_of_file(
    path: Path,
    way: AnyWay | None,
    setup: Setup,
    unit: Unit | None = None,
    up: Axis | None = None,
    bench: Bench = DEFAULT_BENCH,
) -> dict[str, Any]:
    """A file at the size a way gives, as it is without one: the factor with its working, what is too thin then, and the
    same for sizes from a quarter to four times that, as plain values.

    Raises UnreadableFile and UnusableSize, both with a text for the user.
    """
    source = read_file(path)
    step = bring_in_step(source, path.name, unit, up)
    parts = [part.mesh for part in run_recipe(Recipe(steps=(step,)), source.meshes, Edition()).parts]
    figure = figure_size(*parts)
    worked = way.work(figure, bench) if way else None
    factor = worked.factor if worked else 1.0
    height = PrintMM(figure.height * factor)
    walls = [(mesh, measure_thickness(mesh)) for mesh in parts]
    survey = survey_sizes(walls, figure.height, height, setup)
    here = survey.near(height) if survey else None  # its own size is among those surveyed
    return {
        "file": str(path),
        "unit": step.unit,
        "unit_guessed": step.doubt or None,
        "up": step.up,
        "factor": factor,
        "working": list(worked.working) if worked else [],
        "turned": worked.turned.model_dump(mode="json") if worked and worked.turned else None,
        "size_mm": [side * factor for side in figure.size],
        "footprint_mm": figure.footprint * factor,
        "setting": setup.setting.id,
        "printer": setup.printer.id,
        "material": setup.material.id,
        "thin_places": here.thin if here else 0,
        "stopping_places": here.stops if here else 0,
        "too_fine_places": here.too_fine if here else 0,
        "least_wall_mm": here.least if here else None,
        "smallest_height_mm": survey.smallest if survey else None,
        "scale": [
            {"height_mm": at.height, "factor": at.factor, "thin_places": at.thin, "stopping_places": at.stops}
            for at in (survey.sizes if survey else ())
        ],
    }


def layers_of_file(path: Path, setup: Setup) -> tuple[dict[str, Any], LayerStack]:
    """The layers of a file as it lies, z up and resting on the plate, as plain values, and as they are.

    Points are print mm in the file's own axes, from its own origin.

    Raises UnreadableFile and TooManyLayers, both with a text for the user.
    """
    mesh, placement, unit = mesh_as_it_lies(path)
    part, resin = Part("figure", mesh), setup.process == "resin"
    report = check_layers(part, 1.0, setup)
    stack, estimate = report.stack, report.estimate
    said = {
        "file": str(path),
        "unit": unit,
        "setting": setup.setting.id,
        "printer": setup.printer.id,
        "material": setup.material.id,
        "layers": estimate.layers,
        "layer_mm": stack.layer,
        "pixel_mm": stack.pixel,
        "seconds": estimate.seconds,
        "resin_ml": estimate.material_ml,
        "money": estimate.money,
        "peak_area_mm2": estimate.peak_area_mm2,
        "open_layers": int((stack.unbalanced > 0).sum()),
        "islands": [
            {
                "point": placement.in_file(np.array([island.x, island.y, island.layer * stack.layer])).tolist(),
                "layer": island.layer,
                "area_mm2": island.area,
            }
            for island in report.islands
        ],
        "cups": [_cup(one, placement) for one in cups_of(part, stack, 1.0, setup.supports)] if resin else [],
        "trapped": [
            {"ml": pool.millilitres, "point": placement.in_file(pool.point).tolist()}
            for pool in (resin_left(part, 1.0).pools if resin and is_watertight(edges_of(mesh)) else ())
        ],
    }
    return said, stack


def _cup(one: VentedCup, placement: Placement) -> dict[str, Any]:
    """A cup as plain values; ``vent`` is where one cures it, with the way out and its diameter beside it."""
    cup, vent = one.cup, one.vent
    return {
        "volume_ml": cup.millilitres,
        "layer": cup.first,
        "to_layer": cup.last,
        "point": placement.in_file(np.array(one.point)).tolist(),
        "mouth_mm2": cup.mouth,
        "force_N": one.newtons,
        "vent": None if vent is None else placement.in_file(vent.point).tolist(),
        "vent_mm": None if vent is None else vent.diameter,
    }
