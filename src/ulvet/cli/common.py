"""What the commands share: their app, exit codes, writing a file, refusing with a sentence."""

import json
import sys
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.bench_file import UnusableBench, read_bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.build.figure_build import Build
from ulvet.core.findings.finding import Severity
from ulvet.core.lengths import PrintMM

__all__ = [
    "CLEAN",
    "STOPS",
    "UNUSABLE",
    "AsJson",
    "BenchFile",
    "MaterialId",
    "PartMaterials",
    "PrinterId",
    "SettingId",
    "app",
    "bench_app",
    "bench_in",
    "edition_of",
    "exit_code",
    "refuse",
    "with_part_materials",
    "write",
]

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Measures, checks and plans original figures for print.",
)
bench_app = typer.Typer(no_args_is_help=True, help="The printers and materials Ulvet knows.")
app.add_typer(bench_app, name="bench")

CLEAN, STOPS, UNUSABLE = 0, 1, 2
"""Exit codes: nothing stops, something does, not usable."""

BenchFile = Annotated[Path | None, typer.Option("--bench", help="A bench file to use instead of what ships.")]
SettingId = Annotated[str | None, typer.Option("--setting", help="Id of a setting on the bench.")]
PrinterId = Annotated[str | None, typer.Option("--printer", help="Id of a printer: its first setting.")]
MaterialId = Annotated[str | None, typer.Option("--material", help="Id of a material: its first setting.")]
PartMaterials = Annotated[
    list[str] | None, typer.Option("--part-material", help="NAME=ID: a part's own material, on the same printer.")
]
AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]


def exit_code(build: Build) -> int:
    stops = any(finding.severity is Severity.STOP for finding in build.findings)
    return STOPS if stops else CLEAN


def edition_of(height: float | None, scale: float | None, setting: str) -> Edition:
    """An edition of a size that was given.

    Raises UnknownOnBench.
    """
    try:
        size = None if height is None else PrintMM(height)
        return Edition(height=size, factor=scale, setting=setting)
    except ValueError as error:
        raise UnknownOnBench(
            "The size cannot be used: give a height above 0 up to 10,000 mm or a scale above 0, not both."
        ) from error


def with_part_materials(edition: Edition, bench: Bench, asked: list[str] | None) -> Edition:
    """An edition with parts of other materials, each given as NAME=ID, on the printer of the others.

    Raises UnknownOnBench.
    """
    printer, settings = bench.setup(edition.setting).printer.id, dict(edition.part_settings)
    for one in asked or ():
        part, known, material = one.rpartition("=")
        if not known or not part:
            raise UnknownOnBench(f"{one!r} is no part with a material: write NAME=ID.")
        settings[part] = bench.setup(None, printer, material).setting.id
    return edition.model_copy(update={"part_settings": settings})


def bench_in(file: Path | None) -> Bench:
    """The bench in a file; what ships where none is given.

    Raises UnknownOnBench.
    """
    if file is None:
        return DEFAULT_BENCH
    try:
        return read_bench(file.read_bytes())
    except UnusableBench as error:
        raise UnknownOnBench(f"{file.name} cannot be used as a bench. {error}") from error
    except OSError as error:
        raise UnknownOnBench(
            f"{file} could not be read ({error.strerror}): name a bench file that is there."
        ) from error


def write(out: Path, data: bytes, as_json: bool) -> None:
    from ulvet.store.blobs import write_whole  # here, as reading commands need nothing of the store

    try:
        write_whole(out, data)
    except OSError as error:
        refuse(f"{out} could not be written ({error.strerror}): make room or name another, and try again.", as_json)


def make_folder(out: Path, as_json: bool) -> None:
    """The folder that files are written to, made where it is not there."""
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        refuse(f"{out} could not be made ({error.strerror}): name another folder; nothing was written.", as_json)


def refuse(sentence: str, as_json: bool) -> NoReturn:
    if as_json:
        typer.echo(json.dumps({"error": sentence}, ensure_ascii=False))
    print(sentence, file=sys.stderr)
    raise typer.Exit(UNUSABLE)
