"""What the planner weighs, in money: the refit's own prices, and those the sailor gives to what isn't money.

Where nothing is said a price is so many hours of a trade at the refit's own rates (their median; 50 units of the
currency where nobody is paid): a judgement, shown where it can be changed, under Yard. Must-work that is late outweighs
them all and has no price.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from statistics import median

from rovask.core.plain.currency import exponent
from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money, rounded
from rovask.core.refit.model import Person, Refit

USUAL_RATE = 50  # units of the currency
# Hours of a trade each is worth where nothing is said.
SERVICE_DAY, NIGHT, LEAVE_SHOULD, LEAVE_COULD, TASK_LEFT, MOVED, DAY_SOONER = 1.2, 1.5, 60.0, 20.0, 2.0, 1.0, 2.5
DANGER_DAY = (
    40.0  # hours of a trade that a day's wait of dangerous work is reckoned at: it goes first, whoever must come
)


@dataclass(frozen=True, slots=True)
class Prices:
    """In minor units: a day without one service, a night elsewhere (a day without a berth), a should- and a could-job
    left out and each task in it, a near task moved, must-work ending a day sooner, dangerous work done a day sooner.
    """

    service_day: int
    night_ashore: int
    leave_should: int
    leave_could: int
    task_left: int
    moved_task: int
    day_sooner: int
    danger_day: int


@derived(
    lambda refit: (
        refit.people,
        refit.currency,
        refit.price_service_day,
        refit.price_night_ashore,
        refit.price_leave_should,
        refit.price_leave_could,
        refit.price_moved_task,
        refit.price_day_sooner,
    )
)
def prices_of(refit: Refit) -> Prices:
    """The prices of a refit, said or usual."""
    rates = [person.rate for person in refit.people if person.rate]
    rate = median(rates) if rates else USUAL_RATE * 10 ** exponent(refit.currency)

    def price(said: int | None, hours: float) -> int:
        return rounded(Decimal(str(rate)) * Decimal(str(hours))) if said is None else said

    return Prices(
        service_day=price(refit.price_service_day, SERVICE_DAY),
        night_ashore=price(refit.price_night_ashore, NIGHT),
        leave_should=price(refit.price_leave_should, LEAVE_SHOULD),
        leave_could=price(refit.price_leave_could, LEAVE_COULD),
        task_left=price(None, TASK_LEFT),
        moved_task=price(refit.price_moved_task, MOVED),
        day_sooner=price(refit.price_day_sooner, DAY_SOONER),
        danger_day=price(None, DANGER_DAY),
    )


def call_out(person: Person) -> int:
    """What a day on which a paid person comes costs at least: the call-out, or an hour where none is agreed."""
    return rounded(Decimal(person.rate) * Decimal(str(max(person.call_out_hours, 1.0))))


def worth(refit: Refit, value: int) -> Money:
    """A plan's value, or a difference of two, as money; parts of a minor unit are rounded."""
    return Money(rounded(Decimal(value) / VALUE_UNIT), refit.currency)


VALUE_UNIT = 48  # parts of a minor unit that the planner counts in, so that a half-hour's share of a day is whole
