"""Ways side by side: nothing has no effect, an effect is what was worked out by hand, and what can't be says so."""

from __future__ import annotations

import time
from datetime import date, datetime, timedelta

import pytest

from benches.generate import generated_refit
from rovask.core.books.forecast import forecast
from rovask.core.choice.laid import Laid, WayState
from rovask.core.choice.lay import Laying, SideBySide
from rovask.core.odds.odds import odds_of
from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.plan.solver.improve import Stop
from rovask.core.plan.verify.check import verify
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Act, Refit
from rovask.core.refit.ways.kinds import AS_IT_IS, ProposedWay
from rovask.desk.acts import layings
from rovask.formats.recipe_file import library
from tests.builders import HAUL, person, refit, task
from tests.core.odds_cases import round_the_clock, spread


def way(key: str, *acts: dict[str, object]) -> ProposedWay:
    return ProposedWay(id=key, title=key, acts=tuple(Act.model_validate(act) for act in acts))


def desk_of(made: Refit, *ways: ProposedWay, now: datetime = HAUL) -> tuple[SideBySide, Planned]:
    planned = plan_and_judge(made, now)
    return SideBySide(made, planned, layings(made, ways, planned, now, library())), planned


def laid(made: Refit, *ways: ProposedWay, runs: int = 2_000, now: datetime = HAUL) -> Laid:
    return desk_of(made, *ways, now=now)[0].settled(time.monotonic, Stop(), runs, seconds=0.2)


def test_a_way_that_changes_nothing_has_no_effect_at_all_however_lucky_its_search() -> None:
    """Played on the same luck with what was found for any of them, two names for one refit are run by run the same."""
    made = generated_refit(40, 3)
    planned = plan_and_judge(made, made.haul_at)
    renamed = made.supposed(name="The same under another name")
    found = SideBySide(made, planned, [Laying("same", "Same", renamed)]).settled(time.monotonic, Stop(), 1_500, 0.3)
    one = found.ways[1]
    assert one.gains is not None
    assert one.later is not None
    assert one.dearer is not None
    assert (one.gains.mean, one.later.mean, one.dearer.mean) == (0, 0, 0)
    assert one.gains.about_the_same
    assert (one.odds, one.money, one.left) == (found.ways[0].odds, found.ways[0].money, found.ways[0].left)


def test_as_it_is_says_what_every_page_says() -> None:
    made = a_late_part()
    desk, planned = desk_of(made, way("sooner", EXPRESS))
    told = desk.first(2_000).ways[0]
    known = odds_of(made, planned.plan, runs=2_000, looks=False)
    assert (told.way, told.odds, told.ready, told.money) == (AS_IT_IS, known.odds, known.ready, known.money)
    assert told.planned == forecast(made, planned.plan).total.minor


EXPRESS = {"do": "express", "of": "pump", "days": 2, "money": 6_000}


def a_late_part(days: float = 8) -> Refit:
    """A pump of 20 to 30 days for 3 h of must-work; the slot is 8 days off."""
    part = {
        "id": "pump",
        "name": "Pump",
        "price": 40_000,
        "lead_days": 25,
        "lead_least": 20,
        "lead_most": 30,
        "must_fit": False,
    }
    slot = (HAUL + timedelta(days=days, hours=2)).isoformat()
    return refit(task("fit", hours=3, parts=["pump"], sureness="sure"), parts=[part], launch_at=slot)


def test_wait_or_express_by_hand() -> None:
    """It never comes in time by itself; in two days it always does. 60.00 more for that, and no lay-day is charged here."""
    found = laid(
        a_late_part(), way("sooner", EXPRESS), way("both", EXPRESS, {"do": "slot", "at": "2026-05-20T10:00:00+01:00"})
    )
    wait, sooner, both = found.ways
    assert (wait.words, sooner.words, both.words) == ("hardly ever", "as good as sure", "as good as sure")
    assert sooner.gains is not None
    assert sooner.gains.low > 0.9
    assert sooner.dearer is not None
    assert (sooner.dearer.mean, sooner.dearer.low) == (6_000, 6_000)
    assert sooner.planned - wait.planned == 6_000
    assert sooner.later is not None
    assert -25 * 24 < sooner.later.mean < -15 * 24
    assert sooner.turns_back is not None
    assert (sooner.turns_back.at, sooner.turns_back.then) == (HAUL, "Pump is ordered")
    assert both.slot == datetime.fromisoformat("2026-05-20T10:00:00+01:00")
    assert found.settled


def test_a_way_is_as_sure_as_the_same_refit_by_itself() -> None:
    """What is laid out in memory has the odds that the page would have had it been done. Held against odds_of."""
    made = round_the_clock(spread("a", 20, 30, 60), spread("b", 10, 20, 40, people=["bo"]), hours=50)
    moved = rebuilt(made, launch_at=made.launch_at + timedelta(hours=10))
    found = laid(made, way("later", {"do": "slot", "at": moved.launch_at.isoformat()}), runs=4_000)
    alone = odds_of(moved, plan_and_judge(moved, HAUL).plan, runs=4_000, looks=False)
    assert found.ways[1].odds == alone.odds
    assert found.ways[1].gains is not None
    assert found.ways[1].gains.mean == pytest.approx((alone.odds or 0) - (found.ways[0].odds or 0), abs=1e-4)


def test_a_hired_hand_is_put_to_work() -> None:
    """60 h of anybody's must-work in 6 days of 10 h: one alone needs every hour and keeps it half of the time; two have days in hand."""
    rows = [task(f"t{n}", hours=10) for n in range(6)]
    slot = (HAUL + timedelta(days=6)).isoformat()
    made = refit(*rows, people=[person("ann")], launch_at=slot)
    act = {"do": "one more hand", "name": "Ida", "first": "2026-05-05", "last": "2026-05-08", "money": 10_000}
    alone, hired = laid(made, way("ida", act)).ways
    assert hired.gains is not None
    assert hired.gains.low > 0.2
    hours = {row.name: row.hours for row in hired.hours}
    assert hours["Ida"] >= 20
    assert sum(hours.values()) == 60
    assert hired.planned - alone.planned == 40_000  # Tuesday to Friday


def test_what_no_longer_applies_and_what_cant_be_planned_say_so_and_the_rest_stands() -> None:
    made = a_late_part()
    found = laid(
        made,
        way("gone", {"do": "next time", "of": "no-such-job"}),
        way("never", {"do": "by somebody", "of": "fit", "name": "cy"}),
        way("sooner", EXPRESS),
    )
    gone, never, sooner = found.ways[1:]
    assert (gone.state, never.state, sooner.state) == (WayState.GONE, WayState.GONE, WayState.WORKED)
    assert "gone" in gone.reason
    nobody = refit(task("fit", hours=3), people=[person("ann"), person("cy", arrives="2026-08-01")])
    cant = laid(nobody, way("never", {"do": "by somebody", "of": "fit", "name": "cy"})).ways[1]
    assert cant.state is WayState.CANT
    assert cant.odds is None
    assert "Task fit" in cant.reason
    assert cant.planned == forecast(nobody, plan_and_judge(nobody, HAUL).plan).total.minor  # its money is kept


def test_what_is_left_out_can_be_turned_back_until_it_could_not_be_begun_in_time() -> None:
    """4 h of a should-job; the slot is on Saturday 10:00. Two of them fit on Saturday from 08:00, two on Friday before 18:00: Friday 16:00."""
    jobs = [
        {"id": "must", "title": "Must", "tasks": [task("m", hours=2, people=["bo"])]},
        {"id": "should", "title": "Should", "need": "should", "tasks": [task("s", hours=4, people=["ann"])]},
    ]
    slot = (HAUL + timedelta(days=5, hours=2)).isoformat()
    made = refit(jobs=jobs, launch_at=slot)
    found = laid(made, way("less", {"do": "next time", "of": "should"}))
    back = found.ways[1].turns_back
    assert back is not None
    assert back.then == "“Should” can't be begun in time any more"
    planned = plan_and_judge(made, HAUL)
    start = planned.plan.by_task()["s"].start
    assert back.at == HAUL + timedelta(days=4, hours=8)
    as_it_is = found.ways[0].turns_back
    assert as_it_is is not None
    assert (as_it_is.at, as_it_is.then) == (start, "“Task s” is begun")
    assert found.ways[1].left == ("Should",)


def test_plans_of_ways_pass_the_verifier_on_generated_refits() -> None:
    for seed in (1, 2):
        made = generated_refit(60, seed)
        now = made.haul_at
        jobs = [job.id for job in made.jobs if not any(task.begun_at for task in job.tasks)][:3]
        ways = [way(f"w{n}", {"do": "next time", "of": job}) for n, job in enumerate(jobs)]
        ways.append(way("hand", {"do": "one more hand", "name": "Ida", "first": str(date.fromordinal(now.date().toordinal() + 2)),
                                 "last": str(date.fromordinal(now.date().toordinal() + 9))}))  # fmt: skip
        desk, _ = desk_of(made, *ways, now=now)
        desk.settled(time.monotonic, Stop(), 300, seconds=0.3)
        assert desk.plans()
        for key, plan in desk.plans().items():
            assert verify(desk.sides[key].refit, plan) == []
