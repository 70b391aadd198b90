"""What a sailor does to a refit, and that taking it back gives the same refit again."""

from collections.abc import Callable
from datetime import timedelta
from itertools import count

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit import edits, lists
from rovask.core.refit.model import HoursEntry, Job, Refit, Task
from rovask.core.refit.records import RecordKey, changes_between, with_changes
from rovask.core.refit.register import KINDS
from rovask.core.refit.removal import InUse
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.undoing import taken_back
from rovask.core.refit.work import edits as work_edits
from rovask.core.refit.work.choices import LinkKind
from tests.builders import HAUL, link, refit, task
from tests.core.strategies import refits


def ids() -> Callable[[], str]:
    numbers = count(1)
    return lambda: f"new-{next(numbers)}"


def chain() -> Refit:
    return refit(
        task("a", 4), task("b", 6), task("c", 2), links=[link("a", "b", 3), link("b", "c"), link("c", "launch", 24)]
    )


def pairs(made: Refit) -> set[tuple[str, str]]:
    return {(tie.first, tie.then) for tie in made.links}


def test_a_task_added_between_two_takes_its_place_in_the_chain() -> None:
    made = work_edits.add_task(chain(), "job", Task.model_validate(task("n", 1)), "tie", after="b")
    assert list(made.tasks) == ["a", "b", "n", "c"]
    assert pairs(made) == {("a", "b"), ("b", "n"), ("n", "c"), ("c", "launch")}


def test_a_task_removed_leaves_its_neighbours_tied() -> None:
    made = work_edits.remove_task(chain(), "b", ids())
    assert pairs(made) == {("a", "c"), ("c", "launch")}
    assert next(tie.min_lag for tie in made.links if tie.then == "c") == 3


def test_a_split_shares_the_hours_and_keeps_what_comes_before_and_after() -> None:
    made = work_edits.split_task(chain(), "b", 2, ids())
    assert [made.tasks[key].work.likely for key in ("b", "new-1")] == [2, 4]
    assert pairs(made) == {("a", "b"), ("b", "new-1"), ("new-1", "c"), ("c", "launch")}
    for wrong in (0, 6, 7):
        with pytest.raises(RefitFaults):
            work_edits.split_task(chain(), "b", wrong, ids())


def test_begin_done_and_taking_the_ticks_back() -> None:
    at = HAUL + timedelta(hours=4)
    begun = work_edits.begin_task(chain(), "a", at, ("ann",))
    assert begun.tasks["a"].is_under_way
    done = work_edits.finish_task(begun, "a", at + timedelta(hours=2), ("bo",))
    assert (done.tasks["a"].crew, done.tasks["a"].done_at) == (("ann",), at + timedelta(hours=2))
    assert work_edits.reopen_task(work_edits.reopen_task(done, "a"), "a") == chain()
    for again in (lambda: work_edits.begin_task(begun, "a", at, ()), lambda: work_edits.finish_task(done, "a", at, ())):
        with pytest.raises(RefitFaults):
            again()


def test_a_task_ticked_without_begin_began_its_likely_hours_before() -> None:
    at = HAUL + timedelta(hours=8)
    assert work_edits.finish_task(chain(), "a", at, ("ann",)).tasks["a"].begun_at == at - timedelta(hours=4)


def test_logging_hours_begins_a_task_and_counts_down_what_is_left() -> None:
    entry = HoursEntry(id="h", task="a", person="ann", at=HAUL, hours=1.5)
    made = work_edits.log_hours(chain(), entry, None)
    assert made.tasks["a"].is_under_way
    assert made.hours_to_do(made.tasks["a"]) == 2.5
    assert made.hours_to_do(work_edits.log_hours(chain(), entry, 7).tasks["a"]) == 7


def test_moving_and_removing_keep_the_refit_whole() -> None:
    made = edits.put(chain(), Job(id="two", title="Two"))
    assert [job.id for job in lists.move(made, KINDS["job"], "two", -1).jobs] == ["two", "job"]
    assert list(work_edits.move_task(made, "a", 1).tasks) == ["b", "a", "c"]
    assert list(work_edits.move_task(made, "a", -1).tasks) == ["a", "b", "c"]
    assert work_edits.remove_job(made, "job").links == ()
    gone: tuple[Callable[[], Refit], ...] = (
        lambda: work_edits.move_task(made, "x", 1),
        lambda: work_edits.update_task(made, "x", pin=None),
        lambda: work_edits.remove_task(made, "x", ids()),
        lambda: work_edits.add_task(made, "x", made.tasks["a"], "t"),
    )
    for act in gone:
        with pytest.raises(RefitFaults, match="gone"):
            act()


def test_a_person_at_work_can_not_be_removed_and_the_task_is_named() -> None:
    made = work_edits.begin_task(chain(), "a", HAUL, ("ann",))
    with pytest.raises(InUse, match="Task a") as caught:
        lists.remove(made, KINDS["person"], "ann", ids())
    assert not caught.value.can_take_out
    assert [who.id for who in lists.remove(made, KINDS["person"], "bo", ids()).people] == ["ann"]


def test_what_is_used_is_named_and_taken_out_of_there_when_that_is_wanted() -> None:
    parts = [{"id": "core", "name": "Core"}]
    made = refit(task("a", parts=["core"]), task("b", contained_by="a"), links=[link("a", "b")], parts=parts)
    with pytest.raises(InUse, match="“Core” is used by the task “Task a”") as caught:
        lists.remove(made, KINDS["part"], "core", ids())
    assert caught.value.can_take_out
    without = lists.remove(made, KINDS["part"], "core", ids(), take_out=True)
    assert (without.parts, without.tasks["a"].parts) == ((), ())
    with pytest.raises(InUse, match="Task a"):
        lists.remove(made, KINDS["place"], "hull", ids(), take_out=True)
    gone = work_edits.remove_task(made, "a", ids())
    assert gone.tasks["b"].contained_by is None
    assert gone.links == ()


@settings(max_examples=60, deadline=None, derandomize=True)
@given(refits(), st.data())
def test_any_change_taken_back_gives_the_same_refit(made: Refit, data: st.DataObject) -> None:
    key = data.draw(st.sampled_from(list(made.tasks)))
    acts: list[Callable[[], Refit]] = [
        lambda: work_edits.remove_task(made, key, ids()),
        lambda: work_edits.move_task(made, key, data.draw(st.sampled_from([-1, 1]))),
        lambda: work_edits.add_task(made, made.job_of[key].id, Task.model_validate(task("n", 1)), "tie", key),
        lambda: work_edits.remove_job(made, made.job_of[key].id),
        lambda: work_edits.update_task(made, key, title="Another"),
    ]
    after = data.draw(st.sampled_from(acts))()
    changes = changes_between(made, after)
    assert with_changes(made, changes) == after
    back = taken_back(after, {}, changes)
    assert back.stuck == ()
    assert with_changes(after, back.changes) == made


def test_an_edit_touches_only_its_own_record() -> None:
    made = chain()
    changes = changes_between(made, work_edits.update_task(made, "b", title="New"))
    assert [str(key) for key in changes] == ["task:b"]
    moved = changes_between(made, work_edits.move_task(made, "b", -1))
    assert [str(key) for key in moved] == ["order:job:job"]


def test_taking_back_what_somebody_changed_since_names_the_record() -> None:
    made = chain()
    first = work_edits.update_task(made, "b", title="First")
    second = work_edits.update_task(first, "b", title="Second")
    assert taken_back(second, {}, changes_between(made, first)).stuck == (RecordKey("task", "b"),)


def test_every_choice_of_a_tie_and_a_part_survives_the_records() -> None:
    made = refit(
        task("a"),
        task("b"),
        links=[link("a", "b", 1, 9, kind.value) for kind in LinkKind],
        parts=[
            {"id": f"p{at}", "name": "P", "status": status.value, "arrives": "2026-05-08T09:00Z"}
            for at, status in enumerate(PartStatus)
        ],
    )
    empty = refit(jobs=[], people=[], places=[])
    assert with_changes(empty, changes_between(empty, made)) == made
