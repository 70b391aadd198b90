"""The order of the trade between jobs in one place, whichever job it belongs to, by the table in order_of_work.py.

Repairs are sanded and sealed before the coat over them, the coupling is aligned before the seal's compression is set,
what is tested is tested before it is covered (common practice). A tie of the sailor's own that says otherwise wins.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from rovask.core.plain.derived import derived
from rovask.core.readings.order_of_work import DEEDS
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.work.choices import Deed, State

# What a title says where nothing else is said of an own task.
_WORDS: tuple[tuple[Deed, re.Pattern[str]], ...] = tuple(
    (deed, re.compile(pattern, re.IGNORECASE))
    for deed, pattern in (
        (Deed.COATS, r"\b(coat|coats|coating|antifoul\w*|paint|painting|varnish\w*|prime|priming)\b"),
        (Deed.SANDS, r"\b(sand|sanding|grind|grinding|abrade|abrading|scrape|scraping|fair|fairing)\b"),
        (Deed.SEALS, r"\b(seal|sealing|fill|filling|laminate|laminating|lay up)\b"),
        (Deed.WETS, r"\b(pressure.wash|rinse|rinsing|wash|washing)\b"),
        (Deed.ALIGNS, r"\b(align|aligning|alignment)\b"),
        (Deed.SETS, r"\bcompression\b"),
        (Deed.TESTS, r"\b(pressure test|hose test|test|testing)\b"),
        (Deed.COVERS, r"\b(cover up|close in|panels? (back|up)|ceilings? (back|up)|floors? (back|down))\b"),
        (
            Deed.LIFTS,
            r"\b(crane|cranes|hoist|hoists|travel.?lift|lifts? (her|out|in)|into the slings|unstep|"
            r"step the mast|(pull|lift|crane) the (mast|engine|keel)|(drop|lower) the keel|(moves?|shifts?) the pads)\b",
        ),
    )
)


@dataclass(frozen=True, slots=True)
class TradeOrder:
    """``first`` ends before ``then`` begins (ids of tasks), and why. said: by what was said of both, not by a title's words."""

    first: str
    then: str
    why: str
    said: bool


def deeds_of(job: Job, task: Task) -> tuple[Deed, ...]:
    """What a task does to its place: as said, for an own one else as its title reads."""
    if task.does or job.recipe is not None:
        return task.does
    return said_by_title(task.title)


@lru_cache(maxsize=4096)
def said_by_title(title: str) -> tuple[Deed, ...]:
    """What the words of a title say that is done to a place.

    >>> [deed.value for deed in said_by_title("Lift her out and pressure-wash")]
    ['wets', 'lifts']
    """
    return tuple(deed for deed, words in _WORDS if words.search(title))


@derived(lambda refit: (refit.jobs, refit.links))
def trade_orders(refit: Refit) -> tuple[TradeOrder, ...]:
    """The pairs of tasks of different jobs that the trade does in this order; of what is begun nothing is left to order.

    O(tasks + pairs in one place x ties).
    """
    after: dict[str, set[str]] = defaultdict(set)
    for link in refit.links:
        after[link.first].add(link.then)
    for task in refit.tasks.values():
        for first, then in ((task.contained_by, task.id), (task.id, task.until)):
            if first and then:
                after[first].add(then)
    out = []
    for order in _wanted(refit):
        if order.then not in after[order.first] and not leads(after, order.then, order.first):
            after[order.first].add(order.then)
            out.append(order)
    return tuple(out)


def _wanted(refit: Refit) -> Iterator[TradeOrder]:
    rows: dict[str, list[tuple[Job, Task, tuple[Deed, ...], bool]]] = defaultdict(list)
    for job in refit.jobs:
        coated = set[str]()  # places that a task of the job before this one coats: what comes then is between its coats
        for task in job.tasks:
            deeds = deeds_of(job, task)
            if task.state in (State.ASHORE, State.EITHER) and deeds:
                rows[task.place].append((job, task, deeds, task.place in coated))
            if Deed.COATS in deeds:
                coated.add(task.place)
    for place in rows.values():
        for deed, later, why in DEEDS:
            firsts = [row for row in place if deed in row[2] and row[1].done_at is None]
            thens = [row for row in place if later in row[2] and row[1].begun_at is None]
            for job, task, deeds, between in firsts:
                if later in deeds or (later is Deed.COATS and between):
                    continue
                for other_job, other, _, _ in thens:
                    if other_job.id != job.id:
                        said = bool(task.does) and bool(other.does)
                        yield TradeOrder(task.id, other.id, why, said)


def leads(after: dict[str, set[str]], first: str, then: str) -> bool:
    """Whether ties run from one task to another."""
    seen, todo = {first}, [first]
    while todo:
        for following in after.get(todo.pop(), ()):
            if following == then:
                return True
            if following not in seen:
                seen.add(following)
                todo.append(following)
    return False


CLOSES = (Deed.COATS, Deed.COVERS)


def closed_after(refit: Refit, place: str | None) -> list[Task]:
    """Tasks not begun that coat or cover a place, in their order: what a repair there is usually done before."""
    return [
        task
        for job, task in refit.walk()
        if task.place == place and task.begun_at is None and set(deeds_of(job, task)) & set(CLOSES)
    ]
