"""Whole refits in and out: what is kept, of whom, and since which change. Every act on one goes through the desk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import bindparam, delete, select
from sqlalchemy.orm import Session

from rovask.core.plain.half_hours import floored
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.register import KINDS
from rovask.store.account_tables import MemberRow, Membership
from rovask.store.database import home
from rovask.store.errors import NotFound
from rovask.store.history_tables import ChangeRow
from rovask.store.in_memory import InMemory
from rovask.store.plan_tables import PlanRow
from rovask.store.record_tables import RefitRow, table_of
from rovask.store.records import load_rows

GONE = "There is no such refit any more. Go back to the list of refits."


@dataclass(frozen=True, slots=True)
class Kept:
    """A refit as it stands in the database.

    revisions: when each record last changed. change: the newest change of it. same_as: the earliest revision with this
    very content, so that a plan made then may stand again.
    """

    pk: int
    refit: Refit
    revision: int
    revisions: Mapping[RecordKey, int]
    clock_shift: timedelta
    is_demo: bool
    change: int
    same_as: int

    def now(self, clock: datetime) -> datetime:
        """The moment this refit lives in: ``clock``, moved for a demo that plays on another day."""
        return clock + self.clock_shift

    def half_hour(self, clock: datetime) -> datetime:
        """The half-hour of the yard's clock which that moment lies in; plans are made for it."""
        return floored(self.now(clock), self.refit.yard.zone)


@dataclass(frozen=True, slots=True)
class Listed:
    """A line in somebody's list of refits, and what they are in it."""

    pk: int
    name: str
    boat: str
    launch_at: datetime
    zone: ZoneInfo
    is_demo: bool
    role: Membership


def list_refits(session: Session, account: int) -> list[Listed]:
    """Every refit somebody is in, the next launch first."""
    boat, yard = table_of(KINDS["boat"]), table_of(KINDS["yard"])
    rows = session.execute(
        select(RefitRow, boat.c.name, yard.c.time_zone, MemberRow.role)
        .join(boat, boat.c.refit_id == RefitRow.pk)
        .join(yard, yard.c.refit_id == RefitRow.pk)
        .join(MemberRow, MemberRow.refit_id == RefitRow.pk)
        .where(MemberRow.account_pk == account)
        .order_by(RefitRow.launch_at, RefitRow.pk)
    )
    return [
        Listed(row.pk, row.name, name, row.launch_at, ZoneInfo(zone), row.is_demo, role)
        for row, name, zone, role in rows
    ]


RECORD_WEIGHS = 2_000  # bytes of a record with what is worked out of it, about (measured: docs/planner.md)


def _weight(read: tuple[Refit, Mapping[RecordKey, int]]) -> int:
    return RECORD_WEIGHS * (len(read[1]) + 100)


_READ: InMemory[tuple[str, int, int], tuple[Refit, Mapping[RecordKey, int]]] = InMemory(_weight, 0.5)
AT = (RefitRow.revision, RefitRow.clock_shift, RefitRow.is_demo, ChangeRow.pk, ChangeRow.same_as)
NEWEST = (ChangeRow.refit_id == RefitRow.pk) & (ChangeRow.revision == RefitRow.revision)
_AT = select(*AT).join(ChangeRow, NEWEST).where(RefitRow.pk == bindparam("refit"))  # made once


def load(session: Session, pk: int) -> Kept:
    """One refit, whole. Raises NotFound.

    Refits are frozen, so one that was read at the same change before is handed out again: the change's own number says
    whether it is still the same. Otherwise everything is read in one statement, and so at one moment.
    """
    row = session.execute(_AT, {"refit": pk}).first()
    if row is None:
        raise NotFound(GONE)
    return kept_at(session, pk, *row)


def kept_at(
    session: Session, pk: int, revision: int, shift: int, is_demo: bool, change: int, same_as: int | None
) -> Kept:
    """The refit as it stands after a change, for whoever has read the columns of ``AT`` already."""
    found = _READ.get((home(session), pk, change))
    if found is not None:
        return Kept(pk, found[0], revision, found[1], timedelta(seconds=shift), is_demo, change, same_as or revision)
    return read_back(session, pk)


def read_back(session: Session, pk: int) -> Kept:
    """One refit straight from its rows, whatever is remembered. Raises NotFound."""
    read = load_rows(session, pk)
    if read is None:
        raise NotFound(GONE)
    kept = Kept(
        pk,
        read.refit,
        read.revision,
        read.revisions,
        timedelta(seconds=read.clock_shift),
        read.is_demo,
        read.change,
        read.same_as or read.revision,
    )
    remember(home(session), kept)
    return kept


def remember(where: str, kept: Kept) -> None:
    """Keep a refit in memory for whoever reads it next. Only for what is committed, or was read in one statement.

    where: the database, as ``home`` names it.
    """
    _READ.put((where, kept.pk, kept.change), (kept.refit, kept.revisions))


def locked_as_of(session: Session, pk: int, change: int) -> bool:
    """Lock a refit's row; whether it stands as after that change still, and is there at all."""
    try:
        lock(session, pk)
        return load(session, pk).change == change
    except NotFound:
        return False


def lock(session: Session, pk: int) -> int:
    """Hold a refit until the transaction ends; returns its revision. Raises NotFound."""
    revision = session.execute(select(RefitRow.revision).where(RefitRow.pk == pk).with_for_update()).scalar()
    if revision is None:
        raise NotFound(GONE)
    return revision


def new_row(session: Session, refit: Refit, clock_shift: timedelta, is_demo: bool) -> RefitRow:
    """The row of a new refit, with nothing in it yet."""
    row = RefitRow(
        revision=0,
        row_revision=1,
        clock_shift=round(clock_shift.total_seconds()),
        is_demo=is_demo,
        name=refit.name,
        currency=refit.currency,
        budget=refit.budget,
        haul_at=refit.haul_at,
        launch_at=refit.launch_at,
        prepare_from=refit.prepare_from,
    )
    session.add(row)
    session.flush()
    return row


def remove(session: Session, pk: int) -> None:
    """Remove a refit with its plans and its history, for good."""
    session.execute(delete(RefitRow).where(RefitRow.pk == pk))


def without_members(session: Session) -> list[int]:
    """Refits nobody is in."""
    query = select(RefitRow.pk).where(~select(MemberRow.refit_id).where(MemberRow.refit_id == RefitRow.pk).exists())
    return list(session.scalars(query))


def demo_pk(session: Session) -> int | None:
    """The demo refit, if it is loaded."""
    return session.scalars(select(RefitRow.pk).where(RefitRow.is_demo).order_by(RefitRow.pk)).first()


def set_clock(session: Session, pk: int, shift: timedelta) -> None:
    """Move the clock that a demo lives by; its plans are made anew."""
    row = session.get_one(RefitRow, pk)
    row.clock_shift = round(shift.total_seconds())
    session.execute(delete(PlanRow).where(PlanRow.refit_id == pk))
