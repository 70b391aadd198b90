"""Whole refits in and out of PostgreSQL, their history, undo, and two editors of one thing."""

from datetime import datetime, timedelta

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as configure
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError

from rovask.core.plan.verify.check import verify
from rovask.core.refit import edits
from rovask.core.refit.faults import RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.records import Key, Kind
from rovask.settings import Settings
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.errors import Conflict, NotFound, NothingToUndo
from tests.builders import HAUL, refit, task
from tests.core import strategies

WHO = None


def rename(key: str, title: str):  # type: ignore[no-untyped-def]
    return lambda made: edits.update_task(made, key, title=title)


@configure(
    max_examples=25,
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(made=strategies.refits())
def test_what_is_kept_comes_back_the_same(database: str, made: Refit) -> None:
    with transaction(database) as session:
        pk = refits.add(session, made, who=None, what="x", clock=HAUL).pk
    with transaction(database) as session:
        assert refits.load(session, pk).refit == made


def test_the_demo_comes_back_the_same_with_a_verified_plan(settings: Settings, demo: Refit, demo_pk: int) -> None:
    with transaction(settings.database_url) as session:
        kept = refits.load(session, demo_pk)
        planned = refits.current_plan(session, kept, settings.clock())
    assert kept.refit == demo
    assert verify(demo, planned.plan) == []
    assert kept.revision == 1


def test_a_change_is_one_row_of_history_with_before_and_after(settings: Settings, demo_pk: int) -> None:
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "New name"), who=WHO, what="renamed", clock=clock)
    with transaction(settings.database_url) as session:
        entries = refits.history(session, demo_pk)
        row = session.execute(
            text("select before, after from change where refit_id = :pk and revision = 2"), {"pk": demo_pk}
        ).one()
    assert [entry.what for entry in entries] == ["renamed", "loaded"]
    assert entries[0].after is not None
    assert list(row.before) == list(row.after) == ["task:bottom-9"]
    assert (row.before["task:bottom-9"]["title"], row.after["task:bottom-9"]["title"]) == ("Barrier coat 1", "New name")


def test_undo_goes_back_step_by_step_to_what_was_loaded(settings: Settings, demo: Refit, demo_pk: int) -> None:
    clock = settings.clock()
    acts = [
        rename("bottom-9", "One"),
        lambda made: edits.remove_job(made, "tops"),
        lambda made: edits.move_task(made, "bottom-9", -1),
        lambda made: edits.split_task(made, "bottom-13", 2, iter(["half", "tie"]).__next__),
    ]
    for act in acts:
        with transaction(settings.database_url) as session:
            refits.change(session, demo_pk, act, who=WHO, what="changed", clock=clock)
    for _ in acts:
        with transaction(settings.database_url) as session:
            refits.undo(session, demo_pk, who=WHO, clock=clock)
    with transaction(settings.database_url) as session:
        assert refits.load(session, demo_pk).refit == demo
        with pytest.raises(NothingToUndo):
            refits.undo(session, demo_pk, who=WHO, clock=clock)


def test_a_second_editor_of_one_task_gets_both_versions(settings: Settings, demo_pk: int) -> None:
    clock, key = settings.clock(), Key(Kind.TASK, "bottom-9")
    with transaction(settings.database_url) as session:
        seen = refits.load(session, demo_pk).revisions[key]
    with transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "First"), who=WHO, what="a", clock=clock, seen={key: seen})
    with pytest.raises(Conflict) as caught, transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "Second"), who=WHO, what="b", clock=clock, seen={key: seen})
    assert caught.value.theirs is not None
    assert caught.value.theirs["title"] == "First"
    with transaction(settings.database_url) as session:  # another task may be edited from the same old page
        other = Key(Kind.TASK, "bottom-10")
        refits.change(session, demo_pk, rename("bottom-10", "Mine"), who=WHO, what="c", clock=clock, seen={other: 1})
        now = refits.load(session, demo_pk).refit
    assert (now.tasks["bottom-9"].title, now.tasks["bottom-10"].title) == ("First", "Mine")


def test_a_change_that_fails_half_way_keeps_nothing(settings: Settings, demo: Refit, demo_pk: int) -> None:
    clock = settings.clock()
    with pytest.raises(RefitFaults), transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("ghost", "x"), who=WHO, what="a", clock=clock)
    with pytest.raises(RuntimeError), transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "x"), who=WHO, what="a", clock=clock)
        raise RuntimeError("the power went")
    with transaction(settings.database_url) as session:
        kept = refits.load(session, demo_pk)
        assert (kept.refit, kept.revision, len(refits.history(session, demo_pk))) == (demo, 1, 1)


def test_a_change_rolled_back_is_not_served_to_the_next_reader(settings: Settings, demo_pk: int) -> None:
    """The cache of read refits must never hold what was not committed."""
    clock = settings.clock()
    with pytest.raises(RuntimeError), transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "Lost"), who=WHO, what="a", clock=clock)
        raise RuntimeError
    with transaction(settings.database_url) as session:
        refits.change(session, demo_pk, rename("bottom-9", "Kept"), who=WHO, what="b", clock=clock)
    with transaction(settings.database_url) as session:
        assert refits.load(session, demo_pk).refit.tasks["bottom-9"].title == "Kept"


def test_a_change_of_nothing_writes_nothing(settings: Settings, demo_pk: int) -> None:
    with transaction(settings.database_url) as session:
        assert (
            refits.change(session, demo_pk, lambda made: made, who=WHO, what="a", clock=settings.clock()).revision == 1
        )


def test_plans_move_on_with_the_clock(settings: Settings, demo_pk: int) -> None:
    later = settings.clock() + timedelta(hours=6)
    with transaction(settings.database_url) as session:
        kept = refits.load(session, demo_pk)
        plan = refits.current_plan(session, kept, later).plan
    assert all(
        (item.resume or item.start) >= later for item in plan.assignments if not kept.refit.tasks[item.task].done_at
    )


def test_a_better_plan_is_better_in_the_planners_order(day_9: datetime) -> None:
    made = refit(task("a", 8), launch_at="2026-05-05T17:00Z")
    early, late = refits.verified(made, HAUL), refits.verified(made, HAUL + timedelta(hours=3))
    assert refits.better(early, late, made)
    assert not refits.better(late, early, made)


@pytest.mark.parametrize(
    "statement",
    [
        "update task set place = 'nowhere' where refit_id = :pk and id = 'bottom-9'",
        "update task set hands = 0 where refit_id = :pk and id = 'bottom-9'",
        "update task set work_least = 99 where refit_id = :pk and id = 'bottom-9'",
        "update task set done_at = '2000-01-01' where refit_id = :pk and id = 'bottom-1'",
        "update refit set launch_at = haul_at where pk = :pk",
        "update part set status = 'ordered', arrives = null where refit_id = :pk and id = 'anti'",
        "delete from person where refit_id = :pk and id = 'mira'",
        "delete from job where refit_id = :pk and id = 'bottom'",
        "insert into link select refit_id, first, \"then\", kind, min_lag, max_lag, reason, 'twice', 0, 0 from link where refit_id = :pk and id = 'l1'",
    ],
)
def test_the_database_keeps_the_invariants_by_itself(settings: Settings, demo_pk: int, statement: str) -> None:
    statement = statement.replace(
        "insert into link select",
        'insert into link (refit_id, first, "then", kind, min_lag, max_lag, reason, id, position, row_revision) select',
    )
    with pytest.raises(IntegrityError), transaction(settings.database_url) as session:
        session.execute(text(statement), {"pk": demo_pk})


def test_removing_a_refit_takes_everything_of_it_along(settings: Settings, demo_pk: int) -> None:
    with transaction(settings.database_url) as session:
        refits.remove(session, demo_pk)
    with transaction(settings.database_url) as session:
        for table in ("task", "job", "plan", "change", "hours_entry"):
            assert (
                session.execute(text(f"select count(*) from {table} where refit_id = :pk"), {"pk": demo_pk}).scalar()
                == 0
            )
        with pytest.raises(NotFound):
            refits.load(session, demo_pk)
