"""The search for a better plan as the worker runs it: what it keeps, when it stops, what it leaves behind."""

from __future__ import annotations

import threading
import time

import pytest

from benches.generate import generated_refit
from rovask.core.plan.planner import Planned
from rovask.core.plan.verdict.verdict import judge
from rovask.core.plan.verify.check import verify
from rovask.core.readings.prices import VALUE_UNIT, prices_of
from rovask.core.refit import edits
from rovask.core.refit.model import Refit
from rovask.core.refit.work import edits as work_edits
from rovask.desk.command import DirectCommand
from rovask.desk.commands.plan import AdoptPlan, PutPlanBack, StopSearch
from rovask.desk.commands.search import KeepSurer
from rovask.desk.door import Desk
from rovask.desk.planning import better
from rovask.settings import Settings
from rovask.store.database import reading, transaction
from rovask.store.errors import NothingToUndo
from rovask.store.plan_tables import SearchRow, SearchState
from rovask.store.plans import keep_plan, proposal
from rovask.store.searches import SILENT_AFTER, SearchView, view_of
from rovask.work.search import search
from tests.acts import ROVASK, changed, planned
from tests.conftest import kept_for_both
from tests.core.test_odds_surer import a_look, with_the_look_last


def state_of(settings: Settings, pk: int) -> SearchView:
    with transaction(settings.database_url) as session:
        found = view_of(session.get(SearchRow, pk), settings.clock())
    assert found is not None
    return found


def ask_first(settings: Settings, pk: int) -> None:
    changed(settings, pk, lambda made: edits.rebuilt(made, ask_first=True))


SECONDS = 120.0  # far more than it takes, also on a loaded machine: a refit of this size is proven in a few


@pytest.fixture
def small_pk(settings: Settings) -> int:
    """A refit whose first plan is not its best, and whose best is proven in a second or so."""
    made = generated_refit(40, 2)
    return kept_for_both(settings.model_copy(update={"now": made.haul_at}), made)


@pytest.fixture
def settings(settings: Settings, request: pytest.FixtureRequest) -> Settings:
    """On the day of the small refit's haul, where a test is about that one."""
    if "small_pk" in request.fixturenames:
        return settings.model_copy(update={"now": generated_refit(40, 2).haul_at})
    return settings


def run(settings: Settings, pk: int, command: DirectCommand) -> object:
    return Desk(settings).run(ROVASK, command, pk)


def test_a_better_plan_is_kept_and_the_one_before_can_be_put_back(settings: Settings, small_pk: int) -> None:
    kept, before = planned(settings, small_pk)
    assert search(settings, small_pk, SECONDS) > 0
    _, after = planned(settings, small_pk)
    assert better(after, before, kept.refit)
    assert verify(kept.refit, after.plan) == []
    found = state_of(settings, small_pk)
    assert found.state is SearchState.PROVEN
    assert found.value is not None
    moves = found.value - after.plan.value  # near tasks that moved are counted by the search, not by the plan
    assert moves >= 0
    assert moves % (prices_of(kept.refit).moved_task * VALUE_UNIT) == 0
    assert found.first_value == before.plan.value
    assert found.gap is None or 0 <= found.gap < 1
    run(settings, small_pk, PutPlanBack())
    assert planned(settings, small_pk)[1].plan.assignments == before.plan.assignments
    run(settings, small_pk, AdoptPlan())
    assert planned(settings, small_pk)[1].plan.assignments == after.plan.assignments


def test_who_wants_to_be_asked_keeps_the_old_plan_until_they_adopt(settings: Settings, small_pk: int) -> None:
    ask_first(settings, small_pk)
    kept, before = planned(settings, small_pk)
    assert search(settings, small_pk, SECONDS) > 0
    assert planned(settings, small_pk)[1].plan.assignments == before.plan.assignments
    with reading(settings.database_url) as session:
        waits = proposal(session, kept)
    assert waits is not None
    run(settings, small_pk, AdoptPlan())
    assert planned(settings, small_pk)[1] == waits
    with pytest.raises(NothingToUndo):
        run(settings, small_pk, AdoptPlan())


def run_aside(settings: Settings, pk: int, seconds: float) -> threading.Thread:
    thread = threading.Thread(target=search, args=(settings, pk, seconds))
    thread.start()
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline:
        with transaction(settings.database_url) as session:
            found = view_of(session.get(SearchRow, pk), settings.clock())
        if found is not None and found.running and found.first_value is not None:
            return thread
        time.sleep(0.05)
    raise AssertionError("the search did not begin")


def test_it_stops_when_asked_and_keeps_the_best_it_has(settings: Settings, demo_pk: int) -> None:
    thread = run_aside(settings, demo_pk, 300)
    run(settings, demo_pk, StopSearch())
    thread.join(timeout=30)
    assert not thread.is_alive()
    assert state_of(settings, demo_pk).state is SearchState.STOPPED
    kept, plan = planned(settings, demo_pk)
    assert verify(kept.refit, plan.plan) == []


def test_a_change_ends_the_search_of_what_the_refit_was(settings: Settings, demo: Refit, demo_pk: int) -> None:
    thread = run_aside(settings, demo_pk, 300)
    changed(settings, demo_pk, lambda made: work_edits.update_task(made, "chain-1", note="changed"))
    thread.join(timeout=30)
    assert not thread.is_alive()
    kept, plan = planned(settings, demo_pk)
    assert kept.refit.tasks["chain-1"].note == "changed"
    assert verify(kept.refit, plan.plan) == []


@pytest.mark.parametrize("asked", [False, True])
def test_a_surer_plan_worth_as_much_is_kept_like_a_better_one(settings: Settings, asked: bool) -> None:
    """What is looked at last is looked at first, on its own or when the sailor says so; and the old plan can be put back."""
    made = a_look().grown(ask_first=asked)
    settings = settings.model_copy(update={"now": made.haul_at, "surer_seconds": 6.0})
    pk, last = kept_for_both(settings, made), with_the_look_last(made).plan
    kept, _ = planned(settings, pk)
    with transaction(settings.database_url) as session:
        keep_plan(session, kept, Planned(last, judge(made, last)), settings.clock())
    # a change after it, so that what moves of the next days has a price
    changed(settings, pk, lambda made: work_edits.update_task(made, "long0", note="the long one first"))
    assert planned(settings, pk)[1].plan.assignments == last.assignments
    search(settings, pk, 1.0)
    assert state_of(settings, pk).told.startswith("A surer plan was found: +")
    if asked:
        assert planned(settings, pk)[1].plan.assignments == last.assignments
        run(settings, pk, AdoptPlan())
    kept, after = planned(settings, pk)
    assert after.plan.by_task()["look"].start < after.plan.by_task()["long3"].start
    assert verify(kept.refit, after.plan) == []
    run(settings, pk, PutPlanBack())
    assert planned(settings, pk)[1].plan.assignments == last.assignments


def test_a_surer_plan_gives_way_to_what_was_taken_meanwhile(settings: Settings) -> None:
    made = a_look()
    settings = settings.model_copy(update={"now": made.haul_at})
    pk = kept_for_both(settings, made)
    kept, present = planned(settings, pk)
    other = with_the_look_last(made, ("long3", "long2", "long1", "long0", "look")).plan
    assert present.plan.assignments != other.assignments
    found = Planned(other, judge(made, other))
    assert run(settings, pk, KeepSurer(found, other, kept.revision)) is False
    assert planned(settings, pk)[1] == present
    assert run(settings, pk, KeepSurer(found, present.plan, kept.revision + 1)) is False
    assert run(settings, pk, KeepSurer(found, present.plan, kept.revision)) is True


def test_a_worker_that_went_silent_is_told_as_such(settings: Settings, demo_pk: int) -> None:
    with transaction(settings.database_url) as session:
        from rovask.store.searches import begin_search

        begin_search(session, demo_pk, 1, 60, settings.clock())
        assert view_of(session.get(SearchRow, demo_pk), settings.clock()).running  # type: ignore[union-attr]
        late = view_of(session.get(SearchRow, demo_pk), settings.clock() + SILENT_AFTER * 2)
    assert late is not None
    assert late.state is SearchState.FAILED
    assert "kept" in late.told


def test_a_refit_that_is_gone_is_nobody_s_search(settings: Settings) -> None:
    assert search(settings, 10**9, 5) == 0
