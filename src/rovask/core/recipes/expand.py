"""From a recipe, a boat and some answers to a job with its tasks, ties, parts and all that hangs on it."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from rovask.core.books.money import rounded
from rovask.core.recipes.answers import Answers, answers_of, checked_answers, refusals, values_of
from rovask.core.recipes.formula import BadFormula, Value, holds, number
from rovask.core.recipes.recipe import Common, Recipe, StepLine, TieLine
from rovask.core.refit.choices import Deed, LinkKind, Spot, State
from rovask.core.refit.currency import exponent
from rovask.core.refit.faults import Fault, RefitFaults, faults_of
from rovask.core.refit.half_hours import half_hours, of_a_unit
from rovask.core.refit.jobs import Choice, Job, Link, Part, Task, WorkTime
from rovask.core.refit.model import Gear, Inspection, OffBoat, Place, Refit, Unknown
from rovask.core.refit.order_of_work import ROWS
from rovask.core.refit.trade_order import leads

BEFORE_LOOKS = 48.0  # hours after the haul in which nothing need be looked at yet


class DoesNotFit(RefitFaults):
    """The recipe doesn't fit this boat, or not with these answers; each fault says why in a sentence."""


@dataclass(frozen=True, slots=True)
class Library:
    """The recipes at hand by id, and what they share."""

    common: Common
    recipes: Mapping[str, Recipe]


@dataclass(frozen=True)
class Expansion:
    """What a recipe makes of a boat: everything that would be added to the refit, and what was answered.

    skills: every skill its tasks ask for. cautions: the texts, each once.
    """

    recipe: Recipe
    answers: dict[str, Value]
    job: Job
    parts: tuple[Part, ...] = ()
    links: tuple[Link, ...] = ()
    places: tuple[Place, ...] = ()
    gear: tuple[Gear, ...] = ()
    unknowns: tuple[Unknown, ...] = ()
    off_boat: tuple[OffBoat, ...] = ()
    inspections: tuple[Inspection, ...] = ()
    cautions: tuple[str, ...] = ()
    skills: frozenset[str] = field(default_factory=frozenset)

    @property
    def hours(self) -> float:
        """Hours of work, every pair of hands counted."""
        return sum(task.work.likely * task.units * task.hands for task in self.job.tasks)

    @property
    def coating_share(self) -> float | None:
        """Of its hours those in which something is coated, 0 to 1, the rest is preparing; None where nothing is coated."""
        coats = sum(task.work.likely * task.units * task.hands for task in self.job.tasks if Deed.COATS in task.does)
        return coats / self.hours if coats and self.hours else None

    @property
    def money(self) -> int:
        """What the parts cost, in minor units."""
        return sum(part.price for part in self.parts)


def _lag(hours: float) -> float:
    return math.ceil(round(hours * 2, 6)) / 2


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted``, or with the first number after it that nobody has."""
    seen = set(taken)
    if wanted not in seen:
        return wanted
    return next(name for name in (f"{wanted}-{n}" for n in range(2, 1000)) if name not in seen)


def expand(
    library: Library, recipe: Recipe, refit: Refit, given: Answers, own: frozenset[str] = frozenset()
) -> Expansion:
    """What the recipe makes of this boat with these answers.

    own: skills the sailor takes on without the trade; reserved ones are never dropped.
    Raises DoesNotFit, or RefitFaults for wrong answers and for formulas that come to nothing usable.
    """
    try:
        answers = checked_answers(recipe, refit, given)
        because = refusals(recipe, refit, answers)
        if because:
            raise DoesNotFit([Fault("", sentence) for sentence in because])
        return _Expander(library, recipe, refit, answers, own).all()
    except BadFormula as error:
        raise RefitFaults([Fault("", f"Recipe “{recipe.title}”: {error}.")]) from None
    except ValidationError as error:
        raise RefitFaults(
            [Fault("", f"Recipe “{recipe.title}” makes something that can't be: {fault}") for fault in faults_of(error)]
        ) from None


class _Expander:
    """One expansion under way."""

    def __init__(
        self, library: Library, recipe: Recipe, refit: Refit, answers: dict[str, Value], own: frozenset[str]
    ) -> None:
        self.library, self.common, self.recipe, self.refit = library, library.common, recipe, refit
        self.answers = answers
        self.own = own - set(library.common.reserved)
        self.names = values_of(recipe, refit, answers)
        self.job_id = free_id(recipe.id, {job.id for job in refit.jobs} | set(refit.tasks))
        wanted = [row for row in recipe.task if holds(row.when, self.names)]
        self.shared = {row.id: task for row in wanted if (task := self._shared(row)) is not None}
        self.kept = [row for row in wanted if row.id not in self.shared]
        self.steps = {row.id for row in wanted}
        self.place_of: dict[Spot, str] = {}
        self.new_places: list[Place] = []
        self.new_gear: list[Gear] = []
        self.others: dict[str, dict[str, Value]] = {}

    def all(self) -> Expansion:
        if not self.kept:
            raise DoesNotFit([Fault("", f"Nothing of “{self.recipe.title}” is left to do on this boat.")])
        parts = [
            part
            for part in (
                self._part(row.id)
                for row in self.recipe.part
                if holds(row.when, self.names) and not self._only_shared(row.id)
            )
            if part is not None
        ]
        have = {part.id for part in parts}
        tasks = tuple(self._task(row, have) for row in self.kept)
        chosen = tuple(
            Choice(name=ask.label, value=_spoken(self.answers[name], ask.unit)) for name, ask in self.recipe.ask.items()
        )
        job = Job(
            id=self.job_id,
            title=self.recipe.title,
            need=self.recipe.need,
            recipe=self.recipe.id,
            chosen=chosen,
            tasks=tasks,
        )
        return Expansion(
            recipe=self.recipe,
            answers=self.answers,
            job=job,
            parts=tuple(parts),
            links=tuple(self._links()),
            unknowns=tuple(self._unknowns()),
            off_boat=tuple(self._off()),
            inspections=tuple(self._inspections()),
            places=tuple(self.new_places),
            gear=tuple(self.new_gear),
            cautions=tuple(
                dict.fromkeys(self.common.cautions[name].text for row in self.kept for name in row.cautions)
            ),
            skills=frozenset(skill for task in tasks for skill in ((task.skill,) if task.skill else ()) + task.skilled),
        )

    def key(self, step: str) -> str:
        """The id that a step of this recipe has as a task: of another job where it is shared."""
        return self.shared.get(step) or f"{self.job_id}-{step}"

    def _shared(self, row: StepLine) -> str | None:
        """The task of another job that is this very step, where there is one that isn't done yet."""
        found = [key for name in row.shares for key in self._steps_of(name)]
        return next((key for key in found if self.refit.tasks[key].done_at is None), None)

    def _number(self, text: str) -> float:
        return number(text, self.names)

    def _part(self, key: str) -> Part | None:
        row = next(row for row in self.recipe.part if row.id == key)
        quantity = round(self._number(row.quantity), 2)
        if quantity <= 0:
            return None
        return Part(
            id=self.key(row.id),
            name=row.name,
            quantity=quantity,
            unit=row.unit,
            price=self._minor(self._number(row.price) * quantity),
            lead_days=max(math.ceil(self._number(row.lead_days)), 0),
        )

    def _only_shared(self, part: str) -> bool:
        """Whether only steps that another job does need a part."""
        users = [row.id for row in self.recipe.task if part in row.parts and row.id in self.steps]
        return bool(users) and all(step in self.shared for step in users)

    def _task(self, row: StepLine, have: set[str]) -> Task:
        units = max(round(self._number(row.units)), 1)
        hours = self._number(row.hours)
        likely = of_a_unit(hours) if units > 1 else half_hours(hours)
        work = WorkTime(
            least=min(of_a_unit(likely * row.least), likely),
            likely=likely,
            most=max(of_a_unit(likely * row.most), likely),
        )
        caution = "\n".join(self.common.cautions[name].text for name in row.cautions)
        contained = self.key(row.contained_by) if row.contained_by in self.steps else None
        return Task(
            id=self.key(row.id),
            title=row.title,
            place=self._place(row.spot),
            state=row.state,
            work=work,
            units=units,
            hands=min(max(round(self._number(row.hands)), 1), 8),
            skill=None if row.skill in self.own else row.skill,
            skilled=tuple(skill for skill in row.skilled if skill not in self.own),
            unbroken=row.unbroken,
            parts=tuple(key for key in map(self.key, row.parts) if key in have),
            gear=tuple(self._gear(key) for key in row.gear),
            weather=self.common.surfaces[row.weather].need if row.weather else None,
            emits=row.emits,
            shuns=tuple(one for one in row.shuns if one not in row.emits or contained),
            tender=row.tender,
            contained_by=contained,
            takes_out=row.takes_out,
            until=self.key(row.until) if row.until in self.steps else None,
            caution=caution,
            check=row.check,
            opens=row.opens,
            does=row.does,
            charge=row.charge,
            note=row.note,
        )

    def _place(self, spot: Spot) -> str:
        """The refit's place for a spot; a new one where it has none."""
        if spot in self.place_of:
            return self.place_of[spot]
        found = next((place.id for place in self.refit.places if place.spot is spot), None)
        if found is None:
            usual = next(row for row in self.common.place if row.spot is spot)
            found = free_id(spot.value, (place.id for place in self.refit.places))
            opens = tuple(place.id for place in self.refit.places if place.spot in usual.opens_onto)
            self.new_places.append(
                Place(
                    id=found,
                    name=usual.name,
                    spot=spot,
                    capacity=usual.capacity,
                    outdoors=usual.outdoors,
                    opens_onto=opens,
                )
            )
        self.place_of[spot] = found
        return found

    def _gear(self, key: str) -> str:
        known = {gear.id for gear in (*self.refit.gear, *self.new_gear)}
        if key not in known:
            usual = self.common.gear[key]
            self.new_gear.append(Gear(id=key, name=usual.name, count=usual.count))
        return key

    # Ties

    def _links(self) -> Iterator[Link]:
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
            for before in self._before(row):
                if row.id in self.shared and before in self.shared:
                    continue  # the other job ties them
                yield self._link(
                    self.key(before),
                    self.key(row.id),
                    TieLine(first="haul", then="launch", lag=row.lag, window=row.window, cures=row.cures, why=row.why),
                    row,
                )

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
            more["least_lag"] = _lag(self._number(row.lag_least)) if row.lag_least else None
            more["most_lag"] = _lag(self._number(row.lag_most)) if row.lag_most else None
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
        heads = [row for row in self.kept if not self._before(row)]
        for first in self._steps_of(self.common.starts_after):
            for row in heads:
                if row.state is State.ASHORE and self.recipe.id != self.common.starts_after.partition(".")[0]:
                    yield Link(id="tie", first=first, then=self.key(row.id), reason="standing safely")
        for inspection in self.refit.inspections:
            if inspection.recipe == self.recipe.id and inspection.task in self.refit.tasks:
                for row in heads:
                    yield Link(id="tie", first=str(inspection.task), then=self.key(row.id), reason="looked at first")
        yield from self._looked_at_in_time()
        for look in self.recipe.look:
            if look.recipe and look.step in self.steps and holds(look.when, self.names):
                for first in self._first_tasks_of(look.recipe):
                    yield Link(id="tie", first=self.key(look.step), then=first, reason="looked at first")

    def _looked_at_in_time(self) -> Iterator[Link]:
        """What is looked at leaves time for the part it may need to come, as far as the haul-out is long enough."""
        ashore = (self.refit.launch_at - self.refit.haul_at).total_seconds() / 3600 - BEFORE_LOOKS
        for row in self.kept:
            found = [one for one in self.recipe.look if one.step == row.id and holds(one.when, self.names)]
            days = max((one.lead_days for one in found), default=0)
            lag = min(days * 24.0, math.floor(ashore * 2) / 2)
            if lag > 0:
                why = f"{days} days for the part it may need"
                yield Link(id="tie", first=self.key(row.id), then="launch", min_lag=lag, reason=why)

    def _first_tasks_of(self, recipe: str) -> list[str]:
        """The tasks that begin the jobs made from a recipe: those no other task of the job comes before."""
        out = []
        for job in self.refit.jobs:
            if job.recipe == recipe:
                mine = {task.id for task in job.tasks}
                later = {link.then for link in self.refit.links if link.first in mine}
                out += [task.id for task in job.tasks if task.id not in later and not task.begun_at]
        return out

    def _steps_of(self, name: str) -> list[str]:
        """The tasks that ``recipe.step`` stands for: of every job made from that recipe."""
        recipe, _, step = name.partition(".")
        return [
            task.id
            for job in self.refit.jobs
            if job.recipe == recipe
            for task in job.tasks
            if task.id == f"{job.id}-{step}"
        ]

    def _ends(self, name: str, job: Job | None = None) -> list[str]:
        """The tasks an end of a tie stands for; job: whose recipe the tie stands in, None: this one. Of a|b the first kept."""
        recipe, dot, steps = name.rpartition(".")
        for step in steps.split("|"):
            if not dot and step in ("haul", "launch"):
                return [step]
            if recipe == self.recipe.id or (not dot and job is None):
                found = [self.key(step)] if step in self.steps else self._steps_of(f"{recipe}.{step}") if dot else []
            elif dot:
                found = self._steps_of(f"{recipe}.{step}")
            else:
                found = [task.id for task in job.tasks if task.id == f"{job.id}-{step}"] if job is not None else []
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
        for first in self._ends(tie.first, job):
            for then in self._ends(tie.then, job):
                yield self._link(first, then, tie, tie, names)

    def _minor(self, amount: float) -> int:
        """A guessed price in minor units of the refit's currency; never less than nothing."""
        return max(rounded(Decimal(str(round(amount, 9))).scaleb(exponent(self.refit.currency))), 0)

    # What hangs on the job

    def _unknowns(self) -> Iterator[Unknown]:
        for count, row in enumerate(self.recipe.unknown, 1):
            if row.settled_by in self.steps and holds(row.when, self.names):
                yield Unknown(
                    id=free_id(f"{self.job_id}-u{count}", (one.id for one in self.refit.unknowns)),
                    title=row.title,
                    chance=min(max(self._number(row.chance), 0.0), 1.0),
                    hours=half_hours(self._number(row.hours)),
                    lead_days=max(math.ceil(self._number(row.lead_days)), 0),
                    money=self._minor(self._number(row.price)),
                    task=self.key(row.settled_by),
                    recipe=row.recipe,
                )

    def _off(self) -> Iterator[OffBoat]:
        for count, row in enumerate(self.recipe.off, 1):
            if {row.off, row.back} <= set(self.shared):
                continue  # it comes off and goes back with the other job
            if {row.off, row.back} <= self.steps and holds(row.when, self.names):
                yield OffBoat(
                    id=free_id(f"{self.job_id}-o{count}", (one.id for one in self.refit.off_boat)),
                    what=row.what,
                    off_task=self.key(row.off),
                    back_task=self.key(row.back),
                    note=row.note,
                )

    def _inspections(self) -> Iterator[Inspection]:
        for count, row in enumerate(self.recipe.look, 1):
            if row.step in self.steps and holds(row.when, self.names):
                yield Inspection(
                    id=free_id(f"{self.job_id}-i{count}", (one.id for one in self.refit.inspections)),
                    title=row.title,
                    place=self._place(row.spot),
                    task=self.key(row.step),
                    how=row.how,
                    unit=row.unit,
                    good_to=row.good_to,
                    bad_from=row.bad_from,
                    repair_hours=row.repair_hours,
                    lead_days=row.lead_days,
                    recipe=row.recipe,
                )


def _recipe_of(end: str) -> str:
    """The recipe an end of a tie names; "" for one of its own."""
    return end.rpartition(".")[0]


def _spoken(value: Value, unit: str) -> str:
    return value if isinstance(value, str) else f"{value:g} {unit}".rstrip()
