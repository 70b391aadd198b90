"""Decisions between ways of doing a job: each worked out on the plan, one adopted, the reason kept."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.savings import INTERIM_HOURS
from rovask.core.explain.effects import effect_of
from rovask.core.plain.faults import RefitFaults
from rovask.core.plain.half_hours import half_hours
from rovask.core.plain.money import Money
from rovask.core.recipes.answers import asked
from rovask.core.recipes.own_way import MOST_OWN, OwnWay
from rovask.core.recipes.ways import Way, ways_of_finding, ways_of_recipe
from rovask.core.refit import typed
from rovask.core.refit.model import Finding, Job
from rovask.desk.commands.recipes import DecideFinding, DecideSchool
from rovask.store.errors import NotFound
from rovask.web.acting import acted, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.costly import worked_once
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.recipes import answers_in, library_here, own_skills, recipe_of
from rovask.web.security import Form, Posted, Who

router = APIRouter()

MOST_INTERIM_HOURS = 400.0


@dataclass(frozen=True, slots=True)
class WayShown:
    """A way with its effect in words and its money as such."""

    way: Way
    effect: str
    tone: str
    money: Money


def _shown(page: Page, ways: list[Way]) -> list[WayShown]:
    return [
        WayShown(way, *effect_of(page.verdict, way.after), Money(way.worked.money, page.refit.currency)) for way in ways
    ]


OWN_FIELDS = ("title", "step", "hours", "hands", "further", "part", "money", "wait", "misfit", "risk")
OWN_NAMES = tuple(f"own{at}_{name}" for at in range(1, MOST_OWN + 1) for name in OWN_FIELDS)
_STEP = re.compile(r"^(.+?)[ ,]+([\d.,:]+)\s*h?$")


def _own_ways(given: Mapping[str, Any], currency: str) -> tuple[OwnWay, ...]:
    """The ways of one's own that were typed. Raises ValueError, naming which."""
    out = []
    for at in range(1, MOST_OWN + 1):
        text = {name: str(given.get(f"own{at}_{name}", "")).strip() for name in OWN_FIELDS}
        if not text["title"]:
            if any(value for name, value in text.items() if name != "step"):
                raise ValueError(f"way {at} has no name; say what it is")
            continue
        try:
            out.append(_own_way(text, currency))
        except ValueError as error:
            raise ValueError(f"“{text['title']}”: {error}") from None
    return tuple(out)


def _own_way(text: Mapping[str, str], currency: str) -> OwnWay:
    hours = half_hours(typed.number(text["hours"] or "1", 0, MOST_INTERIM_HOURS))
    return OwnWay(
        typed.plain(text["title"], 100),
        max(hours, 0.5),
        typed.whole(text["hands"] or "1", 1, 8),
        typed.minor(text["money"] or "0", currency),
        typed.whole(text["wait"] or "0", 0, 365),
        typed.plain(text["risk"], 100),
        typed.plain(text["part"], 100),
        typed.share(text["misfit"]) if text["misfit"] else 0.0,
        _further(text["further"]),
        text["step"],
    )


def _further(text: str) -> tuple[tuple[str, float], ...]:
    """Steps that follow, one a line with its hours."""
    out = []
    for line in filter(None, (one.strip() for one in re.split(r"[\n;]", text))):
        found = _STEP.match(line)
        if found is None:
            raise ValueError(f"“{line}” should read like fill the pit 1 h")
        out.append((typed.plain(found[1], 100), max(half_hours(typed.number(found[2], 0, MOST_INTERIM_HOURS)), 0.5)))
    return tuple(out[:12])


OFFER = "offer:"  # fields that say for how much what a way buys was offered; what was not changed is left to the recipe


def _offers(given: Mapping[str, Any], currency: str) -> dict[str, int]:
    """By the value of a way, what all it buys was offered for. Raises ValueError."""
    return {
        name.removeprefix(OFFER): typed.minor(str(text), currency)
        for name, text in given.items()
        if name.startswith(OFFER) and str(text).strip() and str(text) != str(given.get(f"was:{name}", ""))
    }


def _texts(posted: Posted) -> dict[str, str]:
    """What was typed: ways of one's own, offers, and answers to the recipe's other questions."""
    return {
        name: value
        for name, value in posted.form.items()
        if isinstance(value, str) and name not in ("csrf", "mark", "way", "reason", "work")
    }


def _page(
    request: Request,
    page: Page,
    title: str,
    back: tuple[str, str],
    ways: list[Way],
    interim: tuple[str, str] | None,
    fault: str = "",
    reason: str = "",
    status: int = 200,
    given: Mapping[str, Any] | None = None,
    steps: Mapping[str, str] | None = None,
    there: Sequence[Job] = (),
) -> Response:
    shown = _shown(page, ways)
    rows = [
        {name: str((given or {}).get(f"own{at}_{name}", "")) for name in OWN_FIELDS} for at in range(1, MOST_OWN + 1)
    ]
    used = sum(bool(row["title"]) for row in rows)
    here = (*OWN_NAMES, "then", "reason", "interim_hours", "interim_money", "csrf", "mark", "way", "work", "settled")
    carried = {
        name: str(value)
        for name, value in (given or {}).items()
        if name not in here and not name.startswith((OFFER, f"was:{OFFER}"))
    }
    typed_offers = {way.way.value: str((given or {}).get(OFFER + way.way.value, "")) for way in shown}
    context = page.context(
        title=title,
        back=back,
        ways=shown,
        interim=interim,
        fault=fault,
        reason=reason,
        own=rows[: used + 1],
        used=used,
        steps=steps or {},
        there=there,
        then=str((given or {}).get("then", "")),
        offers=typed_offers,
        carried=carried,
    )
    return render(request, "decide.html", context, status)


@router.get("/r/{pk}/decide/{key}/{name}")
def decide(request: Request, who: Who, pk: Pk, key: RecordId, name: str) -> Response:
    """The ways of doing a job side by side."""
    return _school(request, who, pk, key, name, dict(request.query_params))


def _school(
    request: Request, who: Who, pk: int, key: str, name: str, given: Mapping[str, Any], fault: str = "",
    reason: str = "", status: int = 200,
) -> Response:  # fmt: skip
    page, library = page_here(request, who, pk), library_here(request, pk)
    recipe = recipe_of(library, key)
    try:
        own, offers = _own_ways(given, page.refit.currency), _offers(given, page.refit.currency)
    except ValueError as error:
        own, offers, fault, status = (), {}, f"What you typed of a way: {error}.", 422
    faults: dict[str, list[str]] = {}
    asks = asked(recipe, page.refit)
    answers, mine = answers_in(asks, given, faults), own_skills(given)
    if faults:
        fault, status = "; ".join(f"{asks[one].label}: {words[0]}" for one, words in faults.items()), 422
    ways = worked_once(
        page,
        f"decide {key} {name} {own} {offers} {sorted(answers.items())} {sorted(mine)}",
        partial(ways_of_recipe, library, page.refit, page.planned, recipe, name, own, offers, answers, mine),
    )
    title = f"{recipe.title}: {asks[name].label.lower()}?"
    back = (f"{page.root}/recipes/{key}", recipe.title)
    steps = {row.id: row.title for row in recipe.task}
    reason = reason or str(given.get("reason", ""))
    there = [job for job in page.refit.jobs if job.recipe == key and any(not task.done_at for task in job.tasks)]
    return _page(request, page, title, back, ways, None, fault, reason, status, given, steps, there)


@router.post("/r/{pk}/decide/{key}/{name}")
def decided(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, name: str) -> Response:
    """Adopt one way with its reason: the job comes in, or is parked; the decision is kept."""
    let_in(request, who, pk, DecideSchool.needs)
    reason, given = posted.words("reason", 200), _texts(posted)
    if posted.text("work"):
        return _school(request, who, pk, key, name, given, "", reason)
    try:
        page, recipe = page_here(request, who, pk), recipe_of(library_here(request, pk), key)
        own, offers = _own_ways(given, page.refit.currency), _offers(given, page.refit.currency)
        answers = answers_in(asked(recipe, page.refit), given, {})
        then = posted.text("then")
        way = DecideSchool(key, name, posted.text("way"), reason, own, offers, answers, own_skills(given), then)
        done = acted(request, who, pk, way)
    except ValueError as error:
        return _school(request, who, pk, key, name, given, f"What you typed of a way: {error}.", reason, 422)
    except RefitFaults as error:
        return _school(request, who, pk, key, name, given, error.faults[0].message, reason, 422)
    return on_to(f"/r/{pk}/jobs/{done.made}" if done.made else f"/r/{pk}/parked")


@router.get("/r/{pk}/finding/{key}/decide")
def decide_finding(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What to do about a finding: properly, interim, or next time, side by side."""
    given, page = dict(request.query_params), page_here(request, who, pk)
    typed_ = (given.get("interim_hours", f"{INTERIM_HOURS:g}"), given.get("interim_money", "0"))
    try:
        interim = interim_of(*typed_, page.refit.currency)
    except ValueError as error:
        told = f"The interim fix: {error}."
        return _finding(request, page, key, typed_, (INTERIM_HOURS, 0), given, told, status=422)
    return _finding(request, page, key, typed_, interim, given)


def _finding(
    request: Request,
    page: Page,
    key: str,
    typed_: tuple[str, str],
    interim: tuple[float, int],
    given: Mapping[str, Any],
    fault: str = "",
    reason: str = "",
    status: int = 200,
) -> Response:
    finding: Finding | None = next((one for one in page.refit.findings if one.id == key), None)
    if finding is None:
        raise NotFound("This finding is gone; somebody removed it meanwhile.")
    library = library_here(request, page.kept.pk)
    try:
        own, offers = _own_ways(given, page.refit.currency), _offers(given, page.refit.currency)
    except ValueError as error:
        own, offers, fault, status = (), {}, f"What you typed of a way: {error}.", 422
    ways = worked_once(
        page,
        f"decide finding {key} {interim} {own} {offers}",
        partial(ways_of_finding, library, page.refit, page.planned, finding, interim, own, offers),
    )
    back = (f"{page.root}/finding/{finding.id}", finding.title)
    reason = reason or str(given.get("reason", ""))
    there = [job for job in page.refit.jobs if job.id in finding.jobs and any(not task.done_at for task in job.tasks)]
    title = f"{finding.title}: what to do?"
    return _page(request, page, title, back, ways, typed_, fault, reason, status, given, None, there)


def interim_of(hours: str, money: str, currency: str) -> tuple[float, int]:
    """Hours (in halves) and minor units of the interim fix, as typed. Raises ValueError."""
    number = typed.number(hours or f"{INTERIM_HOURS:g}", 0, MOST_INTERIM_HOURS)
    return max(half_hours(number), 0.5), typed.minor(money or "0", currency)


@router.post("/r/{pk}/finding/{key}/decide")
def decided_finding(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Adopt what to do about a finding, with its reason."""
    let_in(request, who, pk, DecideFinding.needs)
    page = page_here(request, who, pk)
    typed_ = (posted.text("interim_hours"), posted.text("interim_money"))
    reason, given = posted.words("reason", 200), _texts(posted)
    interim = (INTERIM_HOURS, 0)
    if posted.text("work"):
        with suppress(ValueError):
            interim = interim_of(*typed_, page.refit.currency)
        return _finding(request, page, key, typed_, interim, given, "", reason)
    try:
        interim = interim_of(*typed_, page.refit.currency)
        own, offers = _own_ways(given, page.refit.currency), _offers(given, page.refit.currency)
        then = posted.text("then")
        done = acted(request, who, pk, DecideFinding(key, posted.text("way"), reason, interim, own, offers, then))
    except ValueError as error:
        fault = f"What you typed of a way: {error}."
        return _finding(request, page, key, typed_, interim, given, fault, reason, 422)
    except RefitFaults as error:
        return _finding(request, page, key, typed_, interim, given, error.faults[0].message, reason, 422)
    return on_to(f"/r/{pk}/jobs/{done.made}" if done.made else f"/r/{pk}/parked")
