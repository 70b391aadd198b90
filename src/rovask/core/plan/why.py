"""What holds a task where it is: the one or two things that keep it from starting sooner."""

from __future__ import annotations

from datetime import datetime, timedelta

from rovask.core.choices import LinkKind, PartStatus, State
from rovask.core.model import Link, Refit, Task
from rovask.core.plan.compile import ready_at
from rovask.core.plan.result import Assignment, Plan
from rovask.core.words import day_and_time

MOST_REASONS = 2


def holds(refit: Refit, plan: Plan, key: str) -> list[str]:
    """Up to two sentences, the latest hold first; empty for a task that isn't planned.

    A hold is told when nothing else would keep the task back after it: the next working half-hour of its
    people after that moment is where the plan starts it.
    """
    item, task = plan.by_task().get(key), refit.tasks[key]
    if item is None:
        return []
    if task.done_at:
        return ["It is done."]
    if task.begun_at:
        return ["It is under way."]
    if task.pin == item.start:
        return [f"It is pinned to {day_and_time(item.start, refit.yard.zone)}."]
    found = [*_ties(refit, plan, task), *_givens(refit, plan, task), *_neighbours(refit, plan, task, item)]
    found = [hold for hold in found if hold[0] <= item.start]
    if not found:
        return ["Nothing keeps it from starting sooner; the plan found no better place for it."]
    found.sort(key=lambda hold: hold[0], reverse=True)
    latest = found[0][0]
    near = [text for moment, text in found if latest - moment <= timedelta(hours=1)]
    out = list(dict.fromkeys(near))[:MOST_REASONS]
    if item.start - latest > timedelta(minutes=30):
        names = " and ".join(refit.persons[who].name for who in item.people)
        out.append(f"After that it waits for hours when {names} can work.")
    return out


def _ties(refit: Refit, plan: Plan, task: Task) -> list[tuple[datetime, str]]:
    at = plan.by_task()
    out = []
    for link in refit.links:
        if link.then != task.id or link.kind in (LinkKind.FF, LinkKind.SF):
            continue
        base, name = _event(refit, at, plan, link)
        if base is None:
            continue
        lag = f"{link.min_lag:g} h after" if link.min_lag else "after"
        why = f" ({link.reason})" if link.reason else ""
        out.append((base + timedelta(hours=link.min_lag), f"It comes {lag} {name}{why}."))
    return out


def _event(refit: Refit, at: dict[str, Assignment], plan: Plan, link: Link) -> tuple[datetime | None, str]:
    if link.first == "haul":
        return refit.haul_at, "the haul-out"
    if link.first == "launch":
        return plan.launch, "the launch"
    item = at.get(link.first)
    title = f"“{refit.tasks[link.first].title}”"
    if item is None:
        return None, title
    return (item.end, title) if link.kind is LinkKind.FS else (item.start, f"{title} begins")


def _givens(refit: Refit, plan: Plan, task: Task) -> list[tuple[datetime, str]]:
    out = []
    if task.state is State.AFLOAT_AFTER:
        out.append((plan.launch, "It needs the boat afloat."))
    if task.state is State.ASHORE and refit.haul_at > plan.now:
        out.append((refit.haul_at, "It needs the boat ashore."))
    for key in task.parts:
        part = refit.part_by_id[key]
        ready = ready_at(part, plan.now)
        if ready is not None and part.status is not PartStatus.ABOARD:
            out.append((ready, f"It waits for {part.name}, {day_and_time(ready, refit.yard.zone)}."))
    return out


def _neighbours(refit: Refit, plan: Plan, task: Task, item: Assignment) -> list[tuple[datetime, str]]:
    """Work before this one by the same people or in the same place."""
    out = []
    room = refit.place_by_id[task.place]
    for other in plan.assignments:
        before = refit.tasks[other.task]
        if other.task == task.id or before.done_at or other.end > item.start:
            continue
        shared = [who for who in other.people if who in item.people]
        if shared:
            names = " and ".join(refit.persons[who].name for who in shared)
            out.append((other.end, f"{names} is at “{before.title}” until then."))
        elif before.place == task.place and before.hands + task.hands > room.capacity:
            out.append((other.end, f"{room.name} is taken by “{before.title}” until then."))
    return out
