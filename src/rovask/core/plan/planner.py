"""From a refit and a moment to a plan: compile, windows, first plan, and the names of what collides."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.model import Refit
from rovask.core.plan.collide import explain_stuck
from rovask.core.plan.compile import compile_refit
from rovask.core.plan.first import UNPLACED, Schedule, first_schedule
from rovask.core.plan.problem import FIRST_TASK, LAUNCH_NODE, Problem
from rovask.core.plan.result import Assignment, Collision, CollisionKind, Plan, Verdict
from rovask.core.plan.verdict import judge
from rovask.core.plan.windows import windows_of

STARTS = 12
_MOST_ROUNDS = 60


@dataclass(frozen=True, slots=True)
class Planned:
    """A plan with its verdict, ready to show."""

    plan: Plan
    verdict: Verdict


def plan_and_judge(refit: Refit, now: datetime, starts: int = STARTS, seed: int = 1) -> Planned:
    """The first plan of ``refit`` at ``now`` and what it says about the launch, compiled once for both."""
    plan, problem = _plan(refit, now, starts, seed)
    return Planned(plan, judge(refit, plan, problem))


def make_plan(refit: Refit, now: datetime, starts: int = STARTS, seed: int = 1) -> Plan:
    """The first plan of ``refit`` as it stands at ``now`` (aware).

    Whatever can't hold is named in ``collisions`` and left out with what waits for it; the rest is planned.
    Deterministic for the same refit, moment, starts and seed.
    """
    return _plan(refit, now, starts, seed)[0]


def _plan(refit: Refit, now: datetime, starts: int, seed: int) -> tuple[Plan, Problem]:
    collisions: list[Collision] = []
    for _ in range(_MOST_ROUNDS):
        problem = compile_refit(refit, now, collisions)
        windows = windows_of(problem)
        if not windows.possible:
            found = explain_stuck(refit, problem, windows)
        else:
            schedule = first_schedule(problem, windows, starts, seed)
            if schedule.stuck < 0:
                return _plan_of(refit, problem, schedule, now, starts), problem
            found = _no_room(refit, problem, schedule)
        if not found.tasks or set(found.tasks) <= {task for item in collisions for task in item.tasks}:
            break
        collisions.append(found)
    plan = Plan(
        now=now, launch=refit.launch_at, collisions=tuple(collisions), unplanned=tuple(refit.tasks), starts_tried=0
    )
    return plan, problem


def _no_room(refit: Refit, problem: Problem, schedule: Schedule) -> Collision:
    """A task that no run of the first plan could place; not a proof, and it says so."""
    if schedule.stuck < FIRST_TASK:
        tied = [n for n in range(FIRST_TASK, problem.size) if _tied_to_launch(problem, n)]
        names = tuple(problem.name(node) for node in tied)
        titles = ", ".join(f"“{refit.tasks[key].title}”" for key in names)
        return Collision(
            kind=CollisionKind.SEARCH,
            tasks=names,
            sentence=f"No plan was found in which {titles} fit their times before the launch.",
        )
    key = problem.name(schedule.stuck)
    return Collision(
        kind=CollisionKind.SEARCH,
        tasks=(key,),
        sentence=f"No plan was found with room for “{refit.tasks[key].title}”: its ties leave it no time in which "
        "its people and its place are free. A longer lag, other people or a pin less may help.",
    )


def _tied_to_launch(problem: Problem, node: int) -> bool:
    return any(
        int(first) == node and int(then) == LAUNCH_NODE and high >= 0 for first, then, _, _, high in problem.arcs
    )


def _plan_of(refit: Refit, problem: Problem, schedule: Schedule, now: datetime, starts: int) -> Plan:
    moment = problem.grid.moment
    assignments, left_out = [], set()
    for node in range(FIRST_TASK, problem.size):
        task = refit.tasks[problem.name(node)]
        if schedule.start[node] == UNPLACED:
            left_out.add(int(problem.job[node]))
            continue
        if task.begun_at and task.done_at:
            start, end, people, resume = task.begun_at, task.done_at, task.crew, None
        else:
            mode = int(schedule.mode[node])
            people = tuple(problem.people[who] for who in problem.mode_people[mode] if who >= 0)
            start = task.begun_at or moment(int(schedule.start[node]))
            end = moment(int(schedule.end[node]))
            resume = moment(int(schedule.resume[node])) if task.begun_at else None
        assignments.append(Assignment(task=task.id, start=start, end=end, people=people, resume=resume))
    launch = max(refit.launch_at, moment(int(schedule.start[LAUNCH_NODE])))
    if schedule.start[LAUNCH_NODE] == problem.launch_at:
        launch = refit.launch_at
    return Plan(
        now=now,
        launch=launch,
        assignments=tuple(assignments),
        left_out=tuple(problem.jobs[job] for job in sorted(left_out)),
        unplanned=problem.unplanned,
        collisions=problem.collisions,
        starts_tried=starts,
    )
