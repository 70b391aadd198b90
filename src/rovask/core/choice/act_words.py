"""Acts of ways in the sailor's words."""

from __future__ import annotations

from rovask.core.plain.words import day, day_and_time, money
from rovask.core.refit.model import Act, Refit
from rovask.core.refit.ways.choices import ActSort

GONE = "something that is gone"


def act_words(refit: Refit, act: Act) -> str:
    """What an act does, in one line; what it was about may be gone.

    >>> from rovask.core.refit.ways.choices import ActSort
    >>> ActSort.NEXT_TIME.value
    'next time'
    """
    zone, currency = refit.yard.zone, refit.currency
    what, price = what_of(refit, act), money(act.money, currency) if act.money else ""
    match act.do:
        case ActSort.NEXT_TIME:
            return f"{what}: next time"
        case ActSort.DROP:
            return f"{what}: not at all"
        case ActSort.INTERIM:
            told = f"{what}: an interim fix, {act.hours:g} h"
            return told + (f", {price}" if price else "") + (f", its things in {act.days} d" if act.days else "")
        case ActSort.OTHERWISE:
            told = f"{what} otherwise: {act.name}, {act.hours:g} h" + (
                f" of {act.hands} hands" if act.hands > 1 else ""
            )
            return told + (f", {price}" if price else "") + (f", its things in {act.days} d" if act.days else "")
        case ActSort.FOR_FINDING:
            return f"{what}: {_answer(act.name)}"
        case ActSort.HAND if act.first is not None and act.last is not None:
            return f"{act.name}, {day(act.first, zone)} to {day(act.last, zone)}" + (
                f", {price} a day" if price else ""
            )
        case ActSort.LONGER:
            return f"{what} works {act.hours:g} h longer each day"
        case ActSort.EXPRESS:
            return f"{what} by express, in {act.days} d" + (f", {price} more" if price else "")
        case ActSort.OWN_HANDS:
            return f"{what}: own hands instead of a trade" + (f", {act.hours:g} h" if act.hours else "")
        case ActSort.BY:
            who = refit.persons.get(act.name)
            return f"{what}: by {who.name if who is not None else GONE}"
        case ActSort.SLOT if act.at is not None:
            return f"launch {day_and_time(act.at, zone)}"
        case ActSort.LOOK_FIRST:
            return f"first: {what}"
        case ActSort.UNPIN:
            return f"{what}: no pin"
        case ActSort.COVER:
            return f"{what}: under cover, whatever the weather"
        case ActSort.SEASON if act.at is not None and act.haul_at is not None:
            return f"haul out {day(act.haul_at, zone)}, launch {day_and_time(act.at, zone)}"
        case _:
            return what


def _answer(name: str) -> str:
    return {"-interim": "an interim fix", "-next-time": "next time"}.get(name, "properly")


def what_of(refit: Refit, act: Act) -> str:
    """What an act is about, by its title."""
    if act.do is ActSort.OFFER:
        offer = next((one for one in refit.offers if one.id == act.of), None)
        part = refit.part_by_id.get(offer.part) if offer is not None else None
        return (
            f"{part.name} from {offer.supplier}, {offer.lead_days} d"
            if offer is not None and part is not None
            else GONE
        )
    jobs = {job.id: job.title for job in refit.jobs}
    findings = {one.id: one.title for one in refit.findings}
    for found in (
        jobs.get(act.of),
        getattr(refit.part_by_id.get(act.of), "name", None),
        getattr(refit.tasks.get(act.of), "title", None),
        getattr(refit.persons.get(act.of), "name", None),
        findings.get(act.of),
    ):
        if found:
            return found
    return act.name if act.do is ActSort.HAND else GONE
