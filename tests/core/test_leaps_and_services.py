"""Look before you leap, services as they really are out, the forecast counted once: worked by hand."""

from datetime import datetime, timedelta
from typing import Any

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.books.order_by import part_needs
from rovask.core.explain.gains import gains
from rovask.core.judged.leaps import doubts
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verdict.services import by_day, outages, too_long
from rovask.core.refit.model import HoursEntry, Refit
from rovask.core.refit.work.edits import finish_task, log_hours
from tests.builders import HAUL, link, person, refit, task

TRADE: dict[str, Any] = {"role": "trade", "skills": ["rigging"], "rate": 5000}


def speaks_against(made: Refit, key: str, hours: float, *, ends: bool = False) -> str:
    return " ".join(doubts(made, made.tasks[key], HAUL + timedelta(hours=hours), begins=True, ends=ends))


def done(key: str, hours: float, begun: float, ended: float, **more: Any) -> dict[str, Any]:
    at = {
        "begun_at": (HAUL + timedelta(hours=begun)).isoformat(),
        "done_at": (HAUL + timedelta(hours=ended)).isoformat(),
    }
    return task(key, hours, **at, crew=["ann"], **more)


def test_a_coat_over_one_that_isnt_there_is_asked_about() -> None:
    made = refit(task("one", 2, title="First coat"), task("two", 2), links=[link("one", "two", 6)])
    assert speaks_against(made, "two", 3) == "“First coat” isn't done."
    assert speaks_against(made, "one", 3) == ""


def test_a_cure_that_runs_is_told_with_the_hours_to_go() -> None:
    tie = link("fill", "sand", 16) | {"cures": True}
    made = refit(done("fill", 2, 0, 2, title="Filling"), task("sand", 2), links=[tie])
    # without a forecast a cure runs at 20 °C: from Monday 10:00 to Tuesday 02:00; asked Monday 14:00
    assert speaks_against(made, "sand", 6) == "“Filling” cures until Tue 5 May 02:00: 12 h to go."
    assert speaks_against(made, "sand", 18) == ""
    # at 10 °C it takes twice as long: until Tuesday 18:00
    cold = refit(done("fill", 2, 0, 2, title="Filling"), task("sand", 2), links=[tie], yard={"temperature": 10.0})
    assert speaks_against(cold, "sand", 18) == "“Filling” cures until Tue 5 May 18:00: 16 h to go."


def test_a_window_that_has_closed_says_what_makes_it_good() -> None:
    tie = link("one", "two", 4, 20) | {"make_good_hours": 2, "make_good": "wash, abrade with 80 grit, wipe"}
    made = refit(done("one", 2, 0, 2), task("two", 2), links=[tie])
    assert "by Tue 5 May 06:00" in speaks_against(made, "two", 24)
    assert "abrade with 80 grit" in speaks_against(made, "two", 24)


@pytest.mark.parametrize(
    ("status", "words"),
    [
        ("needed", "isn't ordered"),
        ("ordered", "isn't aboard, expected"),
        ("aboard", "hasn't been tried for fit"),
        ("checked", ""),
    ],
)
def test_a_part_that_isnt_there_or_not_tried_is_told(status: str, words: str) -> None:
    part = {"id": "p", "name": "Bearing", "status": status, "arrives": "2026-05-08T09:00Z"}
    made = refit(task("a", parts=["p"]), parts=[part])
    assert words in speaks_against(made, "a", 1)
    assert bool(words) == bool(speaks_against(made, "a", 1))


def test_in_the_water_with_something_dangerous_open_or_work_left_ashore() -> None:
    finding = {"id": "f", "title": "Hose worn nearly through", "severity": "dangerous", "at": HAUL.isoformat()}
    made = refit(task("keel", 2), task("sea", 1, state="afloat_after"), findings=[finding])
    told = speaks_against(made, "sea", 5)
    for words in ("She isn't launched", "“Task keel” first", "Dangerous and open: Hose worn nearly through"):
        assert words in told
    early = speaks_against(made, "keel", -24)
    assert "She isn't out yet" in early


def test_whoever_logs_all_the_hours_is_done_and_so_is_nothing_left() -> None:
    made = refit(task("a", 4), task("b", 4, hands=2), task("c", 4))

    def entry(key: str, hours: float) -> HoursEntry:
        return HoursEntry(id=f"h-{key}-{hours:g}", task=key, person="ann", at=HAUL + timedelta(hours=8), hours=hours)

    part = log_hours(made, entry("a", 3), None)
    assert part.hours_to_do(part.tasks["a"]) == 1
    whole = log_hours(part, entry("a", 1), None)
    assert whole.tasks["a"].done_at is not None
    assert whole.hours_to_do(whole.tasks["a"]) == 0
    assert log_hours(made, entry("c", 1), 0).tasks["c"].done_at is not None  # "left 0"
    assert log_hours(made, entry("c", 1), 6).hours_to_do(log_hours(made, entry("c", 1), 6).tasks["c"]) == 6
    pair = log_hours(made, entry("b", 4), None)  # four of the eight hours of two pairs of hands
    assert pair.tasks["b"].done_at is None
    assert pair.hours_to_do(pair.tasks["b"]) == 2


def test_gas_is_out_from_when_the_bottles_went_until_the_test_is_signed() -> None:
    begun = (HAUL + timedelta(days=4)).isoformat()
    off = task("off", 0.5, takes_out=["gas"], until="test", begun_at=begun, done_at=begun, crew=["ann"])
    made = refit(
        off, task("test", 2), links=[link("off", "test", 120)], outage_limits=[{"service": "gas", "hours": 48}]
    )
    plan = plan_and_judge(made, HAUL + timedelta(days=5)).plan
    gas = next(one for one in outages(made, plan) if one.service.value == "gas")
    assert gas.began
    assert gas.begins == HAUL + timedelta(days=4)
    assert gas.ends == plan.by_task()["test"].end
    assert gas.broken  # five days and more, where two were the limit
    days = [one.day.day for one in by_day(made, plan) if gas in one.out]
    assert days == [8, 9, 10, 11, 12, 13]  # since Friday, until the test on Wednesday
    free = refit(task("off", 0.5, takes_out=["gas"], until="test"), task("test", 2), links=[link("off", "test", 20)],
                 outage_limits=[{"service": "gas", "hours": 24}])  # fmt: skip
    plan = plan_and_judge(free, HAUL).plan
    assert too_long(free, plan, free.tasks["off"], HAUL - timedelta(days=2)) != []
    assert too_long(free, plan, free.tasks["off"], plan.by_task()["off"].start) == []


def test_a_keel_cooled_fridge_is_out_from_the_lift_to_afloat() -> None:
    boat = {"name": "H", "length_m": 11, "waterline_m": 9, "beam_m": 3.5, "draft_m": 1.8, "displacement_kg": 7000}
    made = refit(task("a"), boat=boat | {"fitted": ["water-cooled fridge", "holding tank"]})
    plan = plan_and_judge(made, HAUL + timedelta(days=2)).plan
    (fridge,) = outages(made, plan)
    assert (fridge.service.value, fridge.begins, fridge.ends) == ("fridge", made.haul_at, plan.launch)
    both = refit(task("a"), boat=boat)
    assert [one.service.value for one in outages(both, plan)] == ["heads"]  # no tank to hold it


def cost(made: Refit, hours: float = 0) -> dict[str, int]:
    plan = plan_and_judge(made, HAUL + timedelta(hours=hours)).plan
    return {line.title: line.amount.minor for line in forecast(made, plan).lines}


def test_a_rigger_who_is_away_is_not_billed_for_it() -> None:
    # 16 h in days of 8 h, away on Tuesday: Monday and Wednesday, with the absence inside the task's elapsed time
    day = [{"days": ["mon", "tue", "wed"], "start": "09:00", "end": "17:00"}]
    away = [{"first": "2026-05-05", "last": "2026-05-05"}]
    made = refit(task("a", 16, skill="rigging"), people=[person("rig", **TRADE, hours=day, absences=away)])
    assert cost(made) == {"Rig": 16 * 5000}


def test_ticking_a_paid_task_keeps_its_cost_though_no_hours_are_logged() -> None:
    day = [{"days": ["mon", "tue", "wed"], "start": "08:00", "end": "18:00"}]
    made = refit(task("a", 6, skill="rigging"), task("b", 2), people=[person("rig", **TRADE, hours=day), person("ann")])
    before = cost(made)
    ticked = finish_task(made, "a", HAUL + timedelta(hours=6), ("rig",))
    assert cost(ticked, 6) == before == {"Rig": 6 * 5000}
    entry = HoursEntry(id="h", task="a", person="rig", at=HAUL + timedelta(hours=5), hours=7)
    assert cost(log_hours(made, entry, 0), 6) == {"Rig": 7 * 5000}  # what was logged is what it was


def test_parts_of_a_job_left_out_cost_nothing_unless_they_are_bound() -> None:
    jobs = [
        {"id": "m", "title": "Must", "tasks": [task("a", 8, parts=["m"])]},
        {"id": "c", "title": "Could", "need": "could", "tasks": [task("b", 40, parts=["c", "d"])]},
    ]
    parts = [
        {"id": "m", "name": "M", "price": 100, "status": "checked"},
        {"id": "c", "name": "C", "price": 1000},
        {"id": "d", "name": "D", "price": 10000, "status": "ordered", "arrives": "2026-05-04T09:00Z"},
        {"id": "loose", "name": "L", "price": 100000},
    ]
    made = refit(jobs=jobs, parts=parts, people=[person("ann")], launch_at="2026-05-05T17:00Z")
    assert cost(made)["Parts"] == 10000 + 100000  # what fits already costs nothing more
    assert cost(made.model_copy(update={"launch_at": datetime.fromisoformat("2026-05-18T09:00Z")}))["Parts"] == 111000


def test_parts_of_must_work_that_cant_be_planned_keep_their_order_by() -> None:
    made = refit(task("a", 4, skill="magic", parts=["p"]), parts=[{"id": "p", "name": "P", "lead_days": 5}])
    planned = plan_and_judge(made, HAUL)
    (need,) = part_needs(made, planned.plan, planned.verdict)
    # launch Monday 18 May 09:00 UTC, 4 h of work, half an hour to try it for fit, five days to come
    assert need.order_by == datetime.fromisoformat("2026-05-13T04:30Z")
    # what must follow it counts too: 4 h of it, 12 h to dry, 6 h of the next coat and 16 h to the water are 38 h before the launch
    coats = (task("a", 4, skill="magic", parts=["p"]), task("b", 6))
    ties = [link("a", "b", 12), link("b", "launch", 16)]
    made = refit(*coats, links=ties, parts=[{"id": "p", "name": "P", "lead_days": 5}])
    planned = plan_and_judge(made, HAUL)
    (need,) = part_needs(made, planned.plan, planned.verdict)
    assert need.order_by == datetime.fromisoformat("2026-05-18T09:00Z") - timedelta(hours=38.5, days=5)
    # and what is for afloat, before the haul, serves that
    afloat = task("a", 4, skill="magic", parts=["p"], state="afloat_before")
    made = refit(afloat, parts=[{"id": "p", "name": "P", "lead_days": 5}])
    planned = plan_and_judge(made, HAUL - timedelta(days=20))
    (need,) = part_needs(made, planned.plan, planned.verdict)
    assert need.order_by == HAUL - timedelta(hours=4.5, days=5)


def test_what_is_not_found_yet_is_expected_apart_and_a_trade_without_a_rate_is_said_to_be_free() -> None:
    unknowns = [
        {"id": "u", "title": "Perhaps", "chance": 0.25, "money": 40000, "hours": 8},
        {"id": "v", "title": "No", "chance": 0.5, "money": 90000, "state": "vanished"},
    ]
    made = refit(
        task("a", 4, skill="rigging"), unknowns=unknowns, people=[person("rig", role="trade", skills=["rigging"])]
    )
    plan = plan_and_judge(made, HAUL).plan
    told = forecast(made, plan)
    assert told.expected.minor == 10000
    assert told.total.minor == 10000
    assert told.known.minor == 0
    assert told.notes == ("Rig has no rate yet and is counted as nothing.",)


def test_paid_days_are_counted_once_for_the_gain_of_a_plan_and_for_the_forecast() -> None:
    # 12 h in days of 8 h: two visits; begun on Saturday it would pause over Sunday, which is no visit
    day = [{"days": ["mon", "sat"], "start": "09:00", "end": "17:00"}]
    made = refit(task("a", 12, skill="rigging"), people=[person("rig", **TRADE, hours=day)])
    plan = plan_and_judge(made, HAUL).plan
    assert len(forecast(made, plan).lines) == 1
    assert "2 days" in forecast(made, plan).lines[0].how
    assert gains(made, plan, plan) == []
