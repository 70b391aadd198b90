"""What it does when something that was ordered comes as late as it may, or does not fit: a plan each, beside the good case."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.explain.compare import Comparison, compare
from rovask.core.explain.effects import effect_of
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit


@dataclass(frozen=True, slots=True)
class Risk:
    """One thing that may go wrong, in words, with what it does against the case in which it does not. Two plans."""

    title: str
    told: Comparison

    @property
    def launch(self) -> str:
        """What it does to the launch, in words. What comes later never helps: a better plan found on the way is no gain of it."""
        before, after = self.told.before.verdict, self.told.after.verdict
        worse = after.spare_minutes < before.spare_minutes or after.outcome is not before.outcome
        return effect_of(before, after)[0] if worse else "the launch no later"


def late_risk(days: int, good: Refit, late: Refit, plan: Plan) -> Risk:
    """It comes only after ``days``, the longest that was said."""
    return Risk(f"if it takes {days} d", compare(good, late, plan.now, plan))


def misfit_risk(chance: float, good: Refit, again: Refit, plan: Plan) -> Risk:
    """It does not fit, and another is waited for as long: both paid, nothing taken back yet."""
    return Risk(f"if it does not fit ({chance * 100:.0f} %)", compare(good, again, plan.now, plan))
