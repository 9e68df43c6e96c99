"""Commands that look at a figure as the printer will see it, and make it."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import (
    CLEAN,
    STOPS,
    AsJson,
    BenchFile,
    MaterialId,
    PartMaterials,
    PrinterId,
    SettingId,
    app,
    bench_in,
    edition_of,
    exit_code,
    refuse,
    with_part_materials,
    write,
)
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.build.figure_build import Build, build_figure
from ulvet.core.files.as_it_lies import layers_of_file
from ulvet.core.files.inspection import inspect_file, inspection_json, inspection_walls
from ulvet.core.files.layer_pictures import layer_archive
from ulvet.core.files.recipe_sources import sources_beside
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.lengths import spoken
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files
from ulvet.core.release.recipe_file import RecipeFile, UnusableRecipe
from ulvet.core.sources.picture import UnusablePicture
from ulvet.core.units import UNITS


@app.command()
def inspect(
    file: Annotated[Path, typer.Argument(help="An STL, OBJ, PLY, 3MF or GLB file, or a ZIP with one of them.")],
    unit: Annotated[str | None, typer.Option(help="mm, cm, m or in; guessed when left out.")] = None,
    up: Annotated[str | None, typer.Option(help="x, y or z; guessed when left out.")] = None,
    height: Annotated[float | None, typer.Option(help="Overall height of the print, mm.")] = None,
    scale: Annotated[float | None, typer.Option(help="Factor from figure to print.")] = None,
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    part_material: PartMaterials = None,
    walls: Annotated[
        Path | None, typer.Option(help="ZIP to write: the figure where it lies, its walls as tints (OBJ with texture).")
    ] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Say what is wrong with a figure at print size. Exit code 0: nothing stops; 1: something does; 2: not usable."""
    try:
        if unit not in (None, *UNITS):
            raise UnknownOnBench(f"There is no unit {unit!r}; give {', '.join(UNITS)}.")
        if up not in (None, "x", "y", "z"):
            raise UnknownOnBench(f"There is no axis {up!r}; give x, y or z.")
        at = bench_in(bench)
        setup = at.setup(setting, printer, material)
        edition = with_part_materials(edition_of(height, scale, setup.setting.id), at, part_material)
        inspection = inspect_file(file, edition, unit, up, bench=at)  # type: ignore[arg-type]  # both checked above
    except (UnreadableFile, UnknownOnBench) as error:
        refuse(str(error), as_json)
    if walls is not None:
        write(walls, inspection_walls(inspection), as_json)
    if as_json:
        typer.echo(json.dumps(inspection_json(inspection), ensure_ascii=False))
    else:
        _print_build(inspection.build, file.name)
    raise typer.Exit(exit_code(inspection.build))


@app.command()
def layers(
    file: Annotated[Path, typer.Argument(help="A figure's file, as it lies, z up.")],
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    stack: Annotated[Path | None, typer.Option(help="ZIP to write: a PNG a layer and what they are of.")] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Say what the printer will see. Exit code 0: no islands and all outlines close; 1: otherwise; 2: not usable."""
    try:
        setup = bench_in(bench).setup(setting, printer, material)
        said, seen = layers_of_file(file, setup)
    except (UnreadableFile, UnknownOnBench, TooManyLayers) as error:
        refuse(str(error), as_json)
    if stack is not None:
        write(stack, layer_archive(seen, setup), as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        typer.echo(
            f"{file.name}: {said['layers']:,} layers, {said['seconds'] / 3600:.1f} h, {said['resin_ml']:.2f} ml, "
            f"at most {said['peak_area_mm2']:.1f} mm² (estimate)"
        )
        for island in said["islands"]:
            place = ", ".join(f"{value:.2f}" for value in island["point"])
            typer.echo(f"island  layer {island['layer'] + 1:,}  {island['area_mm2']:.2f} mm²  at {place}")
        if said["open_layers"]:
            typer.echo(f"outlines do not close in {said['open_layers']:,} layers")
    raise typer.Exit(STOPS if said["islands"] or said["open_layers"] else CLEAN)


@app.command()
def build(
    recipe: Annotated[Path, typer.Argument(help="The recipe file of a release; its source lies beside it.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="Folder for the files of the release.")],
    source: Annotated[Path | None, typer.Option(help="Folder of the source, if it is another.")] = None,
    setting: SettingId = None,
    part_material: PartMaterials = None,
    bench: BenchFile = None,
) -> None:
    """Make a release again from its recipe. Exit code 0: nothing stops; 1: something does; 2: not usable."""
    from ulvet.store.blobs import write_whole  # here, as the other commands need nothing of the store

    try:
        asked = RecipeFile.read(recipe.read_bytes(), recipe.name)
        meshes = sources_beside(asked, source or recipe.parent)
        at = bench_in(bench)
        edition = asked.edition.model_copy(update={"setting": at.setup(setting or asked.edition.setting).setting.id})
        edition = with_part_materials(edition, at, part_material)
        done = build_figure(asked.recipe, edition, meshes, of_studio=True, bench=at)
        files = release_files(CheckedFigure.of(asked.figure, done))
        out.mkdir(parents=True, exist_ok=True)
        for file in files:
            write_whole(out / file.name, file.data)
    except OSError as error:
        refuse(
            f"{error.filename or out} could not be used ({error.strerror}): every file that was written is whole; "
            "make room or name another, and build again.",
            as_json=False,
        )
    except (UnreadableFile, UnknownOnBench, UnusablePicture, UnusableRecipe) as error:
        refuse(str(error), as_json=False)
    for file in files:
        typer.echo(f"{file.sha256}  {file.name}")
    raise typer.Exit(exit_code(done))


def _print_build(build: Build, name: str) -> None:
    for facts in build.facts:
        size = " x ".join(spoken(side) for side in facts.size_mm)
        closed = "closed" if facts.watertight else "not closed"
        typer.echo(f"{name}: {size} mm, {facts.triangles:,} triangles, {closed}, {facts.volume_mm3 / 1000:.2f} ml")
    for estimate in filter(None, build.estimates):
        typer.echo(
            f"{estimate.layers:,} layers, {estimate.seconds / 3600:.1f} h, {estimate.material_ml:.2f} ml, "
            f"{estimate.money:.2f} (estimate)"
        )
    for finding in build.findings:
        typer.echo(f"{finding.severity:8} {finding.code:22} {finding.title}")
        typer.echo(f"{'':31} {finding.why}")
    for gap in build.unseen:
        typer.echo(f"not looked at: {gap.part}, {gap.station}. {gap.why}")
    if not build.findings and not build.unseen:
        typer.echo("nothing found")
