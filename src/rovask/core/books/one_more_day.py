"""What one more day ashore costs, spelled out: the same bill for a launch a day later, and what else a day takes."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

from rovask.core.books.forecast import CostLine
from rovask.core.books.items import nights_to_pay
from rovask.core.books.yard_bill import bill_for, hangs, stay_of
from rovask.core.plain.money import Money
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.work.make_good import with_make_good


def one_more_day(refit: Refit, plan: Plan) -> tuple[CostLine, ...]:
    """Lines of what a launch a day later costs more: each of the yard's that grows, and a night elsewhere if one is due now.

    While she hangs it is a night more in the slings; before, the lift moves with the launch and the nights are as many.
    People who work are paid for their hours whichever day they lie on, so they are not in it.
    """
    refit = with_make_good(refit, plan.made_good)
    stay = stay_of(refit, plan)
    day = timedelta(days=1)
    nights = (*stay.slings, stay.last) if hangs(refit, plan.now) else tuple(night + day for night in stay.slings)
    later = replace(stay, last=stay.last + day, slings=nights)
    now, then = bill_for(refit, stay), bill_for(refit, later)
    before: dict[tuple[str, str], int] = {}
    for line in now:
        key = (line.charge.value, line.title)
        before[key] = before.get(key, 0) + line.amount
    out: dict[tuple[str, str], tuple[str, int]] = {}
    for line in then:
        key = (line.charge.value, line.title)
        out[key] = (line.how, out.get(key, ("", 0))[1] + line.amount)
    lines = [
        CostLine(title, how, Money(amount - before.get((charge, title), 0), refit.currency))
        for (charge, title), (how, amount) in out.items()
        if amount != before.get((charge, title), 0)
    ]
    if refit.price_night_ashore and nights_to_pay(refit, plan):
        lines.append(
            CostLine("A night elsewhere", "where no berth is fit", Money(refit.price_night_ashore, refit.currency))
        )
    return tuple(lines)


def day_costs(refit: Refit, plan: Plan) -> Money:
    """What one more day costs in all, without nights elsewhere, which not every day takes."""
    rows = one_more_day(refit, plan)
    return Money(sum(row.amount.minor for row in rows if row.title != "A night elsewhere"), refit.currency)
