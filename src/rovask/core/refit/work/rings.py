"""Rings of ties: tasks that would wait for each other, and for the haul-out or the launch, for ever."""

from __future__ import annotations

from collections import defaultdict

from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.kinds import HAUL, LAUNCH
from rovask.core.refit.work.titles import end_title


def waits_of(refit: Refit) -> dict[str, list[str]]:
    """What must end before what begins, as the ties, containment and the state of the boat say it."""
    after: dict[str, list[str]] = defaultdict(list)
    for link in refit.links:
        if link.kind is LinkKind.FS:
            after[link.first].append(link.then)
    for task in refit.tasks.values():
        if task.contained_by:
            after[task.contained_by].append(task.id)
        if task.until:
            after[task.id].append(task.until)
        if task.state is State.AFLOAT_BEFORE:
            after[task.id].append(HAUL)
        elif task.state in (State.LIFTING, State.ASHORE, State.SLINGS):
            after[HAUL].append(task.id)
            after[task.id].append(LAUNCH)
        elif task.state is State.AFLOAT_AFTER:
            after[LAUNCH].append(task.id)
    return after


def ring_of(refit: Refit) -> list[str]:
    """The ids of one ring, each waiting for the one before and the first for the last; empty if there is none. O(ties)."""
    after = waits_of(refit)
    state: dict[str, int] = {}
    for root in list(after):
        if root in state:
            continue
        path, todo = [root], [iter(after[root])]
        state[root] = 1
        while todo:
            then = next(todo[-1], None)
            if then is None:
                state[path.pop()] = 2
                todo.pop()
            elif state.get(then) == 1:
                return path[path.index(then) :]
            elif then not in state:
                state[then] = 1
                path.append(then)
                todo.append(iter(after.get(then, ())))
    return []


def ring_told(refit: Refit, ring: list[str]) -> str:
    """A ring in a sentence."""
    told = [
        f"“{end_title(refit, key)}”" if key not in (HAUL, LAUNCH) else end_title(refit, key) for key in [*ring, ring[0]]
    ]
    return f"These would wait for each other for ever: {' → '.join(told)}. Take one of the ties out first."
