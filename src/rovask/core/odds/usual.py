"""How far things usually come out from what was thought, where nobody typed a spread.

A span is least and most as parts of the likely figure. They are judgements of ours, after common practice in yards: taking
things apart is what runs away (seized, sheared, hidden), a coat seldom does, drying is anybody's guess, and a parcel is more
often late than early. Each can be set under Yard. *Sure* and *wild* are what a sailor may say of any single thing instead of
three figures.
"""

from __future__ import annotations

from typing import NamedTuple

from rovask.core.readings.trade_order import deeds_of
from rovask.core.refit.model import Job, Link, Refit, Task
from rovask.core.refit.work.choices import Deed, Sureness, UsualOf


class Span(NamedTuple):
    """Least and most, as parts of the likely figure: ``least`` at most 1, ``most`` at least 1."""

    least: float
    most: float


USUAL: dict[UsualOf, Span] = {
    UsualOf.TAKING_APART: Span(0.6, 3.0),
    UsualOf.WORK: Span(0.6, 2.2),
    UsualOf.COATS: Span(0.8, 1.5),
    UsualOf.TESTS: Span(0.7, 2.0),
    UsualOf.DRYING: Span(0.6, 2.5),
    UsualOf.WAIT: Span(0.9, 1.3),
    UsualOf.LEAD: Span(0.8, 2.0),
    UsualOf.UNKNOWN: Span(0.5, 2.0),
}
ALL_ERR = 0.15  # log-sd of what the whole refit errs by together: a judgement, see docs/odds.md
NO_SHOW = 0.08  # that a trade does not come on a day it is planned for (judgement)
ILL_A_DAY = 0.008  # that somebody falls ill on a day: some three times a year
ILL_DAYS = (1, 2, 7)  # for so long: least, likely, most
NOT_RIGHT = 0.10  # that paid work is not accepted as it is …
AGAIN = 0.25  # … and takes so much of its hours again
LATE_USUAL = Span(0.0, 0.6)  # a parcel under way: by so much of its time to come it may be late, never early
LONG_WAIT = 8  # hours: a shorter wait has no usual spread, for somebody looks at the clock
WILDER = 2.0  # wild: twice as far on both sides as usual, but never under a quarter of the likely figure
SURER = 0.25  # sure: a quarter as far


def usual_span(refit: Refit, of: UsualOf, sureness: Sureness | None) -> Span:
    """The span of something nobody typed figures for: as the yard's usual one says, narrower or wider as the sailor says.

    >>> from rovask.core.refit.model import Refit
    >>> usual_span(Refit.model_construct(usual_spreads=()), UsualOf.WORK, None)
    Span(least=0.6, most=2.2)
    >>> usual_span(Refit.model_construct(usual_spreads=()), UsualOf.WORK, Sureness.WILD)
    Span(least=0.25, most=3.4)
    """
    span = next((Span(one.least, one.most) for one in refit.usual_spreads if one.of is of), USUAL[of])
    if sureness in (None, Sureness.USUAL):
        return span
    by = WILDER if sureness is Sureness.WILD else SURER
    return Span(round(max(1 - by * (1 - span.least), 0.25), 6), round(1 + by * (span.most - 1), 6))


def usual_of_work(job: Job, task: Task) -> UsualOf:
    """Which usual spread the hours of a task have: by what it does, for an own one else as its title reads."""
    deeds = deeds_of(job, task)
    if Deed.OPENS in deeds:
        return UsualOf.TAKING_APART
    if Deed.COATS in deeds:
        return UsualOf.COATS
    if Deed.TESTS in deeds:
        return UsualOf.TESTS
    return UsualOf.WORK


def usual_of_wait(link: Link) -> UsualOf:
    """Which usual spread a wait has: a drying that is read, or any other that is long enough to be uncertain."""
    return UsualOf.DRYING if link.reading else UsualOf.WAIT
