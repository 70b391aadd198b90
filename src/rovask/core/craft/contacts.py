"""Unlike metals that touch: how much one eats the other, by their potentials, their areas and how wet they are; and what never lies beside what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from pydantic import Field

from rovask.core.bench.metal import TROUBLE, Metal, metal_of
from rovask.core.recipes.formula import Value, holds
from rovask.core.recipes.recipe import Condition
from rovask.core.refit.craft.choices import InSeries, Larger, Wetness
from rovask.core.refit.craft.kinds import Contact
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Refit
from rovask.core.refit.values import Frozen, Line, Text

HOW_WET = {Wetness.UNDER: 1.0, Wetness.SPLASH: 0.5, Wetness.DRY: 0.1}  # (judgement)
NOBLE_LARGER, EATEN_LARGER = (
    3.0,
    1 / 3,
)  # the current spreads over what is eaten: a small one goes fast (handbooks; figures judgement)
BAD, WATCH = TROUBLE, TROUBLE / 2  # volts, weighed with areas and wetness


class Danger(StrEnum):
    """How bad a contact is."""

    NONE = "no danger"
    LITTLE = "little"
    WATCH = "to be watched"
    BAD = "eats"
    NEVER = "never"


class Point(Frozen):
    """A usual place where metals meet on a boat of which ``when`` holds."""

    title: Line
    spot: Spot
    one: InSeries
    other: InSeries
    wet: Wetness = Wetness.SPLASH
    larger: Larger = Larger.ALIKE
    when: Condition = ""


class NeverBeside(Frozen):
    """What never lies beside, or touches, what. one, other: groups of metals that make a contact of that sort one; empty: a rule for hands."""

    said: Line
    because: Line
    one: tuple[InSeries, ...] = ()
    other: tuple[InSeries, ...] = ()
    wet: tuple[Wetness, ...] = (Wetness.UNDER, Wetness.SPLASH)


class ContactTables(Frozen):
    """The usual points, what never lies beside what, and where it comes from."""

    contacts_source: Text
    point: tuple[Point, ...]
    never: tuple[NeverBeside, ...] = Field(min_length=1)


@dataclass(frozen=True, slots=True)
class Verdict:
    """What is said of one contact. volts: between the two; eaten: the one that goes; weighed: volts with areas and wetness."""

    danger: Danger
    volts: float
    eaten: Metal
    noble: Metal
    weighed: float
    because: str

    @property
    def wants_work(self) -> bool:
        """Whether it should be taken apart and kept apart."""
        return self.danger in (Danger.BAD, Danger.NEVER)


def judged(tables: ContactTables, contact: Contact) -> Verdict:
    """How bad a contact is: volts between x areas x wetness; 0.2 V in sea water is where one begins to eat the other (common practice).

    Where something that does not conduct lies between them there is no danger as long as it does.
    """
    one, other = metal_of(contact.one), metal_of(contact.other)
    eaten, noble = (one, other) if one.volts <= other.volts else (other, one)
    volts = noble.volts - eaten.volts
    larger = {Larger.ONE: one, Larger.OTHER: other}.get(contact.larger)
    areas = 1.0 if larger is None or one is other else NOBLE_LARGER if larger is noble else EATEN_LARGER
    weighed = volts * areas * HOW_WET[contact.wet]
    if contact.apart:
        return Verdict(Danger.NONE, volts, eaten, noble, 0.0, "kept apart; prove it with a meter")
    rule = next((row for row in tables.never if _is_of(row, contact)), None)
    if rule is not None:
        return Verdict(Danger.NEVER, volts, eaten, noble, weighed, rule.because)
    if weighed >= BAD:
        small = ", and it is the smaller" if areas > 1 else ""
        return Verdict(Danger.BAD, volts, eaten, noble, weighed, f"{eaten.name} is eaten{small}")
    if weighed >= WATCH:
        return Verdict(Danger.WATCH, volts, eaten, noble, weighed, f"{eaten.name} goes slowly")
    if volts < TROUBLE:
        return Verdict(Danger.LITTLE, volts, eaten, noble, weighed, "less than 0.2 V apart")
    why = (
        "seldom wet"
        if contact.wet is Wetness.DRY
        else "much of what is eaten bears little of it"
        if areas < 1
        else "little of it is wet"
    )
    return Verdict(Danger.LITTLE, volts, eaten, noble, weighed, why)


def as_it_is(refit: Refit, contact: Contact) -> Contact:
    """A contact as it stands: kept apart once the job in which that is done is over."""
    job = next((one for one in refit.jobs if one.id == contact.job), None)
    over = job is not None and bool(job.tasks) and all(task.done_at for task in job.tasks)
    return contact.model_copy(update={"apart": True}) if over else contact


def _is_of(row: NeverBeside, contact: Contact) -> bool:
    pair = (contact.one, contact.other)
    return contact.wet in row.wet and any(one in row.one and other in row.other for one, other in (pair, pair[::-1]))


def points_of(tables: ContactTables, facts: Mapping[str, Value]) -> list[Point]:
    """The usual points where metals meet on a boat."""
    return [row for row in tables.point if holds(row.when, facts)]
