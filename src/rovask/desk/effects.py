"""What a change did: to the launch, to money, to jobs and services."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from rovask.core.books.forecast import forecast
from rovask.core.explain.compare import between, worked_out
from rovask.core.explain.gains import without_services
from rovask.core.plain.words import minutes_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.desk.command import Effect


def effect_between(before: Refit | None, was: Planned | None, after: Refit, is_: Planned) -> Effect:
    """What a change did: launch, money, which jobs went out of the plan or came back, and how long services are out.

    When jobs come or go, what the refit before would have come to with the same effort decides whether the change did it.
    """
    if before is None or was is None or before.currency != after.currency or is_.plan.old:
        return Effect(was or is_, is_, None)
    found = between(before, was, after, is_, settled=False)
    if found.out or found.back:
        found = between(before, worked_out(before, is_.plan.now, was.plan), after, is_, settled=False)
    then, now = without_services(before, was.plan), without_services(after, is_.plan)
    longer = {
        service: minutes_of(now.get(service, timedelta(0)) - then.get(service, timedelta(0)))
        for service in sorted({*then, *now})
    }
    return Effect(
        was,
        is_,
        found.money,
        found.out,
        found.back,
        {service: minutes for service, minutes in longer.items() if minutes},
        found.own,
        _cant(before, was.plan, after, is_.plan),
        forecast(after, is_.plan).total,
    )


def _cant(before: Refit, was: Plan, after: Refit, is_: Plan) -> tuple[str, ...]:
    """Titles of jobs with tasks that can't be planned and could before, or are new: they have no effect to tell."""
    stuck = {before.job_of[key].id for key in was.unplanned if key in before.job_of}
    now = dict.fromkeys(after.job_of[key] for key in is_.unplanned if key in after.job_of)
    return tuple(job.title for job in now if job.id not in stuck)


def spelled(effect: Effect) -> dict[str, Any] | None:
    """What history keeps of an effect."""
    if effect.money is None:
        return None
    return {
        "money": effect.money.minor,
        "own": effect.own.minor if effect.own is not None else effect.money.minor,
        "currency": effect.money.currency,
        "out": list(effect.out),
        "back": list(effect.back),
        "services": dict(effect.services),
        "cant": list(effect.cant),
        "total": effect.total.minor if effect.total is not None else None,
    }
