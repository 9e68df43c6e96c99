"""The command that plans days, and its calendar."""

import json

import pytest
from icalendar import Calendar

from tests.cli.conftest import asked

PLAN = {
    "begins": "2026-12-07T08:00:00",
    "machines": [{"id": "lantern-6"}],
    "hours": [{"weekday": day, "begin": 9, "end": 17} for day in range(5)],
    "tasks": [
        {"id": "plate 1", "machines": ["lantern-6"], "minutes": 200, "hands_before": 10, "hands_after": 15},
        {"id": "wash", "hands_before": 20, "after": ["plate 1"], "due": "2026-12-07T12:00:00"},
    ],
}


@pytest.fixture
def plan(tmp_path):
    path = tmp_path / "plan.json"
    path.write_text(json.dumps(PLAN), "utf-8")
    return path


def test_days_are_said_and_the_calendar_reads_back(plan):
    out = plan.with_name("days.ics")
    done = asked("days", plan, "--ics", out, "--json")
    said = json.loads(done.output)
    assert done.exit_code == 1
    assert said["late"] == ["wash"]
    assert said["ready"] == "2026-12-07T13:05:00"
    events = Calendar.from_ical(out.read_bytes()).walk("VEVENT")
    assert {str(one["summary"]): (one.decoded("dtstart").hour, one.decoded("dtend").hour) for one in events} == {
        "Begin plate 1 on lantern-6": (9, 9),
        "plate 1 on lantern-6": (9, 12),
        "End plate 1 on lantern-6": (12, 12),
        "Begin wash": (12, 13),
    }
    assert "wash, 1.1 h late" in asked("days", plan).output


@pytest.mark.parametrize(
    ("text", "says"),
    [("{", "is no plan"), ('{"begins": "2026-13-01T00:00:00", "tasks": []}', "begins"), (None, "cannot be read")],
)
def test_a_file_that_is_no_plan_is_refused(plan, text, says):
    path = plan if text is None else plan.with_name("other.json")
    if text is None:
        path = plan.with_name("gone.json")
    else:
        path.write_text(text, "utf-8")
    done = asked("days", path, "--json")
    assert done.exit_code == 2
    assert says in json.loads(done.output.splitlines()[0])["error"]
