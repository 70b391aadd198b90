"""What being ashore takes out by itself, whatever is worked at: it is no outage of any task."""

from __future__ import annotations

from rovask.core.refit.givens.choices import Fitting, Service
from rovask.core.refit.model import Boat, Refit, Task
from rovask.core.refit.work.choices import State

DRY_STATES = (State.ASHORE, State.LIFTING, State.SLINGS)


def out_ashore(boat: Boat) -> dict[Service, str]:
    """The services that don't run while she stands, with the reason. Common practice."""
    out = {}
    if Fitting.WATER_COOLED_FRIDGE in boat.fitted:
        out[Service.FRIDGE] = "Cooled by the water she floats in; it doesn't run ashore"
    if boat.heads and Fitting.HOLDING_TANK not in boat.fitted:
        out[Service.HEADS] = "The heads pump overboard; ashore the yard's are used"
    return out


def adds_outage(refit: Refit, task: Task) -> tuple[Service, ...]:
    """The services a task takes out, less those that the state takes out from its beginning to its undoing anyway."""
    if not task.takes_out:
        return ()
    undoing = refit.tasks.get(task.until or task.id, task)
    if task.state not in DRY_STATES or undoing.state not in DRY_STATES:
        return task.takes_out
    anyway = out_ashore(refit.boat)
    return tuple(service for service in task.takes_out if service not in anyway)
