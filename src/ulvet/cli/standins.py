"""The commands that run simulated devices, and print on one."""

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, STOPS, AsJson, BenchFile, app, bench_in, refuse
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.as_it_lies import mesh_as_it_lies
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.geometry.mesh import bounds
from ulvet.core.layers.clock import hours_and_minutes

standin_app = typer.Typer(no_args_is_help=True, help="Simulated devices, each a process of its own.")
app.add_typer(standin_app, name="standin")

_LOOKS_S = 0.5
"""Seconds between two looks at a print."""


@standin_app.callback()
def _standins() -> None:
    """Simulated devices, each a process of its own."""


@standin_app.command()
def printer(
    port: Annotated[int, typer.Option(min=1024, max=65535, help="Port on this machine.")] = 8477,
    speed: Annotated[float, typer.Option(min=0.1, max=1e9, help="How many times as fast its clock runs.")] = 600.0,
    seed: Annotated[int, typer.Option(min=0, max=10**6, help="Which printer: each has truths of its own.")] = 1,
) -> None:
    """Run a simulated printer until it is stopped; its protocol is in docs/printer-protocol.md."""
    import uvicorn  # here, as no other command needs a server

    from ulvet.standins.printer import create_printer

    typer.echo(f"simulated printer {seed} on http://127.0.0.1:{port}, its clock {speed:g} times as fast")
    uvicorn.run(create_printer(speed, seed), host="127.0.0.1", port=port, log_level="warning")


@standin_app.command()
def shop(
    port: Annotated[int, typer.Option(min=1024, max=65535, help="Port on this machine.")] = 8478,
    seed: Annotated[int, typer.Option(min=0, max=10**6, help="Which shop: 0 answers well, others have moods.")] = 0,
    data: Annotated[Path | None, typer.Option(help="Folder of what it has; a new one that goes with it.")] = None,
) -> None:
    """Run a simulated shop until it is stopped; its protocol is in docs/shop-protocol.md."""
    from tempfile import TemporaryDirectory

    import uvicorn  # here, as no other command needs a server

    from ulvet.standins.shop import create_shop

    with TemporaryDirectory(prefix="ulvet-shop-") as new:
        folder = data or Path(new)
        typer.echo(f"simulated shop {seed} on http://127.0.0.1:{port}, keeping what it has in {folder}")
        uvicorn.run(create_shop(folder, seed), host="127.0.0.1", port=port, log_level="warning")


@app.command()
def proof(
    plate: Annotated[Path, typer.Argument(help="A plate as it is printed, z up, its supports among it.")],
    printer: Annotated[str, typer.Option("--printer", help="Address of a printer on this machine.")],
    setting: Annotated[str | None, typer.Option("--setting", help="Id of a setting on the bench.")] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Print a plate and say what came out. Exit code 0: all of it came out; 1: something failed; 2: not usable."""
    from ulvet.work.printer_link import look_at, send_print
    from ulvet.work.refusals import Refused

    try:
        mesh = mesh_as_it_lies(plate)[0]
        setup = bench_in(bench).setup(setting)
        low, high = bounds(mesh)
        layers = max(round((high[2] - low[2]) / setup.layer), 1)
        seconds = layers * setup.setting.times.seconds_per_layer
        asked = {"name": plate.name[:200], "layer": setup.layer, "pixel": setup.pixel, "seconds": seconds}
        now = send_print(printer, asked, mesh, None)
        while now.state in ("waiting", "printing"):
            time.sleep(_LOOKS_S)
            now = look_at(f"{printer.rstrip('/')}/prints/{now.number}")
    except (UnreadableFile, UnknownOnBench, Refused) as error:
        refuse(str(error), as_json)
    if now.state == "failed":
        refuse(f"The printer could not print it: {now.error}. Nothing was printed.", as_json)
    if as_json:
        typer.echo(json.dumps({**now.model_dump(mode="json", by_alias=True), "told_seconds": seconds}))
    else:
        typer.echo(f"{plate.name}: {now.layers} layers, {hours_and_minutes(now.seconds)} h, {now.ml:.1f} ml")
        for event in now.events:
            x, y, z = event.at
            typer.echo(f"  {event.kind} at layer {event.layer + 1}, {x:.1f}, {y:.1f}, {z:.1f} mm")
    raise typer.Exit(STOPS if now.events else CLEAN)
