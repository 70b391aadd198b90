"""Who keeps whom away. Where she or something heavy hangs, boat and ground are cleared; nobody else works in closed fumes.

Common practice in every yard, whether a recipe says it or not. What is under way already is a fact: its people step off
while a lift that stands at a fixed time is done.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from functools import lru_cache

from rovask.core.plain.derived import derived
from rovask.core.readings.trade_order import said_by_title
from rovask.core.refit.givens.choices import Charge, Spot
from rovask.core.refit.model import Place, Refit, Task
from rovask.core.refit.work.choices import Deed, Emission, State

HOISTS = re.compile(r"\b(crane|hoist|travel.?lift|boat mover)\b", re.IGNORECASE)
_LIFTED = (Charge.LIFT, Charge.SECOND_LIFT, Charge.MOVE, Charge.LAUNCH)
LIFT_WHY, FUMES_WHY = "nobody is aboard or under her while it hangs", "nobody else breathes its fumes in a closed place"


def lifts(refit: Refit, task: Task) -> bool:
    """Whether she, or something heavy over her, hangs in a task: as it says, else as its title, the yard's charge and its gear say.

    In doubt it does: a title is read whatever else is said of the task, in jobs of a recipe too, unless it is said to do nothing.
    """
    if Deed.LIFTS in task.does:
        return True
    if Deed.NOTHING in task.does:
        return False
    if Deed.LIFTS in said_by_title(task.title):
        return True
    if task.charge in _LIFTED:
        return True
    return bool(task.gear) and any(_is_hoist(refit.gear_by_id[key].name) for key in task.gear)


@lru_cache(maxsize=1024)
def _is_hoist(name: str) -> bool:
    return HOISTS.search(name) is not None


def is_of_the_boat(place: Place) -> bool:
    """Whether who works there is aboard or under her; a bench ashore is out of the way."""
    return place.spot is not Spot.ASHORE


def meet(one: Task, other: Task) -> bool:
    """Whether two tasks could ever run at once: not where the boat's state puts one of them behind the other anyway."""
    return State.EITHER in (one.state, other.state) or one.state is other.state


def _is_settled(one: Task, other: Task) -> bool:
    """Whether nothing is left to choose between two tasks: begun, or done, or standing at a fixed time while one is begun."""
    if one.done_at or other.done_at:
        return True
    if one.begun_at is None and other.begun_at is None:
        return False
    held = [task.begun_at is not None or task.pin is not None for task in (one, other)]
    return all(held)


def kept_apart(refit: Refit) -> Iterator[tuple[Task, Task, str]]:
    """Pairs (who keeps away, who is kept away, why) that never overlap. O(tasks + lifts x tasks + closed fumes x tasks near)."""
    place = refit.place_by_id
    ashore = {key for key, one in place.items() if not is_of_the_boat(one)}
    tasks = [task for _, task in refit.walk() if task.done_at is None]
    hanging = [task for task in tasks if lifts(refit, task)]
    aboard = [task for task in tasks if task.place not in ashore] if hanging else []
    for one in hanging:
        for other in aboard:
            if other.id != one.id and meet(one, other) and not _is_settled(one, other):
                yield one, other, LIFT_WHY
    inside = {key for key, one in place.items() if not one.outdoors and key not in ashore}
    stinking = [task for task in tasks if task.emits and task.place in inside and _stinks(task)]
    if not stinking:
        return
    there = defaultdict[str, list[Task]](list)
    for task in tasks:
        if task.place in inside:
            there[task.place].append(task)
    near = _opening(refit)
    for one in stinking:
        for key in near[one.place]:
            for other in there[key]:
                if other.id != one.id and meet(one, other) and not _is_settled(one, other):
                    yield one, other, FUMES_WHY


@derived(lambda refit: (refit.jobs, refit.gear))
def keeping_away(refit: Refit) -> frozenset[str]:
    """The tasks that ask anything of everybody else, by a lift or by fumes: of two others nothing has to be asked."""
    return frozenset(task.id for task in refit.tasks.values() if lifts(refit, task) or _stinks(task))


def why_apart(refit: Refit, one: Task, other: Task) -> str:
    """Why two tasks are kept apart by a lift or by fumes; "" where they aren't. O(places) at most."""
    if not meet(one, other) or _is_settled(one, other):
        return ""
    here, there = refit.place_by_id[one.place], refit.place_by_id[other.place]
    if (is_of_the_boat(there) and lifts(refit, one)) or (is_of_the_boat(here) and lifts(refit, other)):
        return LIFT_WHY
    if not (is_of_the_boat(here) and is_of_the_boat(there)) or here.outdoors or there.outdoors:
        return ""
    near = here.id == there.id or there.id in here.opens_onto or here.id in there.opens_onto
    return FUMES_WHY if near and (_stinks(one) or _stinks(other)) else ""


def clears(refit: Refit, task: Task) -> str:
    """What a task asks of everybody else aboard while it lasts, in words; "" where it asks nothing."""
    place = refit.place_by_id[task.place]
    if lifts(refit, task):
        return "everybody off her and out from under, children and pets too"
    if _stinks(task) and is_of_the_boat(place) and not place.outdoors:
        return f"fumes in {place.name}: nobody else there or in what it opens onto, aired before anybody sleeps near"
    return ""


def _stinks(task: Task) -> bool:
    return Emission.FUMES in task.emits and not task.contained_by


def _opening(refit: Refit) -> dict[str, list[str]]:
    """For each place itself and those it opens onto, either way, in the order of the boat."""
    out: dict[str, dict[str, None]] = {place.id: {place.id: None} for place in refit.places}
    for one in refit.places:
        for other in one.opens_onto:
            if other in out:
                out[one.id][other] = out[other][one.id] = None
    return {key: list(found) for key, found in out.items()}
