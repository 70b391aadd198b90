"""The account of a haul-out when it is over: what was planned and done, in days, hours and money, and what surprised."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime

from rovask.core.books.budget import LineStanding, by_line
from rovask.core.books.forecast import Forecast, forecast
from rovask.core.gate.gate import let_go_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.progress import estimate
from rovask.core.refit.days.choices import LostTo
from rovask.core.refit.model import Baseline, Finding, Job, Parked, Refit, Unknown
from rovask.core.refit.seen.choices import UnknownState


@dataclass(frozen=True, slots=True)
class JobAccount:
    """One job: tasks done of all, hours thought and worked (of one pair of hands). known: stood in the plan first kept."""

    job: Job
    done: int
    tasks: int
    thought: float
    worked: float
    known: bool


@dataclass(frozen=True)
class Account:
    """The whole account. planned_launch: by the plan first kept; floated: when she was let go, None while she isn't."""

    planned_launch: datetime
    floated: datetime | None
    days_ashore: int
    jobs: tuple[JobAccount, ...]
    came_in: tuple[Job, ...]
    not_done: tuple[Job, ...]
    thought: float
    worked: float
    lost: tuple[tuple[LostTo, float], ...]
    money: Forecast
    lines: tuple[LineStanding, ...]
    real: tuple[Unknown, ...]
    found: tuple[Finding, ...]
    parked: tuple[Parked, ...]

    @property
    def late_minutes(self) -> int:
        """By how much she floated later (negative: sooner) than first planned; 0 while she doesn't."""
        return round((self.floated - self.planned_launch).total_seconds() / 60) if self.floated is not None else 0


def account_of(refit: Refit, planned: Planned, first: Baseline | None) -> Account:
    """The account as it stands. first: the plan first kept, None where none was."""
    known = first.known if first is not None else frozenset(refit.tasks)
    rows = []
    for job in refit.jobs:
        done = [task for task in job.tasks if task.done_at is not None]
        rows.append(
            JobAccount(
                job,
                len(done),
                len(job.tasks),
                sum(estimate(task) * task.hands for task in job.tasks),
                sum(refit.logged.get(task.id, 0.0) for task in job.tasks),
                any(task.id in known for task in job.tasks) or not job.tasks,
            )
        )
    lost: dict[LostTo, float] = defaultdict(float)
    for one in refit.lost:
        lost[one.reason] += one.hours
    tick = let_go_of(refit)
    floated = tick.at if tick is not None else (refit.launch_at if planned.plan.now >= refit.launch_at else None)
    ends = floated or planned.plan.launch
    zone = refit.yard.zone
    days = (ends.astimezone(zone).date() - refit.haul_at.astimezone(zone).date()).days + 1
    total = forecast(refit, planned.plan)
    return Account(
        planned_launch=first.launch_at if first is not None else refit.launch_at,
        floated=floated,
        days_ashore=days,
        jobs=tuple(rows),
        came_in=tuple(row.job for row in rows if not row.known),
        not_done=tuple(row.job for row in rows if row.done < row.tasks),
        thought=sum(row.thought for row in rows if row.done == row.tasks),
        worked=sum(row.worked for row in rows if row.done == row.tasks),
        lost=tuple(sorted(lost.items(), key=lambda row: -row[1])),
        money=total,
        lines=tuple(by_line(refit, planned.plan)),
        real=tuple(one for one in refit.unknowns if one.state is UnknownState.REAL),
        found=tuple(refit.findings),
        parked=tuple(refit.parked),
    )
