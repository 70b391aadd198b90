"""Offers for one need side by side, each worked out with the plan: launch, money in all, what waits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import count

from rovask.core.explain.compare import Comparison, compare
from rovask.core.explain.risks import Risk, late_risk, misfit_risk
from rovask.core.explain.search import Search
from rovask.core.judged.offer_edits import landed_price, ordered_from
from rovask.core.plain.words import minutes_of
from rovask.core.plan.result import Plan
from rovask.core.readings.open_days import open_days
from rovask.core.refit.model import Offer, Refit
from rovask.core.refit.seen.kinds import Alternative


@dataclass(frozen=True, slots=True)
class OfferWorked:
    """One offer: its price at the boat in the refit's minor units, when it would come, and what taking it does.

    risks: what it does when it takes as long as it may, and when it doesn't fit.
    """

    offer: Offer
    landed: int
    comes: datetime
    effect: Comparison
    risks: tuple[Risk, ...] = ()


def offer_worked(
    refit: Refit, plan: Plan, offer: Offer, now: datetime, moment: datetime, search: Search | None = None
) -> OfferWorked:
    """What ordering it at ``moment`` does against the refit as it stands, where it is ordered now at the expected price."""

    def with_it(one: Offer) -> Refit:
        numbers = count(1)
        return ordered_from(refit, one, moment, lambda kind: f"taken-{kind[:1]}{next(numbers)}")

    taken = with_it(offer)
    effect = compare(refit, taken, now, plan, search)
    comes = open_days(refit, offer.supplier).after(moment, offer.lead_days)
    risks = []
    if offer.lead_most is not None and offer.lead_most > offer.lead_days:
        late = offer.model_copy(update={"lead_days": offer.lead_most})
        risks.append(late_risk(offer.lead_most, taken, with_it(late), plan))
    if offer.misfit:
        twice = {"price": offer.price * 2, "freight": offer.freight * 2}
        again = offer.model_copy(update={"lead_days": offer.lead_days * 2, "lead_most": None} | twice)
        risks.append(misfit_risk(offer.misfit, taken, with_it(again), plan))
    return OfferWorked(offer, landed_price(refit, offer), comes, effect, tuple(risks))


def alternatives(refit: Refit, rows: Sequence[OfferWorked]) -> tuple[Alternative, ...]:
    """The offers as a decision keeps them."""
    out = []
    for row in rows[:8]:
        ready = row.effect.after.plan.ready
        spare = minutes_of(refit.launch_at - ready.at) if ready is not None else 0
        out.append(
            Alternative(
                title=f"{row.offer.supplier}: {row.offer.what}"[:120],
                money=row.effect.money.minor,
                spare_minutes=spare,
                holds=spare >= 0,
            )
        )
    return tuple(out)
