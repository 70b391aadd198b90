"""Money: the ledger, agreements accepted, the power meter read, rates of exchange noted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from rovask.core.books.savings import INTERIM_HOURS, Saving, SavingKind, by_ourselves, finding_of, not_called, savings
from rovask.core.explain.savings_worked import ANSWERED
from rovask.core.judged.leaps import Doubtful
from rovask.core.judged.ledger_edits import entered, ledger_doubts
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import money
from rovask.core.readings.acceptance import Acceptance, unaccepted
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.kinds import MeterReading
from rovask.core.refit.model import Decision, Entry, ExchangeRate, Refit
from rovask.core.refit.seen.edits import interim_fix, job_came_of, next_time
from rovask.core.refit.seen.kinds import Alternative
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.desk.commands.seen import photo_of
from rovask.formats.photo import Picture


@dataclass(frozen=True)
class WriteEntry(RefitCommand):
    """Write an invoice, a payment, a credit note or a refund into the ledger.

    data: fields of an Entry but for its id. why: the reason, where something speaks against it and it is written all
    the same; without one that is asked for. paper: pictures of its document.
    """

    data: dict[str, object]
    why: str = ""
    paper: tuple[Picture, ...] = ()

    @property
    def pictures(self) -> tuple[Picture, ...]:
        """The pictures of its document."""
        return self.paper

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The ledger with it. Raises Doubtful once, ValidationError and RefitFaults for what can't be."""
        key = at.new_id("entry")
        kept = [photo_of(picture, str(self.data.get("title", "")), at) for picture in self.paper]
        note = f"{self.data.get('note') or ''} {self.why}".strip()
        more = {"id": key, "note": note, "photos": tuple(key_ for _, key_ in kept)}
        entry = Entry.model_validate({"at": at.moment} | self.data | more)
        doubts = ledger_doubts(refit, entry)
        if doubts and not self.why:
            raise Doubtful(entry.title, doubts)
        told = f"entered {entry.kind.value} {money(entry.amount, entry.currency)} for “{entry.title}”"
        told += f" ({self.why})" if self.why else ""
        return EditOutcome(Edited(entered(refit, entry), tuple(row for rows, _ in kept for row in rows)), told, key)


@dataclass(frozen=True)
class AcceptWork(ChangeCommand):
    """The work of an agreement was looked at and is as agreed, or not after all: what was held back may be paid, or not."""

    agreement: str
    accepted: bool = True
    anyway: bool = False
    reason: str = ""

    def told(self, refit: Refit) -> str:
        """Which."""
        title = next((one.title for one in refit.agreements if one.id == self.agreement), "")
        why = f", all the same: {self.reason}" if self.anyway and self.reason else ", all the same" * self.anyway
        return f"accepted “{title}”{why}" if self.accepted else f"took back the acceptance of “{title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So. Raises Doubtful while work it pays for hasn't been looked at or did not pass, unless it is said anyway."""
        for one in refit.agreements:
            if one.id == self.agreement:
                if self.accepted and not self.anyway and (one.job or one.person):
                    speaks = [
                        _not_accepted(row) for row in unaccepted(refit, one.job or "", one.person or "") if row.paid
                    ]
                    if speaks:
                        raise Doubtful(one.title, speaks)
                return put(refit, one.model_copy(update={"accepted_at": at.moment if self.accepted else None}))
        raise RefitFaults([Fault("", "This agreement is gone; somebody removed it meanwhile.")])


def _not_accepted(row: Acceptance) -> str:
    open_ = [one.title for one in row.wanted if not one.passed]
    what = "did not pass" if row.failed else "nobody has looked at it"
    return f"“{row.task.title}”: {what}: {'; '.join(open_)}."


@dataclass(frozen=True)
class ReadMeter(ChangeCommand):
    """Note what the power meter says."""

    kwh: float
    when: datetime | None = None

    def told(self, refit: Refit) -> str:
        """How much."""
        return f"read the power meter: {self.kwh:g} kWh"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """One reading more, in order of time. Raises RefitFaults for one that runs backwards."""
        reading = MeterReading(at=self.when or at.moment, kwh=self.kwh)
        rows = tuple(sorted((*refit.yard.meter, reading), key=lambda one: one.at))
        for one, other in pairwise(rows):
            if other.kwh < one.kwh:
                raise RefitFaults([Fault("kwh", f"would run backwards: it was {one.kwh:g} kWh before")])
        return rebuilt(refit, yard=refit.yard.model_copy(update={"meter": rows}))


@dataclass(frozen=True)
class NoteRate(RefitCommand):
    """Keep a rate of exchange, to be offered where one is typed."""

    currency: str
    rate: str
    source: str
    when: datetime | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Put aside."""
        row = ExchangeRate(
            id=at.new_id("rate"),
            currency=self.currency,
            base=refit.currency,
            rate=self.rate,
            at=self.when or at.moment,
            source=self.source,
        )
        told = f"noted the rate of {self.currency}: {row.rate} {refit.currency}"
        return EditOutcome(Edited(refit, (row,)), told, row.id)


@dataclass(frozen=True)
class NoteRates(RefitCommand):
    """Keep the rates of a day, as a service told them."""

    rates: Mapping[str, str]
    source: str

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Put aside."""
        rows = tuple(
            ExchangeRate(
                id=at.new_id("rate"), currency=code, base=refit.currency, rate=rate, at=at.moment, source=self.source
            )
            for code, rate in sorted(self.rates.items())
        )
        return EditOutcome(Edited(refit, rows), f"fetched the rates of {', '.join(sorted(self.rates))}")


@dataclass(frozen=True)
class DecideSaving(RefitCommand):
    """Take a way to save money, and keep it as a decision with its reason.

    A job is put off, or made good for now (in ``hours`` of one's own, for ``spent`` minor units), or done by one's own
    hands; or somebody isn't called on the day that is the least worth it. worked: what it saves with the present plan, where
    that was worked out; else the log says *up to*.
    """

    kind: SavingKind
    key: str
    reason: str
    hours: float = INTERIM_HOURS
    spent: int = 0
    worked: Saving | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """So. Raises RefitFaults without a reason, and for what can't be saved like that any more."""
        mine = (one for one in savings(refit, at.planned.plan) if (one.kind, one.key) == (self.kind, self.key))
        found = next(mine, None)  # also when it was worked out: somebody may have changed the refit since
        if found is not None and self.worked is not None:
            found = self.worked
        if found is None or self.kind is SavingKind.OFFER or found.money <= self.spent:
            raise RefitFaults([Fault("", "That saves nothing any more; look at the list again.")])
        if not self.reason.strip():
            raise RefitFaults([Fault("reason", "Say in a few words why; it is kept with the decision.")])
        after, told, job = self._taken(refit, at, found.title)
        saved = found.money - self.spent
        decision = Decision(
            id=at.new_id("decision"),
            title=f"Save on {found.title}?"[:120],
            alternatives=(
                Alternative(title="as planned"),
                Alternative(title=f"{self.kind.value}: {found.how}"[:120], money=-saved),
            ),
            adopted=f"{self.kind.value}: {found.how}"[:120],
            reason=self.reason,
            job=job,
            at=at.moment,
        )
        up_to = "up to " if self.kind in ANSWERED and not found.settled else ""
        told += f" to save {up_to}{money(saved, refit.currency)}"
        return EditOutcome(Edited(after, (decision,)), told, self.key)

    def _taken(self, refit: Refit, at: Situation, title: str) -> tuple[Refit, str, str | None]:
        """The refit after, what was done, and the job that there is for it then."""
        if self.kind is SavingKind.CALL_OUTS:
            return not_called(refit, at.planned.plan, self.key), f"spared a call-out of {title}", None
        job = next(one for one in refit.jobs if one.id == self.key)
        if self.kind is SavingKind.PUT_OFF:
            return next_time(refit, job.id, at.new_id("parked")), f"put off “{title}”", None
        if self.kind is SavingKind.OWN_HANDS:
            return by_ourselves(refit, job.id), f"took “{title}” into own hands", job.id
        finding = finding_of(refit, job)
        if finding is None:
            raise RefitFaults([Fault("", "What it came of is settled; look at the list again.")])
        instead = at.new_id("job")
        after = interim_fix(
            next_time(refit, job.id, at.new_id("parked")), finding, self.hours, self.spent, instead, job.need
        )
        return job_came_of(after, finding.id, instead), f"made “{title}” good for now", instead
