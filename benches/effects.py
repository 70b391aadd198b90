"""How true a previewed effect is: over every recipe that fits, what was said before against what came of it.

For each refit a plan is searched for as long as ``seconds``. Each recipe is previewed from it, first and settled, as its
page does; then it is added for good and both sides are searched as long again. What was said of money and launch is held
against that. The money of the thing itself must agree; the rest is marked as the plan's answer.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from statistics import median
from typing import Any

from benches.generate import generated_refit
from benches.planner import WORKERS, tell
from rovask.core.explain.compare import about_nothing, between
from rovask.core.explain.search import SETTLING_SECONDS, Search
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import Draft, Planned, draft_plan, plan_of
from rovask.core.plan.ready import searched
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import improve
from rovask.core.plan.verdict.verdict import judge
from rovask.core.recipes.answers import refusals
from rovask.core.recipes.common import Library
from rovask.core.recipes.preview import Pick, filled, preview
from rovask.core.refit.model import Refit
from rovask.formats.recipe_file import library
from rovask.formats.refit_file import read_refit

ROOT = Path(__file__).parents[1]
READY_SHARE = 0.2
LEAST_MINOR, SHARE = 500, 0.01  # 5 EUR, or a hundredth of the job's own cost
MOST_BEYOND = 0.05
LAUNCH_WITHIN = 120
AT_ONCE_S, SETTLED_S = 1.0, 5.0


def searched_for(refit: Refit, now: datetime, before: Plan | None, seconds: float) -> Planned:
    """The plan a worker would come to in so many seconds."""
    draft: Draft = draft_plan(refit, now, before=before)
    if draft.schedule is None:
        return Planned(draft.plan, judge(refit, draft.plan, draft.problem))
    ready = draft.plan.ready
    if ready is not None and not ready.proven:
        ready = searched(draft.problem, ready, seconds * READY_SHARE, time.monotonic)
    found = improve(draft.problem, draft.schedule, seconds=seconds, clock=time.monotonic, workers=WORKERS)
    plan = plan_of(refit, draft.problem, found.schedule or draft.schedule, now, bound=found.bound, ready=ready)
    return Planned(plan, judge(refit, plan, draft.problem))


def _refits() -> Iterator[tuple[str, Refit, datetime]]:
    demo = read_refit((ROOT / "src/rovask/start/demo.refit.json").read_bytes()).refit
    yield "demo", demo, max(entry.at for entry in demo.hours_log) + timedelta(minutes=30)
    for seed in (1, 2):
        refit = generated_refit(120, seed)
        yield f"generated 120/{seed}", refit, refit.haul_at


def _fitting(shelf: Library, refit: Refit) -> Iterator[tuple[str, Pick]]:
    """The recipes that fit a refit, as their page has them before anything is answered."""
    for key, recipe in shelf.recipes.items():
        pick = Pick(recipe, {})
        try:
            if refusals(recipe, refit) or not filled(shelf, refit, [pick]).expansions:
                continue
        except (RefitFaults, ValueError):
            continue
        yield key, pick


def effects(seconds: float = 60.0, every: int = 1) -> list[bool]:
    """Every ``every``-th recipe; a line for each, and one for each refit with its medians against the bounds."""
    holds, shelf = [twice()], library()
    for name, refit, now in _refits():
        base = searched_for(refit, now, None, seconds)
        anew = searched_for(refit, now, base.plan, seconds)
        rows = [
            _one(name, key, shelf, refit, base, anew, pick, seconds)
            for key, pick in list(_fitting(shelf, refit))[::every]
        ]
        beyond = [row for row in rows if row["beyond"]]
        holds.append(
            tell(
                f"effects, {name}",
                median([row["share"] for row in rows]) <= 1
                and len(beyond) <= MOST_BEYOND * len(rows)
                and median([row["launch_error_min"] for row in rows]) <= LAUNCH_WITHIN
                and max(row["settled_s"] for row in rows) <= SETTLED_S,
                recipes=len(rows),
                searched_s=seconds,
                median_error_minor=median([row["error_minor"] for row in rows]),
                median_error_of_own_minor=median([row["own_error_minor"] for row in rows]),
                beyond=[row["recipe"] for row in beyond],
                launch_error_min={
                    "median": median([row["launch_error_min"] for row in rows]),
                    "beyond": [row["recipe"] for row in rows if row["launch_error_min"] > LAUNCH_WITHIN],
                },
                settled_s=round(median([row["settled_s"] for row in rows]), 2),
                most_settled_s=round(max(row["settled_s"] for row in rows), 2),
                first_s=round(median([row["first_s"] for row in rows]), 3),
            )
        )
    return holds


TWICE_EVERY, MOST_MEDIAN, MOST_OF_NINE = 8, 1000, 4000  # minor units: the spread of two answers, half and nine of ten


def twice(seconds: float = 20.0, every: int = TWICE_EVERY) -> bool:
    """Every eighth recipe asked twice on the demo, the second time for twice as long: how far settled answers lie apart.

    What is told as a range, since searches of the one question disagree, is counted and not measured.
    """
    name, refit, now = next(_refits())
    shelf, base = library(), searched_for(refit, now, None, seconds)
    rows: list[int] = []
    ranged = 0
    for key, pick in list(_fitting(shelf, refit))[::every]:
        basket = filled(shelf, refit, [pick])
        told = [
            preview(refit, basket, base, Search(SETTLING_SECONDS * much, time.monotonic)).told for much in (1.0, 2.0)
        ]
        answers = [0 if abs(one.answer.minor) <= about_nothing(one.own) else one.answer.minor for one in told]
        firm, apart = [one.firm for one in told], abs(answers[0] - answers[1])
        if all(firm):
            rows.append(apart)
        ranges = [None if one.answers is None else [one.answers.low, one.answers.high] for one in told]
        ranged += not all(firm)
        tell(
            f"asked twice, {name}",
            None,
            firm=firm,
            recipe=key,
            answers_minor=answers,
            ranges_minor=ranges,
            spread_minor=apart,
        )
    spread = sorted(rows) or [MOST_OF_NINE + 1]  # nothing settled is no answer either
    ninth = spread[max(-(-9 * len(spread) // 10) - 1, 0)]
    return tell(
        f"asked twice, {name}",
        median(spread) <= MOST_MEDIAN and ninth <= MOST_OF_NINE,
        recipes=len(rows) + ranged,
        told_as_a_range=ranged,
        median_spread_minor=median(spread),
        nine_of_ten_minor=ninth,
    )


def _one(
    name: str, key: str, shelf: Library, refit: Refit, base: Planned, anew: Planned, pick: Pick, seconds: float
) -> dict[str, Any]:
    """One recipe: what its page says, and what came of it."""
    basket = filled(shelf, refit, [pick])
    began = time.perf_counter()
    preview(refit, basket, base)
    first = time.perf_counter() - began
    said = preview(refit, basket, base, Search(SETTLING_SECONDS, time.monotonic)).told
    settled = time.perf_counter() - began - first
    came = between(
        refit, anew, basket.refit, searched_for(basket.refit, base.plan.now, base.plan, seconds), settled=True
    )
    error = abs(said.money.minor - came.money.minor)
    allowed = max(LEAST_MINOR, round(SHARE * abs(came.own.minor)))
    row = {
        "recipe": key,
        "own_minor": said.own.minor,
        "answer_minor": said.answer.minor,
        "came_own_minor": came.own.minor,
        "came_answer_minor": came.answer.minor,
        "error_minor": error,
        "own_error_minor": abs(said.own.minor - came.own.minor),
        "share": round(error / allowed, 3),
        # further from the truth than what the page marks as the plan's answer, or than what that came to
        "beyond": error > allowed + max(abs(said.answer.minor), abs(came.answer.minor)),
        "launch_error_min": abs(said.sooner - came.sooner),
        "first_s": round(first, 3),
        "settled_s": round(settled, 3),
    }
    tell(f"effect, {name}", None, **row)
    return row
