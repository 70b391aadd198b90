"""Why ties can't hold: the tasks, the lags and the hours that push each other apart, in a sentence."""

from __future__ import annotations

from datetime import timedelta

from rovask.core.plain.words import day_and_time, span
from rovask.core.plan.problem.arrays import FIRST_TASK, NO_MAX, Problem
from rovask.core.plan.problem.lags import CURE_CLOCK, CURE_UNIT, PLAIN, YARD_CLOCK
from rovask.core.plan.problem.windows import Windows, cycle_of
from rovask.core.plan.result import Collision, CollisionKind
from rovask.core.plan.solver.conflict import RuleConflict, RuleKind
from rovask.core.readings.closes import days_in_words
from rovask.core.readings.kept_away import why_apart
from rovask.core.readings.readiness import ready_at
from rovask.core.refit.givens.slot import ashore_from
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import State

MOST_WORDS = 6  # of a title, where a sentence must stay short
_PHRASE = (
    "“{then}” must start {lag} after “{first}” ends",
    "“{then}” must start {lag} after “{first}” starts",
    "“{then}” must end {lag} after “{first}” ends",
    "“{then}” must end {lag} after “{first}” starts",
)


def _title(refit: Refit, key: str) -> str:
    return refit.tasks[key].title if key in refit.tasks else f"the {key}"


def _lag(low: int, high: int, clock: int = PLAIN) -> str:
    if clock == YARD_CLOCK:
        return days_in_words(low / CURE_UNIT)
    unit = 2 * (CURE_UNIT if clock == CURE_CLOCK else 1)
    of = " of cure at 20 °C" if clock == CURE_CLOCK else ""
    if high == NO_MAX:
        return f"at least {low / unit:g} h{of}" if low else "right or any time"
    if low == high:
        return f"exactly {low / unit:g} h{of}"
    return f"at most {high / unit:g} h{of}" if low == 0 else f"between {low / unit:g} h and {high / unit:g} h{of}"


def _fixed(refit: Refit, problem: Problem, arc: int) -> str:
    """What an appointment asks of a task, where a tie comes from one; "" elsewhere."""
    link = next((one for one in refit.links if one.id == problem.arc_link[arc]), None)
    fixed = {one.id: one for one in refit.appointments}
    if link is None or not (link.first in fixed or link.then in fixed):
        return ""
    after = link.first in fixed
    meeting = fixed[link.first if after else link.then]
    task = _title(refit, link.then if after else link.first)
    when = day_and_time(meeting.at, refit.yard.zone)
    return f"“{task}” must come {'after' if after else 'before'} “{meeting.title}”, {when}"


def _describe(refit: Refit, problem: Problem, arc: int) -> str:
    fixed = _fixed(refit, problem, arc)
    if fixed:
        return fixed
    first, then, kind, low, high, clock, _ = (int(value) for value in problem.arrays.arcs[arc])
    return _PHRASE[kind].format(
        first=_title(refit, problem.name(first)), then=_title(refit, problem.name(then)), lag=_lag(low, high, clock)
    )


def _working_hours(problem: Problem, node: int) -> str:
    """The hours in which a node's people work, as the plan sees them in their first week there."""
    spans = set()
    for mode in range(problem.arrays.mode_lo[node], problem.arrays.mode_hi[node]):
        calendar = problem.arrays.mode_calendar[mode]
        tomorrow = problem.grid.midnight(problem.grid.local(problem.arrays.now).date() + timedelta(days=1))
        at = int(problem.arrays.pos[calendar, problem.arrays.rank[calendar, tomorrow]])
        for _ in range(5):
            if at >= problem.horizon:
                break
            end = at
            while end < problem.horizon and problem.arrays.rank[calendar, end + 1] > problem.arrays.rank[calendar, end]:
                end += 1
            spans.add((f"{problem.grid.local(at):%H:%M}", f"{problem.grid.local(end):%H:%M}"))
            at = int(problem.arrays.pos[calendar, problem.arrays.rank[calendar, end]])
    return ", ".join(f"{start}-{end}" for start, end in sorted(spans)[:4])


def explain_stuck(refit: Refit, problem: Problem, windows: Windows) -> Collision:
    """Name what makes ``windows`` impossible: a missed maximum, a pin, a cycle of ties, or too much work in a row."""
    zone = refit.yard.zone
    arcs = list(reversed(cycle_of(problem, windows)))
    stuck = windows.stuck
    nodes: list[int] = []
    for arc in arcs:
        nodes += [int(end) for end in problem.arrays.arcs[arc][:2] if int(end) not in nodes]
    if stuck not in nodes:
        nodes.append(stuck)
    title = _title(refit, problem.name(stuck))

    pinned = [n for n in nodes if n >= FIRST_TASK and problem.arrays.deadline[n] < problem.horizon]
    if pinned:
        node = pinned[-1]
        task = refit.tasks[problem.name(node)]
        when = day_and_time(task.pin, zone) if task.pin else "its pin"
        reason = "; ".join(_describe(refit, problem, arc) for arc in arcs)
        if not reason:
            reason = _why_not_then(refit, problem, node)
        return Collision(
            kind=CollisionKind.PIN,
            tasks=_tasks(problem, [node]),
            sentence=f"{_short(task.title)} can't be at its pin, {when}: take the pin out or move it.",
            detail=f"It is pinned to {when}, but {reason}.",
        )
    if len(arcs) > 1 or (arcs and any(problem.arrays.arcs[arc][4] != NO_MAX for arc in arcs)):
        ties = "; ".join(dict.fromkeys(_describe(refit, problem, arc) for arc in arcs))
        hours = {f"{_title(refit, problem.name(n))}: {_working_hours(problem, n)}" for n in nodes if n >= FIRST_TASK}
        mine = [_short(_title(refit, problem.name(n))) for n in nodes if n >= FIRST_TASK]
        asked = [told for arc in arcs if (told := _fixed(refit, problem, arc))]
        milestones = [_title(refit, problem.name(n)) for n in nodes if n < FIRST_TASK]
        if asked:
            return Collision(
                kind=CollisionKind.TIES,
                tasks=_tasks(problem, nodes),
                sentence=f"{asked[0]}, and it can't: move the appointment, or take the tie out.",
                detail=f"These can't all hold: {ties}. Work is possible at ({'; '.join(sorted(hours))}).",
            )
        return Collision(
            kind=CollisionKind.TIES,
            tasks=_tasks(problem, nodes),
            sentence=f"{_some([*mine, *milestones])} can't all keep their ties: change a wait, the hours or the order.",
            detail=f"These can't all hold: {ties}. Work is possible at ({'; '.join(sorted(hours))}).",
        )
    return Collision(
        kind=CollisionKind.HORIZON,
        tasks=_tasks(problem, [stuck]),
        sentence=f"{_short(title)} finds no working hours until {day_and_time(problem.grid.moment(problem.horizon), zone)}.",
    )


def _why_not_then(refit: Refit, problem: Problem, node: int) -> str:
    """What of a pinned task's own keeps it from its pin, and by how much: a part, the haul-out, or its people."""
    a, task, zone = problem.arrays, refit.tasks[problem.name(node)], refit.yard.zone
    at, now = int(a.deadline[node]), problem.grid.moment(int(a.now))
    late = [(ready_at(refit, key, task.id, now), refit.part_by_id[key].name) for key in task.parts]
    coming = [(moment, name) for moment, name in late if moment is not None and problem.grid.ceil(moment) > at]
    if coming:
        moment, name = max(coming)
        by = span((problem.grid.ceil(moment) - at) * 30)
        return f"{name} is at hand {day_and_time(moment, zone)}, {by} later"
    if task.state in (State.ASHORE, State.SLINGS) and problem.grid.moment(at) < ashore_from(refit):
        return f"she stands ashore from {day_and_time(ashore_from(refit), zone)} on"
    following = [
        int(a.pos[calendar, int(a.rank[calendar, at])])
        for calendar in a.mode_calendar[int(a.mode_lo[node]) : int(a.mode_hi[node])].tolist()
    ]
    first = min(following, default=problem.horizon)
    who = ", ".join(
        sorted(
            {
                refit.persons[one].name
                for mode in range(int(a.mode_lo[node]), int(a.mode_hi[node]))
                for one in problem.crew(mode)
            }
        )
    )
    if at < first < problem.horizon:
        return f"nobody of {who} is at work then, or it isn't allowed: the next hour is {day_and_time(problem.grid.moment(first), zone)}"
    return f"from then on {who} finds no hours for it in one piece"


def _short(title: str) -> str:
    """A title in quotes, its first words."""
    words = title.split()
    return f"“{' '.join(words[:MOST_WORDS])}{' …' if len(words) > MOST_WORDS else ''}”"


def _some(names: list[str]) -> str:
    """Up to two names and how many more."""
    rest = len(names) - 2
    if rest > 0:
        return f"{', '.join(names[:2])} and {rest} more"
    return " and ".join(names)


def explain_conflict(refit: Refit, problem: Problem, conflict: RuleConflict) -> Collision:
    """A conflict the solver proved, in the sailor's words: ties, people with their hours, places, what can't stand what."""
    told, who = [], set()
    for part in conflict.parts:
        if part.kind is RuleKind.TIE:
            told.append(_describe(refit, problem, part.at))
        elif part.kind is RuleKind.PERSON:
            who.add(refit.persons[problem.people[part.at]].name)
        elif part.kind is RuleKind.RESOURCE:
            key = problem.resources[part.at]
            thing = refit.place_by_id.get(key) or refit.gear_by_id[key]
            told.append(f"{thing.name} has room for {problem.arrays.capacity[part.at]}")
        else:
            first, other = problem.name(part.at), problem.name(part.other)
            both = f"“{_title(refit, first)}” and “{_title(refit, other)}”"
            why = why_apart(refit, refit.tasks[first], refit.tasks[other])
            told.append(f"{both} can't be at one time: {why}" if why else f"{both} can't stand each other")
    if who:
        told.append(f"{' and '.join(sorted(who))} can be at one task at a time")
    hours = {f"{_title(refit, problem.name(n))}: {_working_hours(problem, n)}" for n in conflict.nodes}
    detail = f"These can't all hold: {'; '.join(told)}."
    if hours:
        detail += f" Work is possible at ({'; '.join(sorted(hours))})."
    nodes = list(conflict.nodes) or list(range(FIRST_TASK, problem.size))
    mine = _some([_short(_title(refit, problem.name(n))) for n in nodes if n >= FIRST_TASK])
    people = f" with {_some(sorted(who))}" if who else ""
    return Collision(
        kind=CollisionKind.TIES,
        tasks=_tasks(problem, nodes),
        sentence=f"{mine} can't all be done{people}: "
        + ("one of them must change." if conflict.smallest else "something must give way."),
        detail=detail,
    )


def _tasks(problem: Problem, nodes: list[int]) -> tuple[str, ...]:
    return tuple(problem.name(node) for node in nodes if node >= FIRST_TASK)
