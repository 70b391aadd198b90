"""Make the date: how sure to be and what to spend; the frontier to choose on, told as it is looked for."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.choice.act_words import act_words
from rovask.core.choice.levers import Asked, may_be_left
from rovask.core.plain.faults import Fault, RefitFaults, refused
from rovask.core.plain.half_hours import half_hours
from rovask.core.refit import typed
from rovask.core.refit.model import Act, ProposedWay
from rovask.core.refit.ways.choices import ActSort
from rovask.core.refit.ways.kinds import MOST_ACTS
from rovask.core.refit.work.choices import Need
from rovask.desk.commands.choices import AskDate, LayOut, StopDate
from rovask.desk.rights import Right
from rovask.store import laid
from rovask.store.laid import DateThen
from rovask.web.acting import acted, faults_of_form, let_in, on_to, ran
from rovask.web.asking import Pk, desk_of
from rovask.web.frontier_drawing import frontier_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who
from rovask.web.spelling import day_text, moment_text

router = APIRouter()
ABOUT = "date"  # what the choice is about that takes a point of the frontier


@router.get("/r/{pk}/date")
def date_page(request: Request, who: Who, pk: Pk) -> Response:
    """What was asked last, and what was found."""
    return _shown(request, page_here(request, who, pk))


def _shown(
    request: Request, page: Page, faults: dict[str, list[str]] | None = None, was: Mapping[str, Any] | None = None,
    status: int = 200,
) -> Response:  # fmt: skip
    desk = desk_of(request)
    with desk.looking() as session:
        then = laid.date_then(session, page.kept.pk, desk.settings.clock())
    told = then.told if then is not None else None
    must = [job for job in page.refit.jobs if job.need is Need.MUST and may_be_left(page.refit, job)]
    context = page.context(
        then=then,
        told=told,
        drawing=frontier_of(told) if told is not None and told.points else None,
        stale=then is not None and then.change != page.kept.change,
        was=was if was is not None else _was(page, then),
        faults=faults or {},
        must=must,
        desk=[act_words(page.refit, act) for act in on_the_desk(page)],
        tab="date",
    )
    return render(request, "make_date.html", context, status)


def _was(page: Page, then: DateThen | None) -> dict[str, Any]:
    """The form as it was sent last; at first with the usual."""
    c, zone = page.refit.currency, page.zone
    if then is None:
        first = {
            "odds": "9",
            "money": "",
            "leave": "on",
            "own_hands": "on",
            "own_times": "1.5",
            "looks": "on",
            "offers": "on",
            "desk": "on",
        }
        return first | {"express_days": "2", "must": ()}
    asked = then.asked
    return {
        "odds": f"{asked.odds * 10:g}",
        "money": typed.minor_text(asked.money, c) if asked.money else "",
        "seconds": str(asked.seconds or ""),
        "leave": "on" if asked.leave else "",
        "must": asked.must,
        "own_hands": "on" if asked.own_hands else "",
        "own_times": f"{asked.own_times:g}",
        "hand_day": "" if asked.hand_day is None else typed.minor_text(asked.hand_day, c),
        "hand_from": day_text(asked.hand_from) if asked.hand_from else "",
        "longer": f"{asked.longer:g}" if asked.longer else "",
        "express_days": f"{asked.express_days}",
        "express_money": "" if asked.express_money is None else typed.minor_text(asked.express_money, c),
        "slots": "\n".join(moment_text(at, zone) for at in asked.slots),
        "looks": "on" if asked.looks else "",
        "desk": "on" if asked.acts else "",
        "offers": "on" if asked.offers else "",
    }


@router.post("/r/{pk}/date")
def ask_date(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Have it looked for."""
    let_in(request, who, pk, Right.WORK)
    page = page_here(request, who, pk, Right.WORK)
    given: dict[str, Any] = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    given["must"] = posted.many("must")
    try:
        asked = _asked(page, given)
    except RefitFaults as error:
        return _shown(request, page, faults_of_form(error), given, 422)
    ran(request, who, AskDate(asked), pk)
    return on_to(f"/r/{pk}/date")


def _asked(page: Page, given: Mapping[str, Any]) -> Asked:
    """What was asked, as it was typed. Raises RefitFaults with what is wrong in which field."""
    c, faults, data = page.refit.currency, list[Fault](), dict[str, Any]()

    def read(name: str, how: Any) -> None:
        text = str(given.get(name, "")).strip()
        if not text:
            return
        try:
            data[name] = how(text)
        except ValueError as error:
            faults.append(Fault(name, str(error)))

    read("odds", lambda text: float(Decimal(str(typed.number(text, 0.5, 10))) / 10))
    read("money", lambda text: typed.minor(text, c))
    read("seconds", lambda text: typed.whole(text, 5, 600))
    read("own_times", lambda text: typed.number(text, 0.5, 5))
    read("hand_day", lambda text: typed.minor(text, c))
    read("hand_from", lambda text: typed.day(text, page.today))
    read("longer", lambda text: half_hours(typed.number(text, 0.5, 8)))
    read("express_days", lambda text: typed.whole(text, 0, 60))
    read("express_money", lambda text: typed.minor(text, c))
    read("slots", lambda text: _slots(page, text))
    data |= {name: bool(given.get(name)) for name in ("leave", "own_hands", "looks", "offers")}
    if given.get("desk"):
        data["acts"] = on_the_desk(page)
    known = {job.id for job in page.refit.jobs}
    data["must"] = tuple(key for key in given.get("must", ()) if key in known)
    if "odds" not in data and not any(fault.path == "odds" for fault in faults):
        faults.append(Fault("odds", "say how sure to be, in tenths"))
    if faults:
        raise RefitFaults(faults)
    return Asked(**data)


def on_the_desk(page: Page) -> tuple[Act, ...]:
    """What lies on the desk in choices that are open: interim fixes, hands and whatever else was thought of. Slots are asked for apart."""
    open_ = (way for row in page.kept.refit.ways if not row.taken for way in row.ways)
    acts = dict.fromkeys(act for way in open_ for act in way.acts if act.do not in (ActSort.SLOT, ActSort.SEASON))
    return tuple(acts)[:MOST_ACTS]


def _slots(page: Page, text: str) -> tuple[Any, ...]:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > 4:
        raise ValueError("at most four other slots")
    slots = tuple(typed.moment(line, page.zone, page.today) for line in lines)
    if any(at <= page.refit.haul_at or at <= page.now for at in slots):
        raise ValueError("a slot lies in the past, or before the haul-out")
    return slots


@router.post("/r/{pk}/date/stop")
def stop_date(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Stop; the best is kept."""
    ran(request, who, StopDate(), pk)
    return on_to(f"/r/{pk}/date")


@router.post("/r/{pk}/date/take")
def take_point(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Lay a point of the frontier beside as it is, to be looked at closely and taken there."""
    let_in(request, who, pk, LayOut.needs)
    desk = desk_of(request)
    with desk.looking() as session:
        then = laid.date_then(session, pk, desk.settings.clock())
    points = then.told.points if then is not None and then.told is not None else ()
    try:
        at = typed.whole(posted.text("point"), 1, max(len(points), 1)) - 1
    except ValueError as error:
        raise refused(f"Which point: {error}.") from None
    if not points:
        raise refused("What was found is gone; ask again.")
    point = points[at]
    if not point.acts:
        raise refused("This point is as it is; there is nothing to take.")
    title = "; ".join(point.titles)[:120]
    way = ProposedWay(id="way-1", title=title, acts=point.acts[:MOST_ACTS])
    done = acted(request, who, pk, LayOut(f"Make the date: point {at + 1}", "", (way,)))
    return on_to(f"/r/{pk}/choices/{done.made}")
