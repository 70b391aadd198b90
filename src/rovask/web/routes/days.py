"""A day: what was planned beside what was done, closed in its evening and set right later."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, time

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.day_done import DayRow, TheDay, bounds, the_day, weather_as_forecast
from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.plan.baseline import planned_tasks
from rovask.core.readings.standings import is_back, is_off
from rovask.core.refit import typed
from rovask.core.refit.days.choices import LostTo
from rovask.core.refit.days.kinds import PlannedTask
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Photo
from rovask.core.refit.seen.choices import Severity
from rovask.desk.commands.days import CameOff, CloseDay, DaySeen, HoursLost, Worked
from rovask.desk.commands.seen import TakeReading
from rovask.desk.rights import Right
from rovask.store.errors import NotFound
from rovask.store.plans import planned_then
from rovask.web.acting import acted, back_to, faults_of_form, let_in, on_to, pictures_in
from rovask.web.asking import NO_PAGE, Pk, RecordId, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.task import read
from rovask.web.security import Form, Posted, Who

router = APIRouter()

MOST_ROWS = 400
MOST_OFFERED = 12
LOST_ROWS, OFF_ROWS = 3, 2
MOST_READING = 1e6


def _asked_day(text: str) -> date:
    """The day of an address. Raises NotFound for what can't be one."""
    try:
        return typed.day(text)
    except ValueError:
        raise NotFound(NO_PAGE) from None


@router.get("/r/{pk}/day/{on}")
def day(request: Request, who: Who, pk: Pk, on: str) -> Response:
    """A day with its form; a day that lies ahead shows what is planned on Morning instead."""
    page = page_here(request, who, pk, aside=(Photo,))
    asked = _asked_day(on)
    if asked > page.now.astimezone(page.zone).date():
        return on_to(f"/r/{pk}/morning?day={asked.isoformat()}")
    return _day(request, page, asked, {}, {})


def planned_for(request: Request, page: Page, on: date) -> tuple[PlannedTask, ...]:
    """What was planned for a day: on its morning, else by a baseline; for today the plan as well."""
    _, end = bounds(page.refit, on)
    with desk_of(request).looking() as session:
        kept = planned_then(session, page.kept.pk, on, end)
    if on == page.now.astimezone(page.zone).date():
        known = {row.task for row in kept}
        kept = (*kept, *(row for row in planned_tasks(page.refit, page.plan) if row.task not in known))
    return kept


def _day(
    request: Request, page: Page, on: date, was: dict[str, str], faults: dict[str, list[str]], status: int = 200
) -> Response:
    refit = page.refit
    shown = _shown(request, page, on)
    today = page.now.astimezone(page.zone).date()
    context = page.context(
        day=shown,
        today=today,
        before=typed.near_day(on, -1),
        after=typed.near_day(on, 1),
        forecast=weather_as_forecast(refit, on),
        lost=[one for one in refit.lost if one.on == on],
        reasons=list(LostTo),
        severities=[Severity.WATCH, Severity.BAD, Severity.DANGEROUS],
        to_come_off=[one for one in refit.off_boat if not is_off(refit, one) and not is_back(refit, one)],
        readings=_readings(page, on),
        lost_rows=range(max(LOST_ROWS, sum(one.on == on for one in refit.lost) + 1)),
        off_rows=range(OFF_ROWS),
        here=set(shown.there)
        or ({one.id for one in refit.people if one.role is Role.OWNER} if shown.entry is None else set()),
        was=was,
        faults=faults,
    )
    return render(request, "day.html", context, status)


def _shown(request: Request, page: Page, on: date) -> TheDay:
    """The day with what was planned, and behind it what else may have been worked at: what is under way, then what is next."""
    at = page.plan.by_task()
    open_ = [task for task in page.refit.tasks.values() if task.done_at is None and (task.begun_at or task.id in at)]
    open_.sort(key=lambda task: (not task.begun_at, at[task.id].start if task.id in at else page.now, task.id))
    people = {task.id: at[task.id].people if task.id in at else task.crew for task in open_[:MOST_OFFERED]}
    offered = people.items() if page.may(Right.WORK) else ()
    return the_day(page.refit, on, planned_for(request, page, on), page.now, offered)


def _readings(page: Page, on: date) -> list[tuple[str, str, str, list[float]]]:
    """What is read again and again: its id, title, unit, and the readings of the day."""
    zone = page.zone
    return [
        (one.id, one.title, one.unit, [row.value for row in one.readings if row.at.astimezone(zone).date() == on])
        for one in page.refit.inspections
        if one.readings or one.unit
    ]


@router.post("/r/{pk}/day/{on}")
def close(request: Request, who: Who, posted: Form, pk: Pk, on: str) -> Response:
    """The day is written down; all of it, or, where something can't be read, nothing, with everything still in the form."""
    let_in(request, who, pk, CloseDay.needs)
    asked = _asked_day(on)
    page = page_here(request, who, pk, aside=(Photo,))
    try:
        shown = _shown(request, page, asked)
        acted(request, who, pk, _command(posted, asked, shown))
    except RefitFaults as error:
        was = {
            name: value
            for name, value in posted.form.items()
            if isinstance(value, str)
            and value != posted.text(f"saw-{name}", "\0")  # what nobody touched shows what is there now
        }
        was |= {f"here-{who_}": "on" for who_ in posted.many("here")} | {"typed": "yes"}
        page = page_here(request, who, pk, aside=(Photo,))
        return _day(request, page, asked, was, _in_fields(posted, faults_of_form(error)), 422)
    return on_to(f"/r/{pk}/day/{asked.isoformat()}")


def _in_fields(posted: Posted, faults: dict[str, list[str]]) -> dict[str, list[str]]:
    """Faults by the form's fields: those of hours, of what was used and of what was lost are named by what they are of."""
    number = {value: name.removeprefix("task-") for name, value in posted.form.items() if name.startswith("task-")}
    lost = {value: name.removeprefix("lost-id-") for name, value in posted.form.items() if name.startswith("lost-id-")}
    out: dict[str, list[str]] = {}
    for path, messages in faults.items():
        what, _, rest = path.partition(":")
        task, _, other = rest.partition(":")
        names = {
            "hours": f"h-{number.get(task, '')}-{other}",
            "used": f"u-{number.get(task, '')}-{other}",
            "lost": f"lost-{lost.get(task, '')}",
        }
        out.setdefault(names[what] if rest and what in names else path, []).extend(messages)
    return out


def _seen(posted: Posted) -> DaySeen | None:
    """What the form showed when it was opened; None for one that doesn't say."""
    if "saw-words" not in posted.form:
        return None
    task = {name.removeprefix("task-"): value for name, value in posted.form.items() if name.startswith("task-")}
    hours: dict[tuple[str, str], float | None] = {}
    used: dict[tuple[str, str], float | None] = {}
    for name in posted.form:
        what, _, rest = name.removeprefix("saw-").partition("-")
        number, _, other = rest.partition("-")
        if name.startswith("saw-") and what in ("h", "u") and number in task:
            (hours if what == "h" else used)[str(task[number]), other] = _number(posted, name, 1e6)
    shown = {one.id: one for one in _lost(posted, "saw-") if one.id}
    words, weather = (posted.words(f"saw-{name}", 4000) for name in ("words", "weather"))
    return DaySeen(words, weather, frozenset(posted.many("saw-here")), hours, used, shown)


def _command(posted: Posted, on: date, shown: TheDay) -> CloseDay:
    hoped = {row.task.id: row for row in shown.rows if row.task is not None}
    severity = posted.text("found_severity")
    return CloseDay(
        on=on,
        words=posted.words("words", 4000),
        weather=posted.words("weather", 120),
        here=posted.many("here"),
        worked=tuple(_worked(posted, hoped)),
        used=tuple(_used(posted)),
        off=tuple(_off(posted)),
        lost=tuple(_lost(posted)),
        found=posted.words("found", 120),
        found_place=posted.text("found_place"),
        found_severity=Severity(severity) if severity in set(Severity) else Severity.WATCH,
        paper=pictures_in(posted),
        seen_day=_seen(posted),
    )


@router.post("/r/{pk}/reading/{key}")
def reading(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A reading of the day: now, or at noon of a past one."""
    let_in(request, who, pk, TakeReading.needs)
    value = read(lambda text: typed.number(text, 0, MOST_READING), posted, "reading")
    page = page_here(request, who, pk)
    on = _asked_day(posted.text("on")) if posted.text("on") else None
    noon = datetime.combine(on, time(12), tzinfo=page.zone) if on is not None else None
    past = noon is not None and on is not None and on < page.now.astimezone(page.zone).date()
    acted(request, who, pk, TakeReading(key, value, noon if past else None))
    return back_to(posted, f"/r/{pk}/look#{key}")


def _number(posted: Posted, field: str, most: float = 24) -> float | None:
    """Hours, or an amount, as typed; None for nothing. Raises RefitFaults, naming the field."""
    text = posted.text(field).strip()
    if not text:
        return None
    try:
        return typed.hours(text) if most <= 24 else typed.number(text, 0, most)
    except ValueError as error:
        raise refused(str(error), field) from None


def _typed(posted: Posted, field: str, most: float = 24) -> float | None:
    """The same where it was touched since the form was opened; what was taken out of it is nought."""
    shown = posted.text(f"saw-{field}")
    if f"saw-{field}" in posted.form and posted.text(field).strip() == shown:
        return None
    return 0.0 if shown and not posted.text(field).strip() else _number(posted, field, most)


def _worked(posted: Posted, hoped: dict[str, DayRow]) -> Iterator[Worked]:
    """The rows that were touched. Hours left empty are as planned where a row says worked or done."""
    for number in range(MOST_ROWS):
        task = posted.text(f"task-{number}")
        if not task:
            return
        way, row = posted.text(f"way-{number}"), hoped.get(task)
        hours = []
        for field in posted.form:
            if field.startswith(f"h-{number}-"):
                person = field.removeprefix(f"h-{number}-")
                much = _typed(posted, field)
                logged = row.worked.get(person) if row is not None else None
                if much is None and way and logged is None and row is not None:
                    much = row.planned.get(person)
                if much is not None and much != logged:
                    hours.append((person, much))
        if way or hours:
            yield Worked(task, tuple(hours), way == "done")


def _used(posted: Posted) -> Iterator[tuple[str, str, float]]:
    for field in posted.form:
        if field.startswith("u-"):
            much = _typed(posted, field, 1e6)
            number, _, part = field.removeprefix("u-").partition("-")
            task = posted.text(f"task-{number}")
            if much is not None and task:
                yield task, part, much


def _off(posted: Posted) -> Iterator[CameOff]:
    for thing in posted.many("off"):
        yield CameOff(thing, "", posted.words(f"lies-{thing}", 120), posted.words(f"bag-{thing}", 120))
    for number in range(OFF_ROWS):
        what = posted.words(f"new-off-{number}", 120)
        if what:
            yield CameOff("", what, posted.words(f"new-lies-{number}", 120), posted.words(f"new-bag-{number}", 120))


def _lost(posted: Posted, as_shown: str = "") -> Iterator[HoursLost]:
    """The rows of hours lost; as_shown: ``saw-`` for what they were when the form was opened."""
    for number in range(MOST_ROWS):
        if f"{as_shown}lost-{number}" not in posted.form:
            return
        hours = _number(posted, f"{as_shown}lost-{number}")
        reason = posted.text(f"{as_shown}reason-{number}")
        if hours and reason not in set(LostTo):
            raise refused("Say to what these hours were lost.", f"lost-{number}")
        if hours:
            yield HoursLost(
                LostTo(reason),
                hours,
                posted.text(f"{as_shown}lost-job-{number}"),
                posted.text(f"{as_shown}lost-who-{number}"),
                posted.words(f"{as_shown}lost-note-{number}", 200),
                posted.text(f"lost-id-{number}"),
            )
