"""What is asked of each kind of thing: its fields, how they are typed, their units, help and choices."""

from __future__ import annotations

from rovask.core.books.yard_bill import BY_TASK
from rovask.core.refit.givens.choices import (
    Cooling,
    Drive,
    Fitting,
    HullMaterial,
    Keel,
    MastStep,
    Propeller,
    Role,
    Rudder,
    Service,
    Spot,
    Which,
)
from rovask.core.refit.stores.choices import Lies, PartStatus
from rovask.core.refit.work.choices import Deed, Emission, Need, Opens, State, Sureness, UsualOf
from rovask.web.choice_words import STATE_WORDS, STATUS_WORDS, STEP_WORDS, SURENESS_WORDS, WHICH_WORDS
from rovask.web.day_fields import DAY_FIELDS
from rovask.web.field import Field, How, choices, gear, jobs, lines, parts, people, places, tasks
from rovask.web.hands_fields import HANDS_FIELDS
from rovask.web.seen_fields import SEEN_FIELDS
from rovask.web.store_fields import STORE_FIELDS

__all__ = ["FIELDS", "Field", "How"]

SPREADS_HELP = ", ".join(one.value for one in UsualOf if one is not UsualOf.WORK)


_HOURS_HELP = "One line for each pattern: mon-sat 08:00-12:00, 13:00-18:00"


_DAYS_HELP = "One line each: 18 May 2026 to 24 May 2026, then why"


_RULES_HELP = "One line each: sparks only mon-fri 08:00-16:00; dust never 18 May 2026 to 19 May 2026; sparks permit from 12 May 2026"


KIND_OF = "What it must be, what there is of it, and its budget line"


LEAD = "How sure the lead time is, and what is missing"


AT_HAND = "What must be at hand?"


TO_THE_PLACE = "What does it do to the place?"


WEATHER = "What weather does it need?"


WITHOUT = "What do you go without?"


MINDED = "When exactly, and what is to be minded?"


# By the name of the kind.
FIELDS: dict[str, tuple[Field, ...]] = {
    "task": (
        Field("title", "Task", wide=True),
        Field("place", "Place", How.CHOICE, options=places),
        Field("state", "Boat is", How.CHOICE, options=choices(State, STATE_WORDS)),
        Field("work", "Hours of work", How.WORK, "h", "least, likely, most; with all hands at it"),
        Field("units", "Units", How.NUMBER, help="four pumps: 4, and the hours of one"),
        Field("units_done", "Units done", How.NUMBER, help="what they took comes off the hours left"),
        Field("hands", "Hands at once", How.NUMBER),
        Field("skill", "Skill needed", optional=True, help="of everybody; empty: any owner or helper"),
        Field("people", "Only these people", How.MANY, options=people, help="none ticked: whoever fits"),
        Field("parts", "Parts it waits for", How.MANY, options=parts, group=AT_HAND),
        Field("gear", "Equipment it uses", How.MANY, options=gear, group=AT_HAND),
        Field("skilled", "Skills one by one", How.WORDS, help="a hand for each: rigging, lifting", group=AT_HAND),
        Field(
            "opens",
            "It opens",
            How.MANY,
            options=choices(Opens, {}),
            help="looked at again before and after she floats; none ticked: what its place says",
            group=TO_THE_PLACE,
        ),
        Field(
            "does",
            "In its place it",
            How.MANY,
            options=choices(Deed, {}),
            help="by this the trade's order goes, whichever job it is: sealed before it is coated; none ticked: as its title reads",
            group=TO_THE_PLACE,
        ),
        Field("emits", "Gives off", How.MANY, options=choices(Emission, {}), group=TO_THE_PLACE),
        Field("shuns", "Can't stand", How.MANY, options=choices(Emission, {}), group=TO_THE_PLACE),
        Field("tender", "Tender for", How.NUMBER, "h after its end", "dust and rain spoil it", group=TO_THE_PLACE),
        Field("contained_by", "Contained by", How.CHOICE, options=tasks, optional=True, group=TO_THE_PLACE),
        Field("weather", "Weather", How.WEATHER, wide=True, group=WEATHER),
        Field("takes_out", "Takes out", How.MANY, options=choices(Service, {}), group=WITHOUT),
        Field("until", "Given back by", How.CHOICE, options=tasks, optional=True, group=WITHOUT),
        Field("pin", "Pinned to start at", How.MOMENT, optional=True, group=MINDED),
        Field("unbroken", "In one go, no pause overnight", How.TICK, group=MINDED),
        Field(
            "charge",
            "The yard charges for it",
            How.CHOICE,
            options=lambda refit: [(one.value, one.value) for one in BY_TASK],
            optional=True,
            help="by its tariff, once",
            group=MINDED,
        ),
        Field(
            "sureness",
            "How sure the hours are",
            How.CHOICE,
            options=choices(Sureness, SURENESS_WORDS),
            optional=True,
            help="where least and most say nothing",
            group=MINDED,
        ),
        Field("caution", "Caution", How.AREA, wide=True, group=MINDED),
        Field("check", "Done when", wide=True, help="what must be true, and somebody has seen", group=MINDED),
        Field("note", "Note", How.AREA, wide=True, group=MINDED),
    ),
    "job": (
        Field("title", "Job", wide=True),
        Field(
            "need",
            "Need",
            How.CHOICE,
            options=choices(Need, {"must": "must", "should": "should", "could": "could wait"}),
            help="should and could give way to the launch",
        ),
        Field("owner", "Whose", How.CHOICE, options=people, optional=True),
        Field("line", "Budget line", How.CHOICE, options=lines, optional=True, help="empty: its part of the boat's"),
        Field("under", "Part of", How.CHOICE, options=jobs, optional=True, help="a job of which this is one piece"),
        Field("reason", "Why done this way", wide=True),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "person": (
        Field("name", "Name"),
        Field(
            "role",
            "Is",
            How.CHOICE,
            options=choices(Role, {"trade": "a trade", "yard": "yard crew", "owner": "owner", "helper": "helper"}),
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
        Field("status", "It is", How.CHOICE, options=choices(PartStatus, STATUS_WORDS)),
        Field("arrives", "Arrives", How.MOMENT, optional=True, help="expected, or when it came"),
        Field("stowed", "Stowed at"),
        Field("lead_least", "It may come in", How.NUMBER, "days", "at the shortest", optional=True, group=LEAD),
        Field("lead_most", "or take", How.NUMBER, "days", "at the longest", optional=True, group=LEAD),
        Field(
            "sureness",
            "How sure the lead time is",
            How.CHOICE,
            options=choices(Sureness, SURENESS_WORDS),
            optional=True,
            help="where neither is known",
            group=LEAD,
        ),
        Field("missing_since", "Can't be found since", How.MOMENT, optional=True, group=LEAD),
        Field("price_least", "It costs at least", How.MONEY, optional=True, group=LEAD),
        Field("price_most", "and at most", How.MONEY, "until the price is known", optional=True, group=LEAD),
        Field("dimension", "Dimension to match", help="45 × 60 × 12 mm", group=KIND_OF),
        Field("pack", "Sold in packs of", How.NUMBER, optional=True, group=KIND_OF),
        Field("must_fit", "Tried for fit before it is used", How.TICK, group=KIND_OF),
        Field("substitute", "Something else may stand for it", How.TICK, group=KIND_OF),
        Field("hazardous", "Dangerous goods: not every carrier takes it", How.TICK, group=KIND_OF),
        Field("lies", "What there is of it lies", How.CHOICE, options=choices(Lies, {}), group=KIND_OF),
        Field("counted", "Counted", How.NUMBER, "of it there are", optional=True, group=KIND_OF),
        Field("counted_at", "when", How.MOMENT, optional=True, help="empty: now", group=KIND_OF),
        Field("fetch", "Brought by the trip", How.CHOICE, options=tasks, optional=True, group=KIND_OF),
        Field("line", "Budget line", How.CHOICE, options=lines, optional=True, group=KIND_OF),
    ),
    "place": (
        Field("name", "Place", wide=True),
        Field(
            "spot",
            "It is her",
            How.CHOICE,
            options=choices(Spot, {}),
            help="for the drawing and the recipes",
            optional=True,
        ),
        Field("which", "Which of two", How.CHOICE, options=choices(Which, WHICH_WORDS), optional=True),
        Field("capacity", "Room for", How.NUMBER, "hands at once"),
        Field("outdoors", "Outdoors: daylight only, and dust drifts", How.TICK),
        Field("opens_onto", "Opens onto", How.MANY, options=places, help="dust and fumes reach these"),
        Field("sleeps", "Whose bunk is there", How.MANY, options=people),
        Field("children", "Children sleep there", How.TICK),
    ),
    "gear": (
        Field("name", "Equipment", wide=True),
        Field("count", "How many there are", How.NUMBER, help="tasks that can use it at once; 0: broken"),
    ),
    "appointment": (
        Field("title", "What", wide=True),
        Field("at", "When", How.MOMENT),
        Field("hours", "For", How.NUMBER, "h"),
        Field("people", "Keeps busy", How.MANY, options=people),
    ),
    "boat": (
        Field("name", "Name"),
        Field("rig", "Rig"),
        Field("hulls", "Hulls", How.NUMBER),
        Field("hull_material", "Hull", How.CHOICE, options=choices(HullMaterial, {"grp": "GRP"})),
        Field("keel", "Keel", How.CHOICE, options=choices(Keel, {})),
        Field("rudder", "Rudder", How.CHOICE, options=choices(Rudder, {"keel": "on the keel", "skeg": "skeg-hung"})),
        Field("drive", "Drive", How.CHOICE, options=choices(Drive, {})),
        Field("length_m", "Length overall", How.NUMBER, "m"),
        Field("waterline_m", "Waterline", How.NUMBER, "m"),
        Field("beam_m", "Beam", How.NUMBER, "m"),
        Field("draft_m", "Draft", How.NUMBER, "m"),
        Field("displacement_kg", "Displacement", How.NUMBER, "kg"),
        Field("masts", "Masts", How.NUMBER),
        Field("mast_step", "Mast stands on", How.CHOICE, options=choices(MastStep, STEP_WORDS)),
        Field("mizzen_step", "Mizzen stands on", How.CHOICE, options=choices(MastStep, STEP_WORDS), optional=True),
        Field("third_step", "Third mast stands on", How.CHOICE, options=choices(MastStep, STEP_WORDS), optional=True),
        Field("mast_height_m", "Mast height", How.NUMBER, "m", "over the waterline; empty: guessed", optional=True),
        Field("freeboard_bow_m", "Freeboard at the bow", How.NUMBER, "m", "empty: guessed", optional=True),
        Field("freeboard_stern_m", "Freeboard at the stern", How.NUMBER, "m", "empty: guessed", optional=True),
        Field("bottom_area_m2", "Bottom area, measured", How.NUMBER, "m²", "empty: estimated", optional=True),
        Field("engines", "Engines", How.NUMBER),
        Field("rudders", "Rudders", How.NUMBER, "", "empty: one, or one a hull of two", optional=True),
        Field("propeller", "Propeller", How.CHOICE, options=choices(Propeller, {})),
        Field("cooling", "Cooling", How.CHOICE, options=choices(Cooling, {"keel": "keel cooler"})),
        Field("through_hulls", "Openings in the hull", How.NUMBER),
        Field("heads", "Heads", How.NUMBER),
        Field("berths", "Berths", How.NUMBER),
        Field("water_tanks", "Water tanks", How.NUMBER),
        Field("fuel_tanks", "Fuel tanks", How.NUMBER),
        Field("fitted", "She has", How.MANY, options=choices(Fitting, {}), wide=True),
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
        Field(
            "tariff",
            "Tariff, line by line",
            How.TARIFF,
            help="one row each; days of her stay only for lay-days; what goes by per cent is of all the rest",
            wide=True,
        ),
        Field("meter", "Power meter", How.METER, help="one row a reading: 4 May 2026 10:00", wide=True),
        Field("slings_night", "A night in the slings", How.MONEY),
        Field("lift_and_launch", "Lift, block and launch", How.MONEY),
        Field("lay_day", "Lay-day", How.MONEY),
        Field("free_days", "Free days", How.NUMBER, "days"),
        Field(
            "storm_from",
            "Storm season from",
            How.NUMBER,
            "month, 1 to 12",
            "In which one must be in shelter on this coast. What the insurer and the authorities say comes first.",
            optional=True,
            group="Storms",
        ),
        Field("storm_to", "to", How.NUMBER, "month, 1 to 12", optional=True, group="Storms"),
        Field("shelter_days", "Days to shelter", How.NUMBER, "d", group="Storms"),
        Field("holds_unpaid", "She is launched only when what is owed the yard is paid", How.TICK, wide=True),
    ),
    "header": (
        Field("name", "Name of the refit", wide=True),
        Field("haul_at", "Haul-out", How.MOMENT),
        Field("launch_at", "Launch slot", How.MOMENT, help="the slings, or the tide; fixed"),
        Field("prepare_from", "Plan from", How.DATE, optional=True, help="for work afloat before the haul"),
        Field("budget", "Budget", How.MONEY),
        Field("outage_limits", "Never without", How.LIMITS, help="One line each: heads 48 h", wide=True),
        Field(
            "margins",
            "Closed and proved before the slings",
            How.MARGINS,
            help="The yard's working days, one line each: hull 1 d; also water, steering, engine, gas, starter",
            wide=True,
        ),
        Field(
            "next_slots",
            "Slots after this one",
            How.SLOTS,
            help="If it is missed: tides, days the yard has given. One line each: 18 Jun 2026 10:00; none: its hours",
            wide=True,
        ),
        Field(
            "usual_spreads",
            "How far things usually come out",
            How.SPREADS,
            help=f"In parts of what was thought, one line each: work 0.6 to 2.2; also {SPREADS_HELP}",
            wide=True,
        ),
        Field(
            "nobody_without",
            "Nobody stays aboard without",
            How.MANY,
            options=choices(Service, {}),
            help="a night on which one of these is out is a night elsewhere",
            wide=True,
        ),
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
    **SEEN_FIELDS,
    **STORE_FIELDS,
    **DAY_FIELDS,
    **HANDS_FIELDS,
}
