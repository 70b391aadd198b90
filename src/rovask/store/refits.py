"""Whole refits in and out, every change with its history, and the plan that belongs to each revision.

Every change is one transaction: it locks the refit's row, makes the change in the core, refuses it if
somebody else changed the same record meanwhile, writes the rows and one row of history, plans again,
verifies the plan and keeps both verdicts. Either all of that is kept or nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import delete, event, select
from sqlalchemy.orm import Session, aliased, defer

from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.plan.result import Plan, Verdict
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.core.refit.records import (
    Changes,
    Key,
    Records,
    applied,
    changes_between,
    completed,
    records_of,
    refit_of,
    undone,
)
from rovask.store.cache import LRU
from rovask.store.errors import BadPlan, Conflict, NotFound, NothingToUndo
from rovask.store.rows import apply_changes, load_rows
from rovask.store.tables import AccountRow, BoatRow, ChangeRow, PlanRow, RefitRow

HALF_HOUR = timedelta(minutes=30)
PLANS_KEPT = 20


@dataclass(frozen=True, slots=True)
class Kept:
    """A refit as it stands in the database. ``revisions``: when each record last changed."""

    pk: int
    refit: Refit
    revision: int
    revisions: Mapping[Key, int]
    clock_shift: timedelta
    is_demo: bool

    def now(self, clock: datetime) -> datetime:
        """The moment this refit lives in: ``clock``, moved for a demo that plays on another day."""
        return clock + self.clock_shift


@dataclass(frozen=True, slots=True)
class Listed:
    """A line in the list of refits."""

    pk: int
    name: str
    boat: str
    launch_at: datetime
    is_demo: bool


@dataclass(frozen=True, slots=True)
class ChangeEntry:
    """A line of the change history."""

    pk: int
    revision: int
    who: str
    at: datetime
    what: str
    undoes: int | None
    undone: bool
    before: Verdict | None
    after: Verdict | None


def list_refits(session: Session) -> list[Listed]:
    """Every refit, the next launch first."""
    rows = session.execute(
        select(RefitRow, BoatRow.name).join(BoatRow, BoatRow.refit_id == RefitRow.pk).order_by(RefitRow.launch_at)
    )
    return [Listed(row.pk, row.name, boat, row.launch_at, row.is_demo) for row, boat in rows]


_READ: LRU[tuple[str, int, int], tuple[Refit, Mapping[Key, int]]] = LRU(maxsize=16)


def load(session: Session, pk: int) -> Kept:
    """One refit, whole. Raises NotFound.

    Refits are frozen, so one that was read at the same change before is handed out again: the change's
    own number says whether it is still the same. Only for what is committed; see ``_read_back``.
    """
    row = session.execute(
        select(RefitRow.revision, RefitRow.clock_shift, RefitRow.is_demo, ChangeRow.pk)
        .join(ChangeRow, (ChangeRow.refit_id == RefitRow.pk) & (ChangeRow.revision == RefitRow.revision))
        .where(RefitRow.pk == pk)
    ).first()
    if row is None:
        raise NotFound("There is no such refit any more. Go back to the list of refits.")
    revision, clock_shift, is_demo, change_pk = row
    where = (str(session.get_bind().engine.url), pk, change_pk)
    found = _READ.get(where)
    if found is None:
        read = _read_back(session, pk)
        if read.revision != revision:  # changed between the two reads: this one is whole in itself, but not to be kept
            return read
        found = (read.refit, read.revisions)
        _READ.put(where, found)
    return Kept(pk, found[0], revision, found[1], timedelta(seconds=clock_shift), is_demo)


def _read_back(session: Session, pk: int) -> Kept:
    """One refit straight from its rows, as this transaction sees them."""
    found = load_rows(session, pk)
    if found is None:
        raise NotFound("There is no such refit any more. Go back to the list of refits.")
    row, refit, revisions = found
    return Kept(pk, refit, row.revision, revisions, timedelta(seconds=row.clock_shift), row.is_demo)


def add(
    session: Session,
    refit: Refit,
    *,
    who: int | None,
    what: str,
    clock: datetime,
    clock_shift: timedelta = timedelta(0),
    is_demo: bool = False,
) -> Kept:
    """Keep a new refit, with its first plan. ``who`` is the account, None for the application itself."""
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
    changes = changes_between({}, records_of(refit))
    return _write(session, row, {}, changes, who, what, clock, None, None)


def change(
    session: Session,
    pk: int,
    edit: Callable[[Refit], Refit],
    *,
    who: int | None,
    what: str,
    clock: datetime,
    seen: Mapping[Key, int] | None = None,
) -> Kept:
    """Make one change and keep it.

    edit: the refit as it stands in, the changed one out; may raise RefitFaults or ValidationError.
    seen: the revisions of the records as the editor saw them; a record that changed since raises Conflict.
    Returns the refit after it. A change of nothing writes nothing.
    """
    kept = _locked(session, pk)
    records = records_of(kept.refit)
    for key, revision in (seen or {}).items():
        if kept.revisions.get(key) != revision:
            theirs = records.get(key)
            raise Conflict(key, dict(theirs) if theirs is not None else None)
    changes = changes_between(records, records_of(edit(kept.refit)))
    if not changes:
        return kept
    row = session.get_one(RefitRow, pk)
    before = current_plan(session, kept, clock).verdict
    return _write(session, row, records, changes, who, what, clock, before, None)


def undo(session: Session, pk: int, *, who: int | None, clock: datetime) -> Kept:
    """Take the last change back that hasn't been taken back yet. Raises NothingToUndo."""
    kept = _locked(session, pk)
    last = last_undoable(session, pk)
    if last is None:
        raise NothingToUndo("Nothing is left to take back.")
    changes = undone(
        {
            Key.read(key): (
                completed(Key.read(key), last.before.get(key)),
                completed(Key.read(key), last.after.get(key)),
            )
            for key in [*last.before, *(key for key in last.after if key not in last.before)]
        }
    )
    records = records_of(kept.refit)
    refit_of(applied(records, changes))
    row = session.get_one(RefitRow, pk)
    before = current_plan(session, kept, clock).verdict
    return _write(session, row, records, changes, who, f"took back: {last.what}", clock, before, last.pk)


def last_undoable(session: Session, pk: int) -> ChangeRow | None:
    """The newest change that neither is an undo nor was undone; the import that began the refit stays."""
    taker = aliased(ChangeRow)
    query = (
        select(ChangeRow)
        .outerjoin(taker, taker.undoes == ChangeRow.pk)
        .where(ChangeRow.refit_id == pk, ChangeRow.undoes.is_(None), taker.pk.is_(None), ChangeRow.revision > 1)
        .order_by(ChangeRow.revision.desc())
        .limit(1)
    )
    return session.scalars(query).first()


def history(session: Session, pk: int, limit: int = 200) -> list[ChangeEntry]:
    """The change history, newest first."""
    taker = aliased(ChangeRow)
    rows = session.execute(
        select(ChangeRow, AccountRow.name, taker.pk)
        .outerjoin(AccountRow, AccountRow.pk == ChangeRow.account_pk)
        .outerjoin(taker, taker.undoes == ChangeRow.pk)
        .where(ChangeRow.refit_id == pk)
        .options(defer(ChangeRow.before), defer(ChangeRow.after))
        .order_by(ChangeRow.revision.desc())
        .limit(limit)
    )
    return [
        ChangeEntry(
            row.pk,
            row.revision,
            name or "Rovask",
            row.at,
            row.what,
            row.undoes,
            taken is not None,
            _verdict(row.verdict_before),
            _verdict(row.verdict_after),
        )
        for row, name, taken in rows
    ]


_PLANS: LRU[tuple[str, int, int, int, datetime], tuple[Refit, Planned]] = LRU(maxsize=16)


def current_plan(session: Session, kept: Kept, clock: datetime) -> Planned:
    """The plan of this revision at this half-hour: the one kept, or a new one, verified and kept.

    A new one follows the plan before it: near tasks stay where they were unless moving them pays.
    """
    now = half_hour(kept.now(clock))
    row = session.get(PlanRow, (kept.pk, kept.revision))
    if row is not None and row.now == now:
        where = (str(session.get_bind().engine.url), kept.pk, kept.revision, row.serial, row.now)
        found = _PLANS.get(where)
        if found is None or found[0] is not kept.refit:
            found = (kept.refit, _planned({"plan": row.plan, "verdict": row.verdict}))
            _PLANS.put(where, found)
        return found[1]
    planned = verified(kept.refit, now, before=_plan_so_far(session, kept))
    keep_plan(session, kept, planned, clock)
    return planned


def _plan_so_far(session: Session, kept: Kept) -> Plan | None:
    """The newest plan of this refit that is kept, of this revision or one before."""
    query = (
        select(PlanRow.plan)
        .where(PlanRow.refit_id == kept.pk, PlanRow.revision <= kept.revision)
        .order_by(PlanRow.revision.desc())
        .limit(1)
    )
    plan = session.scalars(query).first()
    return Plan.model_validate(plan) if plan is not None else None


def _planned(data: dict[str, Any]) -> Planned:
    return Planned(Plan.model_validate(data["plan"]), Verdict.model_validate(data["verdict"]))


def _json(planned: Planned) -> dict[str, Any]:
    return {"plan": planned.plan.model_dump(mode="json"), "verdict": planned.verdict.model_dump(mode="json")}


def keep_plan(
    session: Session, kept: Kept, planned: Planned, clock: datetime, previous: dict[str, Any] | None = None
) -> None:
    """Keep a verified plan for the refit's revision, instead of an older one of the same revision.

    previous: the plan it takes the place of, so that it can be put back.
    """
    old = session.get(PlanRow, (kept.pk, kept.revision))
    values = {"now": planned.plan.now, "made_at": clock, "serial": old.serial + 1 if old is not None else 0}
    values |= _json(planned) | {"previous": previous, "proposal": None}
    session.merge(PlanRow(refit_id=kept.pk, revision=kept.revision, **values))
    session.execute(delete(PlanRow).where(PlanRow.refit_id == kept.pk, PlanRow.revision <= kept.revision - PLANS_KEPT))
    session.flush()


def keep_if_better(session: Session, kept: Kept, found: Planned, clock: datetime) -> bool:
    """Adopt a verified plan that is better than the present one, or propose it where the sailor wants to be asked.

    The caller holds the refit's lock. What is put back later is the plan the search began from.
    """
    present = current_plan(session, kept, clock)
    row = session.get_one(PlanRow, (kept.pk, kept.revision))
    best = _planned(row.proposal) if row.proposal else present
    if present.plan.now != found.plan.now or not better(found, best, kept.refit):
        return False
    if kept.refit.ask_first:
        row.proposal = _json(found)
        session.flush()
    else:
        keep_plan(session, kept, found, clock, previous=row.previous or _json(present))
    return True


def proposal(session: Session, kept: Kept) -> Planned | None:
    """A better plan that waits to be adopted."""
    row = session.get(PlanRow, (kept.pk, kept.revision))
    return _planned(row.proposal) if row is not None and row.proposal else None


def replaced(session: Session, kept: Kept) -> Planned | None:
    """The plan of this same revision that a better one took the place of."""
    row = session.get(PlanRow, (kept.pk, kept.revision))
    return _planned(row.previous) if row is not None and row.previous else None


def adopt(session: Session, pk: int, clock: datetime) -> None:
    """Adopt the plan that is proposed; the present one can be put back. Raises NothingToUndo if none is."""
    kept = _locked(session, pk)
    row = session.get(PlanRow, (pk, kept.revision))
    if row is None or row.proposal is None or row.proposal["plan"]["now"] != row.plan["now"]:
        raise NothingToUndo("That plan is out of date; a new one is being looked for.")
    keep_plan(session, kept, _planned(row.proposal), clock, previous={"plan": row.plan, "verdict": row.verdict})


def put_back(session: Session, pk: int, clock: datetime) -> None:
    """Put the plan back that a better one took the place of; that one waits as a proposal. Raises NothingToUndo."""
    kept = _locked(session, pk)
    row = session.get(PlanRow, (pk, kept.revision))
    if row is None or row.previous is None or row.previous["plan"]["now"] != row.plan["now"]:
        raise NothingToUndo("The old plan no longer fits; time or the refit has moved on.")
    present, old = {"plan": row.plan, "verdict": row.verdict}, _planned(row.previous)
    keep_plan(session, kept, old, clock)
    row = session.get_one(PlanRow, (pk, kept.revision))
    row.proposal = present
    session.flush()


def verified(
    refit: Refit, now: datetime, starts: int | None = None, seed: int = 1, before: Plan | None = None
) -> Planned:
    """A plan that the verifier passed. Raises BadPlan, naming the breaches, if it did not."""
    planned = plan_and_judge(refit, now, starts, seed, before)
    breaches = verify(refit, planned.plan)
    if breaches:
        told = "; ".join(f"{breach.task} {breach.sentence}" for breach in breaches[:5])
        raise BadPlan(f"Rovask made a plan that breaks its own rules and does not show it: {told}")
    return planned


def half_hour(moment: datetime) -> datetime:
    """The half-hour that ``moment`` lies in; plans are made for it."""
    return moment - (moment - datetime(2000, 1, 1, tzinfo=UTC)) % HALF_HOUR


def better(new: Planned, old: Planned, refit: Refit) -> bool:
    """Whether a plan is better: nothing more unplanned, the launch no later, and less by the planner's own measure."""
    return _rank(new, refit) < _rank(old, refit)


def _rank(planned: Planned, refit: Refit) -> tuple[Any, ...]:
    plan = planned.plan
    return len(plan.unplanned), max(plan.launch, refit.launch_at), plan.value


def _locked(session: Session, pk: int) -> Kept:
    session.execute(select(RefitRow.pk).where(RefitRow.pk == pk).with_for_update())
    return load(session, pk)


def _write(
    session: Session,
    row: RefitRow,
    records: Records,
    changes: Changes,
    who: int | None,
    what: str,
    clock: datetime,
    verdict_before: Verdict | None,
    undoes: int | None,
) -> Kept:
    """Rows, history and plan of one change; the refit as it was read back."""
    revision = row.revision + 1
    apply_changes(session, row, changes, revision)
    row.revision = revision
    entry = ChangeRow(
        refit_id=row.pk,
        revision=revision,
        account_pk=who,
        at=clock,
        what=what[:300],
        before={str(key): before for key, (before, _) in changes.items() if before is not None},
        after={str(key): after for key, (_, after) in changes.items() if after is not None},
        undoes=undoes,
        verdict_before=_brief(verdict_before),
    )
    session.add(entry)
    session.flush()
    session.expire_all()
    kept = _read_back(session, row.pk)
    if records and records_of(kept.refit) != applied(records, changes):
        raise BadPlan("What was written is not what was meant; the change was not kept. Please report this.")
    entry.verdict_after = _brief(current_plan(session, kept, clock).verdict)
    session.flush()
    where = (str(session.get_bind().engine.url), row.pk, entry.pk)

    def committed(_: Session) -> None:
        _READ.put(where, (kept.refit, kept.revisions))

    event.listen(session, "after_commit", committed, once=True)
    return kept


def _brief(verdict: Verdict | None) -> dict[str, Any] | None:
    """What the history keeps of a verdict."""
    if verdict is None:
        return None
    data = verdict.model_dump(mode="json")
    return {field: data[field] for field in ("outcome", "launch", "spare_minutes", "left_out")}


def _verdict(data: dict[str, Any] | None) -> Verdict | None:
    return Verdict.model_validate(data) if data else None


def remove(session: Session, pk: int) -> None:
    """Remove a refit with its plans and its history, for good."""
    session.execute(delete(RefitRow).where(RefitRow.pk == pk))


def demo_pk(session: Session) -> int | None:
    """The demo refit, if it is loaded."""
    return session.scalars(select(RefitRow.pk).where(RefitRow.is_demo).order_by(RefitRow.pk)).first()


def set_clock(session: Session, pk: int, shift: timedelta) -> None:
    """Move the clock that a demo lives by; its plans are made anew."""
    row = session.get_one(RefitRow, pk)
    row.clock_shift = round(shift.total_seconds())
    session.execute(delete(PlanRow).where(PlanRow.refit_id == pk))


def plan_before(session: Session, kept: Kept) -> Plan | None:
    """The plan that stood before the present one: of this revision, if a better one took its place, else before the change."""
    mine = session.get(PlanRow, (kept.pk, kept.revision))
    if mine is not None and mine.previous:
        return Plan.model_validate(mine.previous["plan"])
    row = session.get(PlanRow, (kept.pk, kept.revision - 1))
    return Plan.model_validate(row.plan) if row is not None else None
