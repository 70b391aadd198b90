"""What can be saved, worked out by hand, and each figure against the books with and without the thing."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import count
from typing import Any

import pytest

from benches.books import with_books
from benches.generate import generated_refit
from rovask.core.books.forecast import forecast
from rovask.core.books.item import ItemKind
from rovask.core.books.items import items
from rovask.core.books.savings import INTERIM_HARM, LEAST, OWN_DAY, SavingKind, not_called, savings
from rovask.core.explain.offers import offer_worked
from rovask.core.explain.own_money import without
from rovask.core.explain.savings_worked import saving_worked
from rovask.core.judged.offer_edits import ordered_from, retied
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.result import Assignment, Plan
from rovask.core.refit.model import Refit
from tests.builders import HAUL, LAUNCH, link, person, refit, task
from tests.core.test_accounts import agreement

RIG = person("rig", role="trade", rate=5000, skills=["rigging"], call_out_hours=4)
TUESDAY = HAUL + timedelta(days=1)
Told = dict[tuple[str, str], int]


def jobs(mast: float = 3, boom: float = 3, need: str = "should", **more: Any) -> list[dict[str, Any]]:
    return [
        {"id": "mast", "title": "Mast", "tasks": [task("a", mast, **more)]},
        {"id": "boom", "title": "Boom", "need": need, "tasks": [task("b", boom, **more)]},
    ]


def planned(it: Refit, now: datetime = HAUL, **starts: tuple[datetime, str]) -> Plan:
    """A plan set by hand: from when, and by whom."""
    rows = [
        Assignment(task=key, start=at, end=at + timedelta(hours=it.hours_to_do(it.tasks[key])), people=(who,))
        for key, (at, who) in starts.items()
    ]
    return Plan(now=now, launch=LAUNCH, assignments=tuple(rows))


def told(it: Refit, plan: Plan) -> Told:
    return {(row.kind.value, row.key): row.money for row in savings(it, plan)}


def both(it: Refit, apart: bool = False) -> Plan:
    """The mast on Monday; the boom after it, or on Tuesday."""
    return planned(it, a=(HAUL, "rig"), b=(TUESDAY if apart else HAUL + timedelta(hours=5), "rig"))


def test_a_call_out_that_is_paid_anyway_is_not_saved_by_leaving_some_of_its_hours() -> None:
    # Monday 3 h + 3 h: 300.00. Without the boom 3 h are paid as 4: 200.00, so 100.00 are saved and not 150.00
    it = refit(jobs=jobs(), people=[person("ann"), RIG])
    assert told(it, both(it)) == {
        ("put off", "boom"): 10000,
        ("own hands", "boom"): 10000,
        ("own hands", "mast"): 10000,
    }
    # 2 h + 1 h: 200.00 with the boom and without it
    some = refit(jobs=jobs(2, 1), people=[person("ann"), RIG])
    assert told(some, both(some)) == {}
    # the boom on a day of its own: all of its call-out, and not 50.00; by moving it to Monday as much
    apart = told(some, both(some, apart=True))
    assert apart == {
        ("put off", "boom"): 20000,
        ("own hands", "boom"): 20000,
        ("own hands", "mast"): 20000,
        ("fewer call-outs", "rig"): 20000,
    }
    # 3.5 h on Monday have room for half an hour more: 400.00 become 4.5 h, 225.00
    full = refit(jobs=jobs(3.5, 1), people=[person("ann"), RIG])
    assert told(full, both(full, apart=True))["fewer call-outs", "rig"] == 17500


def test_what_nobody_of_ours_may_do_or_was_agreed_at_a_price_saves_nothing_by_own_hands() -> None:
    skilled = refit(jobs=jobs(skill="rigging"), people=[person("ann"), RIG])
    assert told(skilled, both(skilled)) == {("put off", "boom"): 10000}
    agreed = agreement(person="rig", price=9000)
    fixed = refit(jobs=jobs(), people=[person("ann"), RIG], agreements=[agreed])
    assert told(fixed, both(fixed)) == {}  # what is agreed is bound: neither puts off nor own hands give it back
    only = refit(jobs=jobs(), people=[person("ann"), RIG], agreements=[agreed | {"job": "mast"}])
    assert told(only, both(only)) == {("put off", "boom"): 20000, ("own hands", "boom"): 20000}


def test_a_day_that_was_worked_already_is_no_call_out_to_spare() -> None:
    done = {"begun_at": HAUL.isoformat(), "done_at": (HAUL + timedelta(hours=2)).isoformat(), "crew": ["rig"]}
    rows = [
        {"id": "mast", "title": "Mast", "tasks": [task("a", 2) | done]},
        {"id": "boom", "title": "Boom", "tasks": [task("b", 1)]},
    ]
    it = refit(jobs=rows, people=[person("ann"), RIG])
    now = HAUL + timedelta(hours=10)
    assert told(it, planned(it, now, b=(TUESDAY, "rig"))) == {("own hands", "boom"): 20000}


def test_what_a_call_out_spared_saves_is_the_plans_to_say() -> None:
    # the boom waits 20 h for the mast: it can't be done on Monday, so Tuesday's call-out only moves to Wednesday
    tied = refit(jobs=jobs(2, 1, "must", skill="rigging"), people=[person("ann"), RIG], links=[link("a", "b", 20)])
    so_far = plan_and_judge(tied, HAUL)
    rows = savings(tied, so_far.plan)
    assert [row.kind for row in rows] == [SavingKind.CALL_OUTS]
    assert [saving_worked(tied, so_far, row).money for row in rows] == [0]  # it only moves
    # with a plan that is worse than need be it is worth 200.00, and the day off is one day and no more
    free = refit(jobs=jobs(2, 1, "must", skill="rigging"), people=[person("ann"), RIG])
    poor = so_far.__class__(both(free, apart=True), so_far.verdict)
    assert [row.money for row in savings(free, poor.plan)] == [20000]
    assert [(one.first, one.last) for one in not_called(free, poor.plan, "rig").persons["rig"].absences] == [
        (TUESDAY.date(), TUESDAY.date())
    ]


def test_own_hands_that_keep_somebody_from_dearer_work_save_less() -> None:
    # ann alone may do what follows; the launch is tight, so each hour of hers at the mast is one of the rigger's elsewhere
    rows = [
        {"id": "mast", "title": "Mast", "tasks": [task("a", 4, people=["ann", "rig"])]},
        {"id": "boom", "title": "Boom", "tasks": [task("b", 4, people=["ann", "rig"])]},
    ]
    people = [person("ann"), RIG | {"rate": 2500}]
    it = refit(jobs=rows, people=people, launch_at=(HAUL + timedelta(hours=5)).isoformat())
    plan = plan_and_judge(it, HAUL)
    (row,) = [one for one in savings(it, plan.plan) if one.kind is SavingKind.OWN_HANDS]
    assert row.money == 10000
    # she does one of both already: with the rigger's in her hands as well his is hers, or the launch is later
    worked = saving_worked(it, plan, row)
    assert worked.settled
    assert worked.harm > row.harm or worked.money < row.money


def test_must_jobs_are_not_put_off_and_nothing_dangerous_is_put_off_or_made_good_for_now() -> None:
    parts = [{"id": "hose", "name": "Hose", "price": 8000}]
    rows = [
        {"id": key, "title": key, "need": need, "recipe": "hoses", "tasks": [task(key[0], 1) | {"parts": take}]}
        for key, need, take in (("drain", "must", ["hose"]), ("gas", "should", []), ("plain", "could", []))
    ]
    found = [
        {"id": "f1", "title": "Drain weeps", "severity": "bad", "at": HAUL.isoformat(), "jobs": ["drain"]},
        {"id": "f2", "title": "Gas smells", "severity": "dangerous", "at": HAUL.isoformat(), "jobs": ["gas"]},
    ]
    it = refit(jobs=rows, parts=parts, findings=found)
    plan = plan_and_judge(it, HAUL).plan
    (row,) = savings(it, plan)
    assert (row.kind, row.key, row.money, row.harm) == ("interim fix", "drain", 8000, INTERIM_HARM + 2 / OWN_DAY)
    settled = it.model_copy(update={"findings": tuple(one.model_copy(update={"settled": True}) for one in it.findings)})
    assert savings(settled, plan) == []


@pytest.mark.parametrize(
    ("offer", "saves"),
    [
        ({"quantity": 2, "price": 9000}, 1000),
        ({"quantity": 1, "price": 3000}, 2000),  # the other one is still to be bought at half of 100.00
        ({"quantity": 3, "price": 9900}, 100),  # one is left over, and costs all the same
        ({"quantity": 2, "price": 5000, "freight": 1000, "duty": 10, "tax": 20}, 2080),  # 60.00, 66.00, 79.20
        ({"quantity": 2, "price": 10000}, 0),
    ],
)
def test_a_cheaper_offer_saves_what_the_forecast_falls_by_when_it_is_taken(offer: dict[str, Any], saves: int) -> None:
    part = {"id": "hose", "name": "Hose", "quantity": 2, "price": 10000, "lead_days": 2}
    row = {
        "id": "of",
        "part": "hose",
        "supplier": "Ost",
        "what": "hose",
        "lead_days": 6,
        "currency": "EUR",
        "rate": "1",
    } | offer
    it = refit(task("a", 1) | {"parts": ["hose"]}, parts=[part], offers=[row])
    made = plan_and_judge(it, HAUL)
    assert told(it, made.plan) == ({("cheaper offer", "of"): saves} if saves else {})
    numbers = count()
    taken = ordered_from(it, it.offers[0], HAUL, lambda kind: f"{kind}{next(numbers)}")
    assert forecast(it, made.plan).total.minor - forecast(taken, made.plan).total.minor == saves
    # beside the others, worked out with the plan: as much, and four days later than hoped for
    beside = offer_worked(it, made.plan, it.offers[0], HAUL, HAUL)
    assert (beside.effect.own.minor, beside.comes.date()) == (-saves, (HAUL + timedelta(days=6)).date())
    aboard = refit(task("a", 1) | {"parts": ["hose"]}, parts=[part | {"status": "aboard"}], offers=[row])
    assert told(aboard, made.plan) == {}


def test_a_substitutes_waits_go_to_its_cures_and_next_coats_and_to_no_other_tie() -> None:
    part = {"id": "paint", "name": "Paint", "quantity": 2, "price": 100, "lead_days": 2}
    offer = {
        "id": "of",
        "part": "paint",
        "supplier": "Ost",
        "what": "paint",
        "quantity": 2,
        "price": 90,
        "lead_days": 2,
    }
    ties = [
        link("one", "two", 7, 30),
        link("two", "wash", 12) | {"cures": True},
        link("two", "test", 24),  # a day's rest before the test, whatever the paint
        link("one", "look", 0),
    ]
    takes = {"parts": ["paint"]}
    rows = [task("one", 1) | takes, task("two", 1) | takes, *(task(key, 1) for key in ("wash", "test", "look"))]
    offered = offer | {"currency": "EUR", "rate": "1", "least_lag": 4, "most_lag": 10}
    it = refit(*rows, links=ties, parts=[part], offers=[offered])
    taken, kept = retied(it, it.offers[0])
    assert [(was.then, becomes.min_lag, becomes.max_lag) for was, becomes in taken] == [("two", 4, 10), ("wash", 4, 10)]
    assert [link.then for link in kept] == ["test"]
    numbers = count()
    after = ordered_from(it, it.offers[0], HAUL, lambda kind: f"{kind}{next(numbers)}")
    assert [(one.then, one.min_lag, one.max_lag) for one in after.links] == [
        ("two", 4, 10),
        ("wash", 4, 10),
        ("test", 24, None),
        ("look", 0, None),
    ]


@pytest.mark.parametrize("seed", range(4))
def test_putting_a_job_off_saves_what_its_books_hold(seed: int) -> None:
    """Against another way round: the whole books without the job, its parts and its hours."""
    it = with_books(generated_refit(40, seed), seed, parts=30, orders=10, entries=40)
    plan = plan_and_judge(it, it.haul_at).plan
    kinds = (ItemKind.PART, ItemKind.WORK, ItemKind.UNKNOWN)
    seen = 0
    for row in savings(it, plan):
        if row.kind is not SavingKind.PUT_OFF:
            continue
        gone = {task.id for job in it.jobs if job.id == row.key for task in job.tasks}
        taken = {key for key in gone for key in it.tasks[key].parts}
        alone = taken - {key for task in it.tasks.values() if task.id not in gone for key in task.parts}
        bare = without(it, {row.key}, alone)
        rest = plan.model_copy(update={"assignments": tuple(one for one in plan.assignments if one.task not in gone)})
        before, after = (
            sum(one.rest for one in items(books, one_plan) if one.kind in kinds)
            for books, one_plan in ((it, plan), (bare, rest))
        )
        assert before - after == row.money, row.title
        seen += 1
    assert seen


def test_the_most_money_for_the_least_harm_comes_first() -> None:
    it = refit(jobs=jobs(2, 1), people=[person("ann"), RIG])
    rows = savings(it, both(it, apart=True))
    assert [row.per_harm for row in rows] == sorted((row.per_harm for row in rows), reverse=True)
    assert next(row for row in rows if row.kind is SavingKind.CALL_OUTS).harm == LEAST
