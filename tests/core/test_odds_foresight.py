"""Whether what is foreseen comes true: small versions of the benches (benches/foresight.py), which say how well."""

from __future__ import annotations

import math

import numpy as np
import pytest

from benches.foresight import Wider, history
from benches.generate import generated_refit
from benches.worlds import World, drawn_hours, lived, planned_each_morning, tight
from rovask.core.books.pace import C2, S0, T2, V0, crew_pace, paces
from rovask.core.odds.game import game_of
from rovask.core.odds.sources import sources_of
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from tests.builders import HAUL, person, refit, task


def test_facts_of_a_world_are_its_hours_and_its_days_go_on_from_them() -> None:
    """Worked for four days, planned anew and verified; all hours that are logged are those of the world, half-hour by half-hour."""
    made = generated_refit(30, 3)
    plan = make_plan(made, made.haul_at)
    slots = drawn_hours(game_of(made, plan, 1, only_typed=True), 0)
    world = World(1, dict(slots), only_typed=True)
    now = made.haul_at
    for day in (3, 4, 5, 6):
        morning = now.astimezone(made.yard.zone).replace(day=day, hour=7, minute=0)
        made, now = lived(made, plan, world, morning).refit, morning
        plan = make_plan(made, now, before=plan)
        assert verify(made, plan) == []
    done = [one for one in made.tasks.values() if one.done_at is not None]
    assert len(done) > 5
    for one in done:
        logged = sum(entry.hours for entry in made.hours_log if entry.task == one.id) / len(one.crew)
        assert logged == slots[one.id] / 2


def test_planning_anew_each_morning_keeps_about_as_many_slots_as_one_plan_and_a_foreman() -> None:
    made = tight(generated_refit(24, 4), only_typed=True)
    plan = make_plan(made, made.haul_at)
    game = game_of(made, plan, 1, only_typed=True)
    once, anew = [], []
    for run in range(12):
        slots = drawn_hours(game, run)
        ready = lived(made, plan, World(run, dict(slots), only_typed=True), None).ready
        once.append(ready is not None and ready <= made.launch_at)
        anew.append(planned_each_morning(made, plan, World(run, dict(slots), only_typed=True)))
    assert abs(float(np.mean(anew)) - float(np.mean(once))) <= 0.25  # twelve worlds: three of them may turn
    assert sum(a == b for a, b in zip(once, anew, strict=True)) >= 8


def test_eighty_in_a_hundred_ranges_hold_most_of_the_time() -> None:
    """Forty histories of a world wider than the model's: 80 in 100 within three standard errors; the bench says it closer."""
    found = [one for one in (history(n, Wider()) for n in range(40)) if one is not None]
    assert len(found) >= 25
    inside = float(np.mean([one.inside for one in found]))
    assert abs(inside - 0.8) <= 3 * math.sqrt(0.8 * 0.2 / len(found))


def logged(hours: float, tasks: int) -> list[dict[str, object]]:
    return [
        {"id": f"h{n}", "task": f"t{n}", "person": "ann", "at": HAUL.replace(hour=15).isoformat(), "hours": hours}
        for n in range(tasks)
    ]


def test_what_a_crew_has_shown_at_one_kind_of_work_is_expected_of_others() -> None:
    """Ann's four hull tasks of 2 h took 3 h each; nothing is known of deck work.

    By hand: x = ln 1.5 = 0.405, and 0.05 for what is done first; n = 4; s² = (2 x 0.36 + 0) / (2 + 3) = 0.144; her mean lies from the crew's by
    T² = 0.2209 and from the truth by s²/n = 0.036; so the crew's is 0.455 x (1/0.2569) / (1/0.2569 + 1/0.2209) = 0.2106, a factor of 1.234.
    """
    done = {"begun_at": HAUL.isoformat(), "done_at": HAUL.replace(hour=15).isoformat(), "crew": ["ann"]}
    rows = [task(f"t{n}", hours=2, people=["ann"]) | done for n in range(4)]
    rows.append(task("deck", hours=2, people=["bo"], skill="deck"))
    whole = {"people": [person("ann"), person("bo", skills=["deck"])], "hours_log": logged(3, 4)}
    made = refit(*rows, **whole)
    x, s2 = math.log(1.5), V0 * S0**2 / (V0 + 3)
    by_hand = (x + 0.05) / (T2 + s2 / 4) / (1 / (T2 + s2 / 4) + 1 / C2)
    assert crew_pace(paces(made)) == pytest.approx(math.exp(by_hand))
    assert crew_pace(paces(made)) == pytest.approx(1.234, abs=0.001)
    now = HAUL.replace(hour=16)
    found = sources_of(made, make_plan(made, now)).pace["bo", "deck"]
    assert found.likely == pytest.approx(1.234, abs=0.001)
    assert crew_pace([]) == 1.0
