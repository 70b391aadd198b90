"""A call-out spared, worked out with the plan: whether the work finds room on another day, and what it saves then."""

from __future__ import annotations

from dataclasses import replace

from rovask.core.books.savings import LEAST, Saving, SavingKind, not_called, ranked
from rovask.core.plan.explain.compare import compare
from rovask.core.plan.planner import Planned
from rovask.core.refit.model import Refit

DAY = 24 * 60  # minutes


def call_outs_worked(refit: Refit, planned: Planned, rows: list[Saving]) -> list[Saving]:
    """The same ways to save, ranked anew; those that spare a call-out with what a plan without it really saves.

    One that saves nothing, because the plan then needs them on one more day, or that leaves a job out, is dropped.
    harm: days the launch is ready later. One plan for each person who is called out.
    """
    return ranked([_worked(refit, planned, row) if row.kind is SavingKind.CALL_OUTS else row for row in rows])


def _worked(refit: Refit, planned: Planned, row: Saving) -> Saving:
    told = compare(refit, not_called(refit, planned.plan, row.key), planned.plan.now, planned.plan)
    if told.out:
        return replace(row, money=0)
    return replace(row, money=-told.money.minor, harm=max(-told.sooner / DAY, LEAST))
