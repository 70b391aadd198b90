"""What a task's form shows first of a long list: what lies near the task; the rest is folded, and nothing is lost."""

from rovask.core.refit.model import Refit
from rovask.web.nearness import SHOWN, near
from rovask.web.sheet_fields import FIELDS

PARTS = next(field for field in FIELDS["task"] if field.name == "parts")
TIES = next(field for field in FIELDS["link"] if field.name == "first")


def test_own_parts_come_first_then_those_of_the_job_and_every_part_is_there_once(demo: Refit) -> None:
    task = demo.tasks["bottom-9"]
    job = demo.job_of[task.id]
    (head, first), (_, rest) = PARTS.grouped(demo, near(demo, job, task))
    assert head == ""
    assert [key for key, _ in first][: len(task.parts)] == list(task.parts)
    assert len(first) == SHOWN
    assert {key for one in job.tasks for key in one.parts} <= {key for key, _ in first}
    assert sorted(key for key, _ in (*first, *rest)) == sorted(part.id for part in demo.parts)


def test_a_new_task_finds_the_parts_its_title_names(demo: Refit) -> None:
    found = near(demo, None, None, "Renew the galley hoses")
    words = [demo.part_by_id[key].name.lower() for key in found.parts]
    assert "hose" in words[0]
    assert found.jobs == ()


def test_ties_begin_with_the_tasks_of_the_own_job_then_of_the_same_places(demo: Refit) -> None:
    task = demo.tasks["bottom-9"]
    job = demo.job_of[task.id]
    groups = TIES.grouped(demo, near(demo, job, task))
    assert [head for head, _ in groups][:2] == ["", job.title]
    places = {one.place for one in job.tasks}
    beside = {one.title for one in demo.jobs if one is not job and any(row.place in places for row in one.tasks)}
    assert {head for head, _ in groups[2 : 2 + len(beside)]} == beside
    assert sum(len(rows) for head, rows in groups if head) == len(demo.tasks)
