"""The odds against answers that can be worked out exactly, and against the textbook's project."""

from __future__ import annotations

import math
from datetime import timedelta
from typing import Any

import numpy as np
import pytest

from rovask.core.odds.odds import odds_of
from rovask.core.odds.told import Odds
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link
from tests.core.odds_cases import ALWAYS, at_most, planned, pmf, round_the_clock, spread

RUNS = 10_000


def played(refit: Refit, **more: Any) -> Odds:
    return odds_of(refit, planned(refit), runs=RUNS, only_typed=True, **more)


def near(found: float | None, exact: float) -> bool:
    """Within three and a half standard errors of the simulation, and of the table's thousand rows."""
    assert found is not None
    return abs(found - exact) <= 3.5 * math.sqrt(max(exact * (1 - exact), 1e-4) / RUNS) + 0.002


@pytest.mark.parametrize("hours", [20, 24, 28, 33])
def test_a_chain_is_the_convolution_of_its_tasks(hours: float) -> None:
    rows = ((2, 4, 12), (5, 8, 9), (6, 10, 20))
    tasks = [spread(f"t{n}", *row) for n, row in enumerate(rows)]
    refit = round_the_clock(*tasks, links=[link("t0", "t1"), link("t1", "t2")], hours=hours)
    exact = np.convolve(np.convolve(pmf(*rows[0]), pmf(*rows[1])), pmf(*rows[2]))
    assert near(played(refit).odds, at_most(exact, hours))


@pytest.mark.parametrize("hours", [11, 13, 16])
def test_two_chains_that_meet_are_the_product_of_theirs(hours: float) -> None:
    one, other = ((2, 4, 9), (3, 5, 12)), ((4, 5, 8), (1, 4, 10))
    refit = round_the_clock(
        *(spread(f"a{n}", *row) for n, row in enumerate(one)),
        *(spread(f"b{n}", *row, people=["bo"]) for n, row in enumerate(other)),
        links=[link("a0", "a1"), link("b0", "b1")],
        hours=hours,
    )
    exact = math.prod(at_most(np.convolve(pmf(*rows[0]), pmf(*rows[1])), hours) for rows in (one, other))
    assert near(played(refit).odds, exact)


def test_a_wait_is_drawn_too_and_runs_on() -> None:
    wait = link("a", "b", 6) | {"least_lag": 3, "most_lag": 20}
    refit = round_the_clock(spread("a", 2, 3, 7), spread("b", 1, 2, 4), links=[wait], hours=16)
    # a wait that isn't over with a half-hour goes on to the next
    cells = 40_000
    at = 3 + 17 * (np.arange(cells) + 0.5) / cells
    a, b = 1 + 4 * 3 / 17, 1 + 4 * 14 / 17
    waits = np.bincount(np.ceil(2 * at).astype(int), weights=(at - 3) ** (a - 1) * (20 - at) ** (b - 1))
    exact = np.convolve(np.convolve(pmf(2, 3, 7), pmf(1, 2, 4)), waits / waits.sum())
    assert near(played(refit).odds, at_most(exact, 16))


@pytest.mark.parametrize("chance", [0.0, 0.35, 1.0])
def test_what_may_come_to_light_comes_as_often_as_it_is_said(chance: float) -> None:
    """35 % that a tank leaks: 12 h and a part of two days, before what follows the look."""
    unknown = {"id": "leak", "title": "The tank leaks", "chance": chance, "hours": 12, "lead_days": 2, "task": "look"}
    refit = round_the_clock(
        spread("look", 1, 1, 1), spread("close", 2, 4, 9), links=[link("look", "close")], unknowns=[unknown], hours=66
    )
    found = played(refit)
    # 1 h, 48 h until the part is here, 12 h, then to close in what is left of 66 h: 5 h
    assert near(found.odds, 1 - chance + chance * at_most(pmf(2, 4, 9), 66 - 1 - 48 - 12))
    assert found.ready is not None
    if chance in (0.0, 1.0):
        assert found.ready.p10 is not None
        assert (found.ready.p10 - HAUL > timedelta(hours=60)) is (chance == 1)


def test_one_that_comes_true_may_open_another() -> None:
    first = {"id": "u", "title": "Wet core", "chance": 0.5, "hours": 4, "task": "look"}
    second = {"id": "v", "title": "And the skin", "chance": 0.4, "hours": 20, "task": "look", "after": "u"}
    refit = round_the_clock(spread("look", 1, 1, 1), unknowns=[first, second], hours=10)
    assert near(played(refit).odds, 1 - 0.5 * 0.4)


def test_a_weekly_slot_is_waited_for() -> None:
    """The yard launches on Mondays from ten to eleven only; the work takes 150 to 210 hours from Monday eight."""
    refit = round_the_clock(
        spread("a", 150, 170, 210, state="either"),
        links=[link("a", "launch")],
        yard={"hours": [{"days": ["mon"], "start": "10:00", "end": "11:00"}]},
        hours=170,
    )
    exact = pmf(150, 170, 210)
    found = played(refit)
    assert near(found.odds, at_most(exact, 170))  # Monday ten, a week and two hours after the haul-out
    missed = [at for at in found.dots if at is not None and at > refit.launch_at]
    assert missed
    assert {at.astimezone(refit.yard.zone).strftime("%a %H") for at in missed} <= {"Mon 10", "Mon 11"}


# The Reliable Construction Co. project of Hillier & Lieberman, Introduction to Operations Research, ch. 22 (10th ed.), weeks;
# figures from memory. Its one-path reckoning: mean 44 weeks, variance 9, 0.84 for 47 weeks.
TEXTBOOK = {
    "a": (1, 2, 3, ""), "b": (2, 3.5, 8, "a"), "c": (6, 9, 18, "b"), "d": (4, 5.5, 10, "c"), "e": (1, 4.5, 5, "c"),
    "f": (4, 4, 10, "e"), "g": (5, 6.5, 11, "d"), "h": (5, 8, 17, "eg"), "i": (3, 7.5, 9, "c"), "j": (3, 9, 9, "fi"),
    "k": (4, 4, 4, "j"), "l": (1, 5.5, 7, "j"), "m": (1, 2, 3, "h"), "n": (5, 5.5, 9, "kl"),
}  # fmt: skip
CRITICAL = "abcefjln"


def test_the_textbook_s_project_and_how_much_too_sure_its_one_path_is() -> None:
    """A week is ten hours here. One path says 0.84 for 47 weeks; with every path it is less, 0.82."""
    means = {key: (a + 4 * m + b) / 6 for key, (a, m, b, _) in TEXTBOOK.items()}
    variances = {key: ((b - a) / 6) ** 2 for key, (a, _, b, _) in TEXTBOOK.items()}
    assert sum(means[key] for key in CRITICAL) == pytest.approx(44)
    assert sum(variances[key] for key in CRITICAL) == pytest.approx(9)
    one_path = 0.5 * (1 + math.erf((47 - 44) / 3 / math.sqrt(2)))
    assert one_path == pytest.approx(0.8413, abs=1e-4)

    people = [{"id": f"p{key}", "name": key, "hours": ALWAYS, "longest_run": 99} for key in TEXTBOOK]
    tasks = [spread(key, 10 * a, 10 * m, 10 * b, people=[f"p{key}"]) for key, (a, m, b, _) in TEXTBOOK.items()]
    links = [link(first, key) for key, (_, _, _, before) in TEXTBOOK.items() for first in before]
    refit = round_the_clock(
        *tasks, people=people, places=[{"id": "hull", "name": "Hull", "capacity": 20}], links=links, hours=470
    )
    found = played(refit)

    rng = np.random.default_rng(5)  # every path, in a few lines of their own
    done: dict[str, Any] = {}
    for key, (a, m, b, before) in TEXTBOOK.items():
        alpha, beta = (1 + 4 * (m - a) / (b - a), 1 + 4 * (b - m) / (b - a)) if b > a else (1, 1)
        takes = a + (b - a) * rng.beta(alpha, beta, 40_000)
        done[key] = takes + np.max([done[one] for one in before] or [np.zeros(40_000)], axis=0)
    every_path = float((np.maximum(done["m"], done["n"]) <= 47).mean())
    assert near(found.odds, every_path)
    assert every_path < one_path - 0.015


def test_without_any_spread_all_runs_are_the_plan() -> None:
    refit = round_the_clock(spread("a", 5, 5, 5), spread("b", 3, 3, 3), links=[link("a", "b", 4)], hours=30)
    found = played(refit)
    assert (found.odds, found.words) == (1.0, "as good as sure")
    assert set(found.dots) == {HAUL + timedelta(hours=12)}
    assert found.sources == ()
