"""The ties of a job that a recipe makes: its own chain, those with other jobs, the table of order, what the first look tells."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from rovask.core.plain.half_hours import half_hours
from rovask.core.readings.order_of_work import ROWS
from rovask.core.readings.trade_order import leads
from rovask.core.recipes.answers import answers_of, values_of
from rovask.core.recipes.common import Library
from rovask.core.recipes.formula import Value, holds, number
from rovask.core.recipes.recipe import Recipe, StepLine, TieLine
from rovask.core.recipes.sides import Each, alike, apart
from rovask.core.refit.givens.choices import Which
from rovask.core.refit.model import Inspection, Refit
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.kinds import Job, Link

LOOKED = "looked at first"
BEFORE_LOOKS = 48.0  # hours after the haul in which nothing need be looked at yet


def _lag(hours: float) -> float:
    return math.ceil(round(hours * 2, 6)) / 2


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted``, or with the first number after it that nobody has."""
    seen = set(taken)
    if wanted not in seen:
        return wanted
    return next(name for name in (f"{wanted}-{n}" for n in range(2, 1000)) if name not in seen)


def sided_steps(refit: Refit, name: str) -> list[tuple[str, Which | None]]:
    """The tasks that ``recipe.step`` stands for, of every job made from that recipe, each with which of two it is done for."""
    recipe, _, step = name.partition(".")
    return [found for job in refit.jobs if job.recipe == recipe for found in sided_of(job, step)]


def sided_of(job: Job, step: str) -> list[tuple[str, Which | None]]:
    """The tasks of a job that are one step of its recipe, each with which of two it is done for."""
    before = f"{job.id}-"
    out = []
    for task in job.tasks:
        if task.id.startswith(before + step):
            name, side = apart(task.id[len(before) :])
            if name == step:
                out.append((task.id, side))
    return out


@dataclass(frozen=True, slots=True)
class Copy:
    """One step as it is done for one side; side: None for what is done once. each: what it is one of, where not what the
    recipe is done for.
    """

    row: StepLine
    side: Which | None = None
    each: Each | None = None

    @property
    def at(self) -> tuple[str, Which | None]:
        """What it is known by within its job."""
        return self.row.id, self.side


class Expanding(Protocol):
    """An expansion whose ties are wanted. kept: its steps; steps: those and what other jobs do for it (shared), each with
    its sides; names: what its formulas may use; key: the task of a step.
    """

    library: Library
    recipe: Recipe
    refit: Refit
    job_id: str
    kept: list[Copy]
    shared: dict[tuple[str, Which | None], str]
    steps: dict[str, list[Which | None]]
    names: dict[str, Value]

    def key(self, step: str, side: Which | None = None) -> str:
        """The id that a step has as a task."""

    def names_for(self, side: Which | None, each: Each | None = None) -> dict[str, Value]:
        """What the formulas of a copy may use."""


class Ties:
    """The ties of one expansion."""

    def __init__(self, made: Expanding) -> None:
        self.made, self.library, self.common = made, made.library, made.library.common
        self.recipe, self.refit, self.job_id = made.recipe, made.refit, made.job_id
        self.steps, self.names, self.kept = made.steps, made.names, made.kept
        self.others: dict[str, dict[str, Value]] = {}

    def all(self) -> Iterator[Link]:
        """Every tie, each once; of the table of order those that nothing nearer contradicts."""
        seen: set[tuple[str, str, LinkKind]] = {(link.first, link.then, link.kind) for link in self.refit.links}
        taken = {one.id for one in self.refit.links}
        after: dict[str, set[str]] = defaultdict(set)
        for link in self.refit.links:
            after[link.first].add(link.then)
        made = [*self._chain(), *self._begin(), *self._own_ties(), *self._ties_of_others()]
        ordered = list(self._orders())
        for count, link in enumerate([*made, *ordered], 1):
            tie = (link.first, link.then, link.kind)
            if tie in seen or link.first == link.then:
                continue
            if count > len(made) and leads(after, link.then, link.first):
                continue  # something nearer says it the other way round
            seen.add(tie)
            after[link.first].add(link.then)
            yield link.model_copy(update={"id": free_id(f"{self.job_id}-t{count}", taken)})

    def _before(self, row: StepLine) -> list[str]:
        """The kept steps a step follows; what is left out is followed through."""
        rows = {one.id: one for one in self.recipe.task}
        ids = list(rows)
        if row.after is None:
            at = ids.index(row.id)
            named: tuple[str, ...] = (ids[at - 1],) if at else ()
        else:
            named = row.after
        out: list[str] = []
        for name in named:
            out += [name] if name in self.steps else self._before(rows[name])
        return list(dict.fromkeys(out))

    def _chain(self) -> Iterator[Link]:
        for row in (row for row in self.recipe.task if row.id in self.steps):
            tie = TieLine(first="haul", then="launch", lag=row.lag, window=row.window, cures=row.cures, why=row.why)
            for before in self._before(row):
                for side, other in self._pairs(before, row.id):
                    if (before, side) in self.made.shared and (row.id, other) in self.made.shared:
                        continue  # the other job ties them
                    names = self._names_at(row, other)
                    yield self._link(self.made.key(before, side), self.made.key(row.id, other), tie, row, names)

    def _names_at(self, row: StepLine, side: Which | None) -> Mapping[str, Value]:
        """What the formulas of a copy of a step may use."""
        copy = next((one for one in self.kept if one.at == (row.id, side)), None)
        return self.made.names_for(side, copy.each) if copy is not None else self.names

    def _pairs(self, first: str, then: str) -> list[tuple[Which | None, Which | None]]:
        """Which copy of a step comes before which of another: on the same side, and all of them where one is done once."""
        return [(one, other) for one in self.steps[first] for other in self.steps[then] if alike(one, other)]

    def _link(
        self,
        first: str,
        then: str,
        tie: TieLine,
        row: StepLine | TieLine | None = None,
        names: Mapping[str, Value] | None = None,
    ) -> Link:
        """A tie with its numbers, worked out from ``names`` (None: this recipe's); row: what says how it is made good."""
        names = self.names if names is None else names
        window = _lag(number(tie.window, names)) if tie.window else None
        more: dict[str, Any] = {}
        if row is not None and row.make_good_hours and window is not None:
            more = {"make_good_hours": half_hours(number(row.make_good_hours, names)), "make_good": row.make_good}
        if isinstance(row, StepLine):
            more["least_lag"] = _lag(number(row.lag_least, names)) if row.lag_least else None
            more["most_lag"] = _lag(number(row.lag_most, names)) if row.lag_most else None
        return Link(
            id="tie",
            first=first,
            then=then,
            kind=tie.kind,
            min_lag=_lag(number(tie.lag, names)),
            max_lag=window,
            reason=tie.why,
            cures=tie.cures,
            **more,
        )

    def _begin(self) -> Iterator[Link]:
        """What begins the job ashore waits until she stands safely; what the first look tells of it comes before."""
        heads = [copy for copy in self.kept if not self._before(copy.row)]
        for first, _ in sided_steps(self.refit, self.common.starts_after):
            for copy in heads:
                if copy.row.state is State.ASHORE and self.recipe.id != self.common.starts_after.partition(".")[0]:
                    yield Link(id="tie", first=first, then=self.made.key(*copy.at), reason="standing safely")
        for inspection in self.refit.inspections:
            if inspection.recipe == self.recipe.id and inspection.task in self.refit.tasks:
                side = self._side_of(inspection)
                for copy in (copy for copy in heads if alike(side, copy.side)):
                    yield Link(id="tie", first=str(inspection.task), then=self.made.key(*copy.at), reason=LOOKED)
        yield from self._looked_at_in_time()
        for look in self.recipe.look:
            if look.recipe and look.step in self.steps and holds(look.when, self.names):
                for first, side in self._first_tasks_of(look.recipe):
                    for mine in self.steps[look.step]:
                        if alike(mine, side):
                            yield Link(id="tie", first=self.made.key(look.step, mine), then=first, reason=LOOKED)

    def _side_of(self, inspection: Inspection) -> Which | None:
        place = self.refit.place_by_id.get(inspection.place or "")
        return place.which if place is not None else None

    def _looked_at_in_time(self) -> Iterator[Link]:
        """What is looked at leaves time for the part it may need to come, as far as the haul-out is long enough."""
        ashore = (self.refit.launch_at - self.refit.haul_at).total_seconds() / 3600 - BEFORE_LOOKS
        for copy in self.kept:
            found = [one for one in self.recipe.look if one.step == copy.row.id and holds(one.when, self.names)]
            days = max((one.lead_days for one in found), default=0)
            lag = min(days * 24.0, math.floor(ashore * 2) / 2)
            if lag > 0:
                why = f"{days} days for the part it may need"
                yield Link(id="tie", first=self.made.key(*copy.at), then="launch", min_lag=lag, reason=why)

    def _first_tasks_of(self, recipe: str) -> list[tuple[str, Which | None]]:
        """The tasks that begin the jobs made from a recipe, with their side: those no other task of the job comes before."""
        out = []
        for job in self.refit.jobs:
            if job.recipe == recipe:
                mine = {task.id for task in job.tasks}
                later = {link.then for link in self.refit.links if link.first in mine}
                out += [
                    (task.id, apart(task.id.removeprefix(f"{job.id}-"))[1])
                    for task in job.tasks
                    if task.id not in later and not task.begun_at
                ]
        return out

    def _ends(self, name: str, job: Job | None = None) -> list[tuple[str, Which | None]]:
        """The tasks an end of a tie stands for, each with its side; job: whose recipe the tie stands in, None: this one. Of
        a|b the first kept.
        """
        recipe, dot, steps = name.rpartition(".")
        for step in steps.split("|"):
            if not dot and step in ("haul", "launch"):
                return [(step, None)]
            if (recipe == self.recipe.id or (not dot and job is None)) and step in self.steps:
                return [(self.made.key(step, side), side) for side in self.steps[step]]
            if dot:
                found = sided_steps(self.refit, f"{recipe}.{step}")
            else:
                found = sided_of(job, step) if job is not None else []
            if found:
                return found
        return []

    def _own_ties(self) -> Iterator[Link]:
        for tie in self.recipe.tie:
            yield from self._tied(tie, self.names)

    def _ties_of_others(self) -> Iterator[Link]:
        """Ties that recipes of jobs already there have to this one."""
        for job in self.refit.jobs:
            other = self.library.recipes.get(job.recipe or "")
            if other is None or other.id == self.recipe.id:
                continue
            mine = [tie for tie in other.tie if self.recipe.id in (_recipe_of(tie.first), _recipe_of(tie.then))]
            if mine:
                names = self._names_of(job, other)
                for tie in mine:
                    yield from self._tied(tie, names, job)

    def _orders(self) -> Iterator[Link]:
        """What the table of order says of this recipe and those of the jobs there are."""
        there = {job.recipe: job for job in self.refit.jobs if job.recipe in self.library.recipes}
        for row in ROWS:
            ends = (_recipe_of(row.first), _recipe_of(row.then))
            if self.recipe.id not in ends or not all(end == self.recipe.id or end in there for end in ends):
                continue
            says = ends[1] if row.by_then else ends[0]
            names = self.names if says == self.recipe.id else self._names_of(there[says], self.library.recipes[says])
            yield from self._tied(TieLine.model_validate(row.as_tie()), names)

    def _names_of(self, job: Job, recipe: Recipe) -> dict[str, Value]:
        """What formulas of another job's recipe may use."""
        if job.id not in self.others:
            self.others[job.id] = values_of(recipe, self.refit, answers_of(recipe, self.refit, job))
        return self.others[job.id]

    def _tied(self, tie: TieLine, names: Mapping[str, Value], job: Job | None = None) -> Iterator[Link]:
        if not holds(tie.when, names):
            return
        for first, one in self._ends(tie.first, job):
            for then, other in self._ends(tie.then, job):
                if first != then and alike(one, other):  # the same: one step that two recipes share
                    yield self._link(first, then, tie, tie, names)


def _recipe_of(end: str) -> str:
    """The recipe an end of a tie names; "" for one of its own."""
    return end.rpartition(".")[0]
