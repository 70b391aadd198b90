"""Where to go when the page somebody was on shows what is no longer there: taken back, say, with the change that made it."""

from __future__ import annotations

from urllib.parse import parse_qsl, urlencode, urlsplit

from rovask.core.refit.model import Refit
from rovask.core.refit.register import KINDS

ALIASES = {"jobs": "job", "before": "task"}  # pages not named as the records they show
OF_LAUNCH = "launch"


def still_there(refit: Refit, address: str) -> str:
    """The address, or that of the list its record stood in when the record is gone; a task asked for that is gone is left out."""
    parts = urlsplit(address)
    inside = parts.path.split("/")[3:]  # "", "r", the refit's number, then what it shows
    if len(inside) >= 2 and not _is_there(refit, inside[0], inside[1]):
        kind = KINDS[ALIASES.get(inside[0], inside[0])]
        return "/".join([*parts.path.split("/")[:3], "jobs" if kind.name in ("job", "task") else kind.page])
    asked = [
        (name, value)
        for name, value in parse_qsl(parts.query, keep_blank_values=True)
        if name != "task" or value in refit.tasks
    ]
    return parts._replace(query=urlencode(asked)).geturl()


def _is_there(refit: Refit, word: str, key: str) -> bool:
    """Whether a record of a page is there; also True for what is no record of the refit's own."""
    kind = KINDS.get(ALIASES.get(word, word))
    if kind is None or kind.single or kind.aside or key in ("new", OF_LAUNCH):
        return True
    if kind.name == "task":
        return key in refit.tasks
    rows = getattr(refit, kind.list, None)
    return rows is None or any(row.id == key for row in rows)
