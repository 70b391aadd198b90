"""Who may do a task: every set of people with the skill and the hands."""

from __future__ import annotations

from itertools import combinations, islice

from rovask.core.choices import Role
from rovask.core.model import Person, Refit, Task

MOST_CREWS = 40
_ORDER = {Role.OWNER: 0, Role.HELPER: 1, Role.YARD: 2, Role.TRADE: 3}


def may_do(person: Person, task: Task) -> bool:
    """Named people may do what they are named for; else the skill decides, and without one owners and helpers."""
    if task.people:
        return person.id in task.people
    if task.skill is not None:
        return task.skill in person.skills
    return person.role in (Role.OWNER, Role.HELPER)


def crews_for(refit: Refit, task: Task) -> list[tuple[str, ...]]:
    """Sets of people for ``task``, cheapest and least skilled first; at most MOST_CREWS of them.

    Empty when too few people fit. Ties keep the order of the refit's people.
    """
    fit = [person for person in refit.people if may_do(person, task)]
    fit.sort(key=lambda person: (_ORDER[person.role], person.rate, len(person.skills)))
    return [tuple(person.id for person in crew) for crew in islice(combinations(fit, task.hands), MOST_CREWS)]
