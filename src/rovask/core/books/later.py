"""What each day later costs of a part that is still to be ordered: nothing, then spare, then lay-days; and a berth meanwhile."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.books.one_more_day import day_costs
from rovask.core.books.order_by import PartNeed
from rovask.core.plain.money import Money
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.make_good import with_make_good


@dataclass(frozen=True, slots=True)
class Later:
    """What a day later costs up to a moment, in words and in money. until: None for from then on."""

    until: datetime | None
    what: str
    money: Money


def later_costs(refit: Refit, plan: Plan, need: PartNeed) -> list[Later]:
    """The stretches from now on, in order of time; nothing for a part that is not to be ordered by a date.

    A must-task that starts late moves the launch; a job that need not be done falls out instead. Where the part holds up
    a berth that is out, every day past the plan is a night elsewhere too.
    """
    if need.order_by is None or need.decides is None or need.decides not in refit.tasks:
        return []
    refit = with_make_good(refit, plan.made_good)
    nothing = Money(0, refit.currency)
    night, elsewhere = nothing, ""
    if gives_berth_back(refit, need.decides):
        night = Money(refit.price_night_ashore or 0, refit.currency)
        elsewhere = " and a night elsewhere, for a berth stays out"
    out, easy = [], need.easy_by or need.order_by
    if easy > plan.now:
        out.append(Later(easy, "nothing", nothing))
    if need.order_by > max(easy, plan.now):
        out.append(Later(need.order_by, f"spare{elsewhere}", night))
    job = refit.job_of[need.decides]
    if job.need is Need.MUST:
        out.append(
            Later(
                None,
                f"another order of work, or the launch: a day more in the yard{elsewhere}",
                day_costs(refit, plan) + night,
            )
        )
    else:
        out.append(Later(None, f"“{job.title}”, which no longer fits before the launch", nothing))
    return out


def gives_berth_back(refit: Refit, key: str) -> bool:
    """Whether a berth that is taken out can't be given back before a task, and goes out no later for its sake."""
    for task in refit.tasks.values():
        back = refit.tasks[task.until or task.id]
        if set(refit.nobody_without) & set(task.takes_out) and not back.done_at:
            moves_both = not task.begun_at and key in waited_for(refit, task.id)
            if key in waited_for(refit, back.id) and not moves_both:
                return True
    return False


def waited_for(refit: Refit, key: str) -> set[str]:
    """A task and everything it waits for, by the ties. O(links)."""
    before: dict[str, list[str]] = {}
    for link in refit.waits:
        before.setdefault(link.then, []).append(link.first)
    out, at_hand = {key}, [key]
    while at_hand:
        for first in before.get(at_hand.pop(), ()):
            if first not in out:
                out.add(first)
                at_hand.append(first)
    return out
