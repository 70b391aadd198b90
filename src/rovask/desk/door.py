"""The door itself: access, clock, lock, revision check, edit, history, plan, verification, verdict, effects and search.

The order of one change: whoever acts is let in; the refit is read and edited; the new plan is made and verified while
nobody waits and no connection is held; then, in one transaction, the refit's row is locked, and if somebody else changed the refit
meanwhile everything is done again on what stands now. Only then rows, history, plan, the wish for a search and what goes out are
written, together or not at all.
"""

from __future__ import annotations

import logging
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey, changes_between, find, record_of
from rovask.core.refit.register import kinds
from rovask.core.refit.whole import Whole
from rovask.core.refit.work.make_good import link_made_good_by, with_make_good
from rovask.desk.aside import changes_of
from rovask.desk.command import Actor, DirectCommand, Done, RefitCommand, Scene, Situation
from rovask.desk.keeping import ChangedMeanwhile, Work, keep, new_id, once, planned
from rovask.desk.planning import Planning, later
from rovask.desk.rights import NotAllowed, Right, may, refusal
from rovask.desk.taking_back import Step, TakeBack, taking_back
from rovask.formats.photo import Picture
from rovask.settings import Settings
from rovask.store import accounts, plans, quotas, recipes, refits, sendings
from rovask.store.account_tables import MemberRow, Membership
from rovask.store.database import allow_seconds, home_of, reading, transaction
from rovask.store.errors import Conflict, NotFound
from rovask.store.glance import Glance, glance
from rovask.store.photos import photo_store
from rovask.store.recipes import library_for
from rovask.store.refits import Kept
from rovask.store.sendings import Sending, SentBefore

log = logging.getLogger("rovask.desk")
CLOSED = "This refit is closed: it is read-only but for what surprised. A skipper can open it again on its account."


MOST_KEPT = timedelta(days=30)  # on a device without a signal
TRIES_UNLOCKED = 3  # after so many changes by others in between, the refit is locked first


@dataclass(frozen=True, slots=True)
class Seen:
    """A refit as somebody who may look at it sees it."""

    kept: Kept
    role: Membership
    person: str | None


class Desk:
    """The application layer on one database. Holds no state of a refit's; several may work side by side."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.url = settings.database_url
        allow_seconds(settings.statement_seconds, settings.lock_seconds)
        self.planning = Planning(self.url)
        self.photos = photo_store(settings.state, settings.photos_url, settings.photos_endpoint, settings.photos_region)

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
        if not isinstance(command, TakeBack) and command.pictures:
            self._has_room(actor, pk, command)
            self.keep_pictures(command.pictures)
        for _ in range(TRIES_UNLOCKED):
            with suppress(ChangedMeanwhile):
                return self._act(actor, pk, command, clock, locked=False)
        return self._act(actor, pk, command, clock, locked=True)

    def _has_room(self, actor: Actor, pk: int, command: RefitCommand) -> None:
        """Raises RefitFaults when the refit, or its skipper's refits together, hold all they may; NotFound, NotAllowed for strangers first."""
        more = sum(len(one.large) for one in command.pictures)
        with reading(self.url) as session:
            self.let_in(session, actor, pk, command.right)
            quotas.check(quotas.of_refit(session, pk, self.settings.refit_mb), more, "this refit's pages")
            if actor.account is not None:
                mine = quotas.of_account(session, actor.account, self.settings.account_mb)
                quotas.check(mine, more, "your refits together")

    def keep_pictures(self, pictures: Iterable[Picture]) -> None:
        """Keep the files of pictures, before the change that names them. Raises RefitFaults when they can't be kept.

        Those of an act that fails stay until they are swept up: somebody else may have sent the same picture meanwhile.
        """
        try:
            for picture in pictures:
                self.photos.keep(picture)
        except OSError as error:
            why = f"the photo could not be kept ({error.strerror}); the rest can be saved without it."
            raise RefitFaults([Fault("photo", why)]) from None

    def _act(self, actor: Actor, pk: int, command: RefitCommand | TakeBack, clock: datetime, *, locked: bool) -> Done:
        """Once through. Not locked: planned while no connection is held, and kept if nobody was quicker."""
        if locked:
            with transaction(self.url) as session:
                refits.lock(session, pk)
                kept, found, so_far = self._met(session, actor, pk, command, clock)
                before = found or later(kept.refit, kept.half_hour(clock), so_far)
                work = self._worked(session, actor, kept, before, command, clock)
                done = keep(session, actor, work, planned(work), clock)
        else:
            with reading(self.url) as session:
                kept, found, so_far = self._met(session, actor, pk, command, clock)
                if found is not None:
                    work = self._worked(session, actor, kept, found, command, clock)
            if found is None:  # the half-hour has passed since there was a plan
                before = later(kept.refit, kept.half_hour(clock), so_far)
                with reading(self.url) as session:
                    if refits.load(session, pk).change != kept.change:
                        raise ChangedMeanwhile
                    work = self._worked(session, actor, kept, before, command, clock)
            after = planned(work)
            with transaction(self.url) as session:
                self.let_in(session, actor, pk, work.step.needs)
                done = keep(session, actor, work, after, clock)
        _is_done(actor)
        self.remember(done)
        return done

    def _met(
        self, session: Session, actor: Actor, pk: int, command: RefitCommand | TakeBack, clock: datetime
    ) -> tuple[Kept, Planned | None, Plan | None]:
        """The refit a command meets, the plan of now if there is one, else what was planned last. Raises SentBefore.

        Whether it was sent before is asked at the moment the refit is read: what the first sending did is seen together with it.
        """
        self.let_in(session, actor, pk, command.right)
        sending = actor.sending
        if sending is not None and not sending.done and sendings.answer_to(session, sending) is not None:
            raise SentBefore(sending)
        kept = refits.load(session, pk)
        if kept.refit.closed_at is not None and (isinstance(command, TakeBack) or not command.when_closed):
            raise NotAllowed(CLOSED)
        found = plans.kept_plan(session, kept, kept.half_hour(clock))
        so_far = plans.plan_so_far(session, kept.pk, kept.revision) if found is None else None
        return kept, found, so_far.plan if so_far is not None else None

    def _worked(
        self,
        session: Session,
        actor: Actor,
        kept: Kept,
        before: Planned,
        command: RefitCommand | TakeBack,
        clock: datetime,
    ) -> Work:
        """What a command comes to on the refit as it stands, not planned yet."""
        if isinstance(command, TakeBack):
            step = taking_back(session, kept, command)
            self.let_in(session, actor, kept.pk, step.needs)
        else:
            step = self._edited(session, kept, before, command, clock, actor.said_at)
        again = plans.plan_of_revision(session, kept.pk, step.plan_of) if step.plan_of is not None else None
        return Work(kept, step, before, again, kept.half_hour(clock))

    def _edited(
        self,
        session: Session,
        kept: Kept,
        before: Planned,
        command: RefitCommand,
        clock: datetime,
        said_at: datetime | None,
    ) -> Step:
        _check_seen(kept, command)
        situation = Situation(
            kept.half_hour(clock),
            kept.now(_said(said_at, clock)).replace(microsecond=0),
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
        """Note where a form that was done led. It is done and its sender is told so, whether that can be noted or not."""
        try:
            with transaction(self.url) as session:
                sendings.answered(session, sending, answer)
        except SQLAlchemyError as error:
            log.warning("where a form led could not be noted: %s", type(error).__name__)

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
        shifted = Kept(0, whole.refit, 0, {}, clock_shift, is_demo, 0, 0)
        first = planned(Work(shifted, Step(whole.refit, changes, told), None, None, shifted.half_hour(clock)))
        with transaction(self.url) as session:
            row = refits.new_row(session, whole.refit, clock_shift, is_demo)
            kept = Kept(row.pk, whole.refit, 0, {}, clock_shift, is_demo, 0, 0)
            work = Work(kept, Step(whole.refit, changes, told), None, None, kept.half_hour(clock))
            done = keep(session, actor, work, first, clock)
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
            once(session, actor, clock)
            came = command.run(Scene(session, actor, clock, self.settings), pk)
        _is_done(actor)
        return came


def _said(said_at: datetime | None, clock: datetime) -> datetime:
    """When something was said: on a device that kept it, some days ago at the most; one whose clock is ahead is taken to mean now."""
    return clock if said_at is None else min(max(said_at, clock - MOST_KEPT), clock)


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
