"""What a field of a form is: how it is typed, its unit, help and choices; and the choices that many forms share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from rovask.core.plain.words import day_and_time
from rovask.core.refit.model import Refit
from rovask.formats.recipe_file import library
from rovask.web.nearness import SHOWN, Near


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
    SPREADS = "spreads"
    SLOTS = "slots"
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

    def grouped(self, refit: Refit | None, close: Near | None = None) -> list[tuple[str, list[tuple[str, str]]]]:
        """The choices under headings: tasks under their jobs, parts near and far; the near ones first.

        For a form without a refit, too. close: what lies near the thing the form is about.
        """
        if self.options is None:
            return []
        rows = self.options(refit)  # type: ignore[arg-type]  # what needs a refit is asked for in a refit's forms only
        if refit is None or close is None or self.options not in (tasks, events, parts):
            return [("", rows)]
        if self.options is parts:
            return _near_and_far(rows, close.parts)
        known, homes = refit.tasks, refit.job_of
        rank = {job: at for at, job in enumerate(close.jobs)}
        under: dict[str, list[tuple[str, str]]] = {}
        for key, words in rows:
            under.setdefault(homes[key].id if key in known else "", []).append(
                (key, known[key].title if key in known else words)
            )
        loose = under.pop("", [])
        titles = {job.id: job.title for job in refit.jobs}
        jobs_ = sorted(under, key=lambda job: rank.get(job, len(rank)))
        return [*([("", loose)] if loose else []), *((titles[job], under[job]) for job in jobs_)]


def _near_and_far(rows: list[tuple[str, str]], order: tuple[str, ...]) -> list[tuple[str, list[tuple[str, str]]]]:
    """A short list whole; of a long one the nearest, then the others by name."""
    if len(rows) <= SHOWN:
        return [("", rows)]
    words = dict(rows)
    first = [key for key in order if key in words][:SHOWN]
    rest = sorted((row for row in rows if row[0] not in first), key=lambda row: row[1].casefold())
    return [("", [(key, words[key]) for key in first]), ("others", rest)]


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


def unknowns(refit: Refit) -> list[tuple[str, str]]:
    """What may be there."""
    return [(one.id, one.title) for one in refit.unknowns]


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
