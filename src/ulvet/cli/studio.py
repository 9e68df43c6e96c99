"""Commands that serve, fill and check a studio's data folder, and list its bench."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ulvet.cli.common import CLEAN, STOPS, AsJson, BenchFile, app, bench_app, bench_in, refuse, write
from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.bench_file import UnusableBench, bench_text, read_bench
from ulvet.core.bench.setup import UnknownOnBench


@bench_app.command()
def printers(bench: BenchFile = None, as_json: AsJson = False) -> None:
    """List the printers."""
    _list([printer.model_dump(mode="json") for printer in _bench(bench, as_json).printers], as_json)


@bench_app.command()
def materials(bench: BenchFile = None, as_json: AsJson = False) -> None:
    """List the materials."""
    _list([material.model_dump(mode="json") for material in _bench(bench, as_json).materials], as_json)


@bench_app.command()
def settings(bench: BenchFile = None, as_json: AsJson = False) -> None:
    """List the settings: a printer with a material at a layer height."""
    _list([setting.model_dump(mode="json") for setting in _bench(bench, as_json).settings], as_json)


@bench_app.command()
def export(out: Annotated[Path, typer.Argument(help="JSON file to write.")]) -> None:
    """Write the bench that ships, to be changed and used with --bench."""
    write(out, bench_text(DEFAULT_BENCH).encode(), as_json=False)


@bench_app.command("check")
def check_bench(file: Annotated[Path, typer.Argument(help="A bench file.")], as_json: AsJson = False) -> None:
    """Say what is wrong with a bench file. Exit code 0: nothing; 1: some fields; 2: not readable."""
    try:
        problems = _problems(file.read_bytes())
    except OSError as error:
        refuse(f"{file} could not be read ({error.strerror}): name a bench file that is there.", as_json)
    if as_json:
        typer.echo(json.dumps({"problems": problems}, ensure_ascii=False))
    else:
        typer.echo("\n".join(problems) or f"{file.name}: every field can be used")
    raise typer.Exit(STOPS if problems else CLEAN)


def _problems(text: bytes) -> list[str]:
    try:
        read_bench(text)
    except UnusableBench as error:
        return list(error.problems)
    return []


def _bench(file: Path | None, as_json: bool) -> Bench:
    try:
        return bench_in(file)
    except UnknownOnBench as error:
        refuse(str(error), as_json)


Data = Annotated[Path | None, typer.Option(envvar="DATA", help="Folder that holds all figures.")]


@app.command()
def serve(
    port: Annotated[int, typer.Option(envvar="PORT", help="Port on this machine.")] = 8321,
    data: Data = None,
    demo: Annotated[bool, typer.Option("--demo", help="Make the demo figures while it is open.")] = False,
) -> None:
    """Open the studio for a browser on this machine."""
    from ulvet.api.serve import serve as run  # the server's imports are slow and only needed here

    run(port, data, demo)


@app.command()
def demo(
    at: Annotated[str, typer.Option(help="Address of the studio that is being served.")] = "http://127.0.0.1:8321",
) -> None:
    """Make the demo figures and send them to a studio, unless they are there."""
    from ulvet.demo.shelf import send_demo  # pulls in libraries that only modelling needs

    try:
        send_demo(at, typer.echo)
    except OSError as error:
        refuse(
            f"The demo figures could not all be sent to {at}: {error} Start it again with “make demo”.", as_json=False
        )


@app.command()
def check(
    data: Data = None,
    collect: Annotated[bool, typer.Option("--collect", help="Remove what nothing needs any more.")] = False,
) -> None:
    """Verify that every figure's data is there and unaltered. Exit code 0: whole; 1: not; 2: not usable."""
    from ulvet.store.folder import DataFolder, FolderInUse, default_data_folder
    from ulvet.work.folder_check import check_folder

    folder = DataFolder(data or default_data_folder())
    try:
        with folder.lock():
            report = check_folder(folder, collect)
    except FolderInUse as error:
        refuse(str(error), as_json=False)
    for what, names in (("missing", report.missing), ("altered", report.altered), ("database", report.database)):
        for name in names:
            typer.echo(f"{what}: {name}")
    removed = f", removed, {report.freed / 1e6:.1f} MB freed" if collect else ""
    typer.echo(f"{report.blobs:,} blobs; {len(report.unneeded):,} that nothing needs{removed}")
    raise typer.Exit(CLEAN if report.whole else STOPS)


@app.command()
def save(
    file: Annotated[Path, typer.Argument(help="Archive to write: a ZIP with a manifest.")], data: Data = None
) -> None:
    """Take the whole studio out as one archive. Exit code 0: written; 2: not usable."""
    from ulvet.store.folder import DataFolder, FolderInUse, default_data_folder
    from ulvet.work.studio_archive import save_studio

    folder = DataFolder(data or default_data_folder())
    try:
        with folder.lock():
            count = save_studio(folder, file)
    except FolderInUse as error:
        refuse(str(error), as_json=False)
    except OSError as error:
        refuse(f"{file} could not be written ({error.strerror}): make room or name another.", as_json=False)
    typer.echo(f"{file.name}: {count:,} files, {file.stat().st_size / 1e6:.1f} MB")


@app.command()
def load(file: Annotated[Path, typer.Argument(help="An archive of a studio.")], data: Data = None) -> None:
    """Bring a studio in an archive into an empty folder. Exit code 0: it is there; 2: nothing was changed."""
    from ulvet.store.folder import DataFolder, FolderInUse, default_data_folder
    from ulvet.work.studio_archive import UnusableArchive, load_studio

    folder = DataFolder(data or default_data_folder())
    try:
        with folder.lock():
            count = load_studio(file, folder)
    except (FolderInUse, UnusableArchive) as error:
        refuse(str(error), as_json=False)
    except OSError as error:
        refuse(f"{error.filename or file} could not be used ({error.strerror}): name another.", as_json=False)
    typer.echo(f"{folder.root}: {count:,} files brought in")


@app.command()
def warm() -> None:
    """Compile the kernels ahead of their first use."""
    from ulvet.core.warm import warm_kernels

    typer.echo(f"kernels compiled in {warm_kernels():.1f} s")


def _list(rows: list[dict[str, Any]], as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False))
        return
    for row in rows:
        typer.echo(f"{row['id']:36} {row['name']:44} {row.get('process') or row['times']['process']}")
