"""The command that cuts a figure into parts."""

import json
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from ulvet.cli.common import CLEAN, STOPS, AsJson, BenchFile, SettingId, app, bench_in, make_folder, refuse, write
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.formats.errors import UnreadableFile

KeyName = Literal["none", "round", "flat-sided", "square", "tapered", "pin", "magnet", "rod"]
_MAGNET = {"joins": "magnets", "size": 3.0, "deep": 2.0, "name": "Magnet 3 x 2"}
_ROD = {"joins": "rod", "size": 2.0, "deep": 4.0, "name": "Rod 2"}


@app.command("part")
def part_command(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="Folder for one STL a part.")],
    plane: Annotated[
        list[str] | None, typer.Option(help="NX,NY,NZ,D: a plane square to N, D mm along it; may be given again.")
    ] = None,
    grid: Annotated[str | None, typer.Option(help="X,Y,Z: cut by boxes of that size, mm.")] = None,
    key: Annotated[KeyName, typer.Option(help="Key set into every joint.")] = "flat-sided",
    fit_class: Annotated[
        Literal["press", "slide", "free", "glued"], typer.Option(help="How its keys fit, from the setting.")
    ] = "glued",
    painted: Annotated[bool, typer.Option("--painted", help="Leave room for the coats of both faces.")] = False,
    setting: SettingId = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Cut a closed figure into keyed parts, and say how they go together. Exit code 0: nothing stops; 1: something
    does; 2: not usable."""
    from ulvet.core.files.part import part_file  # pulls in libraries that other commands do not need

    if not plane and not grid:
        refuse("Nothing to cut by: give a --plane or a --grid; nothing was written.", as_json)
    try:
        planes = [_numbers(text, 4) for text in plane or ()]
        boxes = _numbers(grid, 3) if grid else None
        held = bench_in(bench)
        files, said = part_file(file, planes, boxes, _asked(key), fit_class, painted, held.setup(setting), held)
    except (UnreadableFile, UnknownOnBench, ValueError) as error:
        refuse(_sentence(error), as_json)
    if len(files) < 2:
        refuse(f"{file.name} stays whole: {said['uncut'] or 'no cut goes through it'}; nothing was written.", as_json)
    make_folder(out, as_json)
    for name, data in files.items():
        write(out / name, data, as_json)
    typer.echo(json.dumps(said, ensure_ascii=False) if as_json else _told(said))
    raise typer.Exit(STOPS if any(one["severity"] == "stop" for one in said["findings"]) else CLEAN)


def _numbers(text: str, count: int) -> Any:
    try:
        values = tuple(float(one) for one in text.split(","))
    except ValueError:
        values = ()
    if len(values) != count:
        raise ValueError(f"{text!r} is not {count} numbers with commas between; nothing was written.")
    return values


def _asked(key: KeyName) -> dict[str, Any] | None:
    if key == "none":
        return None
    if key in ("magnet", "rod"):
        return _MAGNET if key == "magnet" else _ROD
    return {"joins": "pin"} if key == "pin" else {"shape": key}


def _sentence(error: Exception) -> str:
    if type(error).__name__ == "ValidationError":
        return "A box has sides of at least 5 mm; nothing was written."
    return str(error)


def _told(said: dict[str, Any]) -> str:
    lines = [
        f"{one['name']}: {' x '.join(f'{side:.1f}' for side in one['size_mm'])} mm, {one['volume_mm3'] / 1000:.2f} ml, "
        f"{one['file']}"
        for one in said["parts"]
    ]
    for joint in said["joints"]:
        gap = "" if joint["gap_min_mm"] is None else f", least gap {joint['gap_min_mm']:.2f} mm"
        opens = "" if joint["opens_N"] is None else f", opens at about {joint['opens_N']:.1f} N"
        lines.append(f"{' and '.join(joint['parts'])}: {joint['area_mm2']:.0f} mm², {joint['keys']} keys{gap}{opens}")
    lines += [f"{number}. {' with '.join(step['parts'])}" for number, step in enumerate(said["order"], 1)]
    lines += [f"{one['severity']}: {one['title']}" for one in said["findings"]]
    return "\n".join([*lines, *said["notes"]])
