"""Who may do a task: every set of people with the skills and the hands."""

from __future__ import annotations

from itertools import combinations, islice

from rovask.core.readings.standings import is_agreed_with
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Person, Refit, Task

MOST_CREWS = 40
_ORDER = {Role.OWNER: 0, Role.HELPER: 1, Role.YARD: 2, Role.TRADE: 3}


def may_do(person: Person, task: Task) -> bool:
    """Named people may do what they are named for; else the skill decides, and without one owners and helpers.

    Of a task with skills one by one (``skilled``), also whoever has one of them.
    """
    if task.people:
        return person.id in task.people
    if task.skill is not None:
        return task.skill in person.skills
    return person.role in (Role.OWNER, Role.HELPER) or bool(set(task.skilled) & set(person.skills))


def is_asked_first(refit: Refit, person: Person) -> bool:
    """Whether somebody paid is taken on only where it is said: a hand of the yard, a trade with whom nothing is agreed,
    neither a rate nor a price.
    """
    if person.role is Role.YARD:
        return True
    return person.role is Role.TRADE and not person.rate and not is_agreed_with(refit, person)


def knows(crew: tuple[Person, ...], task: Task) -> bool:
    """Whether a crew has, for each skill asked one by one, a hand of its own, and the rest may do the rest.

    The others must be owners or helpers, unless people are named. A bipartite matching on at most eight hands.
    """
    if not task.skilled:
        return True

    def match(at: int, left: tuple[Person, ...]) -> bool:
        if at == len(task.skilled):
            return bool(task.people) or all(person.role in (Role.OWNER, Role.HELPER) for person in left)
        return any(
            task.skilled[at] in person.skills and match(at + 1, left[:n] + left[n + 1 :])
            for n, person in enumerate(left)
        )

    return match(0, crew)


def crews_for(refit: Refit, task: Task) -> list[tuple[str, ...]]:
    """Sets of people for ``task``, cheapest and least skilled first; at most MOST_CREWS of them.

    The yard's hands, and a trade that is still to be found, are taken on only where nobody else can, or by name. Empty
    when too few people fit. Ties keep the order of the refit's people.
    """
    fit = [person for person in refit.people if may_do(person, task)]
    if not task.people:
        own = [person for person in fit if not is_asked_first(refit, person)]
        if any(knows(crew, task) for crew in combinations(own, task.hands)):
            fit = own
    fit.sort(key=lambda person: (_ORDER[person.role], person.rate, len(person.skills)))
    found = (crew for crew in combinations(fit, task.hands) if knows(crew, task))
    return [tuple(person.id for person in crew) for crew in islice(found, MOST_CREWS)]
