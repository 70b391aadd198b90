"""What a field of a form is: how it is typed, its unit, help and choices; and the choices that many forms share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby

from rovask.core.refit.model import Refit
from rovask.core.words import day_and_time
from rovask.formats.recipe_file import library


class How(StrEnum):
    """How a field is typed."""

    TEXT = "text"
    AREA = "area"
    NUMBER = "number"
    MONEY = "money"
    CHOICE = "choice"
    MANY = "many"
    TICK = "tick"
    DATE = "date"
    MOMENT = "moment"
    WORDS = "words"
    SHIFTS = "shifts"
    RANGES = "ranges"
    WORK = "work"
    WEATHER = "weather"
    RULES = "rules"
    LIMITS = "limits"
    MARGINS = "margins"
    BY = "by"
    OWN = "own money"
    CURRENCY = "currency"
    RATE = "rate"
    TARIFF = "tariff"
    METER = "meter"
    STAGES = "stages"


Options = Callable[[Refit], list[tuple[str, str]]]


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its name in the model, label, how it is typed; unit, help and choices where it has some."""

    name: str
    label: str
    how: How = How.TEXT
    unit: str = ""
    help: str = ""
    options: Options | None = None
    optional: bool = False
    wide: bool = False
    group: str = ""

    @property
    def posted(self) -> str:
        """The name it is sent under: an input called *form* would hide its form from the scripts that send it."""
        return "its_form" if self.name == "form" else self.name

    def grouped(self, refit: Refit | None) -> list[tuple[str, list[tuple[str, str]]]]:
        """The choices under headings: tasks under their jobs, the rest under none. For a form without a refit, too."""
        if self.options is None:
            return []
        rows = self.options(refit)  # type: ignore[arg-type]  # what needs a refit is asked for in a refit's forms only
        if refit is None or self.options not in (tasks, events):
            return [("", rows)]
        known, homes = refit.tasks, refit.job_of
        named = [(homes[key].title if key in known else "", key, words) for key, words in rows]
        return [
            (job, [(key, known[key].title if job else words) for _, key, words in some])
            for job, some in groupby(named, key=lambda row: row[0])
        ]


def choices(kind: type[StrEnum], words: Mapping[str, str]) -> Options:
    """The values of a choice, in other words where some are given."""
    return lambda refit: [(item.value, words.get(item.value, item.value)) for item in kind]


def places(refit: Refit) -> list[tuple[str, str]]:
    """Places."""
    return [(place.id, place.name) for place in refit.places]


def people(refit: Refit) -> list[tuple[str, str]]:
    """People."""
    return [(who.id, who.name) for who in refit.people]


def parts(refit: Refit) -> list[tuple[str, str]]:
    """Parts."""
    return [(part.id, part.name) for part in refit.parts]


def lines(refit: Refit) -> list[tuple[str, str]]:
    """Budget lines."""
    return [(line.id, line.title) for line in refit.budget_lines]


def gear(refit: Refit) -> list[tuple[str, str]]:
    """Equipment."""
    return [(item.id, item.name) for item in refit.gear]


def tasks(refit: Refit) -> list[tuple[str, str]]:
    """Tasks with their jobs."""
    return [(task.id, f"{job.title}: {task.title}") for job, task in refit.walk()]


def jobs(refit: Refit) -> list[tuple[str, str]]:
    """Jobs."""
    return [(job.id, job.title) for job in refit.jobs]


def readings(refit: Refit) -> list[tuple[str, str]]:
    """What is read."""
    return [(one.id, f"{one.title}, {one.unit}" if one.unit else one.title) for one in refit.inspections]


def recipes(refit: Refit) -> list[tuple[str, str]]:
    """Recipes."""
    return [(recipe.id, recipe.title) for recipe in library().recipes.values()]


def events(refit: Refit) -> list[tuple[str, str]]:
    """Haul-out, appointments, tasks, launch."""
    tasks = [(task.id, f"{job.title}: {task.title}") for job, task in refit.walk()]
    fixed = [(one.id, f"{one.title}, {day_and_time(one.at, refit.yard.zone)}") for one in refit.appointments]
    return [("haul", "the haul-out"), *tasks, ("launch", "the launch"), *fixed]
