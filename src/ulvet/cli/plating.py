"""The command that lays figures on plates."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import (
    CLEAN,
    AsJson,
    BenchFile,
    MaterialId,
    PrinterId,
    SettingId,
    app,
    bench_in,
    make_folder,
    refuse,
    write,
)
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.plates import NothingFits, plates_of_files
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.layers.clock import hours_and_minutes
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.plates.plate import Risk


@app.command()
def plates(
    files: Annotated[list[Path], typer.Argument(help="Files of parts as they stand, with supports, z up.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="Folder for an STL a plate.")],
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    count: Annotated[int, typer.Option(min=1, max=500, help="Copies of each.")] = 1,
    most: Annotated[int | None, typer.Option(min=1, help="Parts on one plate at most, so that less is lost.")] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Lay parts on as few plates as are found. Exit code 0: done; 2: not usable."""
    try:
        setup = bench_in(bench).setup(setting, printer, material)
        made = plates_of_files(files, setup, count, Risk(most_parts=most))
    except (UnreadableFile, UnknownOnBench, TooManyLayers, NothingFits) as error:
        refuse(str(error), as_json)
    make_folder(out, as_json)
    said = []
    for number, (data, plate) in enumerate(made, 1):
        name = f"plate-{number}.stl"
        write(out / name, data, as_json)
        said.append({**plate, "file": name})
    if as_json:
        typer.echo(json.dumps({"plates": said}, ensure_ascii=False))
    for plate in [] if as_json else said:
        typer.echo(
            f"{plate['file']}: {len(plate['parts'])} parts, {plate['tall_mm']:.1f} mm tall, "
            f"{hours_and_minutes(plate['seconds'])} h, {plate['material_ml']:.1f} ml, {plate['money']:.2f} of money "
            "(estimate)"
        )
    raise typer.Exit(CLEAN)
