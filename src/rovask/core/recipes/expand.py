"""From a recipe, a boat and some answers to a job with its tasks, ties, parts and all that hangs on it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from decimal import Decimal

from pydantic import ValidationError

from rovask.core.plain.currency import exponent
from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.core.plain.half_hours import half_hours, of_a_unit
from rovask.core.plain.money import rounded
from rovask.core.recipes.answers import Answers, asked, checked_answers, refusals, sides_asked, values_of
from rovask.core.recipes.common import Library
from rovask.core.recipes.formula import BadFormula, Value, holds, number
from rovask.core.recipes.places import name_of, place_at
from rovask.core.recipes.recipe import Recipe, StepLine
from rovask.core.recipes.sides import EACH_OF, SAID, Each, letter_of, sides_of
from rovask.core.recipes.ties import Copy, Ties, free_id, sided_steps
from rovask.core.refit.givens.choices import Spot, Which
from rovask.core.refit.model import Gear, Inspection, OffBoat, Place, Refit, Unknown
from rovask.core.refit.work.choices import Deed
from rovask.core.refit.work.kinds import Choice, Job, Link, Part, Task, WorkTime

COMPARE = "Compare with the other side."


class DoesNotFit(RefitFaults):
    """The recipe doesn't fit this boat, or not with these answers; each fault says why in a sentence."""


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
        self.named: dict[tuple[Which | None, Each | None], dict[str, Value]] = {}
        self.names = self.names_for(None)
        self.job_id = free_id(recipe.id, {job.id for job in refit.jobs} | set(refit.tasks))
        wanted = [copy for copy in self._copies() if holds(copy.row.when, self.names_for(copy.side, copy.each))]
        self.shared = {copy.at: task for copy in wanted if (task := self._shared(copy)) is not None}
        self.kept = [copy for copy in wanted if copy.at not in self.shared]
        self.steps: dict[str, list[Which | None]] = {}
        for copy in wanted:
            self.steps.setdefault(copy.row.id, []).append(copy.side)
        self.place_of: dict[tuple[Spot, Which | None], str] = {}
        self.new_places: list[Place] = []
        self.new_gear: list[Gear] = []

    def names_for(self, side: Which | None, each: Each | None = None) -> dict[str, Value]:
        """What the formulas of a copy may use."""
        if (side, each) not in self.named:
            self.named[side, each] = values_of(self.recipe, self.refit, self.answers, side=side, each=each)
        return self.named[side, each]

    def _copies(self) -> Iterator[Copy]:
        """The steps, each as often as it is done: for every side that was chosen, or of an ``each`` of its own for all."""
        chosen = sides_asked(self.recipe, self.refit, self.answers)
        for row in self.recipe.task:
            if row.each is not None and row.each is not self.recipe.each:
                for side in sides_of(self.refit.boat, row.each) or (None,):
                    yield Copy(row, side, row.each if side else None)
            else:
                for side in (None,) if row.once else chosen or (None,):
                    yield Copy(row, side)

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
        tasks = tuple(self._task(copy, have) for copy in self.kept)
        chosen = tuple(
            Choice(name=ask.label, value=_spoken(self.answers[name], ask.unit))
            for name, ask in asked(self.recipe, self.refit).items()
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
            links=tuple(Ties(self).all()),
            unknowns=tuple(self._unknowns()),
            off_boat=tuple(self._off()),
            inspections=tuple(self._inspections()),
            places=tuple(self.new_places),
            gear=tuple(self.new_gear),
            cautions=tuple(
                dict.fromkeys(self.common.cautions[name].text for copy in self.kept for name in copy.row.cautions)
            ),
            skills=frozenset(skill for task in tasks for skill in ((task.skill,) if task.skill else ()) + task.skilled),
        )

    def key(self, step: str, side: Which | None = None) -> str:
        """The id that a step of this recipe has as a task: of another job where it is shared."""
        return self.shared.get((step, side)) or f"{self.job_id}-{step}{letter_of(side)}"

    def near(self, step: str, side: Which | None) -> str:
        """The task of a step that goes with a side: its own copy, else the one that is done once, else the first."""
        there = self.steps[step]
        return self.key(step, side if side in there else None if None in there else there[0])

    def _shared(self, copy: Copy) -> str | None:
        """The task of another job that is this very step on this side, where there is one that isn't done yet."""
        found = [key for name in copy.row.shares for key, side in sided_steps(self.refit, name) if side is copy.side]
        return next((key for key in found if self.refit.tasks[key].done_at is None), None)

    def _number(self, text: str, side: Which | None = None, each: Each | None = None) -> float:
        return number(text, self.names_for(side, each))

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
            price_least=self._minor(self._number(row.price_least) * quantity) if row.price_least else None,
            price_most=self._minor(self._number(row.price_most) * quantity) if row.price_most else None,
            lead_days=max(math.ceil(self._number(row.lead_days)), 0),
        )

    def _only_shared(self, part: str) -> bool:
        """Whether only steps that another job does need a part."""
        users = [row.id for row in self.recipe.task if part in row.parts and row.id in self.steps]
        return bool(users) and all((step, side) in self.shared for step in users for side in self.steps[step])

    def _task(self, copy: Copy, have: set[str]) -> Task:
        row, side = copy.row, copy.side

        def figure(text: str) -> float:
            return self._number(text, side, copy.each)

        units = max(round(figure(row.units)), 1)
        hours = figure(row.hours)
        likely = of_a_unit(hours) if units > 1 else half_hours(hours)
        work = WorkTime(
            least=min(of_a_unit(likely * row.least), likely),
            likely=likely,
            most=max(of_a_unit(likely * row.most), likely),
        )
        caution = "\n".join(self.common.cautions[name].text for name in row.cautions)
        contained = self.near(row.contained_by, side) if row.contained_by in self.steps else None
        return Task(
            id=self.key(row.id, side),
            title=titled(row.title, side),
            place=self._place(row.spot, self._side_of(row, side)),
            state=row.state,
            work=work,
            units=units,
            hands=min(max(round(figure(row.hands)), 1), 8),
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
            until=self.near(row.until, side) if row.until in self.steps else None,
            caution=caution,
            check=row.check,
            opens=row.opens,
            does=row.does,
            charge=row.charge,
            note=row.note,
        )

    def _side_of(self, row: StepLine, side: Which | None) -> Which | None:
        """On which of them a step is done: its copy's, else the one it names, where she has that."""
        each = EACH_OF.get(row.spot)
        named = row.which if each is not None and row.which in sides_of(self.refit.boat, each) else None
        return side or named

    def _place(self, spot: Spot, side: Which | None) -> str:
        """The refit's place for a spot on a side; a new one where it has none."""
        if (spot, side) in self.place_of:
            return self.place_of[spot, side]
        there = place_at(self.refit, spot, side)
        found = there.id if there is not None else None
        if found is None:
            usual = next(row for row in self.common.place if row.spot is spot)
            found = free_id(spot.value, (place.id for place in (*self.refit.places, *self.new_places)))
            opens = tuple(place.id for place in self.refit.places if place.spot in usual.opens_onto)
            self.new_places.append(
                Place(
                    id=found,
                    name=name_of(usual.name, side),
                    spot=spot,
                    which=side,
                    capacity=usual.capacity,
                    outdoors=usual.outdoors,
                    opens_onto=opens,
                )
            )
        self.place_of[spot, side] = found
        return found

    def _gear(self, key: str) -> str:
        known = {gear.id for gear in (*self.refit.gear, *self.new_gear)}
        if key not in known:
            usual = self.common.gear[key]
            self.new_gear.append(Gear(id=key, name=usual.name, count=usual.count))
        return key

    def _minor(self, amount: float) -> int:
        """A guessed price in minor units of the refit's currency; never less than nothing."""
        return max(rounded(Decimal(str(round(amount, 9))).scaleb(exponent(self.refit.currency))), 0)

    # What hangs on the job

    def _sides(self, *steps: str) -> list[Which | None]:
        """The sides on which all of the steps are done, where any of them is done by side; else None alone."""
        if not all(step in self.steps for step in steps):
            return []
        sided = [side for step in steps for side in self.steps[step] if side is not None]
        return list(dict.fromkeys(sided)) or [None]

    def _unknowns(self) -> Iterator[Unknown]:
        count = 0
        for row in self.recipe.unknown:
            for side in self._sides(row.settled_by):
                count += 1
                if holds(row.when, self.names_for(side)):
                    yield Unknown(
                        id=free_id(f"{self.job_id}-u{count}", (one.id for one in self.refit.unknowns)),
                        title=titled(row.title, side),
                        chance=min(max(self._number(row.chance, side), 0.0), 1.0),
                        hours=half_hours(self._number(row.hours, side)),
                        lead_days=max(math.ceil(self._number(row.lead_days, side)), 0),
                        money=self._minor(self._number(row.price, side)),
                        task=self.near(row.settled_by, side),
                        recipe=row.recipe,
                    )

    def _off(self) -> Iterator[OffBoat]:
        count = 0
        for row in self.recipe.off:
            for side in self._sides(row.off, row.back):
                count += 1
                tasks = self.near(row.off, side), self.near(row.back, side)
                if set(tasks) <= set(self.shared.values()):
                    continue  # it comes off and goes back with the other job
                if holds(row.when, self.names_for(side)):
                    yield OffBoat(
                        id=free_id(f"{self.job_id}-o{count}", (one.id for one in self.refit.off_boat)),
                        what=titled(row.what, side),
                        off_task=tasks[0],
                        back_task=tasks[1],
                        note=row.note,
                    )

    def _inspections(self) -> Iterator[Inspection]:
        count = 0
        for row in self.recipe.look:
            if row.step not in self.steps:
                continue
            each = EACH_OF.get(row.spot)
            there = sides_of(self.refit.boat, each) if each is not None else ()
            for side in there or (None,):
                count += 1
                if not holds(row.when, self.names_for(None)):
                    continue
                how = f"{row.how} {COMPARE}".strip() if side is not None else row.how
                yield Inspection(
                    id=free_id(f"{self.job_id}-i{count}", (one.id for one in self.refit.inspections)),
                    title=titled(row.title, side),
                    place=self._place(row.spot, side),
                    task=self.near(row.step, side),
                    how=how,
                    unit=row.unit,
                    good_to=row.good_to,
                    bad_from=row.bad_from,
                    repair_hours=row.repair_hours,
                    lead_days=row.lead_days,
                    recipe=row.recipe,
                )


def titled(title: str, side: Which | None) -> str:
    """What is done (found, off) on one side, as it is called."""
    return title if side is None else f"{title[: 118 - len(SAID[side])]}, {SAID[side]}"


def _spoken(value: Value, unit: str) -> str:
    return value if isinstance(value, str) else f"{value:g} {unit}".rstrip()
