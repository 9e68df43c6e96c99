"""Commands of Finish: what colours take and in which order, and which mix comes nearest to a colour."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, AsJson, BenchFile, app, bench_in, exit_code, refuse
from ulvet.core.bench.item import COLOUR
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.build.figure_build import build_figure
from ulvet.core.files.recipe_sources import sources_beside
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.release.recipe_file import RecipeFile, UnusableRecipe
from ulvet.core.sources.picture import UnusablePicture


@app.command()
def finish(
    figure: Annotated[Path, typer.Argument(help="The recipe file of a figure; its source lies beside it.")],
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Say what colours take, and the order of work. Exit code 0: nothing stops; 1: something does; 2: not usable."""
    try:
        asked = RecipeFile.read(figure.read_bytes(), figure.name)
        sources = sources_beside(asked, figure.parent)
        done = build_figure(asked.recipe, asked.edition, sources, of_studio=True, bench=bench_in(bench))
    except OSError as error:
        refuse(f"{figure} could not be read ({error.strerror}): give a recipe file that is there.", as_json)
    except (UnreadableFile, UnknownOnBench, UnusablePicture, UnusableRecipe) as error:
        refuse(str(error), as_json)
    told = done.finish
    findings = [one for one in done.findings if one.station == "finish"]
    if as_json:
        said = told.model_dump(mode="json")
        said["findings"] = [one.model_dump(mode="json", exclude={"remedies"}) for one in findings]
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        for role in told.meant.roles if told.meant else ():
            bare = "bare" if role.bare else f"{role.drops:.0f} drops, {role.minutes:.0f} min"
            typer.echo(f"{role.role}: {role.area_mm2 / 100:.1f} cm², {role.colour}, {bare}")
        for number, row in enumerate(told.work, 1):
            wait = f", then {row.wait_min:.0f} min" if row.wait_min else ""
            typer.echo(f"{number}. {row.what}: {row.says} ({row.hands_min:.0f} min{wait})")
        for one in findings:
            typer.echo(f"{one.severity:8} {one.code:22} {one.title}")
    raise typer.Exit(exit_code(done))


@app.command()
def mix(
    want: Annotated[str, typer.Option("--want", help="The colour wanted, as #rrggbb.")],
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Say which mixes of the bench's paints come nearest to a colour. Exit code 0: told; 2: not usable."""
    import re

    from ulvet.core.finish.mixing import proposals  # loads libraries that other commands do not need

    if not re.fullmatch(COLOUR, want.lower()):
        refuse(f"{want} is no colour: give it as #rrggbb, red, green and blue in hex.", as_json)
    try:
        paints = [one for one in bench_in(bench).paints if not one.retired]
    except UnknownOnBench as error:
        refuse(str(error), as_json)
    found = proposals(want.lower(), paints)
    if not found:
        refuse("There is no paint to mix: give a bench with paints that are there.", as_json)
    if as_json:
        typer.echo(json.dumps({"want": want, "proposals": [one.model_dump() for one in found]}))
    else:
        names = {one.id: one.name for one in paints}
        for one in found:
            drops = ", ".join(f"{count} {names[name]}" for name, count in one.drops.items())
            typer.echo(f"{one.difference:5.1f}  {one.colour}  {drops}")
        typer.echo("Differences in CIEDE2000; colours are estimates from dried swatches.")
    raise typer.Exit(CLEAN)
