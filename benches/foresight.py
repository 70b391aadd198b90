"""How well the play foresees: against planning anew each morning, and against histories from a wider world than the model's."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import partial
from statistics import median
from time import monotonic

import numpy as np

from benches.generate import generated_refit
from benches.worlds import MORNING, World, drawn_hours, lived, planned_each_morning, tight
from rovask.core.books.pace import kind_of_work
from rovask.core.odds.game import game_of
from rovask.core.odds.odds import odds_of
from rovask.core.odds.surer import surer
from rovask.core.plan.planner import Draft, draft_plan, make_plan, plan_of
from rovask.core.plan.problem.value import value_of
from rovask.core.plan.solver.improve import improve
from rovask.core.refit.givens.weather import Weather
from rovask.core.refit.model import Refit
from rovask.core.refit.work.kinds import Job

SEEDS = range(1, 7)
WORLDS = 40
APART = 0.05  # points that planning anew may reach more or less, on the median


def each_morning() -> bool:
    """The share of worlds in which the slot is kept by one plan and a foreman, and by planning anew each morning."""
    apart = []
    for seed in SEEDS:
        refit = tight(generated_refit(30, seed), only_typed=True)
        plan = make_plan(refit, refit.haul_at)
        game = game_of(refit, plan, 1, only_typed=True)
        once, anew = 0, 0
        for run in range(WORLDS):
            slots = drawn_hours(game, run)
            whole = lived(refit, plan, World(run, dict(slots), only_typed=True), None)
            once += whole.ready is not None and whole.ready <= refit.launch_at
            anew += planned_each_morning(refit, plan, World(run, dict(slots), only_typed=True))
        odds = odds_of(refit, plan, only_typed=True, looks=False).odds
        apart.append((anew - once) / WORLDS)
        print(
            json.dumps(
                {
                    "bench": f"odds, foresight, {seed}",
                    "odds": odds,
                    "same worlds": once / WORLDS,
                    "each morning": anew / WORLDS,
                }
            ),
            flush=True,
        )
    holds = abs(median(apart)) <= APART
    print(json.dumps({"bench": "odds, foresight", "median": round(median(apart), 3), "bound": APART, "holds": holds}))
    return holds


@dataclass(frozen=True)
class Wider:
    """A world wider than the model's. pace, whole: log-sd of each person's pace at each kind of work, and of everything together;
    tails: degrees of freedom of the pace's t distribution; slower: what everybody takes for an hour that was thought; own: how much
    further than typed the ends of a task's hours lie.
    """

    pace: float = 0.5
    whole: float = 0.15
    tails: float = 4.0
    slower: float = 1.0
    own: float = 1.2


LOGGED = 10  # tasks done and logged before anything is foreseen
HISTORIES = 240
FORESEEN = 800  # runs


@dataclass(frozen=True)
class History:
    """What was foreseen when ten tasks were logged, and what came: within the 80 % range, by the 10, 50, 80 and 90 % moments, and (odds,
    kept) of several slots.
    """

    inside: bool
    by: tuple[bool, ...]
    slots: tuple[tuple[float, bool], ...]


def _true_hours(refit: Refit, wider: Wider, random: np.random.Generator) -> dict[str, int]:
    plan = make_plan(refit, refit.haul_at).by_task()
    whole = float(random.normal(0.0, wider.whole))
    paces: dict[tuple[str, str], float] = {}
    out = {}
    for task in refit.tasks.values():
        if task.id not in plan:
            continue
        crew = [
            paces.setdefault((who, kind_of_work(refit, task)), _pace(wider, random)) for who in plan[task.id].people
        ]
        hours = refit.hours_to_do(task)
        low, high = (
            hours - wider.own * (hours - hours * task.work.least / task.work.likely),
            hours * (1 + wider.own * (task.work.most / task.work.likely - 1)),
        )
        low = max(low, 0.25)
        a, b = 1 + 4 * (hours - low) / (high - low), 1 + 4 * (high - hours) / (high - low)
        hours = low + (high - low) * float(random.beta(a, b))
        out[task.id] = max(round(2 * hours * np.exp(whole + np.mean(crew))), 1)
    return out


def _pace(wider: Wider, random: np.random.Generator) -> float:
    scale = wider.pace / np.sqrt(wider.tails / (wider.tails - 2))
    return float(np.log(wider.slower) + scale * random.standard_t(wider.tails))


def history(number: int, wider: Wider) -> History | None:
    """One haul-out: worked until ten tasks are logged, foreseen then, and worked to its end; None where it was over by then."""
    random = np.random.default_rng(1000 + number)
    refit = generated_refit(28, 1 + number % 12)
    bare = {"parts": (), "weather": Weather(), "jobs": tuple(_without_parts(job) for job in refit.jobs)}
    refit = refit.supposed(**bare)
    plan = make_plan(refit, refit.haul_at)
    world = World(1000 + number, _true_hours(refit, wider, random))

    def tenth(ends: list[datetime]) -> datetime:
        last = ends[min(LOGGED, len(ends)) - 1].astimezone(refit.yard.zone)
        return (last + timedelta(days=1)).replace(hour=MORNING, minute=0)

    now_known: list[datetime] = []

    def until(ends: list[datetime]) -> datetime:
        now_known.append(tenth(ends))
        return now_known[-1]

    day = lived(refit, plan, world, until)
    now = now_known[-1]
    if day.ready is None or day.ready <= now:
        return None
    plan = make_plan(day.refit, now, before=plan)
    if plan.ready is None:
        return None
    slots = [now.astimezone(UTC) + timedelta(days=n, hours=h) for n in range(1, 30) for h in (3, 9)]
    later = day.refit.supposed(launch_at=slots[-1])
    told = odds_of(later, plan, runs=FORESEEN, looks=False, slots=slots)
    end = lived(later, plan, world, None).ready
    if told.ready is None or end is None:
        return None
    p10, p90 = told.ready.p10, told.ready.p90
    by = tuple(one is None or end <= one for one in (p10, told.ready.p50, told.ready.p80, p90))
    inside = (p10 is None or end >= p10) and (p90 is None or end <= p90)
    return History(inside, by, tuple((one.odds, end <= one.at) for one in told.slots))


def _without_parts(job: Job) -> Job:
    return job.model_copy(update={"tasks": tuple(one.model_copy(update={"parts": ()}) for one in job.tasks)})


def calibration(wider: Wider, name: str, many: int = HISTORIES) -> dict[str, float]:
    """How often 80 % ranges hold, how often 7 in 10 comes true, and the Brier score of all that was said."""
    found = [one for one in (history(n, wider) for n in range(many)) if one is not None]
    said = [pair for one in found for pair in one.slots]
    nearest = (
        min(one.slots, key=lambda pair: abs(pair[0] - 0.7)) for one in found
    )  # of each history one, for its slots go together
    seven = [kept for odds, kept in nearest if 0.6 <= odds < 0.8]
    brier = float(np.mean([(odds - kept) ** 2 for odds, kept in said if 0.02 < odds < 0.98]))
    figures = {
        "histories": len(found),
        "inside": float(np.mean([one.inside for one in found])),
        "seven in ten": float(np.mean(seven)),
        "brier": brier,
    }
    by = [round(float(x), 2) for x in np.mean([one.by for one in found], axis=0)]
    print(json.dumps({"bench": f"odds, calibration, {name}", **figures, "over by 10, 50, 80, 90 %": by}), flush=True)
    return figures


def foresight() -> list[bool]:
    """All of it, against the bounds: 78 to 82 of a hundred ranges hold, 65 to 75 of a hundred 7 in 10 come true."""
    holds = [each_morning()]
    for wider, name in ((Wider(), "wider"), (Wider(slower=1.3), "wider and 1.3 times slower, ten tasks logged")):
        found = calibration(wider, name)
        holds += [0.78 <= found["inside"] <= 0.82, 0.65 <= found["seven in ten"] <= 0.75]
    return holds


TIGHT = range(1, 6)
TASKS, IMPROVED, LOOKED = 60, 6.0, 30.0
WINS = 0.05


def _before(until: float, _: int) -> bool:
    return monotonic() < until


def surer_plans() -> list[bool]:
    """What a surer plan wins on tight refits whose plans were searched before: on the median, on fresh luck; 0 where none was proved."""
    gained = []
    for seed in TIGHT:
        refit = tight(generated_refit(TASKS, seed))
        draft = draft_plan(refit, refit.haul_at)
        better = improve(draft.problem, draft.schedule, seconds=IMPROVED, clock=monotonic).schedule
        assert better is not None
        value = value_of(draft.problem, better.start, better.end, better.resume, better.mode)
        better = replace(better, value=value)
        plan = plan_of(refit, draft.problem, better, draft.plan.now, ready=draft.plan.ready)
        until = monotonic() + LOOKED
        found = surer(refit, Draft(plan, draft.problem, better), partial(_before, until))
        gained.append(0.0 if found is None else found.gains)
        figures = (
            {}
            if found is None
            else {"before": found.before, "after": found.after, "money": found.money, "tried": found.tried}
        )
        print(json.dumps({"bench": f"surer, {seed}"} | figures), flush=True)
    holds = median(gained) >= WINS
    print(json.dumps({"bench": "surer", "median": round(median(gained), 3), "bound": WINS, "holds": holds}))
    return [holds]
