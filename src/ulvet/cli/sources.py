"""Commands for what comes in and how large it gets: scan, clean up, thin out, size."""

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
    refuse,
    write,
)
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.as_it_lies import simplify_file, size_of_file
from ulvet.core.files.paper import label_bytes, line_up_of_files
from ulvet.core.files.scan import clean_scan_folder
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.read import read_file
from ulvet.core.formats.scans import scan_files
from ulvet.core.lengths import spoken
from ulvet.core.recipe.step import plural
from ulvet.core.size.ways import PERSON_MM, AnyWay, UnusableSize, way_adapter
from ulvet.core.units import UNITS


@app.command()
def simplify(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    deviation: Annotated[float | None, typer.Option(help="The farthest the surface may move, mm of the file.")] = None,
    triangles: Annotated[int | None, typer.Option(help="About how many triangles to keep.")] = None,
    as_json: AsJson = False,
) -> None:
    """Thin out a mesh and say how far its surface moved, both ways. Exit code 0: done; 2: not usable."""
    if (deviation is None) == (triangles is None):
        refuse("Give either a deviation or a number of triangles.", as_json)
    try:
        data, said = simplify_file(file, out, deviation, triangles)
    except (UnreadableFile, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        typer.echo(
            f"{out.name}: {said['triangles_before']:,} triangles thinned to {said['triangles']:,}, at most "
            f"{said['deviation_max_mm']:.4f} mm off, {said['deviation_mean_mm']:.4f} mm on average"
        )
        if said["why"]:
            typer.echo(f"left as it was: {said['why']}")
    raise typer.Exit(CLEAN)


@app.command()
def size(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    height: Annotated[float | None, typer.Option(help="Overall height, mm.")] = None,
    eye: Annotated[float | None, typer.Option(help="Height of the eyes, mm; --eye-at says where they are.")] = None,
    eye_at: Annotated[float | None, typer.Option(help="How far up the source its eyes are, mm.")] = None,
    ratio: Annotated[str | None, typer.Option(help="1:N; --real says how tall it is in life.")] = None,
    real: Annotated[float, typer.Option(help="Height in life, mm.")] = PERSON_MM,
    percent: Annotated[float | None, typer.Option(help="Percent of the source.")] = None,
    match: Annotated[str | None, typer.Option(help="A=B: a length of A mm in the source prints as B mm.")] = None,
    base: Annotated[float | None, typer.Option(help="Diameter of a base to fill, mm.")] = None,
    rim: Annotated[float, typer.Option(help="Left free round it on the base, mm.")] = 1.0,
    fit_printer: Annotated[str | None, typer.Option(help="Id of a printer to fill as it stands.")] = None,
    turned: Annotated[bool, typer.Option("--turned", help="With --fit-printer: turned any way.")] = False,
    unit: Annotated[str | None, typer.Option(help="mm, cm, m or in; guessed when left out.")] = None,
    up: Annotated[str | None, typer.Option(help="x, y or z; guessed when left out.")] = None,
    setting: SettingId = None,
    printer: PrinterId = None,
    material: MaterialId = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Work out a size and what it makes too thin. Exit code 0: all of it prints; 1: walls stop it; 2: not usable."""
    try:
        way = _way(
            {
                "height": height,
                "eye": eye,
                "ratio": ratio,
                "percent": percent,
                "match": match,
                "base": base,
                "fit": fit_printer,
            },
            {"eye": {"at": eye_at}, "ratio": {"real": real}, "base": {"rim": rim}, "fit": {"turned": turned}},
        )
        if unit not in (None, *UNITS) or up not in (None, "x", "y", "z"):
            raise UnusableSize("The unit has to be mm, cm, m or in, and the axis x, y or z.")
        at = bench_in(bench)
        setup = at.setup(setting, printer or fit_printer, material)
        said = size_of_file(file, way, setup, unit, up, at)  # type: ignore[arg-type]  # both checked above
    except (UnreadableFile, UnknownOnBench, UnusableSize) as error:
        refuse(str(error), as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        _print_size(said, file.name)
    raise typer.Exit(STOPS if said["stopping_places"] else CLEAN)


@app.command()
def scan(
    thing: Annotated[str, typer.Argument(metavar="OBJECT", help="What to put on the turntable: driftwood, clay-otter, "
                                         "or a file that stands there as it lies, z up, in mm.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="Folder for the passes and the device's own mesh.")],
    steps: Annotated[int, typer.Option(help="Stops of the turntable in one round.")] = 8,
    tilts: Annotated[str, typer.Option(help="How steeply to look down, degrees, with commas between.")] = "8,34,62",
    distance: Annotated[float, typer.Option(help="From the middle of the object, mm.")] = 420.0,
    noise: Annotated[float, typer.Option(help="Standard deviation along the line of sight, mm.")] = 0.05,
    seed: Annotated[int, typer.Option(help="Equal seeds err alike.")] = 7,
    as_json: AsJson = False,
) -> None:  # fmt: skip
    """Scan an object with the simulated turntable scanner. Exit code 0: done; 2: not usable."""
    from ulvet.standins.objects import OBJECTS  # pulls in libraries that only modelling needs
    from ulvet.standins.scanner import DEVICE, CannotScan, ScanSettings, scan_object
    from ulvet.store.blobs import write_whole

    try:
        settings = ScanSettings.model_validate(
            {"steps": steps, "tilts": tilts.split(","), "distance": distance, "noise": noise, "seed": seed}
        )
    except ValueError as error:
        refuse(
            "The scanner takes 3 to 72 steps, one to eight tilts in degrees with commas between, a distance of 200 to "
            f"900 mm and noise of 0 to 2 mm: {error.errors()[0]['loc'][0]} is none of these.",  # type: ignore[attr-defined]
            as_json,
        )
    names = {name: make for name, (_, make) in OBJECTS.items()}
    try:
        made = names.get(thing) or names.get(f"clay-{thing}")
        if made is None and not Path(thing).suffix:
            raise CannotScan(f"There is no {thing} to scan: give {', '.join(names)}, or a file of a figure.")
        mesh = made() if made else read_file(Path(thing)).mesh
        delivered, fused = scan_object(mesh, settings)
        files = scan_files(delivered, fused)
        out.mkdir(parents=True, exist_ok=True)
        for name, data in files:
            write_whole(out / name, data)
    except (UnreadableFile, CannotScan) as error:
        refuse(str(error), as_json)
    except OSError as error:
        refuse(f"{out} could not be written ({error.strerror}): make room or name another, and scan again.", as_json)
    said = {
        "object": thing,
        "device": DEVICE,
        "out": str(out),
        "passes": len(delivered.passes),
        "points": delivered.count,
        "noise_mm": delivered.noise,
        "triangles": len(fused.faces),
        "files": [name for name, _ in files],
    }
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        typer.echo(f"{thing}: {said['passes']} passes, {said['points']:,} points, written to {out}")
    raise typer.Exit(CLEAN)


@app.command("scan-clean")
def scan_clean(
    folder: Annotated[Path, typer.Argument(help="Folder of a scan, or a ZIP of one.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    length: Annotated[
        list[str] | None, typer.Option(help="SIDE=MM by calipers: wide, deep or tall; repeatable.")
    ] = None,
    mount: Annotated[
        float | None, typer.Option(help="Height at which to take the mount off, mm; found if not given.")
    ] = None,
    keep_mount: Annotated[bool, typer.Option("--keep-mount", help="Leave the mount on.")] = False,
    as_json: AsJson = False,
) -> None:
    """Make a closed figure of a scan. Exit code 0: closed; 1: open, or lengths disagree; 2: not usable."""
    try:
        lengths = {side: float(value) for side, value in (one.split("=") for one in length or [])}
    except ValueError:
        refuse("A length is given as SIDE=MM, such as tall=82.5.", as_json)
    if mount is not None and not mount > 0:
        refuse("The height of the mount has to be above 0 mm.", as_json)
    try:
        data, said = clean_scan_folder(folder, out, lengths, mount, keep_mount)
    except (UnreadableFile, UnusableSize) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        for line in said["record"]:
            typer.echo(line)
        typer.echo(
            f"{out.name}: {' x '.join(spoken(side) for side in said['size_mm'])} mm, {said['triangles']:,} triangles, "
            f"{'closed' if said['watertight'] else 'not closed'}; captured points lie "
            f"{said['deviation_mean_mm']:.3f} mm off on average, {said['unseen_mm2']:.0f} mm² nobody saw"
        )
        if said["lengths_disagree"]:
            typer.echo(f"the lengths disagree by {said['disagreement'] * 100:.1f} %: measure again")
    raise typer.Exit(CLEAN if said["watertight"] and not said["lengths_disagree"] else STOPS)


@app.command()
def lineup(
    files: Annotated[list[Path], typer.Argument(help="Figures' files.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="PDF or SVG to write, at true size.")],
    heights: Annotated[
        str | None, typer.Option(help="Heights in mm, one a file with commas between; as they are when left out.")
    ] = None,
    paper: Annotated[str, typer.Option(help="a4, a3 or letter; larger line-ups take several sheets.")] = "a4",
    hand: Annotated[bool, typer.Option(help="A block as large as a grown hand beside them.")] = True,
    as_json: AsJson = False,
) -> None:
    """Draw figures side by side at true size, to lay calipers on. Exit code 0: done; 2: not usable."""
    try:
        data, said = line_up_of_files(files, out, heights, paper, hand)
    except (UnreadableFile, UnusableSize) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        typer.echo(f"{out.name}: {plural(len(files), 'figure')} on {plural(said['sheets'], 'sheet')} of {paper}")
    raise typer.Exit(CLEAN)


@app.command()
def label(
    height: Annotated[float, typer.Option(help="Height of the band, mm.")],
    girth: Annotated[float, typer.Option(help="Round the thing below, mm.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="PDF or SVG to write, at true size.")],
    girth_above: Annotated[float | None, typer.Option(help="Round it above, mm, where it is a cone.")] = None,
    overlap: Annotated[float, typer.Option(help="How far the ends overlap, mm.")] = 5.0,
    grow: Annotated[float, typer.Option(help="By how much what it goes round has grown.")] = 1.0,
    paper: Annotated[str, typer.Option(help="a4, a3 or letter.")] = "a4",
) -> None:
    """Draw the unrolled band for a cylinder or cone. Exit code 0: done; 2: not usable."""
    try:
        data = label_bytes(out, paper, height, girth, girth_above, overlap, grow)
    except UnusableSize as error:
        refuse(str(error), as_json=False)
    write(out, data, as_json=False)
    typer.echo(f"{out.name}: a band {spoken(height * grow)} mm high")
    raise typer.Exit(CLEAN)


_FIELDS = {"height": "height", "eye": "eye", "percent": "percent", "base": "diameter", "fit": "printer"}


def _way(given: dict[str, Any], more: dict[str, dict[str, Any]]) -> AnyWay | None:
    """The one way that was given, None when none was.

    Raises UnusableSize for two, and for numbers that are none or not above 0.
    """
    ways = {name: value for name, value in given.items() if value is not None}
    if not ways:
        return None
    if len(ways) > 1:
        raise UnusableSize(f"Give one way to set the size, not {len(ways)}: one decides all the others.")
    name, value = next(iter(ways.items()))
    try:
        if name == "ratio":
            said: dict[str, Any] = {"n": float(value.removeprefix("1:").removeprefix("1/"))}
        elif name == "match":
            of, to = (float(part) for part in value.split("="))
            said = {"length": of, "wanted": to}
        else:
            said = {_FIELDS[name]: value}
        return way_adapter.validate_python({"way": name, **said, **more.get(name, {})})
    except ValueError as error:
        raise UnusableSize(
            f"{value} is no size: lengths, percent and ratios are numbers above 0, a ratio is written 1:N, a match A=B."
        ) from error


def _print_size(said: dict[str, Any], name: str) -> None:
    typer.echo(f"{name}: {' x '.join(spoken(side) for side in said['size_mm'])} mm at factor {said['factor']:.5g}")
    for line in said["working"]:
        typer.echo(f"  {line}")
    thin, stops = said["thin_places"], said["stopping_places"]
    typer.echo(f"{thin} thin places, {stops} of them too thin to print")
    if said["scale"]:
        smallest = said["smallest_height_mm"]
        typer.echo(
            f"prints from {spoken(smallest)} mm tall" if smallest else "no size up to eight times this mends its walls"
        )
        for row in said["scale"][::3]:
            typer.echo(
                f"{spoken(row['height_mm']):>8} mm  {row['thin_places']:4} thin  {row['stopping_places']:4} stop"
            )
