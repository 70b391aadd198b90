"""What is asked of stays. Days, hours lost, looks at work and ticks at the gate come by their own acts."""

from __future__ import annotations

from rovask.web.field import Field, How, people

DAY_FIELDS: dict[str, tuple[Field, ...]] = {
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
    )
}
