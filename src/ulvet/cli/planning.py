"""The command that plans days."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, STOPS, AsJson, app, refuse, write
from ulvet.core.days.plan import UnusablePlan
from ulvet.core.files.days import calendar_bytes, days_of_file
from ulvet.core.formats.errors import UnreadableFile


@app.command()
def days(
    plan: Annotated[Path, typer.Argument(help="JSON: machines, hours of hands, and tasks.")],
    ics: Annotated[Path | None, typer.Option(help="Calendar to write.")] = None,
    as_json: AsJson = False,
) -> None:
    """Say when everything is done. Exit code 0: all in time; 1: something is late; 2: not usable."""
    try:
        asked, schedule, said = days_of_file(plan)
    except (UnreadableFile, UnusablePlan) as error:
        refuse(str(error), as_json)
    if ics is not None:
        write(ics, calendar_bytes(asked, schedule), as_json)
    if as_json:
        typer.echo(json.dumps(said, ensure_ascii=False))
    else:
        for one in schedule.booked:
            on = f" on {one.machine}" if one.machine else ""
            late = f", {one.late_minutes / 60:.1f} h late" if one.late_minutes else ""
            waits = ", waits for hands" if one.waits else ""
            typer.echo(f"{one.begin:%a %d %b %H:%M} to {one.over:%a %H:%M}  {one.task}{on}{late}{waits}")
        typer.echo(
            f"ready {schedule.ready:%a %d %b %H:%M}; no plan could be before {schedule.bound:%a %d %b %H:%M}, "
            f"for {schedule.bound_by}"
        )
    raise typer.Exit(STOPS if said["late"] else CLEAN)
