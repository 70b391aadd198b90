"""Since I was away: what was done, found, decided, spent and moved; what is open; what to do first."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.books.items import section_of
from rovask.core.books.order_by import PartNeed
from rovask.core.plain.money import Money
from rovask.core.plain.words import count, day_and_time
from rovask.core.plan.planner import Planned
from rovask.core.readings.acceptance import unaccepted
from rovask.core.readings.commitments import PAYS, worth
from rovask.core.refit.craft.choices import TraceState
from rovask.core.refit.days.choices import Said
from rovask.core.refit.givens.choices import Section
from rovask.core.refit.model import Decision, Entry, Finding, Job, PlannedTask, Refit, Task, Visit
from rovask.core.refit.purse.choices import EntryKind

MOVED = timedelta(days=1)  # by which a task must lie elsewhere to be told
FIRST_ACTS = 8


@dataclass(frozen=True, slots=True)
class Moved:
    """A task that lies elsewhere than it did: title, when it was to begin, when it is now (None: done, or not planned)."""

    task: Task
    was: datetime
    now: datetime | None


@dataclass(frozen=True, slots=True)
class OpenSection:
    """A part of the boat with work left: its jobs, how many tasks and hours, and what comes next."""

    section: Section
    jobs: tuple[Job, ...]
    tasks: int
    hours: float
    following: Task | None


@dataclass(frozen=True, slots=True)
class Act:
    """Something to do first: in words, and where."""

    words: str
    page: str


@dataclass(frozen=True)
class HandOver:
    """Everything since a moment. hours: by person. paid: in the refit's currency. met: what was tried at what sits fast, and looked
    at for its source, the newest first.
    """

    since: datetime
    done: tuple[tuple[Job, Task], ...]
    finished: tuple[Job, ...]
    hours: tuple[tuple[str, float], ...]
    found: tuple[Finding, ...]
    decided: tuple[Decision, ...]
    paid: Money
    payments: tuple[Entry, ...]
    moved: tuple[Moved, ...]
    open: tuple[OpenSection, ...]
    visits: tuple[Visit, ...]
    first: tuple[Act, ...]
    met: tuple[Act, ...] = ()


def handover(
    refit: Refit,
    planned: Planned,
    needs: Iterable[PartNeed],
    since: datetime,
    decisions: Iterable[Decision],
    was_planned: Iterable[PlannedTask],
    person: str | None,
) -> HandOver:
    """What somebody must know who was away since a moment. ``was_planned``: what the plan had then. O(records)."""
    now = planned.plan.now
    done = [(job, task) for job, task in refit.walk() if task.done_at is not None and task.done_at >= since]
    hours: dict[str, float] = defaultdict(float)
    for entry in refit.hours_log:
        if entry.at >= since:
            hours[entry.person] += entry.hours
    payments = [entry for entry in refit.entries if entry.kind in PAYS and entry.at >= since]
    touched = {job.id for job, _ in done}
    return HandOver(
        since=since,
        done=tuple(sorted(done, key=lambda row: row[1].done_at or now, reverse=True)),
        finished=tuple(job for job in refit.jobs if job.id in touched and all(task.done_at for task in job.tasks)),
        hours=tuple(sorted(hours.items(), key=lambda row: -row[1])),
        found=tuple(sorted((one for one in refit.findings if one.at >= since), key=lambda one: one.at, reverse=True)),
        decided=tuple(one for one in decisions if one.at >= since),
        paid=Money(
            sum(worth(one, refit.currency) * (1 if one.kind is EntryKind.PAYMENT else -1) for one in payments),
            refit.currency,
        ),
        payments=tuple(sorted(payments, key=lambda entry: -worth(entry, refit.currency))),
        moved=tuple(_moved(refit, planned, was_planned)),
        open=tuple(_open(refit, planned)),
        visits=tuple(one for one in refit.visits if one.last >= now.astimezone(refit.yard.zone).date()),
        first=tuple(first_acts(refit, planned, list(needs), person)[:FIRST_ACTS]),
        met=tuple(_met(refit, since)),
    )


def _met(refit: Refit, since: datetime) -> list[Act]:
    """What was tried and looked at since, in a line each, and where it stands."""
    rows = [
        (
            rung.at,
            Act(
                f"{row.title}: {rung.means.value}, it {rung.outcome.value}; now {row.state.value}",
                f"hands/seized/{row.id}",
            ),
        )
        for row in refit.seized
        for rung in row.tried
    ]
    rows += [
        (look.at, Act(f"{row.title}: looked, {look.showed.value}; {row.state.value}", f"hands/trace/{row.id}"))
        for row in refit.traces
        for look in row.looks
    ]
    return [act for at, act in sorted(rows, key=lambda one: one[0], reverse=True) if at >= since]


def _moved(refit: Refit, planned: Planned, was_planned: Iterable[PlannedTask]) -> list[Moved]:
    at = planned.plan.by_task()
    out = []
    for row in was_planned:
        task = refit.tasks.get(row.task)
        if task is None or task.begun_at is not None:
            continue
        start = at[row.task].start if row.task in at else None
        if start is None or abs(start - row.start) >= MOVED:
            out.append(Moved(task, row.start, start))
    return sorted(out, key=lambda one: (one.was, one.task.id))


def _open(refit: Refit, planned: Planned) -> list[OpenSection]:
    at = planned.plan.by_task()
    jobs: dict[Section, list[Job]] = defaultdict(list)
    for job in refit.jobs:
        if any(task.done_at is None for task in job.tasks) and job.id not in planned.plan.left_out:
            jobs[section_of(refit, job)].append(job)
    out = []
    for section in Section:
        left = [task for job in jobs[section] for task in job.tasks if task.done_at is None]
        if left:
            next_ = min((task for task in left if task.id in at), key=lambda task: at[task.id].start, default=None)
            hours = sum(refit.hours_to_do(task) * task.hands for task in left)
            out.append(OpenSection(section, tuple(jobs[section]), len(left), hours, next_))
    return out


def first_acts(refit: Refit, planned: Planned, needs: list[PartNeed], person: str | None) -> list[Act]:
    """What to do first, the gravest before: what is dangerous, said and unanswered, late, waiting to be looked at, to be
    ordered; then one's own next tasks.
    """
    now, zone = planned.plan.now, refit.yard.zone
    out = [Act(f"Dangerous: {one.title}", f"finding/{one.id}") for one in refit.findings if one.blocks]
    for word in refit.words:
        if not word.answered and word.said is not Said.FOUND:  # what was found is told as the finding it became
            out.append(Act(f"{refit.persons[word.person].name} says {word.said.value}: answer it", "morning#said"))
    out += [
        Act(f"Overdue: {need.part.name}; chase it", f"stores/part/{need.part.id}") for need in needs if need.overdue
    ]
    for row in refit.seized:
        if row.now is not None:
            out.append(Act(f"Sits fast: {row.title}; {row.now.value} is next", f"hands/seized/{row.id}"))
    out += [
        Act(f"Search: {row.title}", f"hands/trace/{row.id}") for row in refit.traces if row.state is TraceState.OPEN
    ]
    looks = unaccepted(refit)
    if looks:
        rest = f" and {count(len(looks) - 1, 'more')}" if looks[1:] else ""
        out.append(Act(f"Look at “{looks[0].task.title}”{rest}", f"accept/{looks[0].task.id}"))
    soon = now + timedelta(days=2)
    for need in needs:
        if need.order_by is not None and need.order_by <= soon:
            words = f"Order {need.part.name} by {day_and_time(need.order_by, zone)}"
            out.append(Act(words, f"stores/part/{need.part.id}"))
    mine = [
        item
        for item in planned.plan.assignments
        if (person is None or person in item.people) and refit.tasks[item.task].done_at is None
    ]
    for item in sorted(mine, key=lambda item: (item.resume or item.start, item.task))[:3]:
        job = refit.job_of[item.task]
        who = ", ".join(refit.persons[key].name for key in item.people)
        when = day_and_time(item.resume or item.start, zone)
        words = ", ".join(filter(None, (refit.tasks[item.task].title, who, when)))
        out.append(Act(words, f"jobs/{job.id}?task={item.task}#{item.task}"))
    return out
