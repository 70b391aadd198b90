"""What one plan does better or worse than another, in the sailor's words instead of the planner's value."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from rovask.core.books.paid_work import stints_of
from rovask.core.plain.words import minutes_of, span
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.services import outages
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import Need, State
from rovask.core.refit.work.make_good import with_make_good

WORTH_TELLING = 30  # minutes


@dataclass(frozen=True, slots=True)
class Gain:
    """One thing that differs. ``better``: whether the later plan has the advantage."""

    words: str
    better: bool


def gains(refit: Refit, before: Plan, after: Plan) -> list[Gain]:
    """Launch, jobs left out, days on which paid people come, hours without services, end of the must-work. O(tasks)."""
    refit = with_make_good(refit, (*before.made_good, *after.made_good))
    out = []

    def told(was: float, is_: float, less: str, more: str) -> None:
        if is_ != was:
            out.append(Gain(less if is_ < was else more, is_ < was))

    late = minutes_of(after.launch - before.launch)
    told(0, late, f"launch {span(-late)} sooner", f"launch {span(late)} later")
    jobs = len(after.left_out) - len(before.left_out)
    told(0, jobs, f"{_many(-jobs, 'job')} more done", f"{_many(jobs, 'job')} more left out")
    days = _paid_days(refit, after) - _paid_days(refit, before)
    told(0, days, f"{_many(-days, 'day')} less of paid people", f"{_many(days, 'day')} more of paid people")
    hours = round((_outage(refit, after) - _outage(refit, before)) / timedelta(hours=1))
    told(0, hours, f"{_many(-hours, 'hour')} less without a service", f"{_many(hours, 'hour')} more without a service")
    end = minutes_of(_last(refit, after) - _last(refit, before))
    if abs(end) >= WORTH_TELLING:
        told(0, end, f"must-work ends {span(-end)} sooner", f"must-work ends {span(end)} later")
    return out


def _many(count: int, what: str) -> str:
    return f"{count} {what}" + ("" if count == 1 else "s")


def _paid_days(refit: Refit, plan: Plan) -> int:
    """Days on which somebody who is paid by the hour comes, each person's counted: the forecast's own count."""
    return len({(stint.person, stint.day) for stint in stints_of(refit, plan) if refit.persons[stint.person].rate})


def without_services(refit: Refit, plan: Plan) -> dict[str, timedelta]:
    """How long each service of life aboard is out for work in a plan, from when it went until it is given back."""
    out = dict[str, timedelta]()
    for one in outages(refit, plan):
        if one.task is not None and one.lasts is not None:
            out[one.service] = out.get(one.service, timedelta(0)) + one.lasts
    return out


def _outage(refit: Refit, plan: Plan) -> timedelta:
    """Hours without a service of life aboard, each service's counted."""
    return sum(without_services(refit, plan).values(), timedelta(0))


def _last(refit: Refit, plan: Plan) -> timedelta:
    """When the must-work that comes before the launch ends, after the haul-out; nothing to do: at once."""
    ends = [
        item.end - refit.haul_at
        for item in plan.assignments
        if refit.job_of[item.task].need is Need.MUST
        and refit.tasks[item.task].state not in (State.AFLOAT_AFTER, State.SLINGS)
        and item.end < plan.launch - timedelta(days=1)
    ]
    return max(ends, default=timedelta(0))
