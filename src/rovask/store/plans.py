"""The plan that belongs to each revision of a refit: kept, found again, replaced by a better one, put back."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from threading import Lock
from typing import Any
from zoneinfo import ZoneInfo

from cachetools import LRUCache
from sqlalchemy import case, delete, func, select
from sqlalchemy.orm import Session

from rovask import __version__
from rovask.core.plain.half_hours import floored
from rovask.core.plan.baseline import planned_tasks
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.model import Baseline, PlannedTask
from rovask.core.refit.register import KINDS, kind_of
from rovask.store.account_tables import MemberRow, SessionRow
from rovask.store.database import home
from rovask.store.errors import NothingToUndo
from rovask.store.in_memory import InMemory
from rovask.store.plan_tables import DayPlanRow, PlanRow
from rovask.store.record_tables import RefitRow, table_of
from rovask.store.records import load_aside
from rovask.store.refits import Kept

PLANS_KEPT = 40
MORNING_REACHES = 10  # days that the plan of a morning is kept for

TASK_WEIGHS = 6_000  # bytes of a planned task with what is worked out of it and drawn, about


def _weight(planned: Planned) -> int:
    return TASK_WEIGHS * (len(planned.plan.assignments) + 100)


_PLANS: InMemory[tuple[str, int, int, int, datetime], Planned] = InMemory(_weight, 0.5)
_MORNINGS: LRUCache[tuple[str, int, date], bool] = LRUCache(maxsize=64)  # days whose morning is kept already
_MORNING_TASKS: LRUCache[tuple[str, int, date], tuple[PlannedTask, ...]] = LRUCache(maxsize=64)
_READING = Lock()


# What another version of Rovask made is no plan of now: it knew other rules. It is followed, and made anew.
OURS = PlanRow.made_by == __version__


def kept_plan(session: Session, kept: Kept, now: datetime) -> Planned | None:
    """The plan that is kept for this revision and half-hour, if there is one."""
    here = (PlanRow.refit_id == kept.pk, PlanRow.revision == kept.revision, OURS)
    head = session.execute(select(PlanRow.serial, PlanRow.now).where(*here)).first()
    return plan_at(session, kept, head.serial, head.now) if head is not None and head.now == now else None


def behind(session: Session, clock: datetime, since: datetime) -> list[int]:
    """Open refits whose plan is of an earlier half-hour, or of another version, and whose crew was here since a moment; whoever was
    here last first.
    """
    yard, here = table_of(KINDS["yard"]), func.max(SessionRow.seen_at)
    rows = session.execute(
        select(RefitRow.pk, RefitRow.clock_shift, yard.c.time_zone, case((OURS, PlanRow.now)))
        .join(MemberRow, MemberRow.refit_id == RefitRow.pk)
        .join(SessionRow, SessionRow.account_pk == MemberRow.account_pk)
        .join(yard, yard.c.refit_id == RefitRow.pk)
        .outerjoin(PlanRow, (PlanRow.refit_id == RefitRow.pk) & (PlanRow.revision == RefitRow.revision))
        .where(RefitRow.closed_at.is_(None), SessionRow.seen_at > since)
        .group_by(RefitRow.pk, yard.c.time_zone, PlanRow.made_by, PlanRow.now)
        .order_by(here.desc())
    )
    return [
        pk
        for pk, shift, zone, made_for in rows
        if made_for != floored(clock + timedelta(seconds=shift), ZoneInfo(zone))
    ]


def plan_at(session: Session, kept: Kept, serial: int, now: datetime) -> Planned:
    """The plan that is kept of this revision, for whoever knows which one that is."""
    where = (home(session), kept.pk, kept.revision, serial, now)
    found = _PLANS.get(where)
    if found is None:
        row = session.get_one(PlanRow, (kept.pk, kept.revision))
        found = planned_of({"plan": row.plan, "verdict": row.verdict})
        _PLANS.put(where, found)
    return found


def remember(where: str, kept: Kept, planned: Planned, serial: int = 0) -> None:
    """Keep a plan in memory for whoever reads it next. Only for what is committed; where: as ``home`` names it."""
    _PLANS.put((where, kept.pk, kept.revision, serial, planned.plan.now), planned)


def plan_so_far(session: Session, pk: int, revision: int) -> Planned | None:
    """The newest plan of this refit that is kept, of this revision or one before."""
    row = session.scalars(
        select(PlanRow)
        .where(PlanRow.refit_id == pk, PlanRow.revision <= revision)
        .order_by(PlanRow.revision.desc())
        .limit(1)
    ).first()
    return planned_of({"plan": row.plan, "verdict": row.verdict}) if row is not None else None


def plan_of_revision(session: Session, pk: int, revision: int) -> Planned | None:
    """The plan that this version kept for one revision; None if there is none any more."""
    row = session.get(PlanRow, (pk, revision))
    ours = row is not None and row.made_by == __version__
    return planned_of({"plan": row.plan, "verdict": row.verdict}) if row is not None and ours else None


def planned_of(data: dict[str, Any]) -> Planned:
    """A plan with its verdict, from plain data."""
    return Planned(Plan.model_validate(data["plan"]), Verdict.model_validate(data["verdict"]))


def plain(planned: Planned) -> dict[str, Any]:
    """A plan with its verdict, as plain data."""
    return {"plan": planned.plan.model_dump(mode="json"), "verdict": planned.verdict.model_dump(mode="json")}


def keep_plan(
    session: Session, kept: Kept, planned: Planned, clock: datetime, previous: dict[str, Any] | None = None
) -> None:
    """Keep a verified plan for the refit's revision, instead of an older one of the same revision.

    previous: the plan it takes the place of, so that it can be put back.
    """
    serial = session.scalars(
        select(PlanRow.serial).where(PlanRow.refit_id == kept.pk, PlanRow.revision == kept.revision)
    ).first()
    values = {"now": planned.plan.now, "made_at": clock, "serial": serial + 1 if serial is not None else 0}
    values |= plain(planned) | {"previous": previous, "proposal": None, "made_by": __version__}
    session.merge(PlanRow(refit_id=kept.pk, revision=kept.revision, **values))
    _keep_morning(session, kept, planned.plan)
    session.execute(delete(PlanRow).where(PlanRow.refit_id == kept.pk, PlanRow.revision <= kept.revision - PLANS_KEPT))
    session.flush()


def _keep_morning(session: Session, kept: Kept, plan: Plan) -> None:
    """Keep what the first plan of a day has for that day and those after, to lay beside what is done in them."""
    zone = kept.refit.yard.zone
    day = plan.now.astimezone(zone).date()
    where = (home(session), kept.pk, day)
    with _READING:
        known = where in _MORNINGS
    if known or session.get(DayPlanRow, (kept.pk, day)) is not None:
        with _READING:
            _MORNINGS[where] = True
        return
    last = datetime.combine(day + timedelta(days=MORNING_REACHES), time(0), tzinfo=zone)
    rows = [row.model_dump(mode="json") for row in planned_tasks(kept.refit, plan) if row.start < last]
    session.add(DayPlanRow(refit_id=kept.pk, day=day, tasks=rows))


def planned_then(session: Session, pk: int, day: date, by: datetime) -> tuple[PlannedTask, ...]:
    """What was planned for a day on its morning, or on the last morning before it somebody looked; else by the newest
    baseline kept until ``by``; empty for neither.
    """
    morning = session.scalar(
        select(DayPlanRow.day)
        .where(DayPlanRow.refit_id == pk, DayPlanRow.day <= day)
        .where(DayPlanRow.day > day - timedelta(days=MORNING_REACHES))
        .order_by(DayPlanRow.day.desc())
        .limit(1)
    )
    if morning is None:
        older = [one for one in load_aside(session, pk, kind_of(Baseline)) if one.at <= by]
        return older[-1].tasks if older else ()
    where = (home(session), pk, morning)
    with _READING:
        kept = _MORNING_TASKS.get(where)
    if kept is None:  # a morning is written once
        row = session.get_one(DayPlanRow, (pk, morning))
        kept = tuple(PlannedTask.model_validate(one) for one in row.tasks)
        with _READING:
            _MORNING_TASKS[where] = kept
    return kept


def propose(session: Session, kept: Kept, found: Planned) -> None:
    """Have a better plan wait to be adopted."""
    session.get_one(PlanRow, (kept.pk, kept.revision)).proposal = plain(found)
    session.flush()


def say_ready(session: Session, kept: Kept, known: Planned) -> None:
    """The present plan with more known of when she could be ready; what waits beside it stays."""
    row = session.get_one(PlanRow, (kept.pk, kept.revision))
    said = plain(known)
    row.plan, row.verdict, row.serial = said["plan"], said["verdict"], row.serial + 1
    session.flush()


def previous_of(session: Session, kept: Kept) -> dict[str, Any] | None:
    """The plan that the present one took the place of, as plain data."""
    row = session.get(PlanRow, (kept.pk, kept.revision))
    return row.previous if row is not None else None


def proposal(session: Session, kept: Kept) -> Planned | None:
    """A better plan that waits to be adopted."""
    return beside(session, kept)[0]


def beside(session: Session, kept: Kept) -> tuple[Planned | None, Planned | None]:
    """A better plan that waits to be adopted, and the one of this revision that the present took the place of."""
    row = session.execute(
        select(PlanRow.proposal, PlanRow.previous).where(PlanRow.refit_id == kept.pk, PlanRow.revision == kept.revision)
    ).first()
    waits, before = row or (None, None)
    return planned_of(waits) if waits else None, planned_of(before) if before else None


def adopt(session: Session, kept: Kept, clock: datetime) -> None:
    """Adopt the plan that is proposed; the present one can be put back. Raises NothingToUndo if none is."""
    row = session.get(PlanRow, (kept.pk, kept.revision))
    if row is None or row.proposal is None or row.proposal["plan"]["now"] != row.plan["now"]:
        raise NothingToUndo("That plan is out of date; a new one is being looked for.")
    present = {"plan": row.plan, "verdict": row.verdict}
    keep_plan(session, kept, planned_of(row.proposal), clock, previous=present)


def put_back(session: Session, kept: Kept, clock: datetime) -> None:
    """Put the plan back that a better one took the place of; that one waits as a proposal. Raises NothingToUndo."""
    row = session.get(PlanRow, (kept.pk, kept.revision))
    if row is None or row.previous is None or row.previous["plan"]["now"] != row.plan["now"]:
        raise NothingToUndo("The old plan no longer fits; time or the refit has moved on.")
    present, old = {"plan": row.plan, "verdict": row.verdict}, planned_of(row.previous)
    keep_plan(session, kept, old, clock)
    session.get_one(PlanRow, (kept.pk, kept.revision)).proposal = present
    session.flush()


def plan_before(session: Session, kept: Kept) -> Plan | None:
    """The plan that stood before the present one: of this revision, if a better one took its place, else before the change."""
    instead = beside(session, kept)[1]
    if instead is not None:
        return instead.plan
    serial, now = session.execute(
        select(PlanRow.serial, PlanRow.now).where(PlanRow.refit_id == kept.pk, PlanRow.revision == kept.revision - 1)
    ).first() or (None, None)
    if serial is None or now is None:
        return None
    where = (home(session), kept.pk, kept.revision - 1, serial, now)
    found = _PLANS.get(where)
    if found is not None:  # whoever made this change had it in hand
        return found.plan
    row = session.get_one(PlanRow, (kept.pk, kept.revision - 1))
    return Plan.model_validate(row.plan)
