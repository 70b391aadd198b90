"""Behind the work: cures that run on, and where tasks lay before."""

from __future__ import annotations

from datetime import timedelta

from rovask.core.plan.result import Plan
from rovask.core.readings.curing import CureClock
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import LinkKind
from rovask.web.slip.marks import Block, Bracket, Chart, Ghost, Tail
from rovask.web.slip.scale import TimeScale

Ends = dict[str, Block]


def cures_of(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
    """Cures as tails that run on, and the windows that close."""
    at = plan.by_task()
    clock = CureClock.of(refit)
    for link in refit.waits:
        block, item = ends.get(link.first), at.get(link.first)
        if block is None or item is None or link.kind is not LinkKind.FS or not link.min_lag:
            continue
        cured, closes = clock.ready_after(link, item.end), clock.closes_after(link, item.end)
        x, x1 = scale.x(item.end), scale.x(cured)
        height = min(block.height * 0.55, 6.0)
        if x1 > x:
            chart.tails.append(Tail(x, block.y + block.height - height, x1 - x, height))
        then = refit.tasks.get(link.then)
        if closes is not None and then is not None and not then.begun_at and link.id not in plan.made_good:
            close = scale.x(closes)
            if close > x1:
                chart.brackets.append(Bracket(x1, block.y + block.height + 1.5, close - x1))


def ghosts_of(plan: Plan, before: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
    """Where tasks lay before that moved."""
    was = before.by_task()
    for item in plan.assignments:
        old, block = was.get(item.task), ends.get(item.task)
        if old is None or block is None or block.tone != "todo":
            continue
        if abs(old.start - item.start) >= timedelta(hours=1):
            x = scale.x(old.start)
            chart.ghosts.append(Ghost(x, block.y, max(scale.x(old.end) - x, 2.0), block.height))
