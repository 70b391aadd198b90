"""Where to go when the page somebody was on shows what is no longer there: removed, or taken back with the change that made it."""

from __future__ import annotations

from itertools import pairwise
from urllib.parse import parse_qsl, urlencode, urlsplit

from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey, find
from rovask.core.refit.register import KINDS, Kind

# Pages that are not named as the records they show, and those that name no record though they sound so.
ALIASES = {
    "jobs": "job",
    "before": "task",
    "accept": "task",
    "order": "purchase",
    "visits": "visit",
    "sheet": "person",
    "choices": "ways",
}
NAMED_BY_DAY = "day"
OF_LAUNCH = "launch"
OF_A_CHOICE = "ways"  # on its page: which way of it
PAGES = {
    "job": "jobs/{}",
    "part": "stores/part/{}",
    "purchase": "stores/order/{}",
    "agreement": "purse/agreement/{}",
    "visit": "visits/{}",
    "finding": "finding/{}",
    "ways": "choices/{}",
    **{kind: f"hands/{kind}/{{}}" for kind in ("seized", "fit", "shape", "trace", "cover")},
}
INSIDE = {"offer": ("part", "part"), "order-line": ("order", "purchase"), "use": ("part", "part")}  # field, kind
LISTS = {
    "task": "jobs",
    "job": "jobs",
    "visit": "visits",
    "agreement": "purse/agreements",
    "purchase": "stores/orders",
    "ways": "choices",
    "contact": "hands/contacts",
}


def still_there(refit: Refit, address: str, before: Refit | None = None) -> str:
    """The address, or that of what its record was in when the record is gone; a task asked for that is gone is left out.

    before: the refit in which the record still was, which says what it was in; without it that is the list it stood in.
    """
    parts = urlsplit(address)
    steps = parts.path.split("/")
    inside = steps[3:]  # "", "r", the refit's number, then what it shows
    for word, key in pairwise(inside):
        if word == OF_A_CHOICE:
            if not any(way.id == key for one in refit.ways if one.id in inside for way in one.ways):
                return "/".join(steps[:5])
            continue
        kind = KINDS.get(ALIASES.get(word, word))
        if kind is not None and word != NAMED_BY_DAY and not _is_there(refit, kind, key):
            return "/".join([*steps[:3], _what_it_was_in(refit, before, kind, key)])
    asked = [
        (name, value)
        for name, value in parse_qsl(parts.query, keep_blank_values=True)
        if name != "task" or value in refit.tasks
    ]
    here = parts.fragment if parts.fragment not in _gone_tasks(refit, before) else ""
    return parts._replace(query=urlencode(asked), fragment=here).geturl()


def _is_there(refit: Refit, kind: Kind, key: str) -> bool:
    """Whether a record of a page is there; also True for what is no record of the refit's own."""
    if kind.single or kind.aside or key in ("new", "edit", OF_LAUNCH):
        return True
    return find(refit, RecordKey(kind.name, key)) is not None


def _what_it_was_in(refit: Refit, before: Refit | None, kind: Kind, key: str) -> str:
    """The page of what a record stood in, where that is still there, else its list."""
    otherwise = LISTS.get(kind.name, kind.page)
    if before is None:
        return otherwise
    if kind.name == "task" and key in before.job_of:
        home, owner = "job", before.job_of[key].id
    elif kind.name in INSIDE:
        field, home = INSIDE[kind.name]
        item = find(before, RecordKey(kind.name, key))
        owner = str(dict(item).get(field)) if item is not None else ""
    else:
        return otherwise
    return PAGES[home].format(owner) if find(refit, RecordKey(home, owner)) is not None else otherwise


def _gone_tasks(refit: Refit, before: Refit | None) -> set[str]:
    return {*before.tasks} - {*refit.tasks} if before is not None else set()
