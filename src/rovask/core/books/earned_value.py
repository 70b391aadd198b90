"""Earned value: what the work done was planned to cost, beside what it was to be by now and what it did cost.

Terms and formulas as in ISO 21508 and ANSI/EIA-748: planned value PV, earned value EV, actual cost AC; CV = EV - AC,
SV = EV - PV, CPI = EV / AC, SPI = EV / PV, EAC = BAC / CPI, VAC = BAC - EAC.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

from rovask.core.books.item import Item
from rovask.core.books.items import items
from rovask.core.plain.derived import derived
from rovask.core.plain.money import rounded
from rovask.core.plan.progress import planned_share
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Baseline, Job, Refit
from rovask.core.refit.work.make_good import with_make_good


@dataclass(frozen=True, slots=True)
class EarnedValue:
    """The figures of a project at one date, all in the same unit of money. bac: budget at completion."""

    bac: int
    planned: int
    earned: int
    actual: int

    @property
    def cost_variance(self) -> int:
        """EV - AC; negative: dearer than planned."""
        return self.earned - self.actual

    @property
    def schedule_variance(self) -> int:
        """EV - PV; negative: behind."""
        return self.earned - self.planned

    @property
    def cpi(self) -> float | None:
        """EV / AC; None before anything was spent."""
        return self.earned / self.actual if self.actual else None

    @property
    def spi(self) -> float | None:
        """EV / PV; None before anything was to be done."""
        return self.earned / self.planned if self.planned else None

    @property
    def estimate_at_completion(self) -> int | None:
        """BAC / CPI, if the rest costs as the work so far did; None before anything is earned."""
        return rounded(Decimal(self.bac * self.actual) / self.earned) if self.earned else None


@dataclass(frozen=True, slots=True)
class JobStanding:
    """Where one job stands: hours done of all, and money spent (paid and owed) of what it will be."""

    job: Job
    hours_done: float
    hours: float
    spent: int
    will_be: int

    @property
    def worked(self) -> float:
        """Share of the work that is done, 0 to 1."""
        return self.hours_done / self.hours if self.hours else 0.0

    @property
    def spent_share(self) -> float:
        """Share of the money that is spent, 0 to 1; 0 where it costs nothing."""
        return self.spent / self.will_be if self.will_be > 0 else 0.0


@derived(of=1)
def job_standings(refit: Refit, plan: Plan) -> list[JobStanding]:
    """Every job's, in order. O(tasks + items)."""
    return _standings(refit, plan)


def _standings(refit: Refit, plan: Plan) -> list[JobStanding]:
    refit, rows = with_make_good(refit, plan.made_good), items(refit, plan)
    money: dict[str | None, list[Item]] = defaultdict(list)
    for row in rows:
        money[row.job].append(row)
    out = []
    for job in refit.jobs:
        whole = sum(task.work.likely * task.units * task.hands for task in job.tasks)
        left = sum(refit.hours_to_do(task) * task.hands for task in job.tasks)
        done = max(whole - left, 0.0)
        mine = money[job.id]
        spent = sum(row.paid + row.owed + min(row.to_come, 0) for row in mine)
        out.append(JobStanding(job, done, max(whole, done), spent, sum(row.will_be for row in mine)))
    return out


def earned_value(refit: Refit, plan: Plan, baseline: Baseline | None = None) -> EarnedValue:
    """Of the work, the yard's bill and what isn't found yet left out, which nobody earns.

    Each job's money counts as earned in the share of its hours that is done, and as planned by now in the share of its
    hours that the baseline had done by now. Where no baseline is kept, that is the share of the time from haul to slot
    that is past, for every job alike.
    """
    rows = items(refit, plan)
    by_job: dict[str | None, int] = defaultdict(int)
    spent: dict[str | None, int] = defaultdict(int)
    for row in rows:
        if row.sort.of_work and row.job is not None:
            by_job[row.job] += row.will_be
            spent[row.job] += row.paid + row.owed
    bac = sum(by_job.values())
    earned = sum(rounded(Decimal(by_job[one.job.id]) * Decimal(str(one.worked))) for one in job_standings(refit, plan))
    if baseline is None:
        planned = rounded(Decimal(bac) * Decimal(str(time_gone(refit, plan))))
    else:
        shares = {job.id: planned_share(baseline, {task.id for task in job.tasks}, plan.now) for job in refit.jobs}
        planned = sum(rounded(Decimal(much) * Decimal(str(shares.get(job or "", 0.0)))) for job, much in by_job.items())
    return EarnedValue(bac, planned, earned, sum(spent.values()))


def time_gone(refit: Refit, plan: Plan) -> float:
    """Share of the elapsed time from the haul-out to the launch slot that is past, 0 to 1."""
    whole = refit.launch_at - refit.haul_at
    gone = min(max(plan.now - refit.haul_at, timedelta(0)), whole)
    return gone / whole
