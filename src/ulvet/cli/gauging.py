"""The command that measures walls and balance."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

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
    edition_of,
    refuse,
    write,
)
from ulvet.core.bench.edition import Use
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.formats.errors import UnreadableFile

_FIRST = 5
"""How many limbs are told in words."""


@app.command("gauge")
def gauge_command(
    file: Annotated[Path, typer.Argument(help="A figure's file, z up.")],
    height: Annotated[float | None, typer.Option(help="Overall height of the print, mm.")] = None,
    scale: Annotated[float | None, typer.Option(help="Factor from figure to print.")] = None,
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    use: Annotated[Use, typer.Option(help="What it goes through.")] = Use.TABLETOP,
    field: Annotated[
        Path | None, typer.Option(help="NPZ to write: vertices, faces, thickness, ray, kind, beyond.")
    ] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Measure walls, what breaks first, balance, detail. Exit code 0: no wall stops it; 1: one does; 2: not usable."""
    from ulvet.core.files.gauge import gauge_file  # pulls in libraries that other commands do not need

    try:
        setup = bench_in(bench).setup(setting, printer, material)
        edition = edition_of(height, scale, setup.setting.id)
        gauged = gauge_file(file, edition.model_copy(update={"use": use}), setup)
    except (UnreadableFile, UnknownOnBench) as error:
        refuse(str(error), as_json)
    if field is not None:
        write(field, gauged.field_bytes(), as_json)
    typer.echo(json.dumps(gauged.said, ensure_ascii=False) if as_json else _told(file.name, gauged.said))
    stops = any(place["stops"] for place in gauged.said["places"])
    raise typer.Exit(STOPS if stops else CLEAN)


def _told(name: str, said: dict[str, Any]) -> str:
    walls, balance = said["thickness"], said["balance"]
    lines = [f"{name}: {' x '.join(f'{side:.1f}' for side in said['size_mm'])} mm"]
    if walls["min"] is not None:
        lines.append(
            f"walls: least {walls['min']:.2f} mm; 1 % of the surface up to {walls['p01']:.2f}, 10 % to "
            f"{walls['p10']:.2f}, half to {walls['p50']:.2f} mm"
        )
    lines += [f"{place['kind']:14}{place['name']}" for place in said["places"]]
    for limb in said["handling"][:_FIRST]:
        slips = "" if not limb["slips"] else ", but gives way to a finger before that"
        lines.append(f"breaks at {limb['force_N']:.2f} N: {limb['name']}{slips} (estimate)")
    if balance is not None:
        level = "" if balance["level_deg"] is None else f", stands {balance['level_deg']:.1f}° from level"
        lines.append(f"balance: {balance['mass_g']:.1f} g solid, tips over from {balance['tip_angle_deg']:.1f}°{level}")
    if said["detail"] is not None and said["detail"]["share_lost"] > 0:
        lines.append(
            f"detail: {said['detail']['share_lost']:.1%} of the surface will not show; nine tenths of that would at "
            f"{said['detail']['shows_at_factor']:.2f} times the size"
        )
    return "\n".join([*lines, *said["notes"]])
