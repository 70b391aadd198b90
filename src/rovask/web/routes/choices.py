"""The desk of choices: ways laid side by side under the same luck; one is taken with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.choice.act_words import act_words
from rovask.core.choice.laid import Laid, WayTold, plan_mark
from rovask.core.choice.obvious import question_about
from rovask.core.choice.seasons import ABOUT as SEASONS
from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.refit import typed
from rovask.core.refit.model import ProposedWay, Ways
from rovask.core.refit.ways.kinds import AS_IT_IS, MOST_ACTS, MOST_WAYS
from rovask.desk.acts import right_for
from rovask.desk.command import Actor
from rovask.desk.commands.choices import AddAct, AddWay, DropAct, DropWay, LayOut, NameWays, TakeWay, WishLaid
from rovask.desk.commands.records import RemoveRecord
from rovask.desk.rights import Right
from rovask.store import history, laid, queue
from rovask.store.errors import NotFound
from rovask.store.laid import LaidThen
from rovask.web.act_fields import SORTS, act_typed, choices_for, fields_of, sort_of
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who
from rovask.web.ways_told import Row, rows_of, season_rows, was_and_is

router = APIRouter()
ROVASK = Actor(None)
MOST_SINCE = 12  # changes that are told before a way is taken


@dataclass(frozen=True, slots=True)
class WayShown:
    """A way at the head of its column. acts: each in words; told: what was found of it; was: what it won before."""

    way: ProposedWay
    acts: tuple[str, ...]
    told: WayTold | None
    was: str = ""
    right: Right = Right.WORK


@router.get("/r/{pk}/choices")
def choices(request: Request, who: Who, pk: Pk) -> Response:
    """Every choice there is, the open ones first."""
    page = page_here(request, who, pk)
    with desk_of(request).looking() as session:
        found = laid.newest(session, pk)
    rows = [(row, found.get(row.id)) for row in sorted(page.refit.ways, key=lambda one: one.at, reverse=True)]
    context = page.context(
        open=[one for one in rows if not one[0].taken], decided=[one[0] for one in rows if one[0].taken], tab="choices"
    )
    return render(request, "choices.html", context)


@router.post("/r/{pk}/choices")
def lay_out(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Lay out an empty choice, to fill by hand."""
    let_in(request, who, pk, LayOut.needs)
    title = posted.words("title", 120)
    if not title:
        raise refused("Give the question a name.", "title")
    return on_to(f"/r/{pk}/choices/{acted(request, who, pk, LayOut(title)).made}")


@router.post("/r/{pk}/choices/open")
def open_question(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Lay out the obvious ways where a question arises; where it lies on the desk already, go there."""
    let_in(request, who, pk, LayOut.needs)
    page = page_here(request, who, pk)
    express = None
    if posted.text("money"):  # what a courier costs is never invented
        try:
            express = (
                typed.whole(posted.text("days") or "2", 0, 365),
                typed.minor(posted.text("money") or "0", page.refit.currency),
            )
        except ValueError as error:
            raise refused(f"The courier: {error}.", "money") from None
    question = question_about(page.kept.refit, page.plan, posted.text("about"), express)
    if question is None:
        raise NotFound("What this question was about is gone; somebody removed it meanwhile.")
    done = acted(request, who, pk, LayOut(question.title, question.about, question.ways))
    return on_to(f"/r/{pk}/choices/{done.made}")


def _row(page: Page, key: str) -> Ways:
    found = next((one for one in page.kept.refit.ways if one.id == key), None)
    if found is None:
        raise NotFound("This choice is gone; somebody removed it meanwhile.")
    return found


@router.get("/r/{pk}/choices/{key}")
def one_choice(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """Its ways side by side."""
    return _shown(request, page_here(request, who, pk), key)


def _shown(
    request: Request, page: Page, key: str, faults: dict[str, list[str]] | None = None, was: dict[str, str] | None = None,
    status: int = 200,
) -> Response:  # fmt: skip
    row, pk = _row(page, key), page.kept.pk
    desk = desk_of(request)
    with desk.looking() as session:
        line = laid.line(session, pk, key)
        waits = queue.is_laid(session, pk, key)
        changed = not line or line[0].change != page.kept.change
        stale = changed or line[0].laid.of_plan != plan_mark(page.plan)  # a better plan was found, or time went on
        since = _since(session, pk, line[0].change) if line and changed else ()
    fits = line and {one.id for one in row.ways} <= {one.way for one in line[0].laid.ways}
    if stale and (changed or not page.searching) and not row.taken and page.refit.tasks and not waits:
        desk.run(ROVASK, WishLaid(key), pk)
        waits = True
    newest = line[0] if fits else None
    context = page.context(
        row=row,
        ways=_ways(page, row, line if fits else []),
        newest=newest,
        rows=_rows(page, row, newest) if newest is not None else (),
        seasons=row.about == SEASONS,
        waits=not row.taken
        and bool(page.refit.tasks)
        and (waits or stale or newest is None or not newest.laid.settled),
        stale=stale and newest is not None,
        better=stale and not changed,
        since=since,
        faults=faults or {},
        was=was or {},
        most_ways=MOST_WAYS,
        most_acts=MOST_ACTS,
        tab="choices",
    )
    return render(request, "ways.html", context, status)


def _rows(page: Page, row: Ways, newest: LaidThen) -> list[Row]:
    """The rows of the table; between seasons with what their months are like."""
    laid_ = _of_these(newest, row)
    rows = rows_of(laid_, page.zone)
    if row.about != SEASONS:
        return rows
    ways = (ProposedWay(id=AS_IT_IS, title="As it is"), *row.ways)
    return [*rows[:4], *season_rows(page.refit, ways, laid_, page.now), *rows[4:]]


def _of_these(newest: LaidThen, row: Ways) -> Laid:
    """What was found of the ways that are still there, in their order."""
    told = {one.way: one for one in newest.laid.ways}
    return newest.laid.model_copy(
        update={"ways": tuple(told[key] for key in (AS_IT_IS, *(one.id for one in row.ways)) if key in told)}
    )


def _ways(page: Page, row: Ways, line: list[LaidThen]) -> list[WayShown]:
    rows = (ProposedWay(id=AS_IT_IS, title="As it is"), *row.ways)
    return [
        WayShown(
            way,
            tuple(act_words(page.refit, act) for act in way.acts),
            line[0].laid.of(way.id) if line else None,
            was_and_is(line, way.id, page.zone),
            right_for(way.acts),
        )
        for way in rows
    ]


def _since(session: Any, pk: int, change: int) -> tuple[str, ...]:
    """What was done since a change, newest first, in words."""
    out = [entry.what for entry in history.history(session, pk, limit=MOST_SINCE) if entry.pk > change]
    return tuple(out)


@router.post("/r/{pk}/choices/{key}/ways")
def add_way(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """One way more."""
    let_in(request, who, pk, AddWay.needs)
    title = posted.words("title", 120)
    if not title:
        raise refused("Give the way a name.", "title")
    done = acted(request, who, pk, AddWay(key, title))
    way = next(one for one in done.kept.refit.ways if one.id == key).ways[-1].id
    return on_to(f"/r/{pk}/choices/{key}/ways/{way}")


@router.post("/r/{pk}/choices/{key}/name")
def name_ways(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Another name for the choice or one of its ways."""
    let_in(request, who, pk, NameWays.needs)
    title = posted.words("title", 120)
    if not title:
        raise refused("Give it a name.", "title")
    acted(request, who, pk, NameWays(key, title, posted.text("way")))
    return on_to(f"/r/{pk}/choices/{key}")


@router.post("/r/{pk}/choices/{key}/remove")
def remove(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take it off the desk; undo brings it back."""
    let_in(request, who, pk, Right.WORK)
    acted(request, who, pk, RemoveRecord("ways", key))
    return on_to(f"/r/{pk}/choices")


@router.get("/r/{pk}/choices/{key}/ways/{way}")
def one_way(request: Request, who: Who, pk: Pk, key: RecordId, way: str, do: str = "") -> Response:
    """What a way consists of; do: which sort of act is about to be put in."""
    return _way(request, page_here(request, who, pk, Right.WORK), key, way, do)


def _way(
    request: Request, page: Page, key: str, way: str, do: str, faults: dict[str, list[str]] | None = None,
    was: dict[str, str] | None = None, status: int = 200,
) -> Response:  # fmt: skip
    row = _row(page, key)
    found = next((one for one in row.ways if one.id == way), None)
    if found is None:
        raise NotFound("This way is gone; somebody took it off the desk meanwhile.")
    sort = sort_of(do)
    context = page.context(
        row=row,
        way=found,
        acts=tuple(act_words(page.refit, act) for act in found.acts),
        sorts=SORTS,
        sort=sort,
        fields=fields_of(sort) if sort is not None else (),
        options=choices_for(page.refit, page.plan, sort) if sort is not None else (),
        faults=faults or {},
        was=was or {},
        most_acts=MOST_ACTS,
        tab="choices",
    )
    return render(request, "way.html", context, status)


@router.post("/r/{pk}/choices/{key}/ways/{way}")
def add_act(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, way: str) -> Response:
    """One act more in it."""
    let_in(request, who, pk, AddAct.needs)
    page = page_here(request, who, pk, Right.WORK)
    given = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    sort = sort_of(posted.text("do"))
    if sort is None:
        raise refused("Choose what is done.", "do")
    try:
        act = act_typed(page.refit, sort, given, page.zone, page.today)
        acted(request, who, pk, AddAct(key, way, act))
    except RefitFaults as error:
        return _way(request, page, key, way, sort.value, faults_of_form(error), given, 422)
    return on_to(f"/r/{pk}/choices/{key}")


@router.post("/r/{pk}/choices/{key}/ways/{way}/acts/drop")
def drop_act(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, way: str) -> Response:
    """One act less."""
    let_in(request, who, pk, DropAct.needs)
    try:
        at = typed.whole(posted.text("at"), 0, MOST_ACTS)
    except ValueError as error:
        raise refused(f"Which act: {error}.") from None
    acted(request, who, pk, DropAct(key, way, at))
    return on_to(f"/r/{pk}/choices/{key}/ways/{way}")


@router.post("/r/{pk}/choices/{key}/ways/{way}/drop")
def drop_way(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, way: str) -> Response:
    """One way less."""
    let_in(request, who, pk, DropWay.needs)
    acted(request, who, pk, DropWay(key, way))
    return on_to(f"/r/{pk}/choices/{key}")


@router.post("/r/{pk}/choices/{key}/take")
def take(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take a way with its reason; what changed since its figures were worked out is told first."""
    let_in(request, who, pk, Right.WORK)
    page = page_here(request, who, pk, Right.WORK)
    row, reason = _row(page, key), posted.words("reason", 200)
    way = row.way(posted.text("way"))
    was = {"reason": reason, "way": posted.text("way")}
    if way is None:
        return _shown(request, page, key, {"way": ["Choose one of them first."]}, was, 422)
    with desk_of(request).looking() as session:
        line = laid.line(session, pk, key)
        plan = laid.plan_of(session, pk, key, way.id, page.kept.change)
    figures = line[0].laid if line else None
    if posted.text("change") != str(page.kept.change) and not posted.text("anyway"):
        words = "The refit changed since these figures were worked out. Look at them again, or take it all the same."
        return _shown(request, page, key, {"changed": [words]}, was, 409)
    try:
        acted(request, who, pk, TakeWay(key, way.id, reason, figures, plan, right_for(way.acts)))
    except RefitFaults as error:
        return _shown(request, page, key, faults_of_form(error), was, 422)
    return on_to(f"/r/{pk}/choices/{key}")
