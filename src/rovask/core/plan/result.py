"""What the planner answers: a plan, and what stands in the way of one."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from pydantic import Field

from rovask.core.refit.model import Frozen, Key, Moment


class Assignment(Frozen):
    """When a task happens and who does it.

    start, end: elapsed time from first touch to last; work pauses between while its people are off.
    resume: for a task under way, when its people go on with it; None for any other.
    """

    task: Key
    start: Moment
    end: Moment
    people: tuple[Key, ...] = ()
    resume: Moment | None = None


class CollisionKind(StrEnum):
    """Why something can't be planned at all."""

    TIES = "ties"
    HANDS = "hands"
    PLACE = "place"
    PART = "part"
    PIN = "pin"
    HORIZON = "horizon"
    SEARCH = "search"


class Collision(Frozen):
    """Things that can't all hold. ``tasks`` are those that collide; ``sentence`` names them, the lag and the hours."""

    kind: CollisionKind
    tasks: tuple[Key, ...]
    sentence: str


class Plan(Frozen):
    """A start, an end and people for every task in the refit, made at ``now``.

    launch: when the boat floats in this plan; never before the refit's slot, later if must-jobs need it.
    left_out: jobs (should or could) that do not fit before the launch.
    unplanned: tasks that can't be placed, with the collisions that say why; empty in a whole plan.
    made_good: links whose longest wait is missed; their make-good work is added to the later task.
    value: what the plan costs by the planner's own measure (value.py), small is good, without the wish to keep near
    tasks still. bound: no plan costs less, as far as is proven; None if nothing is.
    """

    now: Moment
    launch: Moment
    assignments: tuple[Assignment, ...] = ()
    left_out: tuple[Key, ...] = ()
    unplanned: tuple[Key, ...] = ()
    collisions: tuple[Collision, ...] = ()
    made_good: tuple[Key, ...] = ()
    value: int = 0
    bound: int | None = None
    starts_tried: int = Field(default=0, ge=0)

    def by_task(self) -> dict[str, Assignment]:
        """The assignments by task id."""
        return {item.task: item for item in self.assignments}


class Outcome(StrEnum):
    """The verdict in one word."""

    HELD = "held"
    SHORT = "short"
    IMPOSSIBLE = "impossible"
    AFLOAT = "afloat"


class Verdict(Frozen):
    """What a plan says about the launch.

    spare_minutes: elapsed minutes the driving chain can slip (held) or the launch slips by (short, negative).
    driving: the tasks that leave no more spare than that, in order of time.
    spare_by_task: elapsed minutes each task can slip with the order of the plan kept.
    """

    outcome: Outcome
    launch: datetime
    spare_minutes: int = 0
    driving: tuple[Key, ...] = ()
    spare_by_task: dict[str, int] = Field(default_factory=dict)
    left_out: tuple[Key, ...] = ()
    collisions: tuple[Collision, ...] = ()
