"""How sure the launch is, as it was played after each change: the newest in full, of those before what Progress shows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.core.odds.told import Odds
from rovask.store.plan_tables import OddsRow


@dataclass(frozen=True, slots=True)
class OddsThen:
    """How sure it was after one change, on the refit's clock. odds None: nothing could be said. low, high: of the simulation."""

    change: int
    now: datetime
    runs: int
    odds: float | None
    low: float | None
    high: float | None


def keep(session: Session, pk: int, change: int, found: Odds, clock: datetime) -> None:
    """Keep what was found of a refit as it stands after a change; what was found of it then gives way."""
    low, high = found.interval or (None, None)
    row = {
        "now": found.now, "kept_at": clock, "runs": found.runs, "odds": found.odds, "low": low, "high": high,
        "body": found.model_dump(mode="json"),
    }  # fmt: skip
    made = insert(OddsRow).values(row | {"refit_id": pk, "change": change})
    session.execute(made.on_conflict_do_update(index_elements=["refit_id", "change"], set_=row))
    session.execute(update(OddsRow).where(OddsRow.refit_id == pk, OddsRow.change < change).values(body=None))


def played_since(session: Session, pk: int, moment: datetime) -> bool:
    """Whether it was played for a moment on the refit's clock, or a later one."""
    query = select(OddsRow.change).where(OddsRow.refit_id == pk, OddsRow.now >= moment).limit(1)
    return session.scalar(query) is not None


def newest(session: Session, pk: int) -> Odds | None:
    """What was found last; None before anything was, and for what another version kept otherwise."""
    query = select(OddsRow.body).where(OddsRow.refit_id == pk, OddsRow.body.is_not(None))
    body = session.scalar(query.order_by(OddsRow.change.desc()).limit(1))
    try:
        return Odds.model_validate(body) if body is not None else None
    except ValidationError:  # another version of Rovask kept it: it is played again after the next change
        return None


def line(session: Session, pk: int) -> list[OddsThen]:
    """How sure it was after each change, in order."""
    query = select(OddsRow.change, OddsRow.now, OddsRow.runs, OddsRow.odds, OddsRow.low, OddsRow.high)
    rows = session.execute(query.where(OddsRow.refit_id == pk).order_by(OddsRow.change))
    return [OddsThen(*row) for row in rows]
