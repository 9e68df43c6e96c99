"""Commands by which figures come together: join, stamp."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, AsJson, app, refuse, write
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.recipe.stance import Vector


@app.command("join")
def join_command(
    a: Annotated[Path, typer.Argument(help="A figure's file.")],
    b: Annotated[Path, typer.Argument(help="The file of a bit that reaches into it, in the same place.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    blend: Annotated[float, typer.Option(help="Radius of the round in the corner between them, mm; 0 for none.")] = 0.0,
    as_json: AsJson = False,
) -> None:
    """Join two closed meshes and say how they hold. Exit code 0: done; 2: not usable."""
    from ulvet.core.files.join import join_files
    from ulvet.core.geometry.solids import CannotJoin  # pulls in libraries that other commands do not need

    if not 0 <= blend <= 1_000:
        refuse("The blend is a radius from 0 to 1,000 mm.", as_json)
    try:
        data, said = join_files(a, b, out, blend)
    except (UnreadableFile, CannotJoin, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        rounded = f", rounded by {blend:g} mm on a grid of {said['grid_mm']:.3f} mm" if said["grid_mm"] else ""
        typer.echo(
            f"{out.name}: {said['overlap_mm']:.2f} mm deep in each other, held by {said['neck_mm2']:.2f} mm², "
            f"{said['neck_mm']:.2f} mm thick{rounded}; {said['volume_mm3']:.1f} mm³, "
            f"{said['sealed_mm3']:.1f} mm³ of cavities sealed"
        )
    raise typer.Exit(CLEAN)


@app.command()
def stamp(
    file: Annotated[Path, typer.Argument(help="A figure's file.")],
    picture: Annotated[Path, typer.Argument(help="A PNG or SVG; what is dark is pressed.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="File to write: STL, OBJ, PLY, 3MF or GLB.")],
    point: Annotated[str, typer.Option(help="X,Y,Z of its middle on the surface, mm of the file.")],
    normal: Annotated[str, typer.Option(help="X,Y,Z from the figure towards who looks at it.")],
    width: Annotated[float, typer.Option(help="How wide the picture is, mm.")],
    depth: Annotated[float, typer.Option(help="How high its strokes stand, or how deep they lie, mm.")],
    sunk: Annotated[bool, typer.Option("--sunk", help="Sunk rather than raised.")] = False,
    inverted: Annotated[bool, typer.Option("--inverted", help="What is light is pressed.")] = False,
    turn: Annotated[float, typer.Option(help="Degrees anticlockwise, as seen.")] = 0.0,
    soften: Annotated[float, typer.Option(help="Softening, mm; less where strokes are too narrow for it.")] = 0.05,
    as_json: AsJson = False,
) -> None:
    """Press a picture into a figure. Exit code 0: done; 2: not usable."""
    # These pull in libraries that other commands do not need.
    from ulvet.core.files.stamp import stamp_file
    from ulvet.core.sources.picture import UnusablePicture
    from ulvet.core.stamp.pressing import LANDED, CannotPress

    if soften < 0:
        refuse("The softening is a length from 0 on, in mm.", as_json)
    try:
        data, said = stamp_file(
            file, picture.read_bytes(), out, _vector(point), _vector(normal), width, depth, sunk, inverted, turn, soften
        )
    except OSError as error:
        refuse(f"{picture} could not be read ({error.strerror}): give a PNG or SVG that is there.", as_json)
    except (UnreadableFile, UnusablePicture, CannotPress, ValueError) as error:
        refuse(str(error), as_json)
    write(out, data, as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        typer.echo(
            f"{out.name}: {'sunk' if sunk else 'raised'} {said['depth_min_mm']:.3f} to {said['depth_max_mm']:.3f} mm, "
            f"{said['triangles']:,} triangles; {said['landed_share']:.0%} of the strokes landed, the narrowest "
            f"{said['narrowest_stroke_mm']:.2f} mm wide"
        )
        if said["landed_share"] < LANDED:
            typer.echo(
                "The rest hangs over the edge or lies behind something: give a smaller --width or a --point further in."
            )
    raise typer.Exit(CLEAN)


def _vector(text: str) -> Vector:
    """Raises ValueError with a text for the user."""
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError as error:
        raise ValueError(
            f"{text} is no place or direction: give three numbers with commas between, as 1,0,2.5."
        ) from error
    return x, y, z
