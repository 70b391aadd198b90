"""What can be wrong with what somebody handed us, all of it at once.

RovaskError
├── RefitFaults        the refit itself is not sound: one Fault per thing to mend
└── store.errors …     the layers above add their own below RovaskError
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from pydantic import ValidationError
from pydantic_core import ErrorDetails


class RovaskError(Exception):
    """Anything Rovask refuses on purpose; the message says what to do about it."""


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing to mend.

    path: where it stands, as keys and list positions, e.g. ``jobs[3].tasks[0].place``.
    message: what is wrong and what would be right, a sentence for the sailor.
    """

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}" if self.path else self.message


class RefitFaults(RovaskError):
    """A refit that can't be taken as it is. ``faults`` lists everything found, never just the first."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("; ".join(str(fault) for fault in self.faults))

    def __reduce__(self) -> tuple[type[RefitFaults], tuple[tuple[Fault, ...]]]:
        """As it is handed from one process to another: by its faults."""
        return RefitFaults, (self.faults,)


def refused(message: str, path: str = "") -> RefitFaults:
    """One reason why something can't be done; path: the field it is about."""
    return RefitFaults([Fault(path, message)])


def path_of(location: Iterable[str | int]) -> str:
    """Spell a location as ``jobs[3].title``.

    >>> path_of(("jobs", 3, "title"))
    'jobs[3].title'
    """
    out = ""
    for step in location:
        if isinstance(step, int):
            out += f"[{step}]"
        else:
            out += f".{step}" if out else step
    return out


_PLAIN = {
    "missing": "is missing",
    "extra_forbidden": "is not a field of the refit file; take it out or mend its name",
    "string_too_short": "is empty",
    "timezone_aware": "needs a time zone offset, such as +02:00 or Z",
}


_BOUNDS = {
    "greater_than": ("gt", "must be more than {:,.10g}"),
    "greater_than_equal": ("ge", "must be at least {:,.10g}"),
    "less_than": ("lt", "must be less than {:,.10g}"),
    "less_than_equal": ("le", "must be at most {:,.10g}"),
    "multiple_of": ("multiple_of", "goes in steps of {:.10g}"),
    "string_too_long": ("max_length", "must have at most {:,d} characters"),
    "too_long": ("max_length", "must have at most {:,d} entries"),
}


def plain_words(item: ErrorDetails) -> str:
    """One of Pydantic's error details, with its context, as a sentence of ours."""
    bound, words = _BOUNDS.get(item["type"], ("", ""))
    if isinstance(item.get("ctx", {}).get(bound), int | float):
        return words.format(item["ctx"][bound])
    return _PLAIN.get(item["type"], item["msg"].removeprefix("Value error, "))


def faults_of(error: ValidationError) -> tuple[Fault, ...]:
    """Turn Pydantic's errors into Faults in our words, in the order they stand in the data."""
    return tuple(
        Fault(path_of(item["loc"]), plain_words(item)) for item in error.errors(include_url=False, include_input=False)
    )
