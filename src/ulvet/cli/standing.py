"""The command that turns a figure for its printer and holds it."""

import json
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from ulvet.cli.common import (
    CLEAN,
    STOPS,
    AsJson,
    BenchFile,
    MaterialId,
    PrinterId,
    SettingId,
    app,
    bench_in,
    refuse,
    write,
)
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.stand import ActsFile, stand_file
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.stand.checks import FRONT


@app.command()
def stand(
    file: Annotated[Path, typer.Argument(help="A figure's file, as it lies, z up.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File for figure and supports: STL, OBJ, PLY, 3MF or GLB.")],
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    show_side: Annotated[str | None, typer.Option(help="X,Y,Z: the side to keep clean; auto: the front.")] = None,
    orient: Annotated[str, typer.Option(help="auto: the best way to stand; keep: as it lies.")] = "auto",
    way: Annotated[int | None, typer.Option(help="One of the ways set beside each other, counted from 1.")] = None,
    acts: Annotated[Path | None, typer.Option(help="JSON: begin, places and acts by hand, in mm of the file.")] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Turn a figure for the printer and hold it. Exit code 0: no island is left; 1: one is; 2: not usable."""
    try:
        if orient not in ("auto", "keep"):
            raise UnknownOnBench(f"There is no way to orient called {orient!r}; give auto or keep.")
        side = FRONT if show_side == "auto" else None if show_side is None else _direction(show_side)
        by_hand = None if acts is None else _acts_in(acts)
        setup = bench_in(bench).setup(setting, printer, material)
        data, said = stand_file(file, out, setup, side, orient, way, by_hand)  # type: ignore[arg-type]
    except (UnreadableFile, UnknownOnBench, TooManyLayers, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        tips = [contact["tip_mm"] for contact in said["contacts"]] or [0.0]
        typer.echo(
            f"{out.name}: leans {said['lean_degrees']:.0f}°, {said['height_mm']:.1f} mm tall in the printer, "
            f"{said['layers']:,} layers, {said['seconds'] / 3600:.1f} h (estimate)"
        )
        typer.echo(
            f"{len(tips) if said['contacts'] else 0:,} contacts, tips {min(tips):.2f} to {max(tips):.2f} mm, "
            f"{said['support_volume_ml']:.2f} ml of supports, {said['unheld_islands']} of {said['islands_before']} "
            "islands left without a hold"
        )
        typer.echo(
            f"{said['scars_on_show']} contacts show, {said['trapped_supports']} out of cutters' reach, about "
            f"{said['cleanup_min']:.0f} min to clean up (estimate)"
        )
        for number, one in enumerate(said["candidates"], 1):
            typer.echo(
                f"way {number}  {one['name']}: {one['contacts']} contacts, {one['on_show']} show, "
                f"{one['seconds'] / 3600:.1f} h, {one['cleanup_min']:.0f} min to clean up"
            )
        if not said["fits"]:
            typer.echo(f"it does not fit {said['printer']}")
    raise typer.Exit(STOPS if said["unheld_islands"] or not said["fits"] else CLEAN)


def _acts_in(path: Path) -> ActsFile:
    try:
        return ActsFile.model_validate_json(path.read_bytes())
    except OSError as error:
        raise UnreadableFile(f"{path.name} cannot be read; nothing was written.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise UnreadableFile(f"{path.name} is no file of acts by hand: {where}: {first['msg']}.") from error


def _direction(text: str) -> tuple[float, float, float]:
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError:
        x = y = z = 0.0
    length = (x * x + y * y + z * z) ** 0.5
    if not 1e-9 < length < 1e9:
        raise UnknownOnBench(f"{text!r} is no direction: give three numbers with commas between, not all 0.")
    return x / length, y / length, z / length
