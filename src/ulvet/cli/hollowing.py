"""The command that makes a figure hollow."""

import json
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from ulvet.cli.common import CLEAN, AsJson, BenchFile, SettingId, app, bench_in, edition_of, refuse, write
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.formats.errors import UnreadableFile

_WALLS = (0.3, 20.0)
"""Walls that may be asked for, mm, least and greatest."""


@app.command("hollow")
def hollow_command(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    wall: Annotated[float, typer.Option(help="Wall of the shell, print mm.")],
    narrowest: Annotated[float, typer.Option(help="Inside diameter under which it stays solid, print mm.")] = 2.0,
    drain: Annotated[
        Literal["auto", "none"], typer.Option(help="Open each space at both ends, or leave it sealed.")
    ] = "auto",
    height: Annotated[float | None, typer.Option(help="Height to make it, mm; as it is without one.")] = None,
    setting: SettingId = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Hollow a closed figure to one wall and open it. Exit code 0: done; 2: not usable."""
    from ulvet.core.files.hollow import hollow_file  # pulls in libraries that other commands do not need
    from ulvet.core.hollow.hollowing import CannotHollow

    if not _WALLS[0] <= wall <= _WALLS[1]:
        refuse(f"The wall is a length from {_WALLS[0]} to {_WALLS[1]:.0f} mm; nothing was written.", as_json)
    if not 0 < narrowest <= _WALLS[1]:
        refuse(f"The narrowest inside is a length above 0, up to {_WALLS[1]:.0f} mm; nothing was written.", as_json)
    try:
        setup = bench_in(bench).setup(setting)
        edition = edition_of(height, None, setup.setting.id)
        data, said = hollow_file(file, out, wall, narrowest, drain, edition, setup)
    except CannotHollow as refusal:
        refuse(f"{file.name} stays solid: {refusal}; nothing was written.", as_json)
    except (UnreadableFile, UnknownOnBench, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    typer.echo(json.dumps(said, ensure_ascii=False) if as_json else _told(out.name, said))
    raise typer.Exit(CLEAN)


def _told(name: str, said: dict[str, Any]) -> str:
    wall, lines = said["wall"], []
    lines.append(
        f"{name}: wall {wall['p50']:.2f} mm in the middle, {wall['min']:.2f} at the least; "
        f"saves {said['saved_ml']:.2f} ml"
    )
    for space in said["spaces"]:
        openings = ", ".join(f"{one['diameter_mm']:.1f} mm" for one in space["openings"]) or "none: it is sealed"
        lines.append(f"space of {space['volume_ml']:.2f} ml, openings {openings}, {space['left_ml']:.2f} ml stay")
    return "\n".join([*lines, *said["notes"]])
