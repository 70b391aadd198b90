"""The note after a change says at once what it did, and within seconds what the rest of the plan answers, settled and kept."""

from __future__ import annotations

from datetime import datetime
from threading import Timer
from time import monotonic

import pytest

from rovask.core.explain.compare import compare
from rovask.core.explain.search import Halt, Halted, Search
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from rovask.core.refit.work.edits import remove_job, update_task
from rovask.desk.door import Desk
from rovask.desk.settling import is_open, keep_effect, open_effect
from rovask.settings import Settings
from rovask.store.database import transaction
from rovask.store.history import settle
from tests.acts import changed, log_of, undone
from tests.conftest import Sailor
from tests.web.pages import Elements

QUICK = 0.6  # seconds of search on each side


def settle_effect(desk: Desk, pk: int, change: int, halt: Halt, seconds: float) -> bool:
    """As the page does it; whether there was something to settle."""
    work = open_effect(desk, pk, change)
    if work is None:
        return False
    keep_effect(desk, pk, change, work(Search(seconds, monotonic, halt)))
    return True


def opened(settings: Settings, pk: int, change: int, own: int, money: int) -> None:
    """As if the first answer had told ``money`` of which ``own`` is the change's own."""
    with transaction(settings.database_url) as session:
        settle(session, pk, change, {"own": own, "money": money, "settled": False})


def test_what_the_plan_answers_is_settled_once_kept_and_no_longer_called_open(
    sailor: Sailor, desk: Desk, settings: Settings, demo_pk: int
) -> None:
    done = changed(settings, demo_pk, lambda refit: update_task(refit, "tops-1", note="tape first"), "noted")
    assert done.change is not None
    assert not is_open(log_of(settings, demo_pk)[0].effect)
    assert not settle_effect(desk, demo_pk, done.change, Halt(), QUICK)  # nothing to settle
    opened(settings, demo_pk, done.change, 0, 99900)
    page = sailor.get(f"/r/{demo_pk}/morning").text
    assert "999 EUR more, still being worked out" in page
    assert f'hx-get="/r/{demo_pk}/effect/{done.change}"' in page
    assert settle_effect(desk, demo_pk, done.change, Halt(), QUICK)
    effect = log_of(settings, demo_pk)[0].effect
    assert effect is not None
    assert (effect["own"], effect["settled"]) == (0, True)
    assert abs(effect["money"]) < 99900  # a note costs nothing: like with like, what luck of a search told is gone
    again = sailor.get(f"/r/{demo_pk}/morning").text
    assert "still being worked out" not in again
    assert not settle_effect(desk, demo_pk, done.change, Halt(), QUICK)
    assert sailor.get(f"/r/{demo_pk}/effect/{done.change}").status_code == 200
    assert sailor.get(f"/r/{demo_pk}/effect/soup").status_code == 404


def test_a_change_that_is_no_longer_the_newest_or_was_taken_back_is_left_alone(
    desk: Desk, settings: Settings, demo_pk: int
) -> None:
    first = changed(settings, demo_pk, lambda refit: update_task(refit, "tops-1", note="one"), "noted").change
    assert first is not None
    opened(settings, demo_pk, first, 0, 100)
    undone(settings, demo_pk)
    assert not settle_effect(desk, demo_pk, first, Halt(), QUICK)
    assert not settle_effect(desk, demo_pk, 2**40, Halt(), QUICK)


def test_the_page_asks_for_the_settled_effect_and_shows_it(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    change = changed(settings, demo_pk, lambda refit: update_task(refit, "tops-1", note="two"), "noted").change
    assert change is not None
    opened(settings, demo_pk, change, 0, 5000)
    answer = sailor.get(f"/r/{demo_pk}/effect/{change}")
    assert answer.status_code == 200
    (told,) = Elements(answer.text).texts("summary", id_="told")
    assert "noted" in told
    assert "worked out" not in told


@pytest.mark.parametrize("way", ["missing", "found"])
def test_a_part_is_missed_and_found_with_one_tap(sailor: Sailor, settings: Settings, demo_pk: int, way: str) -> None:
    stores = Elements(sailor.get(f"/r/{demo_pk}/stores?show=here").text)
    address = next(one for one in stores.attributes("form", "action") if one.endswith("/missing"))
    assert sailor.post(address, {"way": "missing"}).status_code == 303
    if way == "found":
        assert sailor.post(address, {"way": "found"}).status_code == 303
    page = sailor.get(f"/r/{demo_pk}/stores").text
    assert ("missing</strong> since" in page) is (way == "missing")
    assert log_of(settings, demo_pk)[0].what.startswith("can't find “" if way == "missing" else "found “")


def test_a_change_gives_up_what_is_being_compared_on_its_refit_at_once(demo: Refit, day_9: datetime) -> None:
    halt, plan = Halt(), plan_and_judge(demo, day_9).plan
    fewer = remove_job(demo, demo.jobs[-1].id)
    Timer(0.5, halt.pull).start()
    began = monotonic()
    with pytest.raises(Halted):
        compare(demo, fewer, day_9, plan, Search(60, monotonic, halt))
    assert monotonic() - began < 20  # of the two minutes it had, however slow the machine
    with pytest.raises(Halted):
        compare(demo, fewer, day_9, plan, Search(60, monotonic, halt))


def test_what_was_kept_before_an_answer_was_told_apart_is_not_open() -> None:
    assert not is_open(None)
    assert not is_open({"money": 500, "currency": "EUR"})
    assert not is_open({"money": 500, "own": 0, "settled": True})
    assert is_open({"money": 500, "own": 0})
