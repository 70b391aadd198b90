"""Refits in and out of PostgreSQL: round trips, history, plans, two editors, and what the database itself refuses."""

import threading
from collections.abc import Callable
from datetime import datetime, timedelta

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from sqlalchemy import text
from sqlalchemy.exc import DataError, IntegrityError

from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.verify.check import verify
from rovask.core.refit import edits
from rovask.core.refit.model import Decision, Job, Link, Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.whole import Whole
from rovask.core.refit.work import edits as work_edits
from rovask.desk.door import Desk
from rovask.desk.planning import better, verified
from rovask.settings import Settings
from rovask.store import refits
from rovask.store.database import reading, transaction
from rovask.store.errors import Conflict, NotFound, NothingToUndo
from tests.acts import ROVASK, aside_of, changed, kept_of, log_of, planned, redone, rows_of, undone
from tests.builders import HAUL, refit, task
from tests.core.strategies import wholes


def rename(key: str, title: str) -> Callable[[Refit], Refit]:
    return lambda made: work_edits.update_task(made, key, title=title)


@hypothesis_settings(
    max_examples=25, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(wholes())
def test_any_refit_comes_back_as_it_went_in(settings: Settings, made: Whole) -> None:
    at_haul = settings.model_copy(update={"now": made.refit.haul_at})
    pk = Desk(at_haul).add(ROVASK, made, "x").pk
    assert rows_of(settings, pk).refit == made.refit
    assert {kind: aside_of(settings, pk, type(rows[0])) for kind, rows in made.aside.items()} == made.aside
    done = changed(at_haul, pk, lambda one: work_edits.remove_job(one, "j0"))  # what is kept aside does without it
    assert aside_of(settings, pk, Decision)[0].job is None
    undone(at_haul, pk, done.change)
    assert aside_of(settings, pk, Decision) == made.of(Decision)
    assert rows_of(settings, pk).refit == made.refit


def test_the_demo_comes_back_the_same_with_a_verified_plan(settings: Settings, demo: Refit, demo_pk: int) -> None:
    kept, now = planned(settings, demo_pk)
    assert kept.refit == demo
    assert rows_of(settings, demo_pk).refit == demo
    assert rows_of(settings, demo_pk).revisions == kept.revisions
    assert verify(demo, now.plan) == []
    assert kept.revision == 1


def test_a_change_is_one_row_of_history_with_before_and_after(settings: Settings, demo_pk: int) -> None:
    changed(settings, demo_pk, rename("bottom-9", "New name"), "renamed")
    with transaction(settings.database_url) as session:
        row = session.execute(
            text("select before, after from change where refit_id = :pk and revision = 2"), {"pk": demo_pk}
        ).one()
    entries = log_of(settings, demo_pk)
    assert [entry.what for entry in entries] == ["renamed", "loaded"]
    assert entries[0].after is not None
    assert list(row.before) == list(row.after) == ["task:bottom-9"]
    assert (row.before["task:bottom-9"]["title"], row.after["task:bottom-9"]["title"]) == ("Barrier coat 1", "New name")


def test_what_is_remembered_after_a_change_is_what_the_rows_say(settings: Settings, demo_pk: int) -> None:
    """Nothing is read back after a change; so what the next reader is handed must be what was written."""
    acts = [
        rename("bottom-9", "One"),
        lambda made: work_edits.remove_job(made, "tops"),
        lambda made: work_edits.move_task(made, "bottom-9", -1),
        lambda made: work_edits.split_task(made, "bottom-13", 2, iter(["half", "tie"]).__next__),
        lambda made: edits.rebuilt(made, budget=5, launch_at=made.launch_at + timedelta(days=2)),
    ]
    for act in acts:
        done = changed(settings, demo_pk, act)
        rows = rows_of(settings, demo_pk)
        assert rows.refit == done.kept.refit
        assert dict(rows.revisions) == dict(done.kept.revisions)
        assert (rows.revision, rows.change, rows.same_as) == (done.kept.revision, done.change, done.kept.same_as)


def test_undo_goes_back_step_by_step_to_what_was_loaded_and_redo_forth(
    settings: Settings, demo: Refit, demo_pk: int
) -> None:
    acts = [
        rename("bottom-9", "One"),
        lambda made: work_edits.remove_job(made, "tops"),
        lambda made: work_edits.move_task(made, "bottom-9", -1),
        lambda made: work_edits.split_task(made, "bottom-13", 2, iter(["half", "tie"]).__next__),
    ]
    stages = [planned(settings, demo_pk)]
    for act in acts:
        changed(settings, demo_pk, act)
        stages.append(planned(settings, demo_pk))
    for kept, plan in reversed(stages[:-1]):
        undone(settings, demo_pk)
        now = planned(settings, demo_pk)
        assert now[0].refit == kept.refit
        assert now[1] == plan  # the very plan, and so the spare, that stood then
    assert kept_of(settings, demo_pk).refit == demo
    with pytest.raises(NothingToUndo):
        undone(settings, demo_pk)
    for kept, plan in stages[1:]:
        redone(settings, demo_pk)
        now = planned(settings, demo_pk)
        assert (now[0].refit, now[1]) == (kept.refit, plan)
    with pytest.raises(NothingToUndo):
        redone(settings, demo_pk)
    assert rows_of(settings, demo_pk).refit == stages[-1][0].refit


def test_an_old_change_is_taken_back_by_itself_and_later_ones_stay(
    settings: Settings, demo: Refit, demo_pk: int
) -> None:
    first = changed(settings, demo_pk, rename("bottom-9", "One"))
    changed(settings, demo_pk, rename("bottom-10", "Two"))
    changed(settings, demo_pk, lambda made: work_edits.move_task(made, "bottom-9", -1))
    undone(settings, demo_pk, first.change)
    now = rows_of(settings, demo_pk).refit
    assert (now.tasks["bottom-9"].title, now.tasks["bottom-10"].title) == (demo.tasks["bottom-9"].title, "Two")
    entries = {entry.what: entry for entry in log_of(settings, demo_pk)}
    assert entries["took back: changed"].undoes == first.change


def test_what_something_rests_on_is_not_taken_back_and_that_is_named(
    settings: Settings, demo: Refit, demo_pk: int
) -> None:
    first = changed(settings, demo_pk, rename("bottom-9", "One"), "renamed once")
    changed(settings, demo_pk, rename("bottom-9", "Two"), "renamed twice")
    with pytest.raises(NothingToUndo, match=r"renamed once.*renamed twice"):
        undone(settings, demo_pk, first.change)
    job = changed(settings, demo_pk, lambda made: edits.put(made, new_job(made)), "added a job")
    changed(
        settings,
        demo_pk,
        lambda made: edits.rebuilt(made, links=(*made.links, Link(id="t", first="new-1", then="bottom-9"))),
        "tied it",
    )
    with pytest.raises(NothingToUndo, match=r"added a job.*tied it"):
        undone(settings, demo_pk, job.change)
    undone(settings, demo_pk)  # the tie
    undone(settings, demo_pk, job.change)
    assert "new-1" not in rows_of(settings, demo_pk).refit.tasks
    assert [one.id for one in rows_of(settings, demo_pk).refit.jobs] == [one.id for one in demo.jobs]


def new_job(made: Refit):  # type: ignore[no-untyped-def]
    one = task("new-1", 1, place=made.places[0].id)
    return Job.model_validate({"id": "new", "title": "New", "tasks": [one]})


def test_a_change_is_taken_back_only_once_and_can_be_done_again(settings: Settings, demo_pk: int) -> None:
    first = changed(settings, demo_pk, rename("bottom-9", "One"))
    back = undone(settings, demo_pk, first.change)
    with pytest.raises(NothingToUndo, match="already"):
        undone(settings, demo_pk, first.change)
    undone(settings, demo_pk, back.change)
    assert kept_of(settings, demo_pk).refit.tasks["bottom-9"].title == "One"
    assert log_of(settings, demo_pk, 1)[0].what == "did again: changed"


def test_changes_written_before_a_field_existed_can_be_taken_back(
    settings: Settings, demo: Refit, demo_pk: int
) -> None:
    changed(settings, demo_pk, lambda made: edits.rebuilt(made, budget=1, ask_first=True))
    changed(settings, demo_pk, rename("bottom-9", "One"))
    with transaction(settings.database_url) as session:  # as a Rovask without these fields wrote them
        for side in ("before", "after"):
            for revision, key, fields in ((2, "header:", "{outage_limits}"), (3, "task:bottom-9", "{check,units}")):
                session.execute(
                    text(
                        f"update change set {side} = jsonb_set({side}, array[:key], (({side} -> :key) -"
                        " cast(:fields as text[])) || '{\"long gone\": 1}') where refit_id = :pk and revision = :revision"
                    ),
                    {"pk": demo_pk, "revision": revision, "key": key, "fields": fields},
                )
    undone(settings, demo_pk)
    undone(settings, demo_pk)
    assert rows_of(settings, demo_pk).refit == demo.model_copy(update={"jobs": rows_of(settings, demo_pk).refit.jobs})
    assert rows_of(settings, demo_pk).refit.tasks["bottom-9"].title == demo.tasks["bottom-9"].title


def test_a_second_editor_of_one_task_gets_both_versions(settings: Settings, demo_pk: int) -> None:
    key, other = RecordKey("task", "bottom-9"), RecordKey("task", "bottom-10")
    seen = kept_of(settings, demo_pk).revisions[key]
    changed(settings, demo_pk, rename("bottom-9", "First"), seen={key: seen})
    with pytest.raises(Conflict) as caught:
        changed(settings, demo_pk, rename("bottom-9", "Second"), seen={key: seen})
    assert caught.value.theirs is not None
    assert caught.value.theirs["title"] == "First"
    changed(settings, demo_pk, rename("bottom-10", "Mine"), seen={other: 1})  # from the same old page
    now = kept_of(settings, demo_pk).refit
    assert (now.tasks["bottom-9"].title, now.tasks["bottom-10"].title) == ("First", "Mine")


def test_many_who_change_one_refit_at_once_lose_nothing(settings: Settings, demo_pk: int) -> None:
    """Each plans while nobody waits; whoever finds the refit changed meanwhile does it again on what stands."""
    keys = [f"bottom-{at}" for at in range(3, 7)]
    failed: list[BaseException] = []

    def noted(key: str, note: str) -> Callable[[Refit], Refit]:
        return lambda made: work_edits.update_task(made, key, note=note)

    def work(key: str) -> None:
        try:
            for at in range(3):
                changed(settings, demo_pk, noted(key, f"{key} {at}"), f"{key} {at}")
        except BaseException as error:  # noqa: BLE001 - told by the thread that waits
            failed.append(error)

    threads = [threading.Thread(target=work, args=(key,)) for key in keys]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not failed
    rows = rows_of(settings, demo_pk)
    assert {key: rows.refit.tasks[key].note for key in keys} == {key: f"{key} 2" for key in keys}
    assert rows.revision == 1 + 3 * len(keys)
    assert {entry.what for entry in log_of(settings, demo_pk)} >= {f"{key} {at}" for key in keys for at in range(3)}
    assert rows.refit == kept_of(settings, demo_pk).refit


def test_readers_beside_a_writer_see_whole_refits_only(settings: Settings, demo_pk: int) -> None:
    """A job with a tie comes and goes; a reader must never see the tie without its tasks, nor half of anything."""
    over = threading.Event()
    broken: list[BaseException] = []
    read = 0

    def put_in(made: Refit) -> Refit:
        made = edits.put(made, new_job(made))
        return edits.rebuilt(made, links=(*made.links, Link(id="t", first="new-1", then="bottom-9")))

    def reader() -> None:
        nonlocal read
        try:
            while not over.is_set():
                made = rows_of(settings, demo_pk).refit
                assert ("new-1" in made.tasks) == any(link.id == "t" for link in made.links)
                read += 1
        except BaseException as error:  # noqa: BLE001 - told by the thread that waits
            broken.append(error)

    readers = [threading.Thread(target=reader) for _ in range(2)]
    for one in readers:
        one.start()
    try:
        for _ in range(3):
            changed(settings, demo_pk, put_in)
            changed(settings, demo_pk, lambda made: work_edits.remove_job(made, "new"))
    finally:
        over.set()
        for one in readers:
            one.join()
    assert not broken, broken[0]
    assert read > 10


def test_a_change_that_fails_half_way_keeps_nothing(
    settings: Settings, demo: Refit, demo_pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    with pytest.raises(RefitFaults):
        changed(settings, demo_pk, rename("ghost", "x"))

    def power_goes(*_: object, **__: object) -> None:
        raise RuntimeError("the power went")

    monkeypatch.setattr("rovask.store.queue.wish_for_search", power_goes)  # the last thing a change does
    with pytest.raises(RuntimeError):
        changed(settings, demo_pk, rename("bottom-9", "Lost"))
    monkeypatch.undo()
    kept = kept_of(settings, demo_pk)
    assert (kept.refit, kept.revision, len(log_of(settings, demo_pk))) == (demo, 1, 1)
    changed(settings, demo_pk, rename("bottom-9", "Kept"))  # what was not committed is served to nobody
    assert kept_of(settings, demo_pk).refit.tasks["bottom-9"].title == "Kept"


def test_a_change_of_nothing_writes_nothing(settings: Settings, demo_pk: int) -> None:
    done = changed(settings, demo_pk, lambda made: made)
    assert (done.kept.revision, done.change) == (1, None)


def test_a_search_is_wished_for_with_the_change_and_only_once(settings: Settings, demo_pk: int) -> None:
    changed(settings, demo_pk, rename("bottom-9", "One"))
    changed(settings, demo_pk, rename("bottom-9", "Two"))
    with reading(settings.database_url) as session:
        query = text("select count(*) from procrastinate_jobs where lock = :lock and status = 'todo'")
        assert session.execute(query, {"lock": f"refit-{demo_pk}"}).scalar() == 1


def test_plans_move_on_with_the_clock(settings: Settings, demo_pk: int) -> None:
    later = settings.clock() + timedelta(hours=6)
    kept, now = planned(settings, demo_pk, later)
    assert all(
        (item.resume or item.start) >= later for item in now.plan.assignments if not kept.refit.tasks[item.task].done_at
    )
    assert planned(settings, demo_pk, later)[1] == now  # made once, and kept


def test_a_better_plan_is_better_in_the_planners_order(day_9: datetime) -> None:
    made = refit(task("a", 8), launch_at="2026-05-05T17:00Z")
    early, late = verified(made, HAUL), verified(made, HAUL + timedelta(hours=3))
    assert better(early, late, made)
    assert not better(late, early, made)


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
        'insert into link (refit_id, first, "then", kind, min_lag, max_lag, reason, id, position, row_revision)'
        " select refit_id, first, \"then\", kind, min_lag, max_lag, reason, 'twice', 0, 0 from link"
        " where refit_id = :pk and id = 'l1'",
        "update member set role = 'nobody' where refit_id = :pk",
        "insert into sign_in_link (token_hash, expires_at) values ('x', now())",
    ],
)
def test_the_database_keeps_the_invariants_by_itself(settings: Settings, demo_pk: int, statement: str) -> None:
    with pytest.raises((IntegrityError, DataError)), transaction(settings.database_url) as session:
        session.execute(text(statement), {"pk": demo_pk})


def test_removing_a_refit_takes_everything_of_it_along(settings: Settings, demo_pk: int) -> None:
    with transaction(settings.database_url) as session:
        refits.remove(session, demo_pk)
    with transaction(settings.database_url) as session:
        for table in ("task", "job", "plan", "change", "hours_entry", "member"):
            query = text(f"select count(*) from {table} where refit_id = :pk")
            assert session.execute(query, {"pk": demo_pk}).scalar() == 0
        with pytest.raises(NotFound):
            refits.load(session, demo_pk)
