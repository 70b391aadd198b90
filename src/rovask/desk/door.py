"""The door itself: access, clock, lock, revision check, edit, history, plan, verification, verdict, effects and search.

The order of one change: whoever acts is let in; the refit is read and edited; the new plan is made and verified while
nobody waits; then, in the same transaction, the refit's row is locked, and if somebody else changed the refit
meanwhile everything is done again on what stands now. Only then rows, history, plan and the wish for a search are
written, together or not at all.
"""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.baseline import baseline_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.same_work import same_work
from rovask.core.refit.days.kinds import Baseline
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey, changes_between, find, key_of, record_of
from rovask.core.refit.register import kind_of, kinds
from rovask.core.refit.whole import Whole
from rovask.core.refit.work.make_good import link_made_good_by, with_make_good
from rovask.desk.aside import changes_of
from rovask.desk.command import Actor, DirectCommand, Done, RefitCommand, Scene, Situation
from rovask.desk.effects import effect_between, spelled
from rovask.desk.planning import Planning, foretold, later, verified
from rovask.desk.rights import NotAllowed, Right, may, refusal
from rovask.desk.taking_back import Step, TakeBack, taking_back
from rovask.formats.photo import Picture
from rovask.settings import Settings
from rovask.store import accounts, history, photos, plans, queue, recipes, refits, sendings
from rovask.store.account_tables import MemberRow, Membership
from rovask.store.database import home_of, reading, transaction
from rovask.store.errors import Conflict, NotFound
from rovask.store.glance import Glance, glance
from rovask.store.recipes import library_for
from rovask.store.record_tables import RefitRow
from rovask.store.records import apply_changes as write_records
from rovask.store.records import has_any, revisions_after
from rovask.store.refits import Kept
from rovask.store.sendings import Sending

AT_THE_HAUL, KEPT_BY_ITSELF = "Plan at the haul-out", "kept by itself with the first change after the haul-out"


BASELINE = kind_of(Baseline)


CLOSED = "This refit is closed: it is read-only but for what surprised. A skipper can open it again on its account."


TRIES_UNLOCKED = 3  # after so many changes by others in between, the refit is locked first


class _ChangedMeanwhile(Exception):
    """Somebody else changed the refit between reading and locking; nothing is lost, it is done again."""


@dataclass(frozen=True, slots=True)
class Seen:
    """A refit as somebody who may look at it sees it."""

    kept: Kept
    role: Membership
    person: str | None


def new_id(kind: str) -> str:
    """An id that nothing else has."""
    return f"{kind[0]}-{secrets.token_hex(4)}"


class Desk:
    """The application layer on one database. Holds no state of a refit's; several may work side by side."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.url = settings.database_url
        self.planning = Planning(self.url)

    # -- looking ----------------------------------------------------------------------------------

    @contextmanager
    def looking(self) -> Iterator[Session]:
        """One moment of the database, to read from."""
        with reading(self.url) as session:
            yield session

    def seen_by(self, session: Session, account: int | None, pk: int, right: Right = Right.LOOK) -> Seen:
        """A refit, for whoever may see it. Raises NotFound, for others as for a refit there isn't."""
        row = accounts.member(session, pk, account) if account is not None else None
        if account is not None and (row is None or not may(row.role, right)):
            raise NotFound(refits.GONE)
        kept = refits.load(session, pk)
        return Seen(kept, row.role if row is not None else Membership.SKIPPER, row.person if row is not None else None)

    def glance(self, session: Session, account: int, pk: int, right: Right) -> tuple[Glance, Kept]:
        """The same with how its plan and its search stand. Raises NotFound."""
        found = glance(session, pk, account)
        if found is None or found.role is None or not may(found.role, right):
            raise NotFound(refits.GONE)
        return found, found.kept()

    def answer_to(self, sending: Sending) -> str | None:
        """Where a form led when it was first sent, "" while that isn't known; None for one that was never done."""
        with reading(self.url) as session:
            return sendings.answer_to(session, sending)

    def answer_to_mark(self, sender: str, mark: str) -> str | None:
        """The same by the form's mark alone."""
        with reading(self.url) as session:
            return sendings.answer_to_mark(session, sender, mark)

    # -- acting -----------------------------------------------------------------------------------

    def act(self, actor: Actor, pk: int, command: RefitCommand | TakeBack, clock: datetime | None = None) -> Done:
        """Do a command that changes a refit; a change of nothing writes nothing.

        Raises NotFound, NotAllowed, Conflict, or what the edit raises; nothing is kept then.
        """
        clock = clock or self.settings.clock()
        files = self._pictures_kept(() if isinstance(command, TakeBack) else command.pictures)
        try:
            for _ in range(TRIES_UNLOCKED):
                with suppress(_ChangedMeanwhile):
                    return self._act(actor, pk, command, clock, locked=False)
            return self._act(actor, pk, command, clock, locked=True)
        except BaseException:
            photos.drop(files)
            raise

    def _pictures_kept(self, pictures: tuple[Picture, ...]) -> list[Path]:
        """The files of pictures; those that are new. Raises RefitFaults when they can't be kept."""
        made: list[Path] = []
        try:
            for picture in pictures:
                made += photos.keep(self.settings.state, picture)
        except OSError as error:
            photos.drop(made)
            why = f"the photo could not be kept ({error.strerror}); the rest can be saved without it."
            raise RefitFaults([Fault("photo", why)]) from None
        return made

    def _act(self, actor: Actor, pk: int, command: RefitCommand | TakeBack, clock: datetime, *, locked: bool) -> Done:
        with transaction(self.url) as session:
            self.let_in(session, actor, pk, command.right)
            _once(session, actor, clock)
            if locked:
                refits.lock(session, pk)
            kept = refits.load(session, pk)
            if kept.refit.closed_at is not None and (isinstance(command, TakeBack) or not command.when_closed):
                raise NotAllowed(CLOSED)
            before = self._present(session, kept, clock)
            if isinstance(command, TakeBack):
                step = taking_back(session, kept, command)
                self.let_in(session, actor, pk, step.needs)
            else:
                step = self._edited(session, kept, before, command, clock)
            done = (
                self._keep(session, actor, kept, step, before, clock) if step.changes else Done(kept, None, step.made)
            )
        _is_done(actor)
        self.remember(done)
        return done

    def _edited(self, session: Session, kept: Kept, before: Planned, command: RefitCommand, clock: datetime) -> Step:
        _check_seen(kept, command)
        situation = Situation(
            kept.half_hour(clock),
            kept.now(clock).replace(microsecond=0),
            before,
            lambda: library_for(session, kept.pk),
            new_id,
        )
        outcome = command.edit(_with_the_task(kept.refit, command), situation)
        changes = changes_of(session, kept, outcome.edited)
        return Step(
            outcome.edited.refit,
            changes,
            outcome.told,
            outcome.made,
            needs=command.right,
            final=command.final,
            send=outcome.send,
            plan=outcome.plan,
        )

    def answered(self, sending: Sending, answer: str) -> None:
        """Note where a form that was done led."""
        with transaction(self.url) as session:
            sendings.answered(session, sending, answer)

    def is_member(self, session: Session, actor: Actor, pk: int) -> MemberRow:
        """Their membership. Raises NotFound for a stranger, as for a refit there isn't."""
        row = accounts.member(session, pk, actor.account or 0)
        if row is None:
            raise NotFound(refits.GONE)
        return row

    def let_in(self, session: Session, actor: Actor, pk: int, right: Right) -> None:
        """Raises NotFound for a stranger, NotAllowed for somebody who may look but not do this."""
        if actor.account is None:
            return
        row = self.is_member(session, actor, pk)
        if not (may(row.role, Right.LOOK) or may(row.role, right)):
            raise NotFound(refits.GONE)
        if not may(row.role, right):
            raise refusal(row.role, right)

    def _present(self, session: Session, kept: Kept, clock: datetime) -> Planned:
        """The plan this change meets; one made just for comparison is not kept, for the revision is about to pass."""
        now = kept.half_hour(clock)
        found = plans.kept_plan(session, kept, now)
        if found is not None:
            return found
        so_far = plans.plan_so_far(session, kept.pk, kept.revision)
        return later(kept.refit, now, so_far.plan if so_far else None)

    def _keep(
        self, session: Session, actor: Actor, kept: Kept, step: Step, before: Planned | None, clock: datetime
    ) -> Done:
        """Plan, verify, then lock and write everything of one change. Raises _ChangedMeanwhile."""
        revision, refit = kept.revision + 1, step.refit
        again = plans.plan_of_revision(session, kept.pk, step.plan_of) if step.plan_of is not None else None
        now = kept.half_hour(clock)
        still = before if kept.revision and before is not None and same_work(kept.refit, refit) else None
        after = foretold(refit, now, step.plan, before.plan if before else None) or self._plan(
            refit, now, before, again, still
        )
        if refits.lock(session, kept.pk) != kept.revision:
            raise _ChangedMeanwhile
        row = session.get_one(RefitRow, kept.pk)
        write_records(session, row, step.changes, revision)
        self._keep_first_plan(session, kept, row, before, revision, clock)
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
            queue.wish_to_send(session, kept.pk, step.send)
        return Done(new, change, step.made, effect)

    def _keep_first_plan(
        self, session: Session, kept: Kept, row: RefitRow, before: Planned | None, revision: int, clock: datetime
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

    def _plan(self, refit: Refit, now: datetime, before: Planned | None, *same: Planned | None) -> Planned:
        """The plan after a change: the very one of a refit with the same work, long before or just now, if it still can."""
        for one in same:
            if one is not None and one.plan.now == now and not one.plan.old:
                return one
        so_far = next((one for one in (*same, before) if one is not None), None)
        return verified(refit, now, before=so_far.plan if so_far is not None else None)

    def remember(self, done: Done) -> None:
        """Hand what was just committed to whoever reads next, so that nobody reads it back."""
        if done.change is None or done.effect is None:
            return
        where = home_of(self.url)
        refits.remember(where, done.kept)
        plans.remember(where, done.kept, done.effect.after)

    # -- refits as such ---------------------------------------------------------------------------

    def add(
        self,
        actor: Actor,
        whole: Whole,
        told: str,
        clock: datetime | None = None,
        *,
        clock_shift: timedelta = timedelta(0),
        is_demo: bool = False,
        recipes_of: int = 0,
        person: str | None = None,
    ) -> Kept:
        """Keep a new refit, with its first plan; whoever adds it is its skipper.

        recipes_of: the refit whose own recipes it takes over, if any. person: whom of its people the account stands for;
        else whoever is called like it.
        """
        clock = clock or self.settings.clock()
        changes = changes_between(None, whole.refit)
        for kind in kinds(aside=True):
            changes |= {
                RecordKey(kind.name, item.id): (None, record_of(item)) for item in whole.aside.get(kind.name, ())
            }
        with transaction(self.url) as session:
            _once(session, actor, clock)
            row = refits.new_row(session, whole.refit, clock_shift, is_demo)
            kept = Kept(row.pk, whole.refit, 0, {}, clock_shift, is_demo, 0, 0)
            done = self._keep(session, actor, kept, Step(whole.refit, changes, told), None, clock)
            if actor.account is not None:
                mine = person or next((one.id for one in whole.refit.people if one.name == actor.name), None)
                accounts.join(session, row.pk, actor.account, Membership.SKIPPER, clock, mine)
            if recipes_of:
                self.let_in(session, actor, recipes_of, Right.GIVENS)
                recipes.give_on(session, recipes_of, row.pk)
        _is_done(actor)
        self.remember(done)
        return done.kept

    def run(self, actor: Actor, command: DirectCommand, pk: int = 0, clock: datetime | None = None) -> Any:
        """Do a command that changes no record: on a plan, on members, on an account."""
        with transaction(self.url) as session:
            if pk:
                self.let_in(session, actor, pk, command.needs)
            clock = clock or self.settings.clock()
            _once(session, actor, clock)
            came = command.run(Scene(session, actor, clock, self.settings), pk)
        _is_done(actor)
        return came


def _once(session: Session, actor: Actor, clock: datetime) -> None:
    """The form by which somebody acts is noted with what it does; one form may come to several acts. Raises SentBefore."""
    if actor.sending is not None and not actor.sending.done:
        sendings.keep(session, actor.sending, clock)


def _is_done(actor: Actor) -> None:
    if actor.sending is not None:
        actor.sending.done = True


def _with_the_task(refit: Refit, command: RefitCommand) -> Refit:
    """The refit an act is done to: one on the plan's own make-good task makes that the refit's."""
    link = link_made_good_by(refit, getattr(command, "task", "") or "")
    return with_make_good(refit, [link.id]) if link is not None else refit


def _check_seen(kept: Kept, command: RefitCommand) -> None:
    for key, revision in command.seen.items():
        if kept.revisions.get(key) != revision:
            theirs = find(kept.refit, key)
            raise Conflict(key, dict(theirs) if theirs is not None else None)
