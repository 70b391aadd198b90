"""What would help: parts, pins and waits beside what drives the launch, two together; and what must come before a fixed time."""

from datetime import datetime

from rovask.core.explain.remedies import remedies
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verdict.verdict import before_this
from tests.builders import HAUL, link, person, refit, task


def test_a_part_that_comes_on_launch_day_is_named() -> None:
    part = {"id": "b", "name": "Bearing", "status": "ordered", "arrives": "2026-05-08T09:00Z"}
    made = refit(task("a", 4, parts=["b"]), task("c", 2), parts=[part], launch_at="2026-05-08T11:00Z")
    planned = plan_and_judge(made, HAUL)
    assert planned.verdict.spare_minutes < 0
    found = remedies(made, planned.plan, planned.verdict)
    assert any("Bearing" in one.words and one.late_minutes == 0 for one in found)


def test_two_changes_together_when_one_does_not_do() -> None:
    # two chains of equal length, each held by a part of its own: only both sooner bring her in
    parts = [
        {"id": key, "name": f"Part {key}", "status": "ordered", "arrives": "2026-05-08T09:00Z"} for key in ("p", "q")
    ]
    made = refit(
        jobs=[
            {"id": "one", "title": "One", "tasks": [task("a", 4, parts=["p"], people=["ann"])]},
            {"id": "two", "title": "Two", "tasks": [task("b", 4, parts=["q"], people=["bo"])]},
        ],
        parts=parts,
        launch_at="2026-05-07T11:00Z",
    )
    planned = plan_and_judge(made, HAUL)
    assert planned.verdict.spare_minutes < 0
    found = remedies(made, planned.plan, planned.verdict)
    both = [one for one in found if one.late_minutes == 0]
    assert both
    assert all("; and " in one.words for one in both)


def test_before_a_fixed_time_everything_that_leads_to_it_is_listed_with_its_spare() -> None:
    # a 4 h then b 4 h, then the crane: c is pinned to Wednesday 08:00; Ann works 08-18
    made = refit(
        task("a", 4),
        task("b", 4),
        task("c", 2, pin="2026-05-06T07:00Z"),
        task("other", 2),
        links=[link("a", "b"), link("b", "c")],
        people=[person("ann")],
    )
    plan = plan_and_judge(made, HAUL).plan
    rows = {one.task: one for one in before_this(made, plan, "c")}
    # c is on Wednesday at 08:00, and Ann's order is a, b, other, c: other starts by Tuesday 16:00, so b by 12:00, a day later
    assert plan.by_task()["b"].start == datetime.fromisoformat("2026-05-04T11:00Z")
    assert rows["b"].spare == 24 * 60
    assert "c" not in rows
    assert not any(one.late for one in rows.values())
    launch = {one.task for one in before_this(made, plan, "launch")}
    assert launch == {"a", "b", "c", "other"}


def test_what_cannot_be_planned_before_the_launch_stands_first() -> None:
    made = refit(task("a", 4, skill="magic"), task("b", 2), links=[link("b", "a"), link("a", "launch")])
    plan = plan_and_judge(made, HAUL).plan
    assert before_this(made, plan, "launch")[0].task == "a"
    assert before_this(made, plan, "launch")[0].late
