"""Secret addresses given and withdrawn; and what a trade says by its own."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import ClassVar

from rovask.core.plain.faults import refused
from rovask.core.refit import edits
from rovask.core.refit.days.choices import Said
from rovask.core.refit.model import Finding, Refit, TradeWord
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.whole import Edited
from rovask.core.refit.work import edits as work_edits
from rovask.core.reports.trade_sheet import is_theirs
from rovask.desk.command import ChangeCommand, DirectCommand, EditOutcome, Scene, Situation
from rovask.desk.commands.seen import WithPicture, photo_of
from rovask.desk.rights import Right
from rovask.formats.calendar_file import DELIVERIES
from rovask.formats.photo import Picture
from rovask.store import quotas, refits, secrets
from rovask.store.account_tables import SecretUse
from rovask.store.safety_tables import Happened

MOST_LIFE = 366  # days


@dataclass(frozen=True)
class GiveTradeLink(DirectCommand):
    """A trade's own page, without an account: its work and nothing else; what was agreed with it, if that is shared."""

    person: str
    agreement: bool = False
    days: int = secrets.TRADE_LIFE.days
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> str:
        """Its token. Raises RefitFaults for somebody who isn't of the refit."""
        if self.person not in refits.load(scene.session, pk).refit.persons:
            raise refused("Choose whose page it is.", "person")
        if not 1 <= self.days <= MOST_LIFE:
            raise refused(f"Give a number of days from 1 to {MOST_LIFE}.", "days")
        scene.note(Happened.LINK_MADE, f"a trade's page, for {self.days} days", refit=pk)
        return secrets.make_secret(
            scene.session,
            pk,
            SecretUse.TRADE,
            self.person,
            scene.clock,
            made_by=scene.actor.account,
            agreement=self.agreement,
            life=timedelta(days=self.days),
        )


@dataclass(frozen=True)
class GiveCalendar(DirectCommand):
    """A calendar's address: of one person, of the deliveries, or of everybody with them. It opens for so many days, or until it is withdrawn."""

    person: str = ""
    days: int = secrets.CALENDAR_LIFE.days
    needs: ClassVar[Right] = Right.WORK

    def run(self, scene: Scene, pk: int) -> str:
        """Its token. Raises RefitFaults for somebody who isn't of the refit."""
        if self.person not in {"", DELIVERIES, *refits.load(scene.session, pk).refit.persons}:
            raise refused("Choose whose calendar it is.", "person")
        if not 1 <= self.days <= MOST_LIFE:
            raise refused(f"Give a number of days from 1 to {MOST_LIFE}.", "days")
        scene.note(Happened.LINK_MADE, f"a calendar, for {self.days} days", refit=pk)
        return secrets.make_secret(
            scene.session,
            pk,
            SecretUse.CALENDAR,
            self.person or None,
            scene.clock,
            made_by=scene.actor.account,
            life=timedelta(days=self.days),
        )


@dataclass(frozen=True)
class WithdrawSecret(DirectCommand):
    """An address opens no more."""

    secret: int
    needs: ClassVar[Right] = Right.WORK

    def run(self, scene: Scene, pk: int) -> None:
        """Withdrawn."""
        secrets.withdraw(scene.session, pk, self.secret, scene.clock)
        scene.note(Happened.LINK_WITHDRAWN, refit=pk)


@dataclass(frozen=True)
class NoteUsed(DirectCommand):
    """An address was opened. hint: the last signs of it."""

    secret: int
    hint: str = ""

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        secrets.note_used(scene.session, self.secret, scene.clock)
        scene.note(Happened.LINK_USED, f"…{self.hint}", refit=pk, who="whoever has the address")


@dataclass(frozen=True)
class CountSent(DirectCommand):
    """So many bytes come by an address. Raises RefitFaults for more than it may send."""

    secret: int
    much: int

    def run(self, scene: Scene, pk: int) -> None:
        """Counted."""
        quotas.sent_by(scene.session, self.secret, self.much, scene.settings.link_mb)


@dataclass(frozen=True)
class TradeSays(WithPicture):
    """A trade says by its own page: coming, late until a day, done, or found. Done is ticked; found becomes a finding."""

    person: str
    said: Said
    task: str = ""
    day: date | None = None
    note: str = ""
    picture: Picture | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Kept. Raises RefitFaults for a task that isn't theirs, and for late without a day."""
        who = refit.persons.get(self.person)
        if who is None:
            raise refused("You are not in this refit any more; call the boat.")
        task = refit.tasks.get(self.task)
        if self.task and (task is None or not is_theirs(at.planned.plan, self.person, task)):
            raise refused("This is not your work any more; open the page again.")
        if self.said is Said.DONE and task is None:
            raise refused("Say which task is done.", "task")
        today = at.moment.astimezone(refit.yard.zone).date()
        if self.said is Said.LATE and (self.day is None or self.day < today):
            raise refused("Say on which day you will come, today or later.", "day")
        photos, photo = photo_of(self.picture, task.title if task is not None else who.name, at)
        keys = (photo,) if photo else ()
        word = TradeWord(
            id=at.new_id("word"),
            person=who.id,
            task=task.id if task is not None else None,
            said=self.said,
            at=at.moment,
            day=self.day if self.said is Said.LATE else None,
            note=self.note[:200],
            photos=keys,
        )
        refit = edits.put(refit, word)
        if self.said is Said.DONE and task is not None and task.done_at is None:
            refit = work_edits.finish_task(refit, task.id, at.moment, (who.id,))
        if self.said is Said.FOUND:
            title = self.note[:120] or f"Found by {who.name}"
            finding = Finding(
                id=at.new_id("finding"),
                title=title,
                place=task.place if task is not None else None,
                severity=Severity.BAD,
                note=f"Found by {who.name}." + (f" {self.note}" if len(self.note) > len(title) else ""),
                at=at.moment,
                photos=keys,
                jobs=(refit.job_of[task.id].id,) if task is not None else (),
            )
            refit = edits.put(refit, finding)
        about = f" of “{task.title}”" if task is not None else ""
        told = f"heard from {who.name}{about}: {self.said.value}"
        told += f", {self.day:%a %-d %b}" if self.said is Said.LATE and self.day is not None else ""
        said = f": {self.note}" if self.note and self.said is not Said.FOUND else ""  # a finding says it itself
        return EditOutcome(Edited(refit, photos), told + said, word.id)


@dataclass(frozen=True)
class AnswerWord(ChangeCommand):
    """What a trade said is dealt with."""

    word: str

    def told(self, refit: Refit) -> str:
        """Whose."""
        row = next((one for one in refit.words if one.id == self.word), None)
        return f"dealt with what {refit.persons[row.person].name} said" if row is not None else "dealt with a word"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Answered. Raises RefitFaults when it is gone."""
        row = next((one for one in refit.words if one.id == self.word), None)
        if row is None:
            raise refused("This is gone; somebody removed it meanwhile.")
        return edits.put(refit, row.model_copy(update={"answered": True}))
