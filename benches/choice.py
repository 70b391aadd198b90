"""How soon ways are laid out and what makes the date is found, and how near that is to trying everything."""

from __future__ import annotations

import json
from datetime import datetime, timedelta
from itertools import combinations
from statistics import median
from time import monotonic
from typing import Any

from benches.generate import generated_refit
from benches.worlds import tight
from rovask.core.choice.frontier import Search, frontier
from rovask.core.choice.lay import SideBySide
from rovask.core.choice.levers import Asked, levers_of
from rovask.core.choice.tried import Tried
from rovask.core.plan.planner import Planned, draft_plan, plan_of
from rovask.core.plan.solver.improve import Stop, improve
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Act, ProposedWay, Refit
from rovask.core.refit.ways.choices import ActSort
from rovask.core.refit.work.choices import Need
from rovask.desk.acts import layings
from rovask.formats.recipe_file import library
from rovask.work.make_date import Looking
from rovask.work.tryers import close, tryers

FIRST, SETTLED, DATE, SEASONS = 1.0, 8.0, 20.0, 10.0  # seconds
EXACT, NEAR_ODDS, NEAR_MONEY = 0.9, 0.02, 0.03
SEEDS = (1, 2, 3, 5, 6, 7, 8, 9, 10, 11)  # generated refits in which there are twelve choices


def tell(**row: Any) -> bool:
    """One figure as a line; whether it holds."""
    print(json.dumps({"bench": "choice"} | row), flush=True)
    return bool(row.get("holds", True))


def searched(refit: Refit, seconds: float) -> Planned:
    """A refit's plan as the worker would have left it."""
    draft = draft_plan(refit, refit.haul_at)
    assert draft.schedule is not None
    found = improve(draft.problem, draft.schedule, seconds=seconds, clock=monotonic, workers=2, stop=Stop(), seed=1)
    plan = plan_of(refit, draft.problem, found.schedule or draft.schedule, draft.plan.now, ready=draft.plan.ready)
    return Planned(plan, judge(refit, plan, draft.problem))


def with_a_tight_slot(refit: Refit, planned: Planned) -> Refit:
    """The refit with a slot a day after it could be ready, and every third job one that may be left."""
    ready = planned.plan.ready
    assert ready is not None
    zone = refit.yard.zone
    slot = datetime.combine(
        (ready.at.astimezone(zone) + timedelta(days=1)).date(), datetime.min.time().replace(hour=10), zone
    )
    jobs = tuple(
        job.model_copy(update={"need": Need.SHOULD if at % 3 == 1 else job.need}) for at, job in enumerate(refit.jobs)
    )
    return rebuilt(refit, launch_at=max(slot, refit.haul_at + timedelta(days=3)), jobs=jobs)


def act(do: ActSort, **more: Any) -> Act:
    """An act of a way."""
    return Act(do=do, **more)


def six_ways(refit: Refit) -> list[ProposedWay]:
    """Five ways beside as it is: two jobs less, a hand, longer days, a week later."""
    first = refit.haul_at.date() + timedelta(days=2)
    jobs = [job.id for job in refit.jobs if job.need is not Need.MUST][:2]
    acts = [act(ActSort.NEXT_TIME, of=job) for job in jobs]
    acts.append(act(ActSort.HAND, name="Ida", first=first, last=first + timedelta(days=9), money=10_000))
    acts.append(act(ActSort.LONGER, of=next(one.id for one in refit.people if one.role == "owner"), hours=1.0))
    acts.append(act(ActSort.SLOT, at=refit.launch_at + timedelta(days=7)))
    return [ProposedWay(id=f"way-{at}", title=f"Way {at}", acts=(one,)) for at, one in enumerate(acts, 1)]


def ways_side_by_side() -> list[bool]:
    """First figures of one way, and six ways settled; medians of three."""
    refit = generated_refit(150, 1)
    refit = with_a_tight_slot(refit, searched(refit, 5))
    planned = searched(refit, 10)
    at_hand, out = library(), []
    ways = six_ways(refit)
    layings(refit, ways, planned, planned.plan.now, at_hand)  # warm
    for rows, name in ((ways[:1], "one way"), (ways, "six ways")):
        firsts, wholes = [], []
        for _ in range(3):
            begun = monotonic()
            desk = SideBySide(refit, planned, layings(refit, rows, planned, planned.plan.now, at_hand))
            desk.first()
            firsts.append(monotonic() - begun)
            desk.settled(monotonic, Stop())
            wholes.append(monotonic() - begun)
        if name == "one way":
            out.append(
                tell(
                    what="first figures of a way, 150 tasks",
                    seconds=round(median(firsts), 2),
                    bound=FIRST,
                    holds=median(firsts) <= FIRST,
                )
            )
        else:
            out.append(
                tell(
                    what="six ways settled, 150 tasks",
                    seconds=round(median(wholes), 2),
                    bound=SETTLED,
                    holds=median(wholes) <= SETTLED,
                )
            )
    return out


def four_seasons() -> bool:
    """Four launches three months apart."""
    refit = generated_refit(150, 1)
    refit = with_a_tight_slot(refit, searched(refit, 5))
    planned = searched(refit, 5)
    ways = [
        ProposedWay(
            id=f"season-{n}",
            title=f"Season {n}",
            acts=(act(ActSort.SLOT, at=refit.launch_at + timedelta(days=90 * n)),),
        )
        for n in range(1, 5)
    ]
    begun = monotonic()
    SideBySide(refit, planned, layings(refit, ways, planned, planned.plan.now, library())).settled(monotonic, Stop())
    seconds = monotonic() - begun
    return tell(
        what="four seasons settled, 150 tasks", seconds=round(seconds, 2), bound=SEASONS, holds=seconds <= SEASONS
    )


def make_the_date() -> bool:
    """Thirty jobs: how long it takes, and how much was tried in that time."""
    refit = generated_refit(175, 1)
    refit = with_a_tight_slot(refit, searched(refit, 5))
    planned = searched(refit, 5)
    asked = Asked(odds=0.9, money=200_000, hand_day=10_000, longer=1.0, slots=(refit.launch_at + timedelta(days=7),))
    begun = monotonic()
    found = Looking(refit, planned, asked, planned.plan.now, library(), monotonic, lambda _: True).run(DATE)
    seconds = monotonic() - begun
    close()
    return tell(
        what=f"make the date, {len(refit.jobs)} jobs", seconds=round(seconds, 2), bound=DATE, holds=seconds <= DATE, levers=found.levers,
        tried=found.tried, stands=found.stands, points=[(point.words, point.dearer) for point in found.points],
        as_it_is=found.as_it_is.words if found.as_it_is is not None else "",
    )  # fmt: skip


def twelve_choices(seed: int) -> dict[str, Any]:
    """The frontier that is found of twelve choices against that of every subset, by the very same tries.

    A launch that is kept in four of ten runs, and levers that cost something: two lengths of a hand, longer days, own hands for trades,
    jobs left at a price.
    """
    refit = generated_refit(48, seed)
    jobs = tuple(
        job.model_copy(update={"need": Need.SHOULD if at % 2 else Need.MUST}) for at, job in enumerate(refit.jobs)
    )
    refit = tight(rebuilt(refit, jobs=jobs, price_leave_should=20_000), 0.4)
    planned = searched(refit, 2)
    levers = levers_of(refit, planned.plan, Asked(hand_day=5_000, express_money=2_000, own_times=1.2, longer=1.0))[:12]
    with tryers(refit, planned, levers, planned.plan.now, library()) as pool:
        search = Search(levers, pool.some, lambda _, __: True, 8)
        begun = monotonic()
        found = search.run()
        seconds = monotonic() - begun
        every = [
            frozenset(some)
            for many in range(len(levers) + 1)
            for some in combinations([one.key for one in levers], many)
        ]
        rest = [keys for keys in every if keys not in search.found]
        all_of_them = [one for one in [*search.found.values(), *pool.some(rest)] if one is not None]
    true = frontier(all_of_them)
    base = next(one for one in all_of_them if not one.levers)
    return {
        "choices": len(levers), "subsets": len(every), "tried": len(search.found), "seconds": round(seconds, 1), "points": len(true),
        "exact": {one.levers for one in true} == {one.levers for one in found},
        "near": all(_near(one, found, base) for one in true),
    }  # fmt: skip


def _near(true: Tried, found: list[Tried], base: Tried) -> bool:
    allowed = NEAR_MONEY * abs(base.money)
    return any(one.odds >= true.odds - NEAR_ODDS and one.price <= true.price + allowed for one in found)


def against_every_subset() -> bool:
    """Ten refits of twelve choices."""
    rows = []
    for seed in SEEDS:
        row = twelve_choices(seed)
        tell(what=f"twelve choices, refit {seed}", **row)
        rows.append(row)
    close()
    exact = sum(row["exact"] for row in rows) / len(rows)
    holds = exact >= EXACT and all(row["near"] for row in rows)
    return tell(
        what="twelve choices, the true frontier",
        exact=exact,
        bound=EXACT,
        all_near=all(row["near"] for row in rows),
        holds=holds,
    )


def choice() -> list[bool]:
    """How soon each is there, and how good what makes the date is; some ten minutes, most of them for trying every subset."""
    return [*ways_side_by_side(), four_seasons(), make_the_date(), against_every_subset()]
