"""Morning: what do we do today?"""

from __future__ import annotations

from datetime import date, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.explain.afloat import better_ashore
from rovask.core.gate.gate import gate_of, let_go_of
from rovask.core.gate.state import Item
from rovask.core.plain.money import Money
from rovask.core.plan.verdict.services import days_on_end, nights_elsewhere
from rovask.core.readings.acceptance import unaccepted
from rovask.core.readings.kept_away import clears
from rovask.core.readings.prices import prices_of
from rovask.core.refit import typed
from rovask.core.refit.days.edits import day_of
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit, Visit
from rovask.desk.settling import keep_effect, open_effect
from rovask.store.errors import NotFound
from rovask.web.asking import NO_PAGE, Pk, desk_of
from rovask.web.costly import searched_once
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Who, local_path
from rovask.web.today import Morning, Turn, morning_of

router = APIRouter()

MOST_CHANGE = 2**62
TIRED = 6  # days of work on end from which it is told
PREPARE_DAYS = 3  # before somebody comes, in which what should be ready stands on Morning


@router.get("/r/{pk}")
def refit_root(pk: Pk, who: Who) -> Response:
    """The refit's own address leads to Morning."""
    return RedirectResponse(f"/r/{pk}/morning", status_code=303)


@router.get("/r/{pk}/morning")
def morning(request: Request, who: Who, pk: Pk, day: str = "") -> Response:
    """One day, today unless another is asked for."""
    page = page_here(request, who, pk, odds=True)
    today = page.now.astimezone(page.zone).date()
    try:
        shown = typed.day(day) if day else today
    except ValueError:
        shown = today
    if shown < today:
        return RedirectResponse(f"/r/{pk}/day/{shown.isoformat()}", status_code=303)
    made = morning_of(page.refit, page.plan, page.needs, shown)
    working = {one.person.id for one in made.days if one.turns}
    runs = days_on_end(page.refit, shown, working) if shown == today else {}
    context = page.context(
        morning=made,
        nights=[night for night in nights_elsewhere(page.refit, page.plan) if night.day == shown],
        night_price=Money(prices_of(page.refit).night_ashore, page.refit.currency),
        tired=[(page.refit.persons[who], run) for who, run in runs.items() if run >= TIRED],
        due_looks=_due_looks(page, shown),
        today=today,
        to_look_at=unaccepted(page.refit) if shown == today else [],
        said=[word for word in page.refit.words if not word.answered] if shown == today else [],
        coming=_coming(page.refit, shown),
        closed=day_of(page.refit, shown) is not None,
        risky={turn.task.id: better_ashore(page.refit, turn.task) for one in made.days for turn in one.turns},
        cleared=_cleared(page.refit, made),
        before=typed.near_day(shown, -1),
        after=typed.near_day(shown, 1),
    )
    return render(request, "morning.html", context)


def _cleared(refit: Refit, made: Morning) -> list[tuple[Turn, str]]:
    """What of the day's work keeps everybody else off the boat or out of a place, once each, in its order."""
    turns = {turn.task.id: turn for one in made.days for turn in one.turns}
    rows = [(turn, clears(refit, turn.task)) for turn in turns.values()]
    return sorted(((turn, words) for turn, words in rows if words), key=lambda row: row[0].begins)


def _due_looks(page: Page, day: date) -> list[Item]:
    """What is to be looked at afloat until the end of a day: an hour, a day, a week after she was let go."""
    if let_go_of(page.refit) is None:
        return []
    gate = gate_of(page.refit, page.now)
    stages = (Stage.MINUTES, Stage.HOUR, Stage.DAY, Stage.WEEK)
    rows = [item for stage in stages for item in gate.stages[stage].items if item.open]
    return [item for item in rows if item.due.astimezone(page.zone).date() <= day]


def _coming(refit: Refit, day: date) -> list[Visit]:
    """Stays that a day lies in, and those that begin in the days after it, with what should be ready."""
    soon = day + timedelta(days=PREPARE_DAYS)
    return sorted((one for one in refit.visits if one.first <= soon and one.last >= day), key=lambda one: one.first)


@router.get("/r/{pk}/standing")
def standing(request: Request, who: Who, pk: Pk, at: str = "") -> Response:
    """The top of a page alone, asked for again while a better plan is being looked for."""
    page = page_here(request, who, pk)
    return render(request, "_top.html", page.context(path=local_path(at, page.root)))


@router.get("/r/{pk}/effect/{change}")
def effect(request: Request, who: Who, pk: Pk, change: str) -> Response:
    """The top of a page once what the newest change did is settled, as far as there is something to settle."""
    page = page_here(request, who, pk)
    try:
        number = typed.whole(change, 0, MOST_CHANGE)
    except ValueError:
        raise NotFound(NO_PAGE) from None
    work = open_effect(desk_of(request), pk, number)
    if work is not None:
        keep_effect(desk_of(request), pk, number, searched_once(page, f"effect {number}", work))
    return render(request, "_top.html", page_here(request, who, pk).context(asked_once=True))
