"""Offers for one need side by side, each worked out with the plan: launch, money in all, what waits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import count

from rovask.core.books.shut_days import open_days
from rovask.core.plan.explain.compare import Comparison, Search, compare
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Offer, Refit
from rovask.core.refit.offer_edits import landed_price, ordered_from
from rovask.core.refit.seen import Alternative
from rovask.core.words import minutes_of


@dataclass(frozen=True, slots=True)
class OfferWorked:
    """One offer: its price at the boat in the refit's minor units, when it would come, and what taking it does."""

    offer: Offer
    landed: int
    comes: datetime
    effect: Comparison

    @property
    def unit_price(self) -> float:
        """Landed, for one unit."""
        return self.landed / self.offer.quantity


def offer_worked(
    refit: Refit, plan: Plan, offer: Offer, now: datetime, moment: datetime, search: Search | None = None
) -> OfferWorked:
    """What ordering it at ``moment`` does against the refit as it stands, where it is ordered now at the expected price."""
    numbers = count(1)
    taken = ordered_from(refit, offer, moment, lambda kind: f"taken-{kind[:1]}{next(numbers)}")
    effect = compare(refit, taken, now, plan, search)
    comes = open_days(refit, offer.supplier).after(moment, offer.lead_days)
    return OfferWorked(offer, landed_price(refit, offer), comes, effect)


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
