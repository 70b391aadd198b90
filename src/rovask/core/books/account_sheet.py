"""The account of a refit as plain data: what `rovask account` prints, the one page that is printed, and what is exported."""

from __future__ import annotations

from typing import Any

from rovask.core.books.budget import by_line
from rovask.core.books.forecast import forecast
from rovask.core.books.item import ItemKind
from rovask.core.books.items import items
from rovask.core.books.one_more_day import one_more_day
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit


def account_sheet(refit: Refit, plan: Plan) -> dict[str, Any]:
    """Budget, paid, owed, bound, the forecast line by line, unknowns, what one more day costs.

    Amounts are whole minor units of ``currency``. paid + owed + bound + planned + unknowns = forecast, to the last unit;
    bound = agreed_not_invoiced - paid_ahead - to_be_had_back;
    the forecast's lines add up to it, and so do the budget's lines.
    """
    made, rows = forecast(refit, plan), items(refit, plan)
    day = one_more_day(refit, plan)
    return {
        "refit": refit.name,
        "currency": refit.currency,
        "now": plan.now.isoformat(),
        "launch": plan.launch.isoformat(),
        "budget": refit.budget,
        "paid": made.paid.minor,
        "owed": made.owed.minor,
        "bound": made.agreed.minor,
        "agreed_not_invoiced": made.bound.minor,
        "paid_ahead": made.ahead.minor,
        "to_be_had_back": made.back.minor,
        "planned": made.planned.minor,
        "unknowns": made.expected.minor,
        "forecast": {
            "total": made.total.minor,
            "low": made.low.minor,
            "high": made.high.minor,
            "lines": [{"title": row.title, "how": row.how, "amount": row.amount.minor} for row in made.lines],
        },
        "lines": [
            {
                "title": row.line.title if row.line is not None else None,
                "given": row.given,
                "bound": row.sums.bound,
                "invoiced": row.sums.invoiced,
                "paid": row.sums.paid,
                "still": row.sums.still,
                "will_be": row.sums.will_be,
            }
            for row in by_line(refit, plan)
        ],
        "unknown": [{"title": row.title, "expected": row.rest} for row in rows if row.kind is ItemKind.UNKNOWN],
        "one_more_day": {
            "total": sum(row.amount.minor for row in day),
            "lines": [{"title": row.title, "how": row.how, "amount": row.amount.minor} for row in day],
        },
        "by_rate": made.by_rate.minor,
        "notes": list(made.notes),
    }
