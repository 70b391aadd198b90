"""What a calculator's result becomes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.core.bench.all_calculators import CALCULATORS, read_values, worked
from rovask.core.bench.becomes import used
from rovask.core.bench.calculator import AskedAt
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import EditOutcome, RefitCommand, Situation


@dataclass(frozen=True)
class UseResult(RefitCommand):
    """Make a result a part line, a task's duration or a lag; makes the page where it then stands."""

    calculator: str
    typed: Mapping[str, str]
    way: str
    task: str = ""
    tie: str = ""
    wanted_by: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Worked out again on the refit as it is, and put to use. Raises RefitFaults."""
        calculator = CALCULATORS[self.calculator]
        place = AskedAt(refit, at.planned.plan, at.moment)
        result = worked(calculator, read_values(calculator, self.typed, place), place)
        use = used(
            refit, calculator, result, self.way, task=self.task, tie=self.tie, needs=self.wanted_by, new_id=at.new_id
        )
        return EditOutcome(Edited(use.refit), use.told, use.page)
