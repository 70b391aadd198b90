"""What is asked of what is seen of her, of what nobody knows yet, and of the ties between tasks."""

from __future__ import annotations

from rovask.core.refit.seen.choices import OffSort, Severity, UnknownState
from rovask.core.refit.work.choices import LinkKind, State, Sureness
from rovask.web.choice_words import KIND_WORDS, SEVERITY_WORDS, STATE_WORDS, SURENESS_WORDS, UNKNOWN_WORDS
from rovask.web.field import Field, How, choices, events, jobs, places, readings, recipes, tasks, unknowns

UNSURE = "How sure the wait is"


SO_FAR = "How far it may go, and what it hangs on"


# By the name of the kind.
SEEN_FIELDS: dict[str, tuple[Field, ...]] = {
    "link": (
        Field("first", "First", How.CHOICE, options=events, wide=True),
        Field("then", "Then", How.CHOICE, options=events, wide=True),
        Field("kind", "The second", How.CHOICE, options=choices(LinkKind, KIND_WORDS)),
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
            options=readings,
            optional=True,
            help="three in a row, taken since it began, within 5 % of one another",
            wide=True,
            group=UNSURE,
        ),
        Field(
            "sureness",
            "How sure it is",
            How.CHOICE,
            options=choices(Sureness, SURENESS_WORDS),
            optional=True,
            help="where neither is known",
            group=UNSURE,
        ),
    ),
    "inspection": (
        Field("title", "What is looked at", wide=True),
        Field("place", "Place", How.CHOICE, options=places, optional=True),
        Field("task", "In which task", How.CHOICE, options=tasks, optional=True),
        Field("how", "How", wide=True),
        Field("unit", "Reading in"),
        Field("good_to", "Good up to", How.NUMBER, optional=True),
        Field("bad_from", "Bad from", How.NUMBER, optional=True),
        Field("repair_hours", "Repair takes", How.NUMBER, "h elapsed", "of what it may show"),
        Field("lead_days", "Its part takes", How.NUMBER, "days to come"),
        Field("recipe", "A bad one leads to", How.CHOICE, options=recipes, optional=True),
    ),
    "finding": (
        Field("title", "What was found", wide=True),
        Field("place", "Where", How.CHOICE, options=places, optional=True),
        Field("severity", "It is", How.CHOICE, options=choices(Severity, SEVERITY_WORDS)),
        Field("at", "When", How.MOMENT),
        Field("jobs", "Jobs that came of it", How.MANY, options=jobs),
        Field("note", "Note", How.AREA, wide=True),
        Field("settled", "Settled: nothing more is to be done", How.TICK, wide=True),
    ),
    "unknown": (
        Field("title", "What may be there", wide=True),
        Field("chance", "Chance", How.NUMBER, help="in per cent"),
        Field("hours", "Work if it is", How.NUMBER, "h"),
        Field("lead_days", "Wait for parts", How.NUMBER, "days"),
        Field("money", "Money", How.MONEY),
        Field("task", "Settled by", How.CHOICE, options=tasks, optional=True),
        Field("recipe", "Leads to", How.CHOICE, options=recipes, optional=True),
        Field("state", "It is", How.CHOICE, options=choices(UnknownState, UNKNOWN_WORDS)),
        Field("after", "Only if it is so that", How.CHOICE, options=unknowns, optional=True, group=SO_FAR),
        Field("hours_least", "Work at least", How.NUMBER, "h", optional=True, group=SO_FAR),
        Field("hours_most", "and at most", How.NUMBER, "h", optional=True, group=SO_FAR),
        Field("lead_least", "Parts at the soonest", How.NUMBER, "days", optional=True, group=SO_FAR),
        Field("lead_most", "and at the latest", How.NUMBER, "days", optional=True, group=SO_FAR),
        Field("money_least", "Money at least", How.MONEY, optional=True, group=SO_FAR),
        Field("money_most", "and at most", How.MONEY, optional=True, group=SO_FAR),
        Field(
            "sureness",
            "How sure these are",
            How.CHOICE,
            options=choices(Sureness, SURENESS_WORDS),
            optional=True,
            help="where neither is known",
            group=SO_FAR,
        ),
    ),
    "off-boat": (
        Field("what", "What comes off, is opened or borrowed", wide=True),
        Field("sort", "It is", How.CHOICE, options=choices(OffSort, {})),
        Field("count", "How many", How.NUMBER),
        Field("bag", "In which bag", help="small parts: the number on the bag"),
        Field("off_task", "Comes off in", How.CHOICE, options=tasks, optional=True),
        Field("back_task", "Goes back in", How.CHOICE, options=tasks, optional=True),
        Field("lies_at", "Lies at", help="shed, shelf 2"),
        Field("off_at", "Off since", How.MOMENT, optional=True),
        Field("back_at", "Back since", How.MOMENT, optional=True),
        Field("missing_since", "Can't be found since", How.MOMENT, optional=True),
        Field("note", "How it goes together", How.AREA, wide=True),
    ),
    "parked": (
        Field("title", "Job", wide=True),
        Field("place", "Where", How.CHOICE, options=places, optional=True),
        Field("state", "It waits for her to be", How.CHOICE, options=choices(State, STATE_WORDS)),
        Field("hours", "About", How.NUMBER, "h of work", "all hands counted"),
        Field(
            "trades", "Of it by a trade or the yard", How.BY, help="One line each: rigging 4 h; the rest is anybody's"
        ),
        Field("recipe", "Recipe", How.CHOICE, options=recipes, optional=True),
        Field("note", "Note", How.AREA, wide=True),
        Field("next_time", "Left to the next haul-out", How.TICK, wide=True),
    ),
}
