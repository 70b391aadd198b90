"""What work opens, and until when a prudent skipper wants it closed and proved before the slings.

Whatever opens the hull, its water, steering, engine or gas ends some working days of the yard before she is lifted (the
margin of its kind, set under Yard), so that a weep, a misfit or a dead battery is found while there is still a day for
it. Common practice. It is broken only by name: ``Job.late_because``. Once she hangs there is no day left to keep.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.core.plain.derived import derived
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.work.choices import Closed, Need, Opens, State

LOOKED_AT_ALWAYS = ("haul", "look", "ready", "launch", "proving")  # recipes of every refit; they open nothing
STARTER_STEP = ("ready", "power")  # the recipe and its step that prove batteries, ignition and starter

# What is looked at again after work in a part of the boat of which nobody said what it opened.
BY_SPOT: Mapping[Spot, tuple[Opens, ...]] = {
    Spot.THROUGH_HULLS: (Opens.THROUGH_HULL, Opens.VALVE, Opens.HOSE),
    Spot.SHAFT: (Opens.PROPELLER, Opens.SEAL),
    Spot.RUDDER: (Opens.RUDDER,),
    Spot.LAZARETTE: (Opens.STEERING,),
    Spot.KEEL: (Opens.KEEL,),
    Spot.TANKS: (Opens.TANK,),
    Spot.ENGINE: (Opens.HOSE, Opens.ENGINE),
    Spot.HEADS: (Opens.HOSE, Opens.VALVE),
    Spot.NAV: (Opens.CIRCUIT,),
    Spot.RIG: (Opens.RIG,),
    Spot.MAST: (Opens.RIG,),
}

CLOSED_BY: Mapping[Opens, Closed] = {
    Opens.THROUGH_HULL: Closed.HULL,
    Opens.VALVE: Closed.HULL,
    Opens.PLUG: Closed.HULL,
    Opens.SEAL: Closed.HULL,
    Opens.KEEL: Closed.HULL,
    Opens.SKIN: Closed.HULL,
    Opens.HOSE: Closed.WATER,
    Opens.TANK: Closed.WATER,
    Opens.RUDDER: Closed.STEERING,
    Opens.STEERING: Closed.STEERING,
    Opens.ENGINE: Closed.ENGINE,
    Opens.PROPELLER: Closed.ENGINE,
    Opens.GAS: Closed.GAS,
}


@dataclass(frozen=True, slots=True)
class Closing:
    """A task that must be over so many working days before the slings, since it or what comes before it opens that."""

    what: Closed
    days: float


def opened_by(refit: Refit, job: Job, task: Task) -> tuple[Opens, ...]:
    """What a task opens: what is said of it, or, where nothing is said of any task of its job, what its place says."""
    if task.opens or any(one.opens for one in job.tasks):
        return task.opens
    spot = refit.place_by_id[task.place].spot
    if job.recipe in LOOKED_AT_ALWAYS or spot is None:
        return ()
    return BY_SPOT.get(spot, ())


def days_in_words(days: float) -> str:
    """So many working days, as people say it."""
    return "a working day" if days == 1 else f"{days:g} working days"


@derived(lambda refit: (refit.jobs, refit.margins, refit.places))
def closings(refit: Refit) -> dict[str, Closing]:
    """The tasks that are to be over in good time, by id; the longest margin of what their job opens. O(tasks).

    Of a job that opens something: every task ashore from the first that does on, in the order of the job. None once she
    hangs in the slings, and none of a job that somebody took the last day for by name. Work that can be done afloat too
    counts where it holds the launch or is begun.
    """
    margin = {one.what: one.days for one in refit.margins}
    if not any(margin.values()) or any(task.state is State.SLINGS and task.begun_at for task in refit.tasks.values()):
        return {}
    out: dict[str, Closing] = {}
    for job in refit.jobs:
        if job.late_because:
            continue
        held = job.need is Need.MUST or any(task.begun_at for task in job.tasks)
        opened: dict[Closed, float] = {}
        for task in job.tasks:
            if task.id == f"{job.id}-{STARTER_STEP[1]}" and job.recipe == STARTER_STEP[0]:
                opened_now = [Closed.STARTER]
            else:
                opened_now = [CLOSED_BY[what] for what in opened_by(refit, job, task) if what in CLOSED_BY]
            opened |= {what: margin.get(what, 0) for what in opened_now}
            counts = task.state is State.ASHORE or (task.state is State.EITHER and held)
            if counts and task.done_at is None and opened:
                what = max(opened, key=lambda one: opened[one])
                if opened[what] > 0:
                    out[task.id] = Closing(what, opened[what])
            if Closed.STARTER in opened:
                del opened[Closed.STARTER]
    return out
