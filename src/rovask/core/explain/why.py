"""What holds a task where it is: the one or two things that keep it from starting sooner, and what would free it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from rovask.core.explain.who_is_off import what_keeps_them
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plain.words import day_and_time
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.problem.rivals import reaches, shunned_by
from rovask.core.plan.problem.sky import hour_suits
from rovask.core.plan.problem.ties import ANY_TIME, Tie, ties_of
from rovask.core.plan.result import Assignment, Plan
from rovask.core.readings.acceptance import looked_at_from, waits_for_look
from rovask.core.readings.curing import CureClock
from rovask.core.readings.kept_away import keeping_away, why_apart
from rovask.core.readings.readiness import ready_at
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.slot import ashore_from
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.make_good import with_make_good

MOST_REASONS = 2
NEAR = timedelta(hours=1)
Hold = tuple[datetime, str]


def why_held(refit: Refit, plan: Plan, key: str, ties: Sequence[Tie] | None = None) -> list[str]:
    """Up to three sentences, the latest hold first; empty for a task that isn't planned.

    A hold is told when nothing else would keep the task back after it. The last sentence says from when it could start
    without that hold, as far as its ties, people, place and parts go. ties: those of the plan's moment, when they are
    at hand already.
    """
    refit = with_make_good(refit, plan.made_good)
    item, task = plan.by_task().get(key), refit.tasks[key]
    if item is None:
        return []
    if task.done_at:
        return ["It is done."]
    if task.begun_at:
        return ["It is under way."]
    if task.pin == item.start:
        return [f"It is pinned to {day_and_time(item.start, refit.yard.zone)}."]
    found = [
        *_ties(refit, plan, task, ties_of(refit) if ties is None else ties),
        *_givens(refit, plan, task),
        *_neighbours(refit, plan, task, item),
    ]
    found = [hold for hold in found if hold[0] <= item.start]
    if not found:
        return [
            _waiting(refit, task, item, plan.now)
            or what_keeps_them(refit, plan, task, item, plan.now)
            or "Nothing keeps it from starting sooner; nothing would be gained by it."
        ]
    found.sort(key=lambda hold: hold[0], reverse=True)
    latest = found[0][0]
    out = list(dict.fromkeys(text for moment, text in found if latest - moment <= NEAR))[:MOST_REASONS]
    if item.start > latest:
        kept = _waiting(refit, task, item, latest) or what_keeps_them(refit, plan, task, item, latest)
        out.append(kept or _free(refit, item))
    next_ = next((moment for moment, _ in found if latest - moment > NEAR), None)
    if next_ is not None and next_ > plan.now and len(out) < 3:
        out.append(f"Without that it could start from {day_and_time(next_, refit.yard.zone)}.")
    return out


def _free(refit: Refit, item: Assignment) -> str:
    names = " and ".join(refit.persons[who].name for who in item.people)
    return f"{names} could begin after that; it lies later since nothing is gained by starting sooner."


def _waiting(refit: Refit, task: Task, item: Assignment, since: datetime) -> str:
    """Whether it waits for weather: hours of the forecast between ``since`` and its start that don't suit it."""
    weather, need = refit.weather, task.weather
    if need is None or weather.start is None:
        return ""
    bad = [
        hour
        for hour in range(len(weather.rain))
        if since <= weather.start + timedelta(hours=hour) < item.start and not hour_suits(need, weather, hour)
    ]
    if not bad:
        return ""
    last = weather.start + timedelta(hours=bad[-1] + 1)
    return f"It waits for suitable weather: {len(bad)} h until {day_and_time(last, refit.yard.zone)} don't suit it."


def _ties(refit: Refit, plan: Plan, task: Task, ties: Sequence[Tie]) -> list[Hold]:
    at = plan.by_task()
    clock = CureClock.of(refit)
    out = []
    for tie in ties:
        if tie.then != task.id or tie.kind in (LinkKind.FF, LinkKind.SF):
            continue
        base, name = _fixed(refit, tie) if tie.fixed else _event(refit, at, plan, tie)
        if base is None:
            continue
        why = f" ({tie.reason})" if tie.reason else ""
        hours = 0.0 if tie.fixed else tie.low / 2 / (CURE_UNIT if tie.cures else 1)
        ready = clock.ready(base, hours) if tie.cures else base + timedelta(hours=hours)
        lag = f"{hours:g} h after" if hours else "after"
        if tie.cures and hours:
            lasts = (ready - base) / timedelta(hours=1)
            why += f", cured {day_and_time(ready, refit.yard.zone)}: {lasts:g} h at the temperatures till then"
        out.append((ready, f"It comes {lag} {name}{why}."))
    return out


def _fixed(refit: Refit, tie: Tie) -> tuple[datetime | None, str]:
    """From when an appointment lets a task begin."""
    meeting = next(one for one in refit.appointments if one.id == tie.fixed)
    return refit.haul_at + tie.low * HALF_HOUR if tie.low > ANY_TIME else None, f"“{meeting.title}”"


def _event(refit: Refit, at: dict[str, Assignment], plan: Plan, tie: Tie) -> tuple[datetime | None, str]:
    if tie.first == "haul":
        return refit.haul_at, "the haul-out"
    if tie.first == "launch":
        return plan.launch, "the launch"
    item = at.get(tie.first)
    title = f"“{refit.tasks[tie.first].title}”"
    if item is None:
        return None, title
    return (item.end, title) if tie.kind is LinkKind.FS else (item.start, f"{title} begins")


def _givens(refit: Refit, plan: Plan, task: Task) -> list[Hold]:
    out = []
    if task.state is State.AFLOAT_AFTER:
        out.append((plan.launch, "It needs the boat afloat."))
    if task.state is State.SLINGS:
        hours = refit.yard.slings_hours
        out.append(
            (plan.launch - timedelta(hours=hours), f"It is done in the slings, {hours:g} h before the launch at most.")
        )
    if task.state is State.LIFTING and refit.haul_at > plan.now:
        out.append((refit.haul_at, "It begins with the haul-out."))
    for link in refit.links:
        found = waits_for_look(refit, link) if link.then == task.id else None
        if found is not None:
            at = looked_at_from(plan.now, refit.yard.zone)
            out.append((at, f"It would cover “{found.task.title}”, which isn't accepted; the plan takes tomorrow."))
    stands = ashore_from(refit)
    if task.state is State.ASHORE and stands > plan.now:
        out.append((stands, f"It needs the boat ashore and standing, {day_and_time(stands, refit.yard.zone)}."))
    if task.state is State.ASHORE:
        for item in plan.assignments:
            if refit.tasks[item.task].state is State.LIFTING and item.end > plan.now:
                out.append((item.end, f"She must stand first: “{refit.tasks[item.task].title}”."))
    for key in task.parts:
        part, cover = refit.part_by_id[key], stocks(refit, plan)[key].by_task.get(task.id)
        ready = ready_at(refit, key, task.id, plan.now, plan)
        if cover is not None and ready is not None and (cover.short or cover.coming or cover.away):
            out.append((ready, f"It waits for {part.name}, {day_and_time(ready, refit.yard.zone)}."))
    return out


def _neighbours(refit: Refit, plan: Plan, task: Task, item: Assignment) -> list[Hold]:
    """Work before this one by the same people, in the same place, with the same equipment, or that it can't stand."""
    out = []
    room = refit.place_by_id[task.place]
    near = reaches(refit)[task.place]
    shy, keepers = shunned_by(task), keeping_away(refit)
    for other in plan.assignments:
        before = refit.tasks[other.task]
        if other.task == task.id or other.end > item.start:
            continue
        wet = other.end + timedelta(hours=before.tender)
        given = [what.value for what in task.emits if what in shunned_by(before) and not task.contained_by]
        borne = [what.value for what in before.emits if what in shy and not before.contained_by]
        if before.place in near and given and wet <= item.start:
            out.append((wet, f"Its {given[0]} would spoil “{before.title}” until then."))
        if before.done_at:
            continue
        if before.place in near and borne:
            where = "" if before.place == task.place else f" in {refit.place_by_id[before.place].name}"
            out.append((other.end, f"“{before.title}”{where} gives off {borne[0]} until then."))
        apart = why_apart(refit, task, before) if task.id in keepers or other.task in keepers else ""
        if apart:
            out.append((other.end, f"“{before.title}” till then: {apart}."))
        shared = [who for who in other.people if who in item.people]
        tools = [key for key in task.gear if key in before.gear and refit.gear_by_id[key].count < 2]
        if shared:
            names = " and ".join(refit.persons[who].name for who in shared)
            out.append((other.end, f"{names} is at “{before.title}” until then."))
        elif before.place == task.place and before.hands + task.hands > room.capacity:
            out.append((other.end, f"{room.name} is taken by “{before.title}” until then."))
        elif tools:
            out.append((other.end, f"{refit.gear_by_id[tools[0]].name} is in use at “{before.title}” until then."))
    return out
