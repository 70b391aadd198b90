"""What was found of ways laid side by side, after each change it was laid out anew at; and the search for what makes the date."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from pydantic import ValidationError
from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import Session

from rovask.core.choice.date_told import DateTold
from rovask.core.choice.laid import Laid
from rovask.core.choice.levers import Asked
from rovask.core.plan.result import Plan
from rovask.store.plan_tables import FrontierRow, LaidRow

MOST_KEPT = 20  # of one choice: older ones go
SILENT_AFTER = timedelta(seconds=90)  # a search whose worker said nothing for so long is not under way


@dataclass(frozen=True, slots=True)
class LaidThen:
    """What was found of a choice as of one change. now: the half-hour it was planned at; kept_at: by the real clock."""

    change: int
    now: datetime
    kept_at: datetime
    laid: Laid


@dataclass(frozen=True, slots=True)
class DateThen:
    """A search for what makes the date. change: as of which it was asked; told: None before anything was found.

    silent: nobody has worked at it for a while, so it waits for a worker.
    """

    change: int
    asked_at: datetime
    asked: Asked
    told: DateTold | None
    stopping: bool
    over: bool
    silent: bool


def keep(
    session: Session, pk: int, ways: str, change: int, found: Laid, plans: Mapping[str, Plan], clock: datetime
) -> None:
    """Keep what was found of a choice as of a change; what was found of it then gives way, and the oldest go."""
    row = {
        "now": found.now, "kept_at": clock, "body": found.model_dump(mode="json"),
        "plans": {way: plan.model_dump(mode="json") for way, plan in plans.items()},
    }  # fmt: skip
    older = update(LaidRow).where(LaidRow.refit_id == pk, LaidRow.ways == ways, LaidRow.change != change)
    session.execute(older.values(plans={}))
    made = insert(LaidRow).values(row | {"refit_id": pk, "ways": ways, "change": change})
    session.execute(made.on_conflict_do_update(index_elements=["refit_id", "ways", "change"], set_=row))
    kept = select(LaidRow.change).where(LaidRow.refit_id == pk, LaidRow.ways == ways)
    kept = kept.order_by(LaidRow.change.desc()).limit(MOST_KEPT)
    session.execute(
        delete(LaidRow).where(
            LaidRow.refit_id == pk, LaidRow.ways == ways, LaidRow.change.not_in(kept.scalar_subquery())
        )
    )


def line(session: Session, pk: int, ways: str) -> list[LaidThen]:
    """What was found of a choice, newest first; what another version kept otherwise is passed over."""
    query = select(LaidRow).where(LaidRow.refit_id == pk, LaidRow.ways == ways).order_by(LaidRow.change.desc())
    return [one for row in session.scalars(query) if (one := _read(row)) is not None]


def newest(session: Session, pk: int) -> dict[str, LaidThen]:
    """What was found last of every choice, by its id."""
    query = select(LaidRow).where(LaidRow.refit_id == pk)
    query = query.ext(distinct_on(LaidRow.ways)).order_by(LaidRow.ways, LaidRow.change.desc())
    return {row.ways: one for row in session.scalars(query) if (one := _read(row)) is not None}


def _read(row: LaidRow) -> LaidThen | None:
    try:
        return LaidThen(row.change, row.now, row.kept_at, Laid.model_validate(row.body))
    except ValidationError:  # another version of Rovask kept it: it is laid out again when somebody looks
        return None


def plan_of(session: Session, pk: int, ways: str, way: str, change: int) -> Plan | None:
    """The plan a way was told by as of a change; None where it isn't kept."""
    row = session.get(LaidRow, (pk, ways, change))
    try:
        return Plan.model_validate(row.plans[way]) if row is not None and way in row.plans else None
    except ValidationError:
        return None


def ask_date(session: Session, pk: int, change: int, asked: Asked, clock: datetime) -> None:
    """A search is asked for; the one before gives way, with what it found."""
    row = {
        "change": change, "asked_at": clock, "seen_at": clock, "asked": asked.model_dump(mode="json"), "stop": False,
        "over": False, "body": None,
    }  # fmt: skip
    made = insert(FrontierRow).values(row | {"refit_id": pk})
    session.execute(made.on_conflict_do_update(index_elements=["refit_id"], set_=row))


def note_date(
    session: Session, pk: int, asked_at: datetime, clock: datetime, found: DateTold | None, *, over: bool
) -> bool:
    """How far the search is that was asked for then; whether it is to go on: not when it is to stop, or another was asked for."""
    row = session.get(FrontierRow, pk, with_for_update=True)
    if row is None or row.asked_at != asked_at:
        return False
    row.seen_at, row.over = clock, over
    if found is not None:
        row.body = found.model_dump(mode="json")
    return not row.stop


def stop_date(session: Session, pk: int) -> None:
    """The search is to end with what it has."""
    session.execute(update(FrontierRow).where(FrontierRow.refit_id == pk).values(stop=True))


def date_then(session: Session, pk: int, clock: datetime) -> DateThen | None:
    """The search there is, or was last; None for one of another version, or none."""
    row = session.get(FrontierRow, pk)
    if row is None:
        return None
    try:
        asked = Asked.model_validate(row.asked)
        told = DateTold.model_validate(row.body) if row.body is not None else None
    except ValidationError:
        return None
    silent = not row.over and clock - row.seen_at > SILENT_AFTER
    return DateThen(row.change, row.asked_at, asked, told, row.stop, row.over, silent)
