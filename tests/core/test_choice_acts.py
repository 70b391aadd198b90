"""What the acts of a way do to a refit, worked out by hand; and that every sort of act can be done, said and typed."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from itertools import count
from zoneinfo import ZoneInfo

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.choice.act_words import act_words
from rovask.core.choice.seasons import in_storms, season_told
from rovask.core.judged.season_edit import moved_to, without_date
from rovask.core.judged.way_edits import (
    by_express,
    days_worked,
    done_otherwise,
    in_own_hands,
    interim_instead,
    longer_days,
    one_more_hand,
)
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import plan_and_judge
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Act, Refit, StayThen, Task
from rovask.core.refit.ways.choices import SAYS, ActSort
from rovask.desk.acts import COMMANDS
from rovask.web.act_fields import SORTS, fields_of
from tests.builders import HAUL, LAUNCH, link, person, refit, task

LISBON = ZoneInfo("Europe/Lisbon")
RESERVED = {"gas": "gas is for a licensed fitter"}


def ids() -> object:
    numbers = count(1)
    return lambda kind: f"{kind[0]}-{next(numbers)}"


def test_every_sort_of_act_has_its_command_its_words_and_its_form() -> None:
    assert set(COMMANDS) == set(SAYS) == set(ActSort)
    typed_in = {sort for sort, _ in SORTS} | {ActSort.SEASON}  # seasons have a page of their own
    assert typed_in == set(ActSort)
    for sort, _ in SORTS:
        assert set(SAYS[sort]) <= {field.name for field in fields_of(sort)}, sort
    made = refit(task("a"))
    for sort in ActSort:
        act = Act.model_construct(do=sort, of="gone", at=HAUL, haul_at=HAUL, first=HAUL.date(), last=HAUL.date(), hours=2, hands=1, money=0,
                                  lay_day=None, days=1, name="x", skills=(), stays=())  # fmt: skip
        assert act_words(made, act)


def test_a_hand_for_ten_days_is_paid_for_the_days_they_would_work_and_no_others() -> None:
    """Thu 7 to Sat 16 May, the owners' week is Monday to Saturday: 10 days less one Sunday, 9 days at 120.00."""
    made = refit(task("a", hours=4))
    hired = one_more_hand(made, "Ida", date(2026, 5, 7), date(2026, 5, 16), 12_000, (), HAUL, ids())  # type: ignore[arg-type]
    ida = hired.people[-1]
    assert days_worked(ida, date(2026, 5, 7), date(2026, 5, 16)) == 9
    assert [one.price for one in hired.agreements] == [108_000]
    was, is_ = (forecast(one, plan_and_judge(one, HAUL).plan).total.minor for one in (made, hired))
    assert is_ - was == 108_000  # whatever there is to do
    with pytest.raises(RefitFaults, match="after the launch"):
        one_more_hand(made, "Ida", date(2026, 5, 19), date(2026, 5, 20), 1, (), HAUL, ids())  # type: ignore[arg-type]
    with pytest.raises(RefitFaults, match="gone by"):
        one_more_hand(made, "Ida", date(2026, 5, 1), date(2026, 5, 3), 1, (), HAUL, ids())  # type: ignore[arg-type]


def test_longer_days_lengthen_the_last_shift_of_each_day_and_never_past_ten() -> None:
    week = ["mon", "tue", "wed", "thu", "fri"]
    hours = [
        {"days": [*week, "sat"], "start": "08:00", "end": "12:00"},
        {"days": week, "start": "13:00", "end": "17:30"},
    ]
    made = refit(task("a"), people=[person("ann", hours=hours), person("rig", role="trade", hours=hours)])
    longer = longer_days(made, "ann", 1.5).persons["ann"]
    assert {(day.value, f"{s.end:%H:%M}") for s in longer.hours for day in s.days if s.start.hour == 8} == {
        *((day, "12:00") for day in week), ("sat", "13:30"),
    }  # fmt: skip
    assert {f"{s.end:%H:%M}" for s in longer.hours if s.start.hour == 13} == {"19:00"}
    with pytest.raises(RefitFaults, match="no later hours"):
        longer_days(made, "ann", 5)
    with pytest.raises(RefitFaults, match="their own hours"):
        longer_days(made, "rig", 1)


def test_a_part_by_express_comes_sooner_and_costs_what_was_said_at_the_boat() -> None:
    """A gasket that nobody ordered, 14 days, 180.00; three are wanted, one is there. By courier in 2 days for 90.00 more."""
    part = {"id": "gasket", "name": "Gasket", "quantity": 3, "price": 18_000, "lead_days": 14, "counted": 1,
            "counted_at": HAUL.isoformat(), "must_fit": False}  # fmt: skip
    use = {"id": "u", "task": "a", "part": "gasket", "amount": 3}
    made = refit(task("a", parts=["gasket"]), parts=[part], uses=[use])
    faster = by_express(made, "gasket", 2, 9_000, HAUL, ids())  # type: ignore[arg-type]
    was, is_ = (forecast(one, plan_and_judge(one, HAUL).plan).total.minor for one in (made, faster))
    assert is_ - was == 9_000
    assert (stocks(faster)["gasket"].arrives or HAUL) - HAUL == timedelta(days=2)
    with pytest.raises(RefitFaults, match="no sooner"):
        by_express(made, "gasket", 14, 9_000, HAUL, ids())  # type: ignore[arg-type]
    again = by_express(faster, "gasket", 1, 1_000, HAUL, ids())  # type: ignore[arg-type]
    assert (stocks(again)["gasket"].arrives or HAUL) - HAUL == timedelta(days=1)
    assert forecast(again, plan_and_judge(again, HAUL).plan).total.minor - was == 10_000


def test_express_of_a_parcel_in_foreign_money_costs_as_much_at_the_boat_with_duty_and_tax() -> None:
    order = {"id": "o", "supplier": "S", "currency": "USD", "rate": "0.5", "duty": 5.0, "tax": 20.0, "freight": 1_000,
             "placed_at": HAUL.isoformat(), "expected": (HAUL + timedelta(days=9)).isoformat()}  # fmt: skip
    row = {"id": "l", "order": "o", "part": "gasket", "quantity": 1, "price": 10_000}
    made = refit(
        task("a", parts=["gasket"]), parts=[{"id": "gasket", "name": "Gasket", "price": 1}], orders=[order], order_lines=[row]
    )  # fmt: skip
    faster = by_express(made, "gasket", 2, 6_300, HAUL, ids())  # type: ignore[arg-type]
    # 63.00 EUR are 126.00 USD landed, 100.00 before 5 % duty and 20 % tax on that
    assert faster.orders[0].freight == 11_000
    was, is_ = (forecast(one, plan_and_judge(one, HAUL).plan).total.minor for one in (made, faster))
    assert is_ - was == 6_300


def trades_work() -> Refit:
    rows = [task("fit", hours=4, skill="rig"), task("look", hours=1, people=["pro"]), task("ours", hours=2)]
    agreed = {"id": "g", "title": "Rig", "party": "Pro", "job": "job", "currency": "EUR", "rate": "1", "price": 90_000,
              "at": HAUL.isoformat()}  # fmt: skip
    people = [person("ann"), person("pro", role="trade", skills=["rig", "gas"], rate=5_000)]
    return refit(*rows, people=people, agreements=[agreed])


def test_own_hands_take_over_what_only_the_trade_may_do_in_the_hours_said_and_the_agreement_is_off() -> None:
    """4 h and 1 h of the trade's; said to take 10 h: twice as long. What was ours stays."""
    made = in_own_hands(trades_work(), "job", 10, RESERVED)
    tasks = made.tasks
    assert (tasks["fit"].skill, tasks["look"].people, tasks["fit"].work.likely, tasks["look"].work.likely) == (
        None, (), 8, 2,
    )  # fmt: skip
    assert (tasks["ours"].work.likely, made.agreements) == (2, ())
    billed = trades_work()
    bill = {"id": "e", "title": "Deposit", "at": HAUL, "currency": "EUR", "rate": "1", "amount": 100, "agreement": "g"}
    billed = Refit.model_validate(billed.model_dump() | {"entries": [bill]})
    assert len(in_own_hands(billed, "job", 0, RESERVED).agreements) == 1  # it is invoiced; who pays it must say
    with pytest.raises(RefitFaults, match="Nothing that is left"):
        in_own_hands(made, "job", 0, RESERVED)


def test_what_is_reserved_is_never_taken_into_own_hands() -> None:
    made = trades_work()
    jobs = [
        made.jobs[0].model_copy(update={"tasks": (*made.jobs[0].tasks, Task.model_validate(task("g", skill="gas")))})
    ]
    with pytest.raises(RefitFaults, match="licensed fitter"):
        in_own_hands(Refit.model_validate(made.model_dump() | {"jobs": jobs}), "job", 0, RESERVED)


def test_an_interim_fix_stands_in_the_jobs_place_as_needed_as_that_was_and_the_rest_is_parked() -> None:
    made = refit(task("a", hours=6), task("b", hours=3), links=[link("a", "b")])
    fixed = interim_instead(made, "job", 1.2, 2_500, 3, "", ids(), "budget")  # type: ignore[arg-type]
    (job,) = fixed.jobs
    assert (job.title, job.need.value, [t.work.likely for t in job.tasks]) == ("Interim fix: Job", "must", [1.5])
    assert [(one.title, one.hours, one.next_time) for one in fixed.parked] == [("Job", 9, True)]
    assert [(p.price, p.lead_days) for p in fixed.parts] == [(2_500, 3)]
    begun = refit(task("a", begun_at=HAUL.isoformat(), crew=["ann"]), task("b"))
    with pytest.raises(RefitFaults, match="under way"):
        interim_instead(begun, "job", 1, 0, 0, "", ids())  # type: ignore[arg-type]


def test_what_stands_in_a_jobs_place_is_tied_like_it_and_never_in_a_ring() -> None:
    """Before it comes b, after it a; m lies between two of its steps, so it can't wait for one task and be waited for by it."""
    jobs = [
        {"id": "job", "title": "Job", "tasks": [task("one"), task("two")]},
        {"id": "rest", "title": "Rest", "tasks": [task("b"), task("m"), task("a")]},
    ]
    ties = [link("b", "one"), link("one", "two"), link("two", "a", low=24)]
    made = interim_instead(refit(jobs=jobs, links=ties), "job", 1, 0, 0, "", ids())  # type: ignore[arg-type]
    new = made.jobs[-1].tasks[0].id
    assert {(one.first, one.then, one.min_lag) for one in made.links} == {("b", new, 0), (new, "a", 0)}
    ties += [link("one", "m"), link("m", "two")]
    made = interim_instead(refit(jobs=jobs, links=ties), "job", 1, 0, 0, "", ids())  # type: ignore[arg-type]
    new = made.jobs[-1].tasks[0].id
    assert {(one.first, one.then) for one in made.links} == {(new, "a"), (new, "m")}


def test_two_prices_for_one_hole() -> None:
    """The yard lifts her again for 260.00 (its hands 2 h), or three dig a pit of 3 h and buy a trestle for 40.00: 220.00 less, 9 h more."""
    tariff = [{"charge": "move", "title": "A lift again", "price": 26_000, "per": "once"}]
    lift = task("raise", hours=2, people=["tico"], charge="move")
    people = [person(who) for who in ("ann", "bo", "cy")] + [person("tico", role="yard")]
    places = [{"id": "hull", "name": "Hull", "capacity": 4}]
    whole = refit(
        jobs=[
            {"id": "up", "title": "Lift her", "tasks": [lift]},
            {"id": "rudder", "title": "Rudder", "tasks": [task("rudder", hours=6)]},
        ], links=[link("raise", "rudder")], people=people, places=places, yard={"tariff": tariff},
    )  # fmt: skip
    pit = done_otherwise(whole, "up", 3, 3, 4_000, 0, "Dig a pit", ids())  # type: ignore[arg-type]
    was, is_ = (plan_and_judge(one, HAUL).plan for one in (whole, pit))
    assert forecast(pit, is_).total.minor - forecast(whole, was).total.minor == -26_000 + 4_000
    assert pit.parked == ()
    assert [(job.title, [(t.title, t.hands, t.work.likely) for t in job.tasks]) for job in pit.jobs] == [
        ("Rudder", [("Task rudder", 1, 6)]), ("Dig a pit", [("Dig a pit", 3, 3)]),
    ]  # fmt: skip
    at = is_.by_task()
    assert at["rudder"].start >= at[pit.jobs[-1].tasks[0].id].end  # what waited for the lift waits for the pit


BEFORE = HAUL - timedelta(days=30)


def season(**more: object) -> Act:
    """Hauled Mon 2 Nov 2026 08:00, launched Mon 16 Nov 10:00, by the yard's clock: winter time."""
    haul, launch = datetime(2026, 11, 2, 8, tzinfo=LISBON), datetime(2026, 11, 16, 10, tzinfo=LISBON)
    return Act.model_validate({"do": "season", "haul_at": haul, "at": launch} | more)


def test_another_season_moves_what_is_fixed_along_by_the_yards_clock_and_leaves_what_has_its_own_day() -> None:
    """182 days on, across the change of clocks: a survey at 14:00 stays at 14:00."""
    survey = {"id": "s", "title": "Survey", "at": datetime(2026, 5, 8, 14, tzinfo=LISBON).isoformat()}
    away = [{"first": "2026-11-04", "last": "2026-11-05"}]
    pin = datetime(2026, 5, 11, 9, tzinfo=LISBON).isoformat()
    made = refit(task("a", pin=pin), people=[person("ann", absences=away), person("bo")], appointments=[survey])
    moved = moved_to(made, season(lay_day=2_000, money=30_000), BEFORE)
    assert moved.appointments[0].at.astimezone(LISBON) == datetime(2026, 11, 6, 14, tzinfo=LISBON)
    assert moved.tasks["a"].pin == datetime(2026, 11, 9, 9, tzinfo=LISBON)
    assert moved.persons["ann"].absences == made.persons["ann"].absences
    assert moved.yard.lay_day == 2_000
    # 182 days at 300.00 a month of 30.4375 days
    assert [one.price for one in moved.yard_extras] == [round(30_000 * 182 / 30.4375)]
    with pytest.raises(RefitFaults, match="still to come"):
        moved_to(made, season(), HAUL)
    with pytest.raises(RefitFaults, match="in the past"):
        moved_to(made, season(haul_at=datetime(2026, 4, 1, 8, tzinfo=LISBON)), BEFORE)


def test_who_has_no_date_in_a_season_is_asked_for_and_may_say_never() -> None:
    people = [
        person("ann"),
        person("hal", role="helper", arrives="2026-05-06", leaves="2026-05-20"),
        person("tom", role="helper"),
    ]
    visits = [{"id": "v", "title": "Tom", "person": "tom", "first": "2026-05-07", "last": "2026-05-09"}]
    visits.append({"id": "g", "title": "Aunt and uncle", "first": "2026-05-10", "last": "2026-05-12", "guests": 2})
    made = refit(task("a"), people=people, visits=visits)
    act = season()
    assert act.haul_at is not None
    assert act.at is not None
    assert [one.id for one in without_date(made, act.haul_at, act.at)] == ["hal", "tom", "g"]
    with pytest.raises(RefitFaults, match="Say when Hal could come") as error:
        moved_to(made, act, BEFORE)
    assert len(error.value.faults) == 3
    stays = [StayThen(person="hal", first=date(2026, 11, 5), last=date(2026, 11, 8)), StayThen(person="tom"),
             StayThen(person="g", first=date(2026, 11, 9), last=date(2026, 11, 11))]  # fmt: skip
    moved = moved_to(made, season(stays=[one.model_dump() for one in stays]), BEFORE)
    assert (moved.persons["hal"].arrives, moved.persons["hal"].leaves) == (date(2026, 11, 5), date(2026, 11, 8))
    tom = moved.persons["tom"]
    assert tom.absences[0].first <= date(2026, 11, 2)
    assert tom.absences[0].last >= date(2026, 11, 16)
    assert [(one.id, one.first, one.guests) for one in moved.visits] == [("g", date(2026, 11, 9), 2)]


def test_the_storm_season_may_run_over_the_turn_of_the_year() -> None:
    """November to March; 10 days to shelter. A launch on 15 October is in shelter on the 25th, a week before."""
    made = refit(task("a"), yard={"storm_from": 11, "storm_to": 3, "shelter_days": 10})
    assert [in_storms(made, date(2026, month, 15)) for month in (10, 11, 12, 1, 3, 4)] == [
        False, True, True, True, True, False,
    ]  # fmt: skip

    def told(haul: date, launch: date) -> str:
        at = [datetime.combine(one, HAUL.time(), LISBON) for one in (haul, launch)]
        return "; ".join(season_told(made, at[0], at[1], BEFORE).storms)

    assert told(date(2026, 9, 20), date(2026, 10, 15)).startswith("in shelter 7 days before")
    assert told(date(2026, 9, 20), date(2026, 10, 27)).endswith("5 days too soon to be in shelter")
    assert "stay in shelter" in told(date(2026, 10, 20), date(2026, 11, 10))
    assert told(date(2027, 3, 20), date(2027, 4, 10)).startswith("ashore in the storm season for 12 days")
    assert "no storm season typed" in season_told(refit(task("a")), HAUL, LAUNCH, HAUL).storms[0]
