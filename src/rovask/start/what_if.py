"""What a change would do, from the command line: the comparison of core/explain/compare.py as one JSON object."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from rovask.core.explain.compare import Comparison, between, compare
from rovask.core.judged.part_edits import expected_on
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.plain.words import money
from rovask.core.plan.planner import Planned, draft_plan, plan_of, settled
from rovask.core.plan.ready import searched
from rovask.core.plan.solver.improve import improve
from rovask.core.plan.verdict.verdict import judge
from rovask.core.recipes.common import Library
from rovask.core.recipes.preview import Pick, filled
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.work.edits import remove_job

READY_SHARE = 0.2


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked: recipes with answers ("gas", "barrier,coats=4"), jobs to drop, another slot, when parts come."""

    add: Sequence[str] = ()
    drop: Sequence[str] = ()
    launch: datetime | None = None
    parts: Sequence[tuple[str, datetime]] = ()


def ways_of(refit: Refit, library: Library, asked: Asked) -> list[tuple[str, Refit]]:
    """The refits to compare, by name: everything else with each recipe in turn. Raises RefitFaults."""
    changed, named = refit, []
    for key in asked.drop:
        if key not in {job.id for job in refit.jobs}:
            raise RefitFaults([Fault("drop", f"there is no job {key!r}")])
        changed = remove_job(changed, key)
        named.append(f"without {key}")
    if asked.launch is not None:
        changed = rebuilt(changed, launch_at=asked.launch)
        named.append("another slot")
    for key, comes in asked.parts:
        if key not in changed.part_by_id:
            raise RefitFaults([Fault("part", f"there is no part {key!r}")])
        changed = rebuilt(changed, **expected_on(changed, key, comes))
        named.append(f"{key} later or sooner")
    if not asked.add:
        return [(", ".join(named) or "nothing", changed)]
    out = []
    for text in asked.add:
        key, *answers = text.split(",")
        if key not in library.recipes:
            raise RefitFaults([Fault("add", f"there is no recipe {key!r}")])
        given: dict[str, Any] = dict(answer.partition("=")[::2] for answer in answers)
        out.append((text, filled(library, changed, [Pick(library.recipes[key], given)]).refit))
    return out


def what_if(
    refit: Refit,
    library: Library,
    now: datetime,
    asked: Asked,
    seconds: float = 0,
    clock: Callable[[], float] = time.monotonic,
) -> dict[str, Any]:
    """One JSON object; with several recipes one of them for each. seconds: searched on each side, the same for all."""
    ways = ways_of(refit, library, asked)
    base = _searched(refit, now, seconds, clock) if seconds else None
    rows = []
    for name, changed in ways:
        if base is None:
            told = compare(refit, changed, now, None)
        else:
            told = between(refit, base, changed, _searched(changed, now, seconds, clock), settled=True)
        rows.append({"what": name, **_spelled(told)})
    return rows[0] if len(rows) == 1 else {"ways": rows}


def _searched(refit: Refit, now: datetime, seconds: float, clock: Callable[[], float]) -> Planned:
    draft = draft_plan(refit, now)
    draft = settled(refit, draft.plan, seconds / 4, clock)
    if draft.schedule is None:
        return Planned(draft.plan, judge(refit, draft.plan, draft.problem))
    ready = draft.plan.ready
    if ready is not None and not ready.proven:
        ready = searched(draft.problem, ready, seconds * READY_SHARE, clock)
    found = improve(draft.problem, draft.schedule, seconds=seconds, clock=clock)
    plan = plan_of(refit, draft.problem, found.schedule or draft.schedule, now, bound=found.bound, ready=ready)
    return Planned(plan, judge(refit, plan, draft.problem))


def _spelled(told: Comparison) -> dict[str, Any]:
    def amount(value: Money) -> dict[str, Any]:
        return {"minor": value.minor, "currency": value.currency, "told": money(value)}

    before, after = told.before.verdict, told.after.verdict
    return {
        "own_money": amount(told.own),
        "plan_money": amount(told.answer),
        "spare_before_minutes": before.spare_minutes,
        "spare_after_minutes": after.spare_minutes,
        "ready_before": told.before.plan.ready.at.isoformat() if told.before.plan.ready else None,
        "ready_after": told.after.plan.ready.at.isoformat() if told.after.plan.ready else None,
        "outcome_before": before.outcome,
        "outcome_after": after.outcome,
        "jobs_out": list(told.out),
        "jobs_back": list(told.back),
        "settled": told.settled,
    }
