"""What of the plan a chart shows: its days, its width, whose work."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit


@dataclass(frozen=True, slots=True)
class View:
    """What part of the plan is shown and how large; names of tasks appear when a day is wide enough."""

    first: date
    last: date
    width: float = 1240.0
    label_width: float = 118.0
    person: str = ""
    job: str = ""
    place: str = ""


def whole_view(refit: Refit, plan: Plan, width: float = 1240.0) -> View:
    """From the haul-out to the last task afloat."""
    zone = refit.yard.zone
    begins = [item.start for item in plan.assignments] + [refit.haul_at]
    ends = [item.end for item in plan.assignments] + [plan.launch, refit.launch_at]
    return View(min(begins).astimezone(zone).date(), max(ends).astimezone(zone).date(), width)
