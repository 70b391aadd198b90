"""What is asked of each kind of thing: its fields, how they are typed, their units, help and choices."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby

from rovask.core.refit.choices import (
    Cooling,
    Drive,
    Emission,
    Fitting,
    HullMaterial,
    Keel,
    LinkKind,
    MastStep,
    Need,
    PartStatus,
    Propeller,
    Role,
    Rudder,
    Service,
    Severity,
    Spot,
    State,
    UnknownState,
)
from rovask.core.refit.model import Refit
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

    def grouped(self, refit: Refit | None) -> list[tuple[str, list[tuple[str, str]]]]:
        """The choices under headings: tasks under their jobs, the rest under none. For a form without a refit, too."""
        if self.options is None:
            return []
        rows = self.options(refit)  # type: ignore[arg-type]  # what needs a refit is asked for in a refit's forms only
        if refit is None or self.options not in (_tasks, _events):
            return [("", rows)]
        tasks, jobs = refit.tasks, refit.job_of
        named = [(jobs[key].title if key in tasks else "", key, words) for key, words in rows]
        return [
            (job, [(key, tasks[key].title if job else words) for _, key, words in some])
            for job, some in groupby(named, key=lambda row: row[0])
        ]


def _choices(kind: type[StrEnum], words: Mapping[str, str]) -> Options:
    return lambda refit: [(item.value, words.get(item.value, item.value)) for item in kind]


def _places(refit: Refit) -> list[tuple[str, str]]:
    return [(place.id, place.name) for place in refit.places]


def _people(refit: Refit) -> list[tuple[str, str]]:
    return [(who.id, who.name) for who in refit.people]


def _parts(refit: Refit) -> list[tuple[str, str]]:
    return [(part.id, part.name) for part in refit.parts]


def _gear(refit: Refit) -> list[tuple[str, str]]:
    return [(item.id, item.name) for item in refit.gear]


def _tasks(refit: Refit) -> list[tuple[str, str]]:
    return [(task.id, f"{job.title}: {task.title}") for job, task in refit.walk()]


def _jobs(refit: Refit) -> list[tuple[str, str]]:
    return [(job.id, job.title) for job in refit.jobs]


def _read(refit: Refit) -> list[tuple[str, str]]:
    return [(one.id, f"{one.title}, {one.unit}" if one.unit else one.title) for one in refit.inspections]


def _recipes(refit: Refit) -> list[tuple[str, str]]:
    return [(recipe.id, recipe.title) for recipe in library().recipes.values()]


def _events(refit: Refit) -> list[tuple[str, str]]:
    tasks = [(task.id, f"{job.title}: {task.title}") for job, task in refit.walk()]
    return [("haul", "the haul-out"), *tasks, ("launch", "the launch")]


STATE_WORDS = {
    "afloat_before": "afloat, before the haul",
    "lifting": "being lifted and blocked",
    "ashore": "ashore",
    "slings": "in the slings, before the launch",
    "afloat_after": "afloat, after launch",
    "either": "either",
}
STATUS_WORDS = {
    "needed": "to order",
    "ordered": "ordered",
    "aboard": "aboard, fit not tried",
    "checked": "aboard and fits",
}
KIND_WORDS = {
    "FS": "starts after the end of it",
    "SS": "starts after the start of it",
    "FF": "ends after the end of it",
    "SF": "ends after the start of it",
}
_HOURS_HELP = "One line for each pattern: mon-sat 08:00-12:00, 13:00-18:00"
_DAYS_HELP = "One line each: 18.5.2026 to 24.5.2026, then why"

_RULES_HELP = (
    "One line each: sparks only mon-fri 08:00-16:00; dust never 18.5.2026 to 19.5.2026; sparks permit from 12.5.2026"
)
SEVERITY_WORDS = {
    "good": "good",
    "watch": "to be watched",
    "bad": "bad",
    "dangerous": "dangerous: she may not float like this",
}
UNKNOWN_WORDS = {
    "open": "nobody has looked yet",
    "vanished": "looked at: nothing there",
    "real": "looked at: it is real",
}
UNSURE = "How sure the wait is"
LEAD = "How sure the lead time is, and what is missing"
MORE = "Weather, dust and fumes, equipment, what it takes out"

# By the name of the kind.
FIELDS: dict[str, tuple[Field, ...]] = {
    "task": (
        Field("title", "Task", wide=True),
        Field("place", "Place", How.CHOICE, options=_places),
        Field("state", "Boat is", How.CHOICE, options=_choices(State, STATE_WORDS)),
        Field("work", "Hours of work", How.WORK, "h", "least, likely, most; with all hands at it"),
        Field("units", "Units", How.NUMBER, help="four pumps: 4, and the hours of one"),
        Field("hands", "Hands at once", How.NUMBER),
        Field("skill", "Skill needed", optional=True, help="of everybody; empty: any owner or helper"),
        Field("unbroken", "In one go, no pause overnight", How.TICK),
        Field("people", "Only these people", How.MANY, options=_people, help="none ticked: whoever fits"),
        Field("parts", "Parts it waits for", How.MANY, options=_parts),
        Field("pin", "Pinned to start at", How.MOMENT, optional=True),
        Field("caution", "Caution", How.AREA, wide=True),
        Field("check", "Done when", wide=True, help="what must be true, and somebody has seen"),
        Field("note", "Note", How.AREA, wide=True),
        Field("units_done", "Units done", How.NUMBER, group=MORE),
        Field("skilled", "Skills one by one", How.WORDS, help="a hand for each: rigging, lifting", group=MORE),
        Field("gear", "Equipment it uses", How.MANY, options=_gear, group=MORE),
        Field("weather", "Weather", How.WEATHER, wide=True, group=MORE),
        Field("emits", "Gives off", How.MANY, options=_choices(Emission, {}), group=MORE),
        Field("shuns", "Can't stand", How.MANY, options=_choices(Emission, {}), group=MORE),
        Field("tender", "Tender for", How.NUMBER, "h after its end", "dust and rain still spoil it", group=MORE),
        Field("contained_by", "Contained by", How.CHOICE, options=_tasks, optional=True, group=MORE),
        Field("takes_out", "Takes out", How.MANY, options=_choices(Service, {}), group=MORE),
        Field("until", "Given back by", How.CHOICE, options=_tasks, optional=True, group=MORE),
    ),
    "job": (
        Field("title", "Job", wide=True),
        Field(
            "need",
            "Need",
            How.CHOICE,
            options=_choices(Need, {"must": "must", "should": "should", "could": "could wait"}),
            help="should and could give way to the launch",
        ),
        Field("owner", "Whose", How.CHOICE, options=_people, optional=True),
        Field("under", "Part of", How.CHOICE, options=_jobs, optional=True, help="a job of which this is one piece"),
        Field("reason", "Why done this way", wide=True),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "link": (
        Field("first", "First", How.CHOICE, options=_events, wide=True),
        Field("then", "Then", How.CHOICE, options=_events, wide=True),
        Field("kind", "The second", How.CHOICE, options=_choices(LinkKind, KIND_WORDS)),
        Field("min_lag", "At least", How.NUMBER, "h later", "elapsed: nights and Sundays count"),
        Field("max_lag", "At most", How.NUMBER, "h later", "empty: no limit", optional=True),
        Field("reason", "Why", wide=True),
        Field("cures", "It cures: these are hours at 20 °C", How.TICK, help="doubled for each 10 °C colder"),
        Field("make_good_hours", "If the window is missed", How.NUMBER, "h of work more", optional=True),
        Field("make_good", "To make it good", help="wash, abrade, wipe", wide=True),
        Field("least_lag", "The wait may be as short as", How.NUMBER, "h", optional=True, group=UNSURE),
        Field("most_lag", "or as long as", How.NUMBER, "h", optional=True, group=UNSURE),
        Field(
            "reading",
            "Over when the readings are flat of",
            How.CHOICE,
            options=_read,
            optional=True,
            help="three in a row, taken since it began, within 5 % of one another",
            wide=True,
            group=UNSURE,
        ),
    ),
    "person": (
        Field("name", "Name"),
        Field(
            "role",
            "Is",
            How.CHOICE,
            options=_choices(Role, {"trade": "a trade", "yard": "yard crew", "owner": "owner", "helper": "helper"}),
        ),
        Field("skills", "Skills", How.WORDS, help="with commas: paint, mechanics"),
        Field("hours", "Working hours", How.SHIFTS, help=_HOURS_HELP, wide=True),
        Field("arrives", "Arrives", How.DATE, optional=True),
        Field("leaves", "Leaves", How.DATE, optional=True),
        Field("absences", "Away", How.RANGES, help=_DAYS_HELP, wide=True),
        Field("rate", "Rate", How.MONEY, "an hour"),
        Field("call_out_hours", "Call-out minimum", How.NUMBER, "h a day"),
        Field("longest_run", "Days on end", How.NUMBER, "at most", "then a day off"),
    ),
    "part": (
        Field("name", "Part", wide=True),
        Field("quantity", "Quantity", How.NUMBER),
        Field("unit", "Unit"),
        Field("supplier", "From"),
        Field("price", "Price", How.MONEY, "for all of it"),
        Field("lead_days", "Lead time", How.NUMBER, "days"),
        Field("status", "It is", How.CHOICE, options=_choices(PartStatus, STATUS_WORDS)),
        Field("arrives", "Arrives", How.MOMENT, optional=True, help="expected, or when it came"),
        Field("stowed", "Stowed at"),
        Field("lead_least", "It may come in", How.NUMBER, "days", "at the shortest", optional=True, group=LEAD),
        Field("lead_most", "or take", How.NUMBER, "days", "at the longest", optional=True, group=LEAD),
        Field("missing_since", "Can't be found since", How.MOMENT, optional=True, group=LEAD),
    ),
    "place": (
        Field("name", "Place", wide=True),
        Field(
            "spot",
            "It is her",
            How.CHOICE,
            options=_choices(Spot, {}),
            help="for the drawing and the recipes",
            optional=True,
        ),
        Field("capacity", "Room for", How.NUMBER, "hands at once"),
        Field("outdoors", "Outdoors: daylight only, and dust drifts", How.TICK),
        Field("opens_onto", "Opens onto", How.MANY, options=_places, help="dust and fumes reach these"),
    ),
    "gear": (
        Field("name", "Equipment", wide=True),
        Field("count", "How many there are", How.NUMBER, help="tasks that can use it at once; 0: broken"),
    ),
    "appointment": (
        Field("title", "What", wide=True),
        Field("at", "When", How.MOMENT),
        Field("hours", "For", How.NUMBER, "h"),
        Field("people", "Keeps busy", How.MANY, options=_people),
    ),
    "inspection": (
        Field("title", "What is looked at", wide=True),
        Field("place", "Place", How.CHOICE, options=_places, optional=True),
        Field("task", "In which task", How.CHOICE, options=_tasks, optional=True),
        Field("how", "How", wide=True),
        Field("unit", "Reading in"),
        Field("good_to", "Good up to", How.NUMBER, optional=True),
        Field("bad_from", "Bad from", How.NUMBER, optional=True),
        Field("repair_hours", "Repair takes", How.NUMBER, "h elapsed", "of what it may show"),
        Field("lead_days", "Its part takes", How.NUMBER, "days to come"),
        Field("recipe", "A bad one leads to", How.CHOICE, options=_recipes, optional=True),
    ),
    "finding": (
        Field("title", "What was found", wide=True),
        Field("place", "Where", How.CHOICE, options=_places, optional=True),
        Field("severity", "It is", How.CHOICE, options=_choices(Severity, SEVERITY_WORDS)),
        Field("at", "When", How.MOMENT),
        Field("jobs", "Jobs that came of it", How.MANY, options=_jobs),
        Field("note", "Note", How.AREA, wide=True),
        Field("settled", "Settled: nothing more is to be done", How.TICK, wide=True),
    ),
    "unknown": (
        Field("title", "What may be there", wide=True),
        Field("chance", "Chance", How.NUMBER, help="in per cent"),
        Field("hours", "Work if it is", How.NUMBER, "h"),
        Field("lead_days", "Wait for parts", How.NUMBER, "days"),
        Field("money", "Money", How.MONEY),
        Field("task", "Settled by", How.CHOICE, options=_tasks, optional=True),
        Field("recipe", "Leads to", How.CHOICE, options=_recipes, optional=True),
        Field("state", "It is", How.CHOICE, options=_choices(UnknownState, UNKNOWN_WORDS)),
    ),
    "off-boat": (
        Field("what", "What comes off", wide=True),
        Field("off_task", "Comes off in", How.CHOICE, options=_tasks, optional=True),
        Field("back_task", "Goes back in", How.CHOICE, options=_tasks, optional=True),
        Field("lies_at", "Lies at", help="shed, shelf 2"),
        Field("off_at", "Off since", How.MOMENT, optional=True),
        Field("back_at", "Back since", How.MOMENT, optional=True),
        Field("missing_since", "Can't be found since", How.MOMENT, optional=True),
        Field("note", "How it goes together", How.AREA, wide=True),
    ),
    "parked": (
        Field("title", "Job", wide=True),
        Field("place", "Where", How.CHOICE, options=_places, optional=True),
        Field("state", "It waits for her to be", How.CHOICE, options=_choices(State, STATE_WORDS)),
        Field("hours", "About", How.NUMBER, "h of work"),
        Field("recipe", "Recipe", How.CHOICE, options=_recipes, optional=True),
        Field("note", "Note", How.AREA, wide=True),
        Field("next_time", "Left to the next haul-out", How.TICK, wide=True),
    ),
    "boat": (
        Field("name", "Name"),
        Field("rig", "Rig"),
        Field("hulls", "Hulls", How.NUMBER),
        Field("hull_material", "Hull", How.CHOICE, options=_choices(HullMaterial, {"grp": "GRP"})),
        Field("keel", "Keel", How.CHOICE, options=_choices(Keel, {})),
        Field("rudder", "Rudder", How.CHOICE, options=_choices(Rudder, {"keel": "on the keel", "skeg": "skeg-hung"})),
        Field("drive", "Drive", How.CHOICE, options=_choices(Drive, {})),
        Field("length_m", "Length overall", How.NUMBER, "m"),
        Field("waterline_m", "Waterline", How.NUMBER, "m"),
        Field("beam_m", "Beam", How.NUMBER, "m"),
        Field("draft_m", "Draft", How.NUMBER, "m"),
        Field("displacement_kg", "Displacement", How.NUMBER, "kg"),
        Field("masts", "Masts", How.NUMBER),
        Field(
            "mast_step",
            "Mast stands on",
            How.CHOICE,
            options=_choices(MastStep, {"deck": "the deck", "keel": "the keel"}),
        ),
        Field("mast_height_m", "Mast height", How.NUMBER, "m", "over the waterline; empty: guessed", optional=True),
        Field("freeboard_bow_m", "Freeboard at the bow", How.NUMBER, "m", "empty: guessed", optional=True),
        Field("freeboard_stern_m", "Freeboard at the stern", How.NUMBER, "m", "empty: guessed", optional=True),
        Field("bottom_area_m2", "Bottom area, measured", How.NUMBER, "m²", "empty: estimated", optional=True),
        Field("engines", "Engines", How.NUMBER),
        Field("propeller", "Propeller", How.CHOICE, options=_choices(Propeller, {})),
        Field("cooling", "Cooling", How.CHOICE, options=_choices(Cooling, {"keel": "keel cooler"})),
        Field("through_hulls", "Openings in the hull", How.NUMBER),
        Field("heads", "Heads", How.NUMBER),
        Field("berths", "Berths", How.NUMBER),
        Field("water_tanks", "Water tanks", How.NUMBER),
        Field("fuel_tanks", "Fuel tanks", How.NUMBER),
        Field("fitted", "She has", How.MANY, options=_choices(Fitting, {}), wide=True),
    ),
    "yard": (
        Field("name", "Yard"),
        Field("town", "Town"),
        Field("time_zone", "Time zone", help="like Europe/Lisbon"),
        Field("hours", "Hours for work ashore", How.SHIFTS, help=_HOURS_HELP + "; empty: any", wide=True),
        Field("closed", "Closed days", How.RANGES, help=_DAYS_HELP, wide=True),
        Field("rules", "What may not be given off when", How.RULES, help=_RULES_HELP, wide=True),
        Field("latitude", "Latitude", How.NUMBER, "° north", "for daylight and weather", optional=True),
        Field("longitude", "Longitude", How.NUMBER, "° east", optional=True),
        Field(
            "temperature", "Usual temperature", How.NUMBER, "°C", "for cures, where no forecast knows", optional=True
        ),
        Field("lift_hours", "Lifting and washing take", How.NUMBER, "h", "where no task says it"),
        Field("block_hours", "Blocking takes", How.NUMBER, "h", "nothing begins under her before"),
        Field("slings_hours", "Held in the slings", How.NUMBER, "h at most, before launch"),
        Field("slings_night", "A night in the slings", How.MONEY),
        Field("lift_and_launch", "Lift, block and launch", How.MONEY),
        Field("lay_day", "Lay-day", How.MONEY),
        Field("free_days", "Free days", How.NUMBER, "days"),
    ),
    "header": (
        Field("name", "Name of the refit", wide=True),
        Field("haul_at", "Haul-out", How.MOMENT),
        Field("launch_at", "Launch slot", How.MOMENT, help="the slings, or the tide; fixed"),
        Field("prepare_from", "Plan from", How.DATE, optional=True, help="for work afloat before the haul"),
        Field("budget", "Budget", How.MONEY),
        Field("outage_limits", "Never without", How.LIMITS, help="One line each: heads 48 h", wide=True),
        *(
            Field(f"price_{name}", label, How.MONEY, unit, "empty: the usual", optional=True)
            for name, label, unit in (
                ("service_day", "A day without a service is worth", "a day"),
                ("night_ashore", "A night elsewhere", "a night"),
                ("leave_should", "A should-job left out", ""),
                ("leave_could", "A could-job left out", ""),
                ("moved_task", "A task of the next three days moved", ""),
                ("day_sooner", "Must-work done a day sooner", "a day"),
            )
        ),
        Field("ask_first", "Show me a better plan before it is adopted", How.TICK, wide=True),
    ),
}
