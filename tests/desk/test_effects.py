"""What a change is said to have done, worked out by hand: launch, money, jobs and services of life aboard."""

from __future__ import annotations

from typing import Any

from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from rovask.desk.effects import effect_between
from rovask.settings import Settings
from rovask.web.effect_words import money_told
from tests.acts import log_of
from tests.builders import data, link, person, refit, task
from tests.conftest import Sailor, kept_for_both


def made(settings: Settings | None = None, off: float = 2, price: int = 4000, rate: int = 3000) -> Refit:
    """Ann takes the heads out for ``off`` hours and gives them back in two; Bo comes for three hours, four at least."""
    more: dict[str, Any] = {"haul_at": settings.now, "launch_at": "2026-05-28T10:00:00Z"} if settings else {}
    return refit(
        task("off", off, takes_out=["heads"], until="on", people=["ann"]),
        task("on", 2, people=["ann"]),
        task("rig", 3, people=["bo"]),
        links=[link("off", "on")],
        people=[person("ann"), person("bo", role="trade", rate=rate, call_out_hours=4)],
        parts=[{"id": "core", "name": "Core", "price": price, "lead_days": 2}],
        **more,
    )


def told(before: Refit, after: Refit) -> dict[str, Any]:
    effect = effect_between(before, plan_and_judge(before, before.haul_at), after, plan_and_judge(after, after.haul_at))
    assert effect.money is not None
    return {"money": effect.money.minor, "services": dict(effect.services), "out": effect.out, "back": effect.back}


def test_a_longer_task_keeps_its_service_out_longer_and_costs_nothing() -> None:
    # 2 h + 2 h from 08:00: the heads are out for 4 h; with 4 h + 2 h for 6
    assert told(made(), made(off=4)) == {"money": 0, "services": {"heads": 120}, "out": (), "back": ()}
    assert told(made(off=4), made())["services"] == {"heads": -120}


def test_prices_and_rates_come_through_with_the_call_out_minimum() -> None:
    assert told(made(), made(price=5500))["money"] == 1500
    assert told(made(), made(price=0))["money"] == -4000  # a price of nothing
    assert told(made(), made(rate=3500))["money"] == 4 * 500  # three hours' work, four to be paid


def test_a_could_job_that_no_longer_fits_is_named_and_so_is_its_return() -> None:
    plain = data(task("must", 30, people=["ann"]), people=[person("ann")], launch_at="2026-05-08T07:00:00Z")
    could = {"id": "nice", "title": "Nice to have", "need": "could", "tasks": [task("extra", 6, people=["ann"])]}
    few = Refit.model_validate(plain | {"jobs": [*plain["jobs"], could]})
    longer = data(task("must", 38, people=["ann"]), people=[person("ann")], launch_at="2026-05-08T07:00:00Z")
    many = Refit.model_validate(longer | {"jobs": [*longer["jobs"], could]})
    # four days of ten hours: 30 + 6 fit, 38 + 6 do not
    assert told(few, many)["out"] == ("Nice to have",)
    assert told(many, few)["back"] == ("Nice to have",)


def test_the_log_says_it_and_an_older_change_that_knew_less_is_still_told(sailor: Sailor, settings: Settings) -> None:
    pk = kept_for_both(settings, made(settings))
    form = {"key": "core", "name": "Core", "quantity": "1", "status": "needed", "lead_days": "2", "price": "55"}
    revision = sailor.get(f"/r/{pk}/part/core/edit").text.split('name="revision" value="')[1].split('"')[0]
    assert sailor.post(f"/r/{pk}/part/save", form | {"revision": revision}).status_code == 303
    assert "15 EUR more" in sailor.get(f"/r/{pk}/log").text
    kept = log_of(settings, pk)[0].effect
    assert kept is not None
    assert kept["money"] == 1500
    assert money_told({"money": -250, "currency": "EUR", "out": [], "back": ["A"]}) == "2.50 EUR less; “A” back in"
    assert money_told(dict(kept) | {"money": 0, "own": 0, "services": {"heads": -90}}) == "heads out 1 h 30 min less"
