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
from rovask.core.recipes.answers import Answers, checked_answers, refusals, values_of
from rovask.core.recipes.common import Library
from rovask.core.recipes.formula import BadFormula, Value, holds, number
from rovask.core.recipes.recipe import Recipe, StepLine
from rovask.core.recipes.ties import Ties, free_id, steps_of
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Gear, Inspection, OffBoat, Place, Refit, Unknown
from rovask.core.refit.work.choices import Deed
from rovask.core.refit.work.kinds import Choice, Job, Link, Part, Task, WorkTime


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
        self.names = values_of(recipe, refit, answers)
        self.job_id = free_id(recipe.id, {job.id for job in refit.jobs} | set(refit.tasks))
        wanted = [row for row in recipe.task if holds(row.when, self.names)]
        self.shared = {row.id: task for row in wanted if (task := self._shared(row)) is not None}
        self.kept = [row for row in wanted if row.id not in self.shared]
        self.steps = {row.id for row in wanted}
        self.place_of: dict[Spot, str] = {}
        self.new_places: list[Place] = []
        self.new_gear: list[Gear] = []

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
            links=tuple(
                Ties(
                    self.library, self.recipe, self.refit, self.job_id, self.kept, self.shared, self.names, self.key
                ).all()
            ),
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
        found = [key for name in row.shares for key in steps_of(self.refit, name)]
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


def _spoken(value: Value, unit: str) -> str:
    return value if isinstance(value, str) else f"{value:g} {unit}".rstrip()
