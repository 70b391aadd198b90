"""A refit is validated whole: every fault at once, each with its path and a sentence."""

from datetime import UTC, datetime
from typing import Any

import pytest
from pydantic import ValidationError

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Refit, Task
from rovask.formats.refit_file import refit_from
from tests.builders import BOAT, data, link, person, refit, task


def faults(broken: dict[str, Any]) -> dict[str, str]:
    with pytest.raises(RefitFaults) as caught:
        refit_from(broken)
    return {fault.path: fault.message for fault in caught.value.faults}


def test_all_faults_are_told_at_once_with_their_paths() -> None:
    broken = data(task("a", place="nowhere"), task("a", hours=0), links=[link("a", "ghost"), link("a", "a")])
    broken["launch_at"] = "2026-05-01T09:00:00Z"
    broken["people"].append({"id": "Ann!", "name": ""})
    broken["colour"] = "blue"
    found = faults(broken)
    assert {
        "jobs[0].tasks[0].place",
        "jobs[0].tasks[1].id",
        "jobs[0].tasks[1].work.likely",
        "links[0].then",
        "links[1]",
        "launch_at",
        "people[2].id",
        "people[2].name",
        "colour",
    } <= set(found)
    assert "nowhere" in found["jobs[0].tasks[0].place"]


@pytest.mark.parametrize(
    ("change", "path", "word"),
    [
        ({"boat": BOAT | {"draft_m": 12}}, "boat", "swapped"),
        ({"boat": BOAT | {"waterline_m": 14}}, "boat", "waterline"),
        ({"yard": {"name": "Y", "time_zone": "Mars/Base"}}, "yard.time_zone", "not a time zone"),
        ({"launch_at": "2026-05-18T09:10:00Z"}, "launch_at", "half hour"),
        ({"launch_at": "2027-05-18T09:00:00Z"}, "launch_at", "beyond"),
        ({"haul_at": "2026-05-04T07:00:00"}, "haul_at", "time zone"),
        ({"budget": 1.5}, "budget", "integer"),
        ({"currency": "euro"}, "currency", "pattern"),
        ({"people": [person("ann"), person("ann")]}, "people[1].id", "second person"),
        ({"name": "bad\x00name"}, "name", "control"),
        ({"parts": [{"id": "p", "name": "P", "status": "ordered"}]}, "parts[0]", "date"),
        (
            {"hours_log": [{"id": "h", "task": "x", "person": "ann", "at": "2026-05-05T09:00Z", "hours": 1}]},
            "hours_log[0].task",
            "no task",
        ),
    ],
)
def test_one_fault_each(change: dict[str, Any], path: str, word: str) -> None:
    found = faults(data(task("a")) | change)
    assert path in found
    assert word in found[path]


def test_haul_and_launch_are_no_names_for_tasks_but_may_be_tied() -> None:
    assert "kept for the launch" in faults(data(task("launch")))["jobs[0].tasks[0].id"]
    assert refit(task("a"), links=[link("a", "launch", 24), link("haul", "a")]).links[0].then == "launch"


def test_a_refit_is_frozen_and_keeps_moments_in_utc() -> None:
    made = refit(task("a", pin="2026-05-05T09:00:00+01:00"))
    assert made.tasks["a"].pin == datetime(2026, 5, 5, 8, tzinfo=UTC)
    with pytest.raises(ValidationError):
        made.name = "other"  # type: ignore[misc]


def test_hours_to_do_follow_logs_then_the_sailors_own_judgement() -> None:
    log = [{"id": "h", "task": "a", "person": "ann", "at": "2026-05-05T09:00Z", "hours": 3}]
    begun = {"begun_at": "2026-05-05T07:00Z", "crew": ["ann", "bo"], "hands": 2}
    made = refit(task("a", 4, **begun), task("b"), hours_log=log)
    assert made.hours_to_do(made.tasks["a"]) == 2.5  # three person-hours are one and a half of work by two
    assert made.hours_to_do(made.tasks["b"]) == 4
    judged = refit(task("a", 4, **begun, remaining=6), hours_log=log)
    assert judged.hours_to_do(judged.tasks["a"]) == 6
    over = refit(task("a", 1, **begun), hours_log=log)
    assert over.hours_to_do(over.tasks["a"]) == 0.5  # never nothing while it is not ticked


def test_done_needs_begun_and_the_right_order() -> None:
    for wrong in ({"done_at": "2026-05-05T09:00Z"}, {"begun_at": "2026-05-05T09:00Z", "done_at": "2026-05-05T08:00Z"}):
        with pytest.raises(ValidationError):
            Task.model_validate(task("a", **wrong))


def test_rubbish_of_any_shape_is_a_fault_and_never_a_crash() -> None:
    for rubbish in ([], 3, None, {"jobs": 3}, {"jobs": [3, {"tasks": {"a": 1}}]}, {"links": [None], "people": "x"}):
        with pytest.raises(ValidationError):
            Refit.model_validate(rubbish)


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"work": {"least": 2.32, "likely": 2.32, "most": 2.32}}, "goes in steps of 0.05"),
        ({"units": 0}, "must be at least 1"),
        ({"hands": 9}, "must be at most 8"),
        ({"work": {"least": 0, "likely": 0, "most": 1}}, "must be more than 0"),
        ({"title": "x" * 500}, "must have at most"),
        ({"units": 1_000_000}, "must be at most 200"),
    ],
)
def test_a_figure_out_of_bounds_is_told_in_our_words(change: dict[str, Any], told: str) -> None:
    with pytest.raises(RefitFaults) as refused:
        refit_from(data(task("a") | change))
    assert any(told in fault.message for fault in refused.value.faults), refused.value.faults
    assert not any("Input" in fault.message for fault in refused.value.faults)
