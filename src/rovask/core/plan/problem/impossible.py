"""Tasks that no plan can hold, whatever the rest does: nobody can, no room, no hours, a part that comes too late."""

from __future__ import annotations

from datetime import datetime

from rovask.core.plain.words import count, day
from rovask.core.plan.problem.calendar import SlotGrid, slots_of
from rovask.core.plan.problem.crews import may_do
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Collision, CollisionKind
from rovask.core.readings.readiness import Ready
from rovask.core.readings.standings import things_missing_for
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import State


def impossible(refit: Refit, grid: SlotGrid, hours: Hours, now: datetime, ready: Ready) -> list[Collision]:
    """One collision for each such task, with the sentence that says why. O(tasks x crews x slots)."""
    out = []
    for task in refit.tasks.values():
        if not task.done_at:
            kind, why = _why(refit, grid, hours, now, task, ready)
            if why:
                out.append(Collision(kind=kind, tasks=(task.id,), sentence=why + "."))
    return out


def _why(
    refit: Refit, grid: SlotGrid, hours: Hours, now: datetime, task: Task, ready: Ready
) -> tuple[CollisionKind, str]:
    place = refit.place_by_id[task.place]
    if place.capacity < task.hands and not task.begun_at:
        why = f"“{task.title}” takes {task.hands} hands, and {place.name} has room for {place.capacity}"
        return CollisionKind.PLACE, why
    for key in task.gear:
        if refit.gear_by_id[key].count < 1:
            return CollisionKind.PLACE, f"“{task.title}” needs {refit.gear_by_id[key].name}, and there is none"
    crews = hours.crews_of(task)
    if not crews:
        return CollisionKind.HANDS, _nobody(refit, task)
    lo, hi = max(grid.ceil(now), 0), grid.size
    if task.state is State.AFLOAT_AFTER and not task.begun_at:
        lo = max(lo, grid.ceil(refit.launch_at))
    if task.state is State.AFLOAT_BEFORE:
        if refit.haul_at > now:
            hi = max(grid.floor(refit.haul_at), 0)
        elif not task.begun_at:
            why = (
                f"“{task.title}” was to be done afloat before the haul-out, which is past: choose another state for it"
            )
            return CollisionKind.HORIZON, why
    slots = slots_of(refit.hours_to_do(task))
    in_one_go = task.unbroken and not task.begun_at
    if hours.most_of_any(hours.masks_of(task), lo, hi, in_one_go) < slots:
        names = ", ".join(sorted({refit.persons[who].name for crew in crews for who in crew}))
        need = " in suitable weather" * (task.weather is not None)
        why = (
            f"“{task.title}” takes {refit.hours_to_do(task):g} h{' in one go' * task.unbroken}{need} "
            f"of {names}, and they have no such hours left" + " before the haul-out" * (hi < grid.size)
        )
        return CollisionKind.HANDS, why
    gone = things_missing_for(refit, task)
    if gone:
        what, since = gone[0]
        lost = day(since, refit.yard.zone)
        why = f"“{task.title}” waits for {what}, missing since {lost}; find it or make another"
        return CollisionKind.PART, why
    for key in task.parts if not task.begun_at else ():
        comes = ready[task.id, key]
        if comes and grid.ceil(comes) >= grid.size:
            return (
                CollisionKind.PART,
                f"“{task.title}” waits for {refit.part_by_id[key].name}, which comes too late for any plan",
            )
    return CollisionKind.HANDS, ""


def _nobody(refit: Refit, task: Task) -> str:
    fit = [who.name for who in refit.people if may_do(who, task)]
    wants = count(task.hands, "pair of hands", "pairs of hands")
    if task.skill:
        wants = f"{task.hands} with the skill {task.skill!r}"
    elif task.skilled:
        wants += f", with the skills {', '.join(task.skilled)}"
    have = f"only {', '.join(fit)}" if fit else "nobody"
    return f"“{task.title}” needs {wants}, and {have} can do it"
