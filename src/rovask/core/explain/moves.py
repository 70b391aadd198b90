"""What moved between two plans of one refit, and why each task lies where it does now."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.explain.why import why_held
from rovask.core.plain.derived import derived
from rovask.core.plan.problem.ties import ties_of
from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Refit
from rovask.core.refit.work.make_good import with_make_good

WORTH_TELLING = timedelta(minutes=30)


@dataclass(frozen=True, slots=True)
class Move:
    """A task that starts at another time or with other people, or that came in or fell out (None)."""

    task: str
    was: datetime | None
    now: datetime | None
    other_people: bool
    why: str


def moves(refit: Refit, before: Plan, after: Plan) -> list[Move]:
    """Every task not begun that moved by more than half an hour or changed hands, the nearest first. O(moved x tasks)."""
    return list(_with_reasons(refit, before, after))


@derived(of=2)  # the Slip asks again and again until something moves
def _with_reasons(refit: Refit, before: Plan, after: Plan) -> tuple[Move, ...]:
    ties = ties_of(with_make_good(refit, after.made_good))
    return tuple(
        Move(move.task, move.was, move.now, move.other_people, next(iter(why_held(refit, after, move.task, ties)), ""))
        for move in _moved(refit, before, after)
    )


def _moved(refit: Refit, before: Plan, after: Plan) -> list[Move]:
    """``moves`` without the reasons. O(tasks)."""
    refit = with_make_good(refit, (*before.made_good, *after.made_good))
    old, new = before.by_task(), after.by_task()
    out = []
    for key, task in refit.tasks.items():
        if task.begun_at:
            continue
        was, is_ = old.get(key), new.get(key)
        if was is None and is_ is None:
            continue
        if was is None or is_ is None:
            out.append(Move(key, was.start if was else None, is_.start if is_ else None, False, ""))
            continue
        people = set(was.people) != set(is_.people)
        if abs(is_.start - was.start) > WORTH_TELLING or people:
            out.append(Move(key, was.start, is_.start, people, ""))
    out.sort(key=lambda move: (min(at for at in (move.was, move.now) if at), move.task))
    return out


def matter_first(refit: Refit, verdict: Verdict, moved: Sequence[Move]) -> list[Move]:
    """The same moves, those first that somebody must know of: fallen out, of people who are paid, driving the launch, then the
    nearest.
    """
    driving, paid = (
        set(verdict.driving),
        {person.id for person in refit.people if person.rate or person.role is Role.TRADE},
    )

    def rank(move: Move) -> tuple[int, datetime]:
        task, at = refit.tasks.get(move.task), min(one for one in (move.was, move.now) if one)
        if move.now is None:
            return 0, at
        if task is not None and (set(task.people) & paid or (task.skill and task.skill not in _own_skills(refit))):
            return 1, at
        return (2 if move.task in driving else 3), at

    return sorted(moved, key=rank)


def _own_skills(refit: Refit) -> set[str]:
    """Skills somebody of the crew has."""
    return {skill for one in refit.people if one.role in (Role.OWNER, Role.HELPER) for skill in one.skills}


def moved_near(refit: Refit, before: Plan, after: Plan, days: int = 3) -> tuple[int, int]:
    """How many tasks of the coming days moved, and how many there were."""
    edge = after.now + timedelta(days=days)
    near = {item.task for item in before.assignments if after.now <= item.start < edge}
    near = {key for key in near if key in refit.tasks and not refit.tasks[key].begun_at}
    changed = {move.task for move in _moved(refit, before, after)}
    return len(near & changed), len(near)
