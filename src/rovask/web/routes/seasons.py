"""Seasons: up to four other haul-outs, months apart, beside the one there is."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.choice.seasons import ABOUT
from rovask.core.judged.season_edit import Undated, without_date
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import day
from rovask.core.refit import typed
from rovask.core.refit.model import Act, ProposedWay, StayThen, Ways
from rovask.core.refit.ways.choices import ActSort
from rovask.desk.commands.choices import LayAnew, LayOut, open_about
from rovask.desk.rights import Right
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who
from rovask.web.spelling import day_text, moment_text

router = APIRouter()
MOST = 4
TITLE = "Which season?"


@router.get("/r/{pk}/seasons")
def seasons(request: Request, who: Who, pk: Pk) -> Response:
    """What was asked last, to go on from."""
    page = page_here(request, who, pk)
    return _shown(request, page)


def _shown(
    request: Request, page: Page, faults: dict[str, list[str]] | None = None, was: Mapping[str, str] | None = None,
    asked: Mapping[int, list[Undated]] | None = None, status: int = 200,
) -> Response:  # fmt: skip
    refit = page.kept.refit
    there = open_about(refit, ABOUT)
    hauled = refit.haul_at <= page.now or any(task.begun_at for task in refit.tasks.values())
    context = page.context(
        there=there,
        hauled=hauled,
        was=was if was is not None else _was(page, there),
        faults=faults or {},
        asked=asked or _asked(page, there),
        numbers=range(1, MOST + 1),
        tab="seasons",
    )
    return render(request, "seasons.html", context, status)


def _asked(page: Page, there: Ways | None) -> dict[int, list[Undated]]:
    """By season, whoever had to be asked for it."""
    if there is None:
        return {}
    refit = page.kept.refit
    names = {one.id: one.name for one in refit.people} | {one.id: one.title for one in refit.visits}
    return {
        at: [Undated(one.person, names[one.person]) for act in way.acts for one in act.stays if one.person in names]
        for at, way in enumerate(there.ways, 1)
    }


def _was(page: Page, there: Ways | None) -> dict[str, str]:
    out: dict[str, str] = {}
    for at, way in enumerate(there.ways if there is not None else (), 1):
        for act in way.acts:
            out |= {
                f"haul{at}": moment_text(act.haul_at, page.zone) if act.haul_at else "",
                f"launch{at}": moment_text(act.at, page.zone) if act.at else "",
                f"lay{at}": "" if act.lay_day is None else typed.minor_text(act.lay_day, page.refit.currency),
                f"berth{at}": typed.minor_text(act.money, page.refit.currency) if act.money else "",
            }
            for one in act.stays:
                out[f"first{at}-{one.person}"] = day_text(one.first) if one.first else ""
                out[f"last{at}-{one.person}"] = day_text(one.last) if one.last else ""
                out[f"not{at}-{one.person}"] = "" if one.first else "on"
    return out


@router.post("/r/{pk}/seasons")
def ask_seasons(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Lay them out; who has no date there is asked for first."""
    let_in(request, who, pk, Right.WORK)
    page = page_here(request, who, pk, Right.WORK)
    refit = page.kept.refit
    given = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    asked: dict[int, list[Undated]] = {}
    faults: list[Fault] = []
    ways = []
    hauled = refit.haul_at <= page.now or any(task.begun_at for task in refit.tasks.values())
    for at in range(1, MOST + 1):
        if not any(given.get(f"{name}{at}", "").strip() for name in ("haul", "launch")):
            continue
        try:
            act = _season(page, given, at, asked, hauled=hauled)
        except RefitFaults as error:
            faults += error.faults
            continue
        title = f"Launch {day(act.at, page.zone)}" if act.at is not None else "Another season"
        ways.append(ProposedWay(id=f"season-{at}", title=title, acts=(act,)))
    if not ways and not faults:
        faults.append(Fault("launch1", "type at least one season"))
    if faults:
        return _shown(request, page, faults_of_form(RefitFaults(faults)), given, asked, 422)
    there = open_about(refit, ABOUT)
    if there is None:
        key = acted(request, who, pk, LayOut(TITLE, ABOUT, tuple(ways))).made
    else:
        key = there.id
        acted(request, who, pk, LayAnew(there.id, tuple(ways)))
    return on_to(f"/r/{pk}/choices/{key}")


def _season(page: Page, given: Mapping[str, str], at: int, asked: dict[int, list[Undated]], *, hauled: bool) -> Act:
    """One season as it was typed. Raises RefitFaults."""
    refit, faults, data = page.kept.refit, list[Fault](), dict[str, Any]()

    def read(name: str, field: str, how: Any, *, needed: bool = False) -> None:
        text = given.get(f"{name}{at}", "").strip()
        if not text:
            if needed:
                faults.append(Fault(f"{name}{at}", "is missing"))
            return
        try:
            data[field] = how(text)
        except ValueError as error:
            faults.append(Fault(f"{name}{at}", str(error)))

    def moment(text: str) -> Any:
        return typed.moment(text, page.zone, page.today)

    read("launch", "at", moment, needed=True)
    if not hauled:
        read("haul", "haul_at", moment, needed=True)
    read("lay", "lay_day", lambda text: typed.minor(text, refit.currency))
    read("berth", "money", lambda text: typed.minor(text, refit.currency))
    if not faults:
        least = data.get("haul_at", refit.haul_at)
        if data["at"] <= max(least, page.now):
            faults.append(Fault(f"launch{at}", "lies before the haul-out, or in the past"))
        elif data.get("haul_at", page.now) < page.now:
            faults.append(Fault(f"haul{at}", "lies in the past"))
    if faults:
        raise RefitFaults(faults)
    if hauled:
        return Act(do=ActSort.SLOT, at=data["at"])
    who = without_date(refit, data["haul_at"], data["at"])
    asked[at] = who
    stays = [_stay(page, given, at, one, faults) for one in who]
    if faults:
        raise RefitFaults(faults)
    return Act(do=ActSort.SEASON, stays=tuple(one for one in stays if one is not None), **data)


def _stay(page: Page, given: Mapping[str, str], at: int, person: Undated, faults: list[Fault]) -> StayThen | None:
    """When somebody could come in a season, as it was typed."""
    if given.get(f"not{at}-{person.id}"):
        return StayThen(person=person.id)
    days = []
    for name in ("first", "last"):
        text = given.get(f"{name}{at}-{person.id}", "").strip()
        try:
            days.append(typed.day(text, page.today) if text else None)
        except ValueError as error:
            faults.append(Fault(f"stay{at}-{person.id}", str(error)))
            return None
    first, last = days
    if first is None or last is None or last < first:
        faults.append(
            Fault(f"stay{at}-{person.id}", f"say from when to when {person.name} could come, or that they can't")
        )
        return None
    return StayThen(person=person.id, first=first, last=last)
