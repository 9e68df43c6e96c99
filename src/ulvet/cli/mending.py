"""The command that makes a mesh sound."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ulvet.cli.common import CLEAN, AsJson, app, refuse, write
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.lengths import spoken
from ulvet.core.mend.mend_mesh import CannotMend, Method


@app.command("mend")
def mend_command(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    method: Annotated[Method, typer.Option(help="The mildest that ends well, or one of the three.")] = "auto",
    pitch: Annotated[
        float | None, typer.Option(help="Grid of a remake, mm; without one a 300th of the longest side.")
    ] = None,
    leave_overlaps: Annotated[
        bool, typer.Option("--leave-overlaps", help="Shells that overlap are meant, for a slicer that merges them.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Close, turn, part and unite a mesh until it is sound. Exit code 0: done; 2: not usable, or nothing helped."""
    from ulvet.core.files.mend import mend_file  # pulls in libraries that other commands do not need

    if pitch is not None and not 0 < pitch <= 100:
        refuse("The pitch is a length above 0, up to 100 mm.", as_json)
    try:
        data, said = mend_file(file, out, method, pitch, leave_overlaps)
    except (UnreadableFile, CannotMend, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    typer.echo(json.dumps(said, ensure_ascii=False) if as_json else _told(out.name, said))
    raise typer.Exit(CLEAN)


def _told(name: str, said: dict[str, Any]) -> str:
    receipt = said["receipt"]
    wrong = ", ".join(f"{count:,} {code}" for code, count in said["before"].items() if count) or "nothing wrong"
    grid = f" on a grid of {receipt['pitch_mm']:.3g} mm" if receipt["pitch_mm"] else ""
    off = receipt["set_down_mm"]
    set_down = (
        "\nset down by " + " x ".join(f"{along:,.0f}" for along in off) + " mm: files round so far from the origin"
        if any(off)
        else ""
    )
    return (
        f"{name}: found {wrong}\n"
        f"mended by the {receipt['method']} method{grid}: {receipt['holes_closed']:,} holes closed with "
        f"{spoken(receipt['area_added_mm2'])} mm², {spoken(receipt['area_removed_mm2'])} mm² taken away, what remains "
        f"moved at most {spoken(receipt['max_move_mm'])} mm; {receipt['volume_before_mm3']:.1f} mm³ before, "
        f"{receipt['volume_after_mm3']:.1f} after{set_down}"
    )
