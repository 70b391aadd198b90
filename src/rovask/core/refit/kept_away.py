"""Who keeps whom away. Where she or something heavy hangs, boat and ground are cleared; nobody else works in closed fumes.

Common practice in every yard, whether a recipe says it or not. What is under way already is a fact: its people step off
while a lift that stands at a fixed time is done.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator

from rovask.core.refit.choices import Charge, Deed, Emission, Spot, State
from rovask.core.refit.model import Place, Refit, Task
from rovask.core.refit.trade_order import said_by_title

HOISTS = re.compile(r"\b(crane|hoist|travel.?lift|boat mover)\b", re.IGNORECASE)
_LIFTED = (Charge.LIFT, Charge.SECOND_LIFT, Charge.MOVE, Charge.LAUNCH)
LIFT_WHY, FUMES_WHY = "nobody is aboard or under her while it hangs", "nobody else breathes its fumes in a closed place"


def lifts(refit: Refit, task: Task) -> bool:
    """Whether she, or something heavy over her, hangs in a task: as it says, else as its title, the yard's charge and its gear say.

    In doubt it does: a title is read in jobs of a recipe too, for what was added to them by hand.
    """
    if Deed.LIFTS in task.does:
        return True
    if Deed.NOTHING in task.does:
        return False
    if not task.does and Deed.LIFTS in said_by_title(task.title):
        return True
    return task.charge in _LIFTED or any(HOISTS.search(refit.gear_by_id[key].name) for key in task.gear)


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
    held = [task.begun_at is not None or task.pin is not None for task in (one, other)]
    return all(held) and (one.begun_at is not None or other.begun_at is not None)


def kept_apart(refit: Refit) -> Iterator[tuple[Task, Task, str]]:
    """Pairs (who keeps away, who is kept away, why) that never overlap. O(lifts x tasks + closed fumes x tasks near)."""
    tasks = [task for _, task in refit.walk() if task.done_at is None]
    place = refit.place_by_id
    hanging = [task for task in tasks if lifts(refit, task)]
    aboard = [task for task in tasks if is_of_the_boat(place[task.place])]
    for one in hanging:
        for other in aboard:
            if other.id != one.id and meet(one, other) and not _is_settled(one, other):
                yield one, other, LIFT_WHY
    inside = defaultdict[str, list[Task]](list)
    for task in aboard:
        if not place[task.place].outdoors:
            inside[task.place].append(task)
    near = _opening(refit)
    for one in aboard:
        if Emission.FUMES not in one.emits or one.contained_by or place[one.place].outdoors:
            continue
        for key in near[one.place]:
            for other in inside[key]:
                if other.id != one.id and meet(one, other) and not _is_settled(one, other):
                    yield one, other, FUMES_WHY


def why_apart(refit: Refit, one: str, other: str) -> str:
    """Why two tasks (ids) are kept apart by a lift or by fumes; "" where they aren't."""
    pair = {one, other}
    return next((why for first, kept, why in kept_apart(refit) if {first.id, kept.id} == pair), "")


def _opening(refit: Refit) -> dict[str, list[str]]:
    """For each place itself and those it opens onto, either way, in the order of the boat."""
    out: dict[str, dict[str, None]] = {place.id: {place.id: None} for place in refit.places}
    for one in refit.places:
        for other in one.opens_onto:
            if other in out:
                out[one.id][other] = out[other][one.id] = None
    return {key: list(found) for key, found in out.items()}
