"""How a refit stands for somebody who looks at it, in one statement: every page begins with it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, case, select, text, true
from sqlalchemy.orm import Session

from rovask.core.plan.planner import Planned
from rovask.store.account_tables import MemberRow, Membership
from rovask.store.history_tables import ChangeRow
from rovask.store.odds import OddsThen
from rovask.store.plan_tables import OddsRow, PlanRow, SearchRow
from rovask.store.plans import OURS, plan_at
from rovask.store.queue import WAITING, lock_of
from rovask.store.record_tables import RefitRow
from rovask.store.refits import AT, NEWEST, Kept, kept_at
from rovask.store.searches import SearchView, view_of

_NEWEST_ODDS = (
    select(OddsRow.change, OddsRow.now, OddsRow.runs, OddsRow.odds, OddsRow.low, OddsRow.high)
    .where(OddsRow.refit_id == bindparam("refit"))
    .order_by(OddsRow.change.desc())
    .limit(1)
    .subquery("newest_odds")
)
_GLANCE = (
    select(
        *AT,
        MemberRow.role,
        MemberRow.person,
        PlanRow.serial,
        case((OURS, PlanRow.now)),
        text(WAITING),
        SearchRow,
        *_NEWEST_ODDS.c,
    )
    .select_from(RefitRow)
    .join(ChangeRow, NEWEST)
    .outerjoin(MemberRow, (MemberRow.refit_id == RefitRow.pk) & (MemberRow.account_pk == bindparam("account")))
    .outerjoin(PlanRow, (PlanRow.refit_id == RefitRow.pk) & (PlanRow.revision == RefitRow.revision))
    .outerjoin(SearchRow, SearchRow.refit_id == RefitRow.pk)
    .outerjoin(_NEWEST_ODDS, true())
    .where(RefitRow.pk == bindparam("refit"))
)


@dataclass(frozen=True, slots=True)
class Glance:
    """role: None for a stranger. What it holds is read when it is asked for, from memory or in the same transaction."""

    session: Session
    pk: int
    row: tuple[Any, ...]

    @property
    def role(self) -> Membership | None:
        """What somebody is in the refit."""
        role: Membership | None = self.row[5]
        return role

    @property
    def person(self) -> str | None:
        """Whom of its people they stand for."""
        person: str | None = self.row[6]
        return person

    def kept(self) -> Kept:
        """The refit itself."""
        return kept_at(self.session, self.pk, *self.row[:5])

    def planned(self, kept: Kept, now: datetime) -> Planned | None:
        """The plan that is kept for a half-hour, if there is one."""
        serial, made_for = self.row[7:9]
        return plan_at(self.session, kept, serial, made_for) if made_for == now else None

    @property
    def waiting(self) -> bool:
        """Whether a search waits for a worker, or has been taken up by one."""
        return bool(self.row[9])

    def search(self, clock: datetime) -> SearchView | None:
        """The latest search for a better plan."""
        return view_of(self.row[10], clock)

    @property
    def odds(self) -> OddsThen | None:
        """How sure the launch was when it was played last."""
        return OddsThen(*self.row[11:17]) if self.row[11] is not None else None


def glance(session: Session, pk: int, account: int) -> Glance | None:
    """None where there is no such refit."""
    row = session.execute(_GLANCE, {"refit": pk, "account": account, "lock": lock_of(pk)}).first()
    return Glance(session, pk, tuple(row)) if row is not None else None
