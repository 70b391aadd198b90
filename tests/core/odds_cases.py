"""Small refits for the odds whose answers can be worked out by hand: hours that never stop, figures with a spread."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import numpy as np
import numpy.typing as npt

from rovask.core.odds.game import Game, game_of
from rovask.core.odds.play import one_run
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE
from rovask.core.plan.result import Assignment, Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.work.kinds import Task
from tests.builders import HAUL, data, person, task

ALWAYS = [{"days": ["mon", "tue", "wed", "thu", "fri", "sat", "sun"], "start": "00:00", "end": "00:00"}]
Pmf = npt.NDArray[np.float64]


def spread(key: str, least: float, likely: float, most: float, **more: Any) -> dict[str, Any]:
    """A task of ann's, unless said otherwise, that may take from … to … hours."""
    return task(key, **{"people": ["ann"]} | more) | {"work": {"least": least, "likely": likely, "most": most}}


def round_the_clock(*tasks: dict[str, Any], hours: float = 100, **more: Any) -> Refit:
    """A refit in which everybody works day and night, so that work is elapsed time; the slot ``hours`` after the haul-out."""
    people = [person(who, hours=ALWAYS, longest_run=99) for who in ("ann", "bo", "cy")]
    whole = {"people": people, "launch_at": (HAUL + timedelta(hours=hours)).isoformat(), "places": [PLACE]} | more
    return Refit.model_validate(data(*tasks, **whole))


PLACE = {"id": "hull", "name": "Hull", "capacity": 9}


def pmf(least: float, likely: float, most: float) -> Pmf:
    """Chances of a modified PERT task taking 0, 1, 2 … half-hours, rounded to the nearest: the density summed in fine cells.

    Worked out apart from odds/spread.py, from the beta density itself.
    """
    cells = 20_000
    at = least + (most - least) * (np.arange(cells) + 0.5) / cells
    a, b = 1 + 4 * (likely - least) / (most - least), 1 + 4 * (most - likely) / (most - least)
    density = ((at - least) ** (a - 1)) * ((most - at) ** (b - 1))
    out = np.bincount(np.floor(2 * at + 0.5).astype(int), weights=density)
    return np.asarray(out / out.sum())


def at_most(chances: Pmf, hours: float) -> float:
    return float(chances[: int(2 * hours) + 1].sum())


def planned(refit: Refit, now: datetime = HAUL) -> Plan:
    return plan_and_judge(refit, now).plan


def as_plan(game: Game, hand: Any, run: int) -> tuple[Refit, Plan]:
    """One run as a plan of the refit as it turned out in it: hours, waits and lead times as they were drawn.

    For games of what was typed alone, without anything that comes to light.
    """
    refit, net, grid = game.refit, game.made.net, game.made.problem.grid
    start, end, mode, _ = one_run(net, hand, run)
    hours: dict[str, float] = {}
    rows = []
    for node in range(FIRST_TASK, game.made.problem.size):
        key = game.made.names[node]
        if start[node] < 0:
            continue
        hours[key] = hand.work[run, node] / 2
        crew = tuple(refit.people[who].id for who in net.mode[mode[node], 2:].tolist() if who >= 0)
        rows.append(
            Assignment(task=key, start=grid.moment(int(start[node])), end=grid.moment(int(end[node])), people=crew)
        )
    waits = {key: hand.wait[run, at] / 2 for at, key in enumerate(game.made.waits)}
    cures = {link.id for link in refit.links if link.cures}

    def turned_out(one: Task) -> Task:
        if one.id not in hours:
            return one
        work = one.work.model_copy(update={"likely": hours[one.id]})
        return one.model_copy(update={"work": work, "units": 1, "units_done": 0})

    jobs = tuple(job.model_copy(update={"tasks": tuple(map(turned_out, job.tasks))}) for job in refit.jobs)
    links = tuple(
        link.model_copy(update={"min_lag": waits[link.id] / (1_000_000 if link.id in cures else 1)})
        if link.id in waits
        else link
        for link in refit.links
    )
    left = tuple(job.id for job in refit.jobs if not any(one.id in hours for one in job.tasks))
    launch = grid.moment(int(end[LAUNCH_NODE]))
    plan = game.plan.model_copy(update={"assignments": tuple(rows), "launch": launch, "left_out": left, "ready": None})
    return refit.supposed(jobs=jobs, links=links), plan


def typed_game(refit: Refit, now: datetime | None = None) -> Game:
    return game_of(refit, planned(refit, now or refit.haul_at), 1, only_typed=True)
