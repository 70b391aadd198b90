"""What a change comes to, planned and written: records, history, plan, the wish for a search and what goes out, together or not at all."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from rovask.core.plan.baseline import baseline_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.same_work import same_work
from rovask.core.refit.days.kinds import Baseline
from rovask.core.refit.model import Refit
from rovask.core.refit.records import key_of, record_of
from rovask.core.refit.register import kind_of
from rovask.desk.command import Actor, Done
from rovask.desk.effects import effect_between, spelled
from rovask.desk.outgoing import send_out
from rovask.desk.planning import foretold, verified
from rovask.desk.taking_back import Step
from rovask.store import history, plans, queue, refits, sendings
from rovask.store.record_tables import RefitRow
from rovask.store.records import apply_changes as write_records
from rovask.store.records import has_any, revisions_after
from rovask.store.refits import Kept

AT_THE_HAUL, KEPT_BY_ITSELF = "Plan at the haul-out", "kept by itself with the first change after the haul-out"


BASELINE = kind_of(Baseline)


class ChangedMeanwhile(Exception):
    """Somebody else changed the refit between reading and locking; nothing is lost, it is done again."""


@dataclass(frozen=True, slots=True)
class Work:
    """A change that is made and not planned yet: the refit it meets, with the plan there is; again: the plan of a revision whose content it
    comes back to; now: the half-hour it happens in.
    """

    kept: Kept
    step: Step
    before: Planned | None
    again: Planned | None
    now: datetime


def new_id(kind: str) -> str:
    """An id that nothing else has."""
    return f"{kind[0]}-{secrets.token_hex(4)}"


def once(session: Session, actor: Actor, clock: datetime) -> None:
    """The form by which somebody acts is noted with what it does; one form may come to several acts. Raises SentBefore."""
    if actor.sending is not None and not actor.sending.done:
        sendings.keep(session, actor.sending, clock)


def planned(work: Work) -> Planned | None:
    """The plan after a change, None where nothing changes; it is verified, and takes no connection."""
    kept, refit, before = work.kept, work.step.refit, work.before
    if not work.step.changes:
        return None
    still = before if kept.revision and before is not None and same_work(kept.refit, refit) else None
    found = foretold(refit, work.now, work.step.plan, before.plan if before else None)
    return found or _plan(refit, work.now, before, work.again, still)


def keep(session: Session, actor: Actor, work: Work, after: Planned | None, clock: datetime) -> Done:
    """Lock, and write everything of one change. Raises ChangedMeanwhile, SentBefore."""
    kept, step, before = work.kept, work.step, work.before
    revision, refit = kept.revision + 1, step.refit
    once(session, actor, clock)
    if after is None:
        return Done(kept, None, step.made)
    if refits.lock(session, kept.pk) != kept.revision:
        raise ChangedMeanwhile
    row = session.get_one(RefitRow, kept.pk)
    write_records(session, row, step.changes, revision)
    _keep_first_plan(session, kept, row, before, revision, clock)
    row.revision = revision
    effect = effect_between(kept.refit if kept.revision else None, before, refit, after)
    change = history.write_change(
        session,
        kept.pk,
        revision,
        step.changes,
        who=actor.account,
        what=step.told,
        at=clock,
        before=before.verdict if before is not None else None,
        after=after.verdict,
        undoes=step.undoes,
        same_as=step.same_as,
        effect=spelled(effect),
        needs=step.needs,
        back=step.back,
        final=step.final,
    )
    new = Kept(
        kept.pk,
        refit,
        revision,
        revisions_after(kept.revisions, step.changes, revision),
        kept.clock_shift,
        kept.is_demo,
        change,
        step.same_as or revision,
    )
    plans.keep_plan(session, new, after, clock)
    if after is not before or queue.is_waiting(session, kept.pk):  # a search that runs is of the revision before
        queue.wish_for_search(session, kept.pk)
    queue.wish_to_play(session, kept.pk)
    if step.send:
        send_out(session, kept.pk, refit, step.send, clock)
    return Done(new, change, step.made, effect)


def _keep_first_plan(
    session: Session, kept: Kept, row: RefitRow, before: Planned | None, revision: int, clock: datetime
) -> None:
    """Keep the plan that the first change after the day of the haul-out meets, to measure by: on that day itself it is
    still being typed in. It is nobody's act: it stands in no history, and no undo takes it away. Who wants it sooner
    says so under Progress.
    """
    now, zone = kept.now(clock).replace(microsecond=0), kept.refit.yard.zone
    first_day = now.astimezone(zone).date() <= kept.refit.haul_at.astimezone(zone).date()
    if before is None or not kept.revision or first_day or not kept.refit.tasks:
        return
    if not has_any(session, kept.pk, BASELINE):
        first = baseline_of(kept.refit, before, new_id("baseline"), AT_THE_HAUL, KEPT_BY_ITSELF, now)
        write_records(session, row, {key_of(first): (None, record_of(first))}, revision)


def _plan(refit: Refit, now: datetime, before: Planned | None, *same: Planned | None) -> Planned:
    """The plan after a change: the very one of a refit with the same work, long before or just now, if it still can."""
    for one in same:
        if one is not None and one.plan.now == now and not one.plan.old:
            return one
    so_far = next((one for one in (*same, before) if one is not None), None)
    return verified(refit, now, before=so_far.plan if so_far is not None else None)
