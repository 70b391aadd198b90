"""A way to save, worked out with the plan: what is spared less what the rest of the plan does in answer."""

from __future__ import annotations

from dataclasses import replace

from rovask.core.books.savings import COULD_HARM, SHOULD_HARM, Saving, SavingKind, by_ourselves, not_called
from rovask.core.explain.compare import compare
from rovask.core.explain.search import Search
from rovask.core.plan.planner import Planned
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import Need

DAY = 24 * 60  # minutes
ANSWERED = (SavingKind.OWN_HANDS, SavingKind.CALL_OUTS)  # what others do instead, or another day, is the plan's answer


def saving_worked(refit: Refit, planned: Planned, row: Saving, search: Search | None = None) -> Saving:
    """One of ``ANSWERED`` with what it really saves: nothing or less where a call-out only moves, or others are paid instead.

    Harm are also the days the launch is ready later, and jobs that fall out, as if they were put off. Raises Halted when
    the search was given up.
    """
    if row.kind is SavingKind.CALL_OUTS:
        changed = not_called(refit, planned.plan, row.key)
    else:
        changed = by_ourselves(refit, row.key)
    told = compare(refit, changed, planned.plan.now, planned.plan, search)
    harm = row.harm + max(-told.sooner, 0) / DAY
    harm += sum(COULD_HARM if job.need is Need.COULD else SHOULD_HARM for job in refit.jobs if job.title in told.out)
    how = row.how + "".join(f"; “{title}” falls out" for title in told.out)
    return replace(row, how=how, money=-told.money.minor, harm=harm, settled=True)
