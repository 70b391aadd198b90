"""What must hold of the odds whatever the refit, and what a sailor would notice if it didn't."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
import pytest

from benches.generate import generated_refit
from rovask.core.books.forecast import forecast
from rovask.core.books.items import chance_of
from rovask.core.odds.deal import dealt
from rovask.core.odds.game import game_of, runs_of
from rovask.core.odds.luck import stream_of
from rovask.core.odds.odds import odds_of, told
from rovask.core.odds.skies import skies_of
from rovask.core.odds.source import Origin
from rovask.core.odds.sources import sources_of
from rovask.core.odds.spread import pert
from rovask.core.odds.usual import usual_span
from rovask.core.plan.problem.grid import grid_of
from rovask.core.refit.givens.weather import ClimateMonth, Weather, dew_point
from rovask.core.refit.model import Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.work.choices import Sureness, UsualOf
from tests.builders import HAUL, data, link, person, refit, task
from tests.core.odds_cases import planned, round_the_clock, spread


def test_the_same_seed_gives_the_same_answer_on_one_thread_and_on_two() -> None:
    one = generated_refit(25, 4)
    plan = planned(one, one.haul_at)
    alone, two = (odds_of(one, plan, runs=2500, threads=many) for many in (1, 2))
    assert alone == two
    assert alone != odds_of(one, plan, runs=2500, seed=2)


def test_a_later_slot_is_never_less_sure_and_costs_no_less() -> None:
    one = generated_refit(30, 2)
    found = odds_of(one, planned(one, one.haul_at), runs=1500)
    sure = [slot.odds for slot in found.slots]
    assert len(sure) > 2
    assert sure == sorted(sure)


@pytest.mark.parametrize("seed", [1, 3])
def test_more_spare_is_never_less_sure(seed: int) -> None:
    """The same plan for a launch some days later."""
    one = generated_refit(25, seed)
    plan = planned(one, one.haul_at)
    later = one.grown(launch_at=one.launch_at + timedelta(days=4))
    again = plan.model_copy(update={"launch": later.launch_at})
    before, after = (odds_of(of, with_, runs=2000, only_typed=True).odds for of, with_ in ((one, plan), (later, again)))
    assert before is not None
    assert after is not None
    assert after >= before - 0.01


def test_a_job_that_is_added_changes_no_other_s_luck() -> None:
    tasks = [spread("a", 2, 4, 9), spread("b", 1, 2, 6, people=["bo"])]
    few, more = round_the_clock(*tasks), round_the_clock(spread("new", 3, 5, 8, people=["cy"]), *tasks)
    games = [game_of(one, planned(one), 7, only_typed=True) for one in (few, more)]
    for key in ("a", "b"):
        drawn = [dealt(game.deck, 0, 50).work[:, game.made.node(key)].tolist() for game in games]
        assert drawn[0] == drawn[1]


def test_dearer_things_leave_no_more_money_for_the_same_luck() -> None:
    def costs(price: int) -> int:
        part = {
            "id": "p",
            "name": "Pump",
            "price": price,
            "price_most": price + 9000,
            "status": "needed",
            "lead_days": 0,
        }
        one = round_the_clock(spread("a", 2, 4, 9, parts=["p"]), parts=[part])
        found = odds_of(one, planned(one), runs=800, only_typed=True).money
        assert found is not None
        return found.mean

    assert costs(20_000) < costs(30_000)
    # by hand: the mean of 300 to 390 with 300 as likely is 300 + 90 / 6
    assert costs(30_000) == pytest.approx(31_500, abs=100)


def test_a_missed_slot_costs_the_days_until_she_floats() -> None:
    """24 a day from the first; 70 to 130 h of work round the clock, the slot after 100 h; she floats when she can."""
    one = round_the_clock(spread("a", 70, 100, 130), yard={"lay_day": 2400}, hours=100)
    found = odds_of(one, planned(one), runs=4000, only_typed=True)
    assert found.money is not None
    assert [slot.later for slot in found.slots] == [2400 * days for days in range(len(found.slots))]
    # Monday 08:00 to Friday 12:00 are five days; what is ready later is launched on Friday or Saturday
    assert {found.money.p10, found.money.p50} == {5 * 2400}
    assert found.money.p90 in (5 * 2400, 6 * 2400)


def test_what_cannot_be_played_says_why() -> None:
    empty = refit()
    assert "no work" in odds_of(empty, planned(empty)).reason
    nobody = refit(task("a", skill="welding"))
    stuck = odds_of(nobody, planned(nobody))
    assert stuck.odds is None
    assert "can't be planned" in stuck.reason
    past = refit(task("a"), launch_at=(HAUL + timedelta(days=2)).isoformat())
    late = odds_of(past, planned(past, HAUL + timedelta(days=3)))
    assert late.odds is None
    assert "passed" in late.reason
    with pytest.raises(ValueError, match="at least once"):
        odds_of(empty, planned(empty), runs=0)


def test_a_spread_is_as_typed_as_said_or_as_usual() -> None:
    tasks = [
        spread("typed", 2, 4, 9),
        task("said") | {"sureness": "wild"},
        task("silent"),
        task("sure") | {"sureness": "sure"},
    ]
    one = refit(*tasks, people=[person("ann")])
    work = sources_of(one, planned(one)).work
    assert [(work[key].least, work[key].most, work[key].origin) for key in ("typed", "silent")] == [
        (2, 9, Origin.TYPED),
        (4 * 0.6, 4 * 2.2, Origin.USUAL),
    ]
    width = {key: work[key].most - work[key].least for key in work}
    assert width["sure"] < width["silent"] < width["said"]
    assert not any(
        source.is_open for key, source in sources_of(one, planned(one), only_typed=True).work.items() if key != "typed"
    )


def test_the_yard_s_own_usual_spread_is_taken() -> None:
    own = refit(task("a"), usual_spreads=[{"of": "work", "least": 0.9, "most": 1.1}])
    assert usual_span(own, UsualOf.WORK, None) == (0.9, 1.1)
    assert usual_span(own, UsualOf.WORK, Sureness.WILD) == pytest.approx((0.8, 1.2))


def test_hours_that_were_logged_narrow_what_is_not_known() -> None:
    """Ten tasks each a third over: the pace is learned, and single tasks lie nearer to it than usual."""
    done = [
        task(f"d{n}", 4, begun_at=HAUL.isoformat(), done_at=(HAUL + timedelta(hours=6)).isoformat(), crew=["ann"])
        for n in range(10)
    ]
    log = [
        {
            "id": f"h{n}",
            "task": f"d{n}",
            "person": "ann",
            "at": (HAUL + timedelta(hours=6)).isoformat(),
            "hours": 5.0 + n % 2 / 2,
        }
        for n in range(10)
    ]
    one = refit(*done, task("next", 10), people=[person("ann")], hours_log=log)
    made = sources_of(one, planned(one, HAUL + timedelta(days=1)))
    (pace,) = made.pace.values()
    assert pace.origin is Origin.LEARNED
    assert pace.likely == pytest.approx(1.3, abs=0.04)
    assert pace.most - pace.least < 0.4
    assert made.work["next"].most < 10 * 2.2


def test_an_optional_job_is_left_when_it_would_cost_the_launch() -> None:
    """8 h that must be done and 6 h that could, of one person who has 16 h: kept in time, left once the musts run over.

    Its part, at 100 and nowhere yet, is not bought in the runs in which it is left.
    """
    must = {"id": "must", "title": "Must", "tasks": [spread("a", 4, 8, 24)]}
    could = {"id": "could", "title": "Could", "need": "could", "tasks": [spread("b", 5, 6, 9, parts=["p"])]}
    one = Refit.model_validate(
        data(launch_at=(HAUL + timedelta(hours=16)).isoformat())
        | {"jobs": [could, must], "people": round_the_clock().model_dump(mode="json")["people"]}
        | {"parts": [{"id": "p", "name": "Pump", "price": 10_000, "lead_days": 0, "must_fit": False}]}
    )
    found = odds_of(one, planned(one), runs=4000, only_typed=True)
    ends = {job.job: job for job in found.jobs}
    assert 0.2 < ends["could"].left_out < 0.9
    assert [(row.job, row.share) for row in found.left_out] == [("could", ends["could"].left_out)]
    assert found.money is not None
    assert found.money.mean == pytest.approx(10_000 * (1 - ends["could"].left_out), abs=2)
    alone = one.grown(jobs=one.jobs[1:])
    sure = odds_of(alone, planned(alone), runs=4000, only_typed=True).odds
    assert found.odds == pytest.approx(sure, abs=0.06), "what could be done holds the launch up hardly ever"


def test_an_unknown_is_as_likely_as_what_it_hangs_on() -> None:
    """50 % that the core is wet, then 40 % that the skin is too: 0.2 of 300 is 60 in the forecast, as in the odds."""
    wet = {"id": "u", "title": "Wet core", "chance": 0.5, "task": "look"}
    skin = {
        "id": "v",
        "title": "And the skin",
        "chance": 0.4,
        "money": 30_000,
        "money_most": 30_000,
        "task": "look",
        "after": "u",
    }
    one = round_the_clock(spread("look", 1, 1, 1), unknowns=[wet, skin])
    assert forecast(one, planned(one)).expected.minor == 6_000
    money = odds_of(one, planned(one), runs=10_000, only_typed=True).money
    assert money is not None
    assert money.mean == pytest.approx(6_000, abs=450)
    settled = {
        state: one.grown(unknowns=(one.unknowns[0].model_copy(update={"state": state}), one.unknowns[1]))
        for state in UnknownState
    }
    assert {state.value: round(chance_of(of, of.unknowns[1]), 2) for state, of in settled.items()} == {
        "open": 0.2,
        "vanished": 0,
        "real": 0.4,
    }


def test_what_is_worth_knowing_is_told_first() -> None:
    unknown = {"id": "leak", "title": "The tank leaks", "chance": 0.5, "hours": 30, "task": "look"}
    one = round_the_clock(
        spread("look", 1, 1, 1), spread("close", 2, 4, 5), links=[link("look", "close")], unknowns=[unknown], hours=20
    )
    found = odds_of(one, planned(one), runs=4000, only_typed=True)
    assert found.sources[0].key == "leak"
    assert found.sources[0].wins == pytest.approx(0.5, abs=0.03)
    assert [row.job for row in found.drives] == ["job"]


def test_skies_have_the_month_s_rain_and_warmth() -> None:
    """15 rain days of 30 and 12 °C typed for every month; beyond the forecast the skies have just that, as a mean."""
    climate = tuple(ClimateMonth(month=n, temperature=12, humidity=70, wind=5, rain_days=15.2) for n in range(1, 13))
    grid = grid_of(refit(task("a")), HAUL)
    skies = skies_of(grid, Weather(climate=climate), 45.0, HAUL, 1)
    hours = skies.rain[:, : skies.rain.shape[1] // 24 * 24]
    wet_days = hours.reshape(len(hours), -1, 24).any(axis=2).mean()
    assert wet_days == pytest.approx(0.5, abs=0.03)
    assert skies.temperature.mean() == pytest.approx(12, abs=0.3)
    assert skies.humidity.mean() == pytest.approx(70, abs=1.5)
    assert skies.own_climate
    wet = hours.reshape(len(hours), -1, 24).any(axis=2)
    after_wet = wet[:, 1:][wet[:, :-1]].mean()
    assert after_wet == pytest.approx(0.25 + 0.75 * 0.5, abs=0.04), "wet days come together"


def test_a_forecast_is_followed_less_and_less_surely() -> None:
    """Eight days of rain are told: today it rains under every sky, on the eighth under some half of them."""
    hours = 24 * 8
    told_ = Weather(
        source="x", fetched_at=HAUL, start=HAUL - timedelta(hours=7), temperature=(15.0,) * hours, humidity=(80.0,) * hours,
        rain=(1.0,) * hours, wind=(3.0,) * hours, climate=(ClimateMonth(month=5, temperature=15, humidity=70, wind=3, rain_days=0),),
    )  # fmt: skip
    grid = grid_of(refit(task("a")), HAUL)
    skies = skies_of(grid, told_, 45.0, HAUL, 1)
    noon = [np.asarray(skies.by_slot(grid, skies.rain))[:, day * 48 + 24].mean() for day in (0, 4, 7)]
    assert noon[0] == 1
    assert noon[0] > noon[1] > noon[2]
    assert noon[2] == pytest.approx(1 - 7 * 0.08, abs=0.12)


def test_one_formula_for_the_dew_point() -> None:
    from rovask.core.odds.skies import _dew_points

    air = np.array([[-5.0, 8.0, 21.5, 33.0]], dtype=np.float32), np.array([[40.0, 95.0, 61.0, 20.0]], dtype=np.float32)
    exact = [dew_point(float(t), float(h)) for t, h in zip(air[0][0], air[1][0], strict=True)]
    assert _dew_points(*air)[0] == pytest.approx(exact, abs=1e-3)


def test_a_table_has_the_mean_and_the_variance_of_its_distribution() -> None:
    table = pert(2, 4, 12)
    assert table.mean() == pytest.approx(5, abs=1e-3)
    assert table.var() == pytest.approx((5 - 2) * (12 - 5) / 7, rel=5e-3)
    with pytest.raises(ValueError, match="from least over likely to most"):
        pert(5, 4, 12)


def test_streams_are_named_by_what_they_are_of() -> None:
    assert stream_of(1, "work", "ab") != stream_of(1, "wor", "kab")
    assert stream_of(1, "work", "a") != stream_of(2, "work", "a")


def test_told_and_played_agree() -> None:
    one = generated_refit(15, 6)
    game = game_of(one, planned(one, one.haul_at), 3)
    hand, outcome = runs_of(game, 0, 600)
    found = told(game, hand, outcome, 3)
    assert found.odds == float((outcome.launch <= game.made.net.slot).mean())
    assert found.interval is not None
    assert found.interval[0] <= found.odds <= found.interval[1]
    assert len(found.dots) == 20
