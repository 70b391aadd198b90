"""What is asked of days, hours lost and stays; looks at work and ticks at the gate come by their own acts."""

from __future__ import annotations

from rovask.core.refit.choices import LostTo
from rovask.web.field import Field, How, choices, jobs, people

DAY_FIELDS: dict[str, tuple[Field, ...]] = {
    "day": (
        Field("on", "Day", How.DATE),
        Field("here", "Who was there", How.MANY, options=people),
        Field("weather", "The weather as it was", wide=True),
        Field("words", "The day in your words", How.AREA, wide=True),
        Field("closed_at", "Written down", How.MOMENT),
    ),
    "lost": (
        Field("on", "Day", How.DATE),
        Field("reason", "Lost to", How.CHOICE, options=choices(LostTo, {})),
        Field("hours", "Hours", How.NUMBER, "h", "of one pair of hands"),
        Field("person", "Whose", How.CHOICE, options=people, optional=True, help="empty: everybody's"),
        Field("job", "On which job", How.CHOICE, options=jobs, optional=True),
        Field("note", "Note", wide=True),
    ),
    "visit": (
        Field("title", "What it is", wide=True, help="Lene's four days; rigger, second call; friends aboard"),
        Field(
            "person",
            "Who",
            How.CHOICE,
            options=people,
            optional=True,
            help="somebody who has a stay is here in it and at no other time; empty: guests",
        ),
        Field("first", "From", How.DATE),
        Field("last", "To", How.DATE, help="that day included"),
        Field("guests", "Berths they take", How.NUMBER),
        Field("ready", "To be ready before they come", How.AREA, wide=True, help="one thing a line"),
        Field("note", "Note, and what was done", How.AREA, wide=True),
        Field("was", "Was to begin", How.DATE, optional=True, help="before it slipped"),
    ),
}
