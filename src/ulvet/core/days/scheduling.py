"""Tasks one after the other, each where it is over first; and orders tried for a better one."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from ulvet.core.days.hands import Hands
from ulvet.core.days.plan import Booked, Bound, Machine, Plan, Schedule, Task, UnusablePlan
from ulvet.core.days.solver import Known, Solved, solved
from ulvet.core.geometry.mesh import Floats
from ulvet.core.progress import Progress, no_progress

__all__ = ["plan_days"]

_ORDERS = 600
"""Orders that are tried for a better one (bench default)."""
_WINDOWS = (1, 6, 24)
"""Tasks out of which the next one is chosen, each tried (bench default)."""
_A_MINUTE = timedelta(minutes=1)
"""By which a plan counts."""
_EFFORT = 4.0
"""The solver's deterministic time, about seconds (bench default)."""
_FULL_EFFORT_TASKS = 48
"""Tasks up to which all of the effort is spent; of more each takes longer, and less of it is (bench default)."""
_SOLVED_TASKS = 400
"""Tasks up to which the solver is asked: more are a model that it does not get into in its time."""
_SEED = 20
"""Of the orders that are tried: the same plan is planned the same each time."""


@dataclass(frozen=True)
class _Slot:
    """Where a task was put, minutes from the beginning."""

    machine: str | None
    place: int
    begin: float
    runs: float
    ends: float
    over: float


def plan_days(plan: Plan, orders: int = _ORDERS, progress: Progress = no_progress, effort: float = _EFFORT) -> Schedule:
    """When every task of a plan is done.

    By list scheduling: of the tasks whose predecessors are over the most urgent is put on the machine on which it is
    over first, with the hands that it needs; what was begun stays. Then neighbouring orders are tried, and one is kept
    that is less late in all, or ready earlier. At last a solver tries for a better one with so much ``effort``, and
    tells a bound; with none of it the bound is that of machines, hands and chains alone.

    Raises UnusablePlan for tasks that come after each other in a ring, or hands that are never there for long enough.
    """
    work = _Work(plan)
    best = work.urgency()
    tried_first = [(work.score(put), window, put) for window in _WINDOWS for put in [work.put(best, window)]]
    score, window, slots = min(tried_first, key=lambda one: one[0])
    orders = orders // window
    random = np.random.default_rng(_SEED)
    movable = [k for k, task in enumerate(plan.tasks) if task.begun is None]
    for trial in range(orders if len(movable) > 1 else 0):
        if trial % 50 == 0:
            progress(trial / orders, f"order {trial + 1} of {orders}")
        tried = best.copy()
        one, other = random.choice(movable, 2, replace=False)
        if random.random() < 0.5:
            tried[one], tried[other] = tried[other], tried[one]
        else:
            tried[one] = tried[other] - 0.5
        found = work.put(tried, window)
        now = work.score(found)
        if now <= score:
            best, slots, score = tried, found, now
    if effort <= 0 or len(movable) > _SOLVED_TASKS or not movable:
        return work.told(slots)
    progress(1.0, "a better order, by a solver")
    better = work.solved(slots, effort * min(1.0, _FULL_EFFORT_TASKS / len(movable)))
    found = work.put(np.argsort(np.argsort(better.begins)).astype(float), machines=better.machines)
    return work.told(found if work.score(found) < score else slots, better.bound)


class _Work:
    """A plan in minutes from its beginning, ready to be put into some order."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._tasks = plan.tasks
        self._number = {task.id: k for k, task in enumerate(plan.tasks)}
        self._after = [[self._number[name] for name in task.after] for task in plan.tasks]
        self._machines: dict[str, Machine] = {machine.id: machine for machine in plan.machines}
        self._order = self._in_order()
        self._tails = self._longest_tails()
        self._wished: Sequence[str | None] = ()
        self._hours = Hands(plan.begins, plan.hours, plan.days_off)
        longest = max((max(task.hands_before, task.hands_after) for task in plan.tasks), default=0.0)
        if longest > max((end - begin for begin, end in self._hours.stretches), default=0.0):
            task = next(t for t in plan.tasks if longest in (t.hands_before, t.hands_after))
            raise UnusablePlan(
                f"{task.says or task.id} wants somebody for {longest:.0f} minutes in one go, and nobody is there for "
                "so long: lengthen the hours, or part the work; nothing was planned."
            )

    def urgency(self) -> Floats:
        """A first order: what is due first, and before that what most comes after."""
        far = 1e7
        due = [far if task.due is None else self._minutes(task.due) for task in self._tasks]
        # What leads to something that is due is as urgent as that.
        for k in reversed(self._order):
            for before in self._after[k]:
                due[before] = min(due[before], due[k] - self._least(self._tasks[k]))
        key = [(due[k] - self._tails[k] if due[k] < far else far - self._tails[k], k) for k in range(len(due))]
        place = np.empty(len(key))
        place[[k for _, k in sorted(key)]] = np.arange(len(key))
        return place

    def solved(self, slots: Sequence[_Slot], effort: float) -> Solved:
        """A better order than that of some slots, as a solver finds it."""
        known = [
            Known(slot.machine, slot.begin, slot.runs, slot.ends, slot.over, task.begun is not None)
            for task, slot in zip(self._tasks, slots, strict=True)
        ]
        return solved(self._plan, self._after, self._hours, known, effort)

    def put(self, urgent: Floats, window: int = 1, machines: Sequence[str | None] = ()) -> list[_Slot]:
        """Every task where it is over first: one at a time, the most urgent of those that can be put, or, of a
        ``window`` of these, the one that keeps its machine waiting least for what it does there; on ``machines`` where
        they are given, a task each."""
        self._wished = machines
        hands = self._hours.untaken()
        free = {machine.id: [0.0] * machine.places for machine in self._plan.machines}
        slots: dict[int, _Slot] = {}
        for k, task in enumerate(self._tasks):
            if task.begun is not None:
                slots[k] = self._under_way(task, hands, free)
        missing = [sum(before not in slots for before in self._after[k]) for k in range(len(self._tasks))]
        follow: list[list[int]] = [[] for _ in self._tasks]
        for k, before in enumerate(self._after):
            for one in before:
                follow[one].append(k)
        able = sorted((float(urgent[k]), k) for k in range(len(self._tasks)) if k not in slots and not missing[k])
        while able:
            k = self._next(able[:window], slots, hands, free)
            able = [one for one in able if one[1] != k]
            slots[k] = self._slot(k, slots, hands, free)
            for one in follow[k]:
                missing[one] -= 1
                if not missing[one] and one not in slots:
                    able.append((float(urgent[one]), one))
                    able.sort()
        return [slots[k] for k in range(len(self._tasks))]

    def score(self, slots: Sequence[_Slot]) -> tuple[float, float, float]:
        """How late in all, when the last is over, and how much waiting: less is better."""
        late = sum(
            max(0.0, slot.over - self._minutes(task.due))
            for task, slot in zip(self._tasks, slots, strict=True)
            if task.due is not None
        )
        return late, max((slot.over for slot in slots), default=0.0), sum(slot.over for slot in slots)

    def told(self, slots: Sequence[_Slot], solvers: float = 0.0) -> Schedule:
        """The schedule in times of the clock on the wall; ``solvers`` is the bound that a solver told."""
        begins = self._plan.begins
        booked = []
        for task, slot in zip(self._tasks, slots, strict=True):
            late = 0.0 if task.due is None else max(0.0, slot.over - self._minutes(task.due))
            booked.append(
                Booked(
                    task=task.id, machine=slot.machine, begin=begins + slot.begin * _A_MINUTE,
                    runs=begins + slot.runs * _A_MINUTE, ends=begins + slot.ends * _A_MINUTE,
                    over=begins + slot.over * _A_MINUTE, late_minutes=late,
                    waits=slot.over - task.hands_after > slot.ends + 1e-6,
                )
            )  # fmt: skip
        booked.sort(key=lambda one: (one.begin, one.task))
        bound, by = self._bound()
        if solvers > bound + 1:
            bound, by = solvers, "machines and hands together"
        ready = max((one.over for one in booked), default=begins)
        return Schedule(
            booked=tuple(booked), ready=ready, bound=begins + min(bound, (ready - begins) / _A_MINUTE) * _A_MINUTE,
            bound_by=by, method="list scheduling, orders tried for a better one, and a solver",
        )  # fmt: skip

    def _next(
        self, able: Sequence[tuple[float, int]], slots: dict[int, _Slot], hands: Hands, free: dict[str, list[float]]
    ) -> int:
        """Which of some tasks, the most urgent first, is put next."""
        first = able[0][1]
        if len(able) == 1 or not self._runs_alone(first):
            return first
        best, least = first, np.inf
        for _, k in able:
            if self._runs_alone(k):
                slot = self._found(k, slots, hands, free)
                since = free[slot.machine][slot.place] if slot.machine else 0.0
                idle = slot.begin - since + slot.over - self._tasks[k].hands_after - slot.ends
                if idle / (slot.ends - slot.runs) < least:
                    best, least = k, idle / (slot.ends - slot.runs)
        return best

    def _runs_alone(self, k: int) -> bool:
        """Whether a task keeps a machine busy without hands."""
        return (
            bool(self._tasks[k].machines)
            and self._least(self._tasks[k]) > 0
            and _minutes_on(self._tasks[k], self._tasks[k].machines[0]) > 0
        )

    def _slot(self, k: int, slots: dict[int, _Slot], hands: Hands, free: dict[str, list[float]]) -> _Slot:
        """Put a task where it is over first."""
        task, found = self._tasks[k], self._found(k, slots, hands, free)
        if found.machine is not None:
            free[found.machine][found.place] = found.over
        hands.take(found.begin, task.hands_before)
        hands.take(found.over - task.hands_after, task.hands_after)
        return found

    def _found(self, k: int, slots: dict[int, _Slot], hands: Hands, free: dict[str, list[float]]) -> _Slot:
        """Where a task is over first."""
        task = self._tasks[k]
        ready = max((slots[before].over + task.wait for before in self._after[k]), default=0.0)
        if task.not_before is not None:
            ready = max(ready, self._minutes(task.not_before))
        found: _Slot | None = None
        wished = (self._wished[k],) if self._wished and task.machines else task.machines
        for machine in (task.on,) if task.on else wished or (None,):
            places = [0.0] if machine is None else free[machine]
            place = int(np.argmin(places))
            one = self._tried(task, machine, place, max(ready, places[place]), hands)
            if found is None or (one.over, one.begin) < (found.over, found.begin):
                found = one
        assert found is not None
        return found

    def _tried(self, task: Task, machine: str | None, place: int, ready: float, hands: Hands) -> _Slot:
        begin = hands.first(ready, task.hands_before)
        if begin is not None:
            runs = begin + task.hands_before
            ends = runs + _minutes_on(task, machine)
            last = hands.first(ends, task.hands_after, [(begin, runs)] if task.hands_before else ())
            if last is not None:
                return _Slot(machine, place, begin, runs, ends, last + task.hands_after)
        raise UnusablePlan(
            f"Nobody is there in time for {task.says or task.id} within a year: lengthen the hours, or plan less; "
            "nothing was planned."
        )

    def _under_way(self, task: Task, hands: Hands, free: dict[str, list[float]]) -> _Slot:
        """What is under way: it ends when it does, and then waits for hands like any other."""
        assert task.begun is not None
        machine = task.on or (task.machines[0] if task.machines else None)
        begin = self._minutes(task.begun)
        runs = begin + task.hands_before
        ends = max(runs + _minutes_on(task, machine), 0.0)
        last = hands.first(ends, task.hands_after)
        if last is None:
            raise UnusablePlan(
                f"Nobody is there to end {task.says or task.id}: lengthen the hours; nothing was planned."
            )
        hands.take(last, task.hands_after)
        place = 0
        if machine is not None:
            place = int(np.argmin(free[machine]))
            free[machine][place] = last + task.hands_after
        return _Slot(machine, place, begin, runs, ends, last + task.hands_after)

    def _bound(self) -> tuple[float, Bound]:
        """The moment before which no plan could be ready, minutes, and what keeps it from being: the busiest machines,
        the hands there are, the longest chain, or what is under way."""
        todo = [task for task in self._tasks if task.begun is None]
        hands = self._hours.there_for(sum(task.hands_before + task.hands_after for task in todo)) or 0.0
        chain = max((self._tails[k] for k, task in enumerate(self._tasks) if task.begun is None), default=0.0)
        machines = 0.0
        for named in {task.machines for task in todo if task.machines}:
            places = sum(self._machines[name].places for name in named)
            within = [t for t in todo if t.machines and set(t.machines) <= set(named)]
            machines = max(machines, sum(self._least(task) for task in within) / places)
        under = [self._minutes(t.begun) + self._least(t) for t in self._tasks if t.begun is not None]
        bounds: list[tuple[float, Bound]] = [
            (machines, "machines"), (hands, "hands"), (chain, "the longest chain"),
            (max(under, default=0.0), "what is under way"),
        ]  # fmt: skip
        return max(bounds, key=lambda one: one[0])

    def _least(self, task: Task) -> float:
        """Minutes from its beginning until it can be over, on the machine that is quickest."""
        named = (task.on,) if task.on else task.machines or (None,)
        return task.hands_before + min(_minutes_on(task, name) for name in named) + task.hands_after

    def _minutes(self, moment: datetime) -> float:
        return (moment - self._plan.begins) / _A_MINUTE

    def _in_order(self) -> list[int]:
        """Tasks by number, each behind those it comes after.

        Raises UnusablePlan where they come after each other in a ring.
        """
        left = [len(before) for before in self._after]
        order = [k for k, count in enumerate(left) if not count]
        for k in order:
            for one, before in enumerate(self._after):
                if k in before:
                    left[one] -= before.count(k)
                    if not left[one]:
                        order.append(one)
        if len(order) < len(left):
            ring = next(self._tasks[k] for k, count in enumerate(left) if count)
            raise UnusablePlan(
                f"{ring.says or ring.id} comes after itself, by way of what it waits for: take one of these waits out; "
                "nothing was planned."
            )
        return order

    def _longest_tails(self) -> list[float]:
        """From the beginning of each task to the end of all that comes after it, minutes."""
        tails = [self._least(task) for task in self._tasks]
        for k in reversed(self._order):
            for before in self._after[k]:
                tails[before] = max(tails[before], self._least(self._tasks[before]) + self._tasks[k].wait + tails[k])
        return tails


def _minutes_on(task: Task, machine: str | None) -> float:
    if isinstance(task.minutes, dict):
        return task.minutes[machine] if machine is not None else max(task.minutes.values(), default=0.0)
    return task.minutes
