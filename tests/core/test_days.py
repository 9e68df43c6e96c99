"""Days: every rule is kept, by a check of its own, on random plans; and what can be worked out by hand comes out so."""

from datetime import datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from pydantic import ValidationError

from tests.depth import of_all
from ulvet.core.days.plan import HandsHours, Machine, Plan, Task, UnusablePlan
from ulvet.core.days.scheduling import plan_days

MONDAY = datetime(2026, 12, 7, 8, 0)
WEEK = tuple(HandsHours(weekday=day, begin=9, end=17) for day in range(5))
MINUTE = timedelta(minutes=1)
BIT = MINUTE / 1000


def plan(*tasks, machines=("lantern", "reed"), hours=WEEK, **more):
    return Plan(begins=MONDAY, machines=tuple(Machine(id=one) for one in machines), hours=hours, tasks=tasks, **more)


def there(made, begin, end):
    """Whether somebody is there from begin to end."""
    if begin == end:
        return True
    day = begin.replace(hour=0, minute=0, second=0, microsecond=0)
    if day.date().isoformat() in made.days_off:
        return False
    return any(
        one.weekday == begin.weekday() and day + one.begin * 60 * MINUTE <= begin and end <= day + one.end * 60 * MINUTE
        for one in made.hours
    )


def broken_rules(made, schedule):
    """What of the rules of a plan its days do not keep, found by looking at every pair."""
    tasks = {task.id: task for task in made.tasks}
    booked = {one.task: one for one in schedule.booked}
    assert booked.keys() == tasks.keys()
    wrong = [said for name, one in booked.items() for said in broken_by(made, tasks[name], one, booked)]
    hands = sorted(by_hand for name, one in booked.items() for by_hand in hands_of(tasks[name], one))
    wrong += [f"{b} and {d}: two at once by hand" for (_, a, b), (c, _, d) in pairwise(hands) if c < a - BIT]
    for machine in made.machines:
        on = [(one.begin, one.over) for one in booked.values() if one.machine == machine.id]
        wrong += [f"too many on {machine.id}" for at, _ in on if sum(a <= at < b for a, b in on) > machine.places]
    return wrong


def hands_of(task, one):
    """When hands are at a task, from the beginning of the plan on."""
    stretches = ((one.begin, one.runs), (one.over - task.hands_after * MINUTE, one.over))
    return [(begin, end, task.id) for begin, end in stretches if end - begin > BIT and begin >= MONDAY]


def broken_by(made, task, one, booked):
    """The rules that one task does not keep by itself."""
    minutes = task.minutes[one.machine] if isinstance(task.minutes, dict) else task.minutes
    rules = {
        "runs for another time": task.begun is None and abs((one.ends - one.runs) / MINUTE - minutes) > 1e-3,
        "is ended before it has run": one.over - task.hands_after * MINUTE < one.ends - BIT,
        "is on another machine": bool(task.machines) and one.machine not in task.machines,
        "is without hands": not all(there(made, a + BIT, b - BIT) for a, b, _ in hands_of(task, one)),
        "begins too soon": any(one.begin < booked[name].over + task.wait * MINUTE - BIT for name in task.after),
        "begins too early": task.not_before is not None and one.begin < task.not_before,
    }
    return [f"{task.id} {rule}" for rule, broken in rules.items() if broken]


def random_task(rng, k):
    ahead = rng.choice(k, min(k, int(rng.integers(0, 3))), replace=False) if k else ()
    return Task(
        id=f"t{k}",
        machines=tuple(rng.choice(["lantern", "reed", "cure"], rng.integers(0, 3), replace=False).tolist()),
        minutes=float(rng.integers(0, 900)),
        hands_before=float(rng.integers(0, 30)),
        hands_after=float(rng.integers(0, 40)),
        after=tuple(f"t{one}" for one in ahead),
        wait=float(rng.choice([0, 0, 120])),
        due=MONDAY + timedelta(hours=int(rng.integers(5, 200))) if rng.random() < 0.4 else None,
        not_before=MONDAY + timedelta(hours=int(rng.integers(0, 60))) if rng.random() < 0.2 else None,
    )


def random_plan(seed):
    rng = np.random.default_rng(seed)
    tasks = tuple(random_task(rng, k) for k in range(int(rng.integers(8, 24))))
    if rng.random() < 0.5:
        under_way = Task(id="under way", machines=("lantern",), on="lantern", minutes=float(rng.integers(60, 900)),
                         hands_after=12.0, begun=MONDAY - timedelta(hours=int(rng.integers(1, 20))))  # fmt: skip
        tasks = (under_way, *tasks)
    machines = (Machine(id="lantern"), Machine(id="reed"), Machine(id="cure", places=2))
    return Plan(begins=MONDAY, machines=machines, hours=WEEK, tasks=tasks, days_off=("2026-12-09",))


@pytest.mark.parametrize("seed", range(of_all(20)))
def test_days_keep_every_rule_are_the_same_each_time_and_no_better_order_is_thrown_away(seed):
    made = random_plan(seed)
    first, better = plan_days(made, orders=0, effort=0), plan_days(made, orders=120, effort=0.4)
    assert broken_rules(made, first) == broken_rules(made, better) == []
    late = [sum(one.late_minutes for one in schedule.booked) for schedule in (first, better)]
    assert (late[1], better.ready) <= (late[0], first.ready) or late[1] < late[0]
    assert better.bound <= better.ready
    assert plan_days(made, orders=120, effort=0.4) == better


@pytest.mark.parametrize("seed", range(of_all(10)))
def test_plans_made_from_a_known_best_are_within_a_twentieth_of_it(seed):
    # Machines that are busy from end to end without hands: no plan is ready before that.
    rng = np.random.default_rng(seed)
    whole = 3000.0
    tasks = []
    for machine in range(4):
        cuts = np.sort(rng.uniform(100, whole - 100, 6))
        lengths = np.diff([0, *cuts, whole])
        tasks += [Task(id=f"{machine}-{k}", machines=tuple("abcd"), minutes=float(m)) for k, m in enumerate(lengths)]
    order = rng.permutation(len(tasks))
    made = plan(*(tasks[k] for k in order), machines=("a", "b", "c", "d"))
    schedule = plan_days(made, effort=0.3)
    assert broken_rules(made, schedule) == []
    took = (schedule.ready - MONDAY) / MINUTE
    assert whole - 0.01 <= took <= 1.05 * whole
    assert (schedule.bound - MONDAY) / MINUTE == pytest.approx(whole)
    assert schedule.bound_by == "machines"


def test_a_print_that_ends_at_night_keeps_its_printer_until_somebody_is_there():
    first = Task(id="a", machines=("lantern",), minutes=600, hands_before=10, hands_after=15)
    schedule = plan_days(plan(first, Task(id="b", machines=("lantern",), minutes=30, hands_before=10, after=("a",))))
    a, b = schedule.booked
    assert (a.begin, a.runs) == (datetime(2026, 12, 7, 9, 0), datetime(2026, 12, 7, 9, 10))
    assert a.ends == datetime(2026, 12, 7, 19, 10)
    assert a.over == datetime(2026, 12, 8, 9, 15)
    assert a.waits and not b.waits
    assert b.begin == datetime(2026, 12, 8, 9, 15)


def test_the_quicker_machine_is_taken_and_what_must_dry_waits():
    quick = Task(id="a", machines=("lantern", "reed"), minutes={"lantern": 300, "reed": 200}, hands_before=5)
    glue = Task(id="b", hands_before=30, after=("a",), wait=60, says="gluing")
    a, b = plan_days(plan(quick, glue)).booked
    assert a.machine == "reed"
    assert b.begin == datetime(2026, 12, 7, 9, 5) + timedelta(minutes=260)
    assert b.machine is None


def test_what_is_due_goes_first_and_lateness_is_said():
    long = Task(id="long", machines=("lantern",), minutes=1000)
    soon = Task(id="soon", machines=("lantern",), minutes=60, due=MONDAY + timedelta(hours=2))
    schedule = plan_days(plan(long, soon))
    assert [one.task for one in schedule.booked] == ["soon", "long"]
    past = Task(id="past", machines=("lantern",), minutes=60, due=MONDAY - timedelta(days=1))
    (one,) = plan_days(plan(past)).booked
    assert one.late_minutes == pytest.approx(25 * 60)


def test_what_is_under_way_stays_and_the_rest_is_planned_about_it():
    begun = Task(
        id="a", machines=("lantern",), minutes=600, begun=MONDAY - timedelta(hours=5), on="lantern", hands_after=10
    )
    other = Task(id="b", machines=("lantern",), minutes=60, hands_before=5)
    schedule = plan_days(plan(begun, other))
    a, b = schedule.booked
    assert a.begin == MONDAY - timedelta(hours=5)
    assert b.begin >= a.over == MONDAY + timedelta(hours=5, minutes=10)
    assert broken_rules(plan(begun, other), schedule) == []


@pytest.mark.parametrize(
    ("tasks", "says"),
    [
        ([Task(id="a", after=("b",)), Task(id="b", after=("a",))], "after itself"),
        ([Task(id="a", hands_before=600)], "nobody is there for so long"),
    ],
)
def test_plans_that_cannot_be_are_refused_with_the_reason(tasks, says):
    with pytest.raises(UnusablePlan, match=says):
        plan_days(plan(*tasks))


def test_nobody_there_at_all_is_said_where_hands_are_wanted_only():
    alone = plan(Task(id="a", machines=("lantern",), minutes=60), hours=())
    assert plan_days(alone).ready == MONDAY + timedelta(hours=1)
    with pytest.raises(UnusablePlan, match="lengthen the hours"):
        plan_days(plan(Task(id="a", hands_before=1), hours=()))


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"tasks": [{"id": "a"}, {"id": "a"}]}, "one id"),
        ({"tasks": [{"id": "a", "machines": ["x"]}]}, "no machine of this plan"),
        ({"tasks": [{"id": "a", "after": ["x"]}]}, "no task of this plan"),
        ({"tasks": [{"id": "a", "machines": ["m"], "minutes": {}}]}, "how long it takes on m"),
        ({"tasks": [{"id": "a", "minutes": -1}]}, "greater than or equal to 0"),
        ({"tasks": [{"id": "a", "due": "2026-12-07T08:00:00Z"}]}, "without a time zone"),
    ],
)
def test_a_plan_that_contradicts_itself_is_refused_field_by_field(fields, says):
    with pytest.raises(ValidationError, match=says):
        Plan.model_validate({"begins": MONDAY, "machines": [{"id": "m"}], **fields})


def test_the_solver_finds_what_list_scheduling_misses_and_proves_it():
    # The long print first keeps the second printer waiting for the chain behind the short one.
    tasks = [Task(id=f"short-{k}", machines=("lantern",), minutes=60) for k in range(3)]
    tasks += [Task(id="long", machines=("lantern", "reed"), minutes={"lantern": 200, "reed": 240})]
    tasks += [Task(id="sand", hands_before=30, after=("short-2",)), Task(id="glue", hands_before=30, after=("long",))]
    made = plan(*tasks)
    schedule = plan_days(made, orders=0)
    assert broken_rules(made, schedule) == []
    # From 8 o'clock the long one runs on the other printer, and hands come at 12.
    assert schedule.ready == datetime(2026, 12, 7, 12, 30)
    assert schedule.bound == schedule.ready


def test_a_machine_with_two_places_takes_two_and_no_third():
    tasks = [Task(id=f"c{k}", machines=("cure",), minutes=60) for k in range(4)]
    made = Plan(begins=MONDAY, machines=(Machine(id="cure", places=2),), hours=WEEK, tasks=tuple(tasks))
    schedule = plan_days(made)
    assert broken_rules(made, schedule) == []
    assert schedule.ready == schedule.bound == MONDAY + 120 * MINUTE


def test_two_things_under_way_on_one_machine_are_planned_and_no_bound_is_made_up():
    both = [Task(id=f"u{k}", machines=("lantern",), on="lantern", minutes=300, begun=MONDAY - 60 * MINUTE)
            for k in range(2)]  # fmt: skip
    made = plan(*both, Task(id="next", machines=("lantern",), minutes=60))
    schedule, alone = plan_days(made), plan_days(made, effort=0)
    assert (schedule.ready, schedule.bound, schedule.bound_by) == (alone.ready, alone.bound, alone.bound_by)
    assert schedule.bound < schedule.ready


def test_a_task_that_was_moved_to_a_machine_stays_there_whatever_is_quicker():
    quick = Task(id="a", machines=("lantern", "reed"), minutes={"lantern": 300, "reed": 20}, on="lantern")
    (one,) = plan_days(plan(quick)).booked
    assert (one.machine, (one.over - one.begin) / MINUTE) == ("lantern", 300)


@pytest.mark.parametrize("seed", range(of_all(6)))
def test_no_plan_is_ready_before_the_bound(seed):
    made = random_plan(500 + seed)
    bound = plan_days(made, orders=0, effort=0.4).bound
    late = sum(one.late_minutes for one in plan_days(made, orders=0, effort=0).booked)
    for orders in (0, 200):
        other = plan_days(made, orders=orders, effort=0)
        assert other.ready >= bound or sum(one.late_minutes for one in other.booked) > late
