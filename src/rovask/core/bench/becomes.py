"""What a calculator's result becomes in the refit: a part to get, a task's hours, or a wait between two tasks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from rovask.core.bench.calculator import Calculator, Result
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.edits import put
from rovask.core.refit.model import Part, Refit
from rovask.core.refit.typed import whole
from rovask.core.refit.work.edits import task_of, update_task

USUAL_LEAD_DAYS = 3


@dataclass(frozen=True, slots=True)
class Use:
    """A result put to use: what is told of it, the refit with it, and the page where it then stands."""

    told: str
    refit: Refit
    page: str


def used(
    refit: Refit,
    calculator: Calculator,
    result: Result,
    way: str,
    *,
    task: str,
    tie: str,
    needs: str = "",
    new_id: Callable[[str], str],
) -> Use:
    """The result as a part (``part-0``, ``part-1`` …), as a task's ``hours`` or as the ``lag`` of a tie. Raises RefitFaults.

    needs: the task a part is for, "" for none yet.
    """
    title = calculator.title.lower()
    if way.startswith("part-"):
        return _part(refit, result, way.removeprefix("part-"), new_id("part"), needs)
    if way == "hours" and result.hours is not None:
        work, hours = task_of(refit, task).work, result.hours
        longer = {"least": min(work.least, hours), "likely": hours, "most": max(work.most, hours)}
        return Use(f"took {hours:g} h of work from the bench, {title}", update_task(refit, task, work=longer), "jobs")
    if way == "lag" and result.lag is not None:
        least, most = result.lag
        link = next((one for one in refit.links if one.id == tie), None)
        if link is None:
            raise RefitFaults([Fault("tie", "Choose the tie first.")])
        row = link.model_dump() | {"min_lag": least, "max_lag": most, "cures": False}
        if most is None:
            row |= {"make_good_hours": None}
        told = f"took a wait of {least:g} h from the bench, {title}"
        return Use(told, put(refit, type(link).model_validate(row)), "jobs")
    raise RefitFaults([Fault("", "Choose what the result is to become.")])


def _part(refit: Refit, result: Result, number: str, key: str, needs: str) -> Use:
    try:
        line = result.parts[whole(number, least=0, most=max(len(result.parts) - 1, 0))]
    except (ValueError, IndexError):
        raise RefitFaults([Fault("", "Choose what the result is to become.")]) from None
    part = Part(id=key, name=line.name, quantity=line.quantity, unit=line.unit, lead_days=USUAL_LEAD_DAYS)
    after, told = put(refit, part), f"added part “{line.name}” from the bench"
    if needs:
        task = task_of(after, needs)
        after = update_task(after, needs, parts=(*task.parts, key))
        told += f", for “{task.title}”"
    return Use(told, after, "stores")
