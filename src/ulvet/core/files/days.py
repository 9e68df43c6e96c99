"""A plan as a file, and its days as JSON and as a calendar."""

from datetime import timedelta
from pathlib import Path
from typing import Any

from icalendar import Calendar, Event
from pydantic import ValidationError

from ulvet.core.days.plan import Plan, Schedule
from ulvet.core.days.scheduling import plan_days
from ulvet.core.formats.errors import UnreadableFile

__all__ = ["calendar_bytes", "days_of_file", "read_plan"]


def read_plan(path: Path) -> Plan:
    """The plan of a JSON file.

    Raises UnreadableFile.
    """
    try:
        return Plan.model_validate_json(path.read_bytes())
    except OSError as error:
        raise UnreadableFile(f"{path.name} cannot be read: name another file.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        says = first["msg"].removeprefix("Value error, ")
        raise UnreadableFile(f"{path.name} is no plan: {f'{where}: ' if where else ''}{says}.") from error


def days_of_file(path: Path) -> tuple[Plan, Schedule, dict[str, Any]]:
    """A plan, its days, and these as plain values.

    Raises UnreadableFile and UnusablePlan, both with a text for the user.
    """
    plan = read_plan(path)
    schedule = plan_days(plan)
    said = schedule.model_dump(mode="json")
    said["late"] = [one.task for one in schedule.booked if one.late_minutes > 0]
    return plan, schedule, said


def calendar_bytes(plan: Plan, schedule: Schedule) -> bytes:
    """Every stretch of hands and every run as an entry of a calendar (RFC 5545), in times without a zone."""
    calendar = Calendar()
    calendar.add("prodid", "-//Ulvet//plates and days//EN")
    calendar.add("version", "2.0")
    tasks = {task.id: task for task in plan.tasks}
    for one in schedule.booked:
        task = tasks[one.task]
        says = task.says or task.id
        on = f" on {one.machine}" if one.machine else ""
        stretches = [("begin", f"Begin {says}{on}", one.begin, one.runs), ("run", f"{says}{on}", one.runs, one.ends)]
        stretches.append(("end", f"End {says}{on}", one.over - timedelta(minutes=task.hands_after), one.over))
        for kind, summary, begin, over in stretches:
            if over <= begin:
                continue
            event = Event()
            event.add("uid", f"{one.task}-{kind}@ulvet")
            event.add("dtstamp", plan.begins)
            event.add("dtstart", begin.replace(microsecond=0))
            event.add("dtend", over.replace(microsecond=0))
            event.add("summary", summary)
            calendar.add_component(event)
    return bytes(calendar.to_ical())
