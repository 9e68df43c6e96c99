"""A plan as a constraint model: a better order than the one that is known, and a bound that no plan goes under.

Uses OR-Tools' CP-SAT with one worker, a fixed seed and a deterministic limit, so that a plan is planned the same each
time. All is rounded so that the model is never tighter than the plan: what it cannot reach, no plan can.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor

from ortools.sat.python import cp_model

from ulvet.core.days.hands import Hands
from ulvet.core.days.plan import Plan, Task

__all__ = ["Known", "Solved", "solved"]

_SEED = 20
"""Of the search: the same plan is solved the same each time."""


@dataclass(frozen=True)
class Known:
    """Where a task is put in the plan that is known, minutes from the beginning; what is under way stays there."""

    machine: str | None
    begin: float
    runs: float
    ends: float
    over: float
    stays: bool


@dataclass(frozen=True)
class Solved:
    """Tasks' beginnings, minutes, and machines, in an order that may be better; and the moment before which no plan
    that is as little late could be ready, minutes from the beginning."""

    begins: tuple[float, ...]
    machines: tuple[str | None, ...]
    bound: float


def solved(plan: Plan, after: Sequence[Sequence[int]], hands: Hands, known: Sequence[Known], effort: float) -> Solved:
    """Try for a better order of a plan's tasks than the ``known`` one, with so much ``effort`` (the solver's
    deterministic time, about seconds); ``after`` are the numbers of the tasks that each comes after."""
    model = _Model(plan, after, hands, known)
    return model.solve(effort)


class _Model:
    def __init__(self, plan: Plan, after: Sequence[Sequence[int]], hands: Hands, known: Sequence[Known]) -> None:
        self._plan, self._after, self._known = plan, after, known
        self._cp = cp_model.CpModel()
        self._horizon = ceil(max((one.over for one in known), default=0.0)) + 1
        self._begin: list[cp_model.IntVar] = []
        self._over: list[cp_model.IntVar] = []
        self._on: list[dict[str, cp_model.IntVar]] = []
        self._hands: list[cp_model.IntervalVar] = [
            self._cp.new_fixed_size_interval_var(a, b - a, f"away {a}") for a, b in self._away(hands) if b > a
        ]
        by_machine: dict[str, list[cp_model.IntervalVar]] = {machine.id: [] for machine in plan.machines}
        for k, task in enumerate(plan.tasks):
            self._add(k, task, by_machine)
        for k, task in enumerate(plan.tasks):
            for before in after[k] if not known[k].stays else ():
                self._cp.add(self._begin[k] >= self._over[before] + floor(task.wait))
        self._cp.add_no_overlap(self._hands)
        for machine in plan.machines:
            self._cp.add_cumulative(by_machine[machine.id], [1] * len(by_machine[machine.id]), machine.places)
        self._ready = self._cp.new_int_var(0, self._horizon, "ready")
        self._cp.add_max_equality(self._ready, self._over) if self._over else self._cp.add(self._ready == 0)
        self._late()

    def solve(self, effort: float) -> Solved:
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = _SEED
        solver.parameters.max_deterministic_time = effort
        status = solver.solve(self._cp)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            # Two things under way on one machine, say: then nothing is known of a bound.
            begins = tuple(one.begin for one in self._known)
            return Solved(begins, tuple(one.machine for one in self._known), 0.0)
        machines = tuple(
            next((name for name, there in on.items() if solver.boolean_value(there)), known.machine)
            for on, known in zip(self._on, self._known, strict=True)
        )
        return Solved(tuple(float(solver.value(one)) for one in self._begin), machines, solver.best_objective_bound)

    def _away(self, hands: Hands) -> list[tuple[int, int]]:
        """Stretches in which nobody is there, whole minutes and never longer than they are."""
        ends = [0.0, *(end for _, end in hands.stretches)]
        begins = [*(begin for begin, _ in hands.stretches), float(self._horizon)]
        return [(ceil(a), min(floor(b), self._horizon)) for a, b in zip(ends, begins, strict=True) if a < self._horizon]

    def _add(self, k: int, task: Task, by_machine: dict[str, list[cp_model.IntervalVar]]) -> None:
        cp, known, last = self._cp, self._known[k], self._horizon
        before, after = floor(task.hands_before), floor(task.hands_after)
        if known.stays:
            over = floor(known.over)
            self._begin.append(cp.new_constant(0))
            self._over.append(cp.new_constant(over))
            self._on.append({})
            if after:
                self._hands.append(cp.new_fixed_size_interval_var(over - after, after, f"ends {k}"))
            if known.machine is not None and over > 0:
                by_machine[known.machine].append(cp.new_fixed_size_interval_var(0, over, f"on {k}"))
            return
        first = 0 if task.not_before is None else max(
            floor((task.not_before - self._plan.begins).total_seconds() / 60), 0
        )  # fmt: skip
        begin = cp.new_int_var(min(first, last), last, f"begin {k}")
        ends = cp.new_int_var(0, last, f"over {k}")
        cp.add_hint(begin, floor(known.begin))
        cp.add_hint(ends, ceil(known.over))
        if before:
            self._hands.append(cp.new_fixed_size_interval_var(begin, before, f"hands {k}"))
        if after:
            self._hands.append(cp.new_interval_var(ends - after, after, ends, f"ends {k}"))
        names = (task.on,) if task.on else task.machines
        on: dict[str, cp_model.IntVar] = {}
        if not names:
            cp.add(ends >= begin + before + floor(_minutes(task, None)) + after)
        for name in names:
            there = cp.new_bool_var(f"{k} on {name}")
            cp.add_hint(there, name == known.machine)
            cp.add(ends >= begin + before + floor(_minutes(task, name)) + after).only_enforce_if(there)
            size = cp.new_int_var(0, last, f"keeps {k}")
            by_machine[name].append(cp.new_optional_interval_var(begin, size, ends, there, f"{k} keeps {name}"))
            on[name] = there
        if on:
            cp.add_exactly_one(on.values())
        self._begin.append(begin)
        self._over.append(ends)
        self._on.append(on)

    def _late(self) -> None:
        """Ready as early as can be, among the plans in which every task that is in time stays so and no other becomes
        later."""
        for over, known, task in zip(self._over, self._known, self._plan.tasks, strict=True):
            if task.due is not None and not known.stays:
                due = (task.due - self._plan.begins).total_seconds() / 60
                self._cp.add(over <= max(ceil(due), ceil(known.over) if known.over > due else 0))
        self._cp.minimize(self._ready)


def _minutes(task: Task, machine: str | None) -> float:
    if isinstance(task.minutes, dict):
        return task.minutes[machine] if machine is not None else max(task.minutes.values(), default=0.0)
    return task.minutes
