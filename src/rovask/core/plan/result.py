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
    """Things that can't all hold.

    tasks: those that collide; lost: those of them that are not planned for it, all of them if empty. sentence: names
    the collision in thirty words at most; detail: the ties, waits and hours, and what to do.
    """

    kind: CollisionKind
    tasks: tuple[Key, ...]
    sentence: str
    detail: str = ""
    lost: tuple[Key, ...] = ()


class Ready(Frozen):
    """The earliest moment at which all must-work and the launch list can be done, searched for by itself.

    at: the best that was found; proven: nothing is earlier. with_optional: the same with the jobs that may be left out
    and are in the plan, None where there are none. assignments: the schedule that shows it, must-work alone.
    is_open: it hangs on hours, waits or lead times given as from … to …; best, worst: what it is with all of them at
    their least and at their most (outlook.py), worst None where nothing holds at their most.
    """

    at: Moment
    proven: bool = False
    with_optional: Moment | None = None
    is_open: bool = False
    best: Moment | None = None
    worst: Moment | None = None
    assignments: tuple[Assignment, ...] = ()


class Plan(Frozen):
    """A start, an end and people for every task in the refit, made at ``now``.

    launch: when the boat floats in this plan; never before the refit's slot, later if must-jobs need it.
    left_out: jobs (should or could) that do not fit before the launch.
    unplanned: tasks that can't be placed, with the collisions that say why; empty in a whole plan.
    made_good: links whose longest wait is missed; their make-good work is a task of its own (refit/work/make_good.py).
    broken: links whose longest wait what happened has broken; the plan goes on from there.
    ready: when the launch could be at the earliest; None once she is afloat. old: why this is a plan of an earlier
    state of the refit, since none could be made of the present one; "" for a plan of the present one.
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
    broken: tuple[Key, ...] = ()
    ready: Ready | None = None
    old: str = ""
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
    SLOT = "slot"  # ready in time, but the yard can't launch her at the slot itself
    IMPOSSIBLE = "impossible"
    AFLOAT = "afloat"


class Verdict(Frozen):
    """What a plan says about the launch.

    spare_minutes: the slot less *ready at*; negative when she is ready too late (short). spare_with_optional: the same
    with the optional jobs that are planned, where it differs. proven: nothing is ready earlier, and it hangs on nothing
    that is open; else it is the best found so far. spare_best, spare_worst: where it hangs on open spreads, the spare with
    all of them at their least and at their most; worst None where nothing holds at their most. slot_open: whether the yard launches at the slot at all.
    driving: the tasks that hold *ready at* where it is, in order of time.
    spare_by_task: elapsed minutes each task can slip, order and people kept, before what it serves slips.
    stopped: must-jobs with tasks that can't be planned. no_work: there is no task yet, and no spare to speak of. old: why the plan is of an earlier state; "" if it isn't.
    """

    outcome: Outcome
    launch: datetime
    spare_minutes: int = 0
    spare_with_optional: int | None = None
    proven: bool = False
    is_open: bool = False
    spare_best: int | None = None
    spare_worst: int | None = None
    slot_open: bool = True
    driving: tuple[Key, ...] = ()
    spare_by_task: dict[str, int] = Field(default_factory=dict)
    left_out: tuple[Key, ...] = ()
    collisions: tuple[Collision, ...] = ()
    stopped: tuple[Key, ...] = ()
    no_work: bool = False
    old: str = ""
