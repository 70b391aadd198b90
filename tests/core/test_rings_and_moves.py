"""Rings of ties are named; moving a task with its ties keeps a chain a chain; ticked lists keep their order."""

import pytest

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.work.edits import move_with_ties
from rovask.core.refit.work.rings import ring_of, ring_told
from rovask.core.refit.work.titles import tie_title
from rovask.desk.commands.records import in_old_order
from tests.builders import link, refit, task


def test_a_ring_is_named_by_its_tasks() -> None:
    made = refit(task("a"), task("b"), task("c"), links=[link("a", "b"), link("b", "c"), link("c", "a", 4)])
    assert set(ring_of(made)) == {"a", "b", "c"}
    assert "“Task a” → “Task b” → “Task c” → “Task a”" in ring_told(made, ["a", "b", "c"])
    assert ring_of(refit(task("a"), task("b"), links=[link("a", "b")])) == []
    both_start = refit(task("a"), task("b"), links=[link("a", "b", kind="SS"), link("b", "a", kind="SS")])
    assert ring_of(both_start) == []  # two that begin together are no ring


@pytest.mark.parametrize(
    "made",
    [
        refit(task("a"), links=[link("a", "haul")]),  # work ashore before she is out
        refit(task("a"), links=[link("launch", "a")]),
        refit(task("a", state="afloat_after"), links=[link("a", "launch")]),
        refit(task("a", state="afloat_before"), links=[link("haul", "a")]),
    ],
)
def test_what_would_wait_for_the_haul_or_the_launch_for_ever_is_a_ring_too(made) -> None:  # type: ignore[no-untyped-def]
    assert ring_of(made)
    assert "t-" not in ring_told(made, ring_of(made))


def test_a_task_moved_with_its_ties_swaps_its_place_in_the_chain() -> None:
    made = refit(*(task(key) for key in "abcd"), links=[link("a", "b"), link("b", "c"), link("c", "d")])
    moved = move_with_ties(made, "c", -1)
    assert [one.id for one in moved.jobs[0].tasks] == ["a", "c", "b", "d"]
    assert {(one.first, one.then) for one in moved.links} == {("a", "c"), ("c", "b"), ("b", "d")}
    back = move_with_ties(moved, "c", 1)
    assert {(one.first, one.then) for one in back.links} == {(one.first, one.then) for one in made.links}
    with pytest.raises(RefitFaults, match="wait of its own"):
        move_with_ties(refit(task("a"), task("b"), links=[link("a", "b", 12)]), "b", -1)


def test_ticked_things_keep_the_order_they_had() -> None:
    assert in_old_order(("c", "a"), ["a", "b", "c"]) == ["c", "a", "b"]
    assert in_old_order(("c", "a"), ["a"]) == ["a"]
    assert in_old_order(None, ["a"]) == ["a"]


def test_a_tie_is_called_by_its_tasks() -> None:
    made = refit(task("a"))
    assert tie_title(made, "a", "launch") == "Task a → the launch"
