"""What happened, line by line, from every sort of record: to be searched and filtered by person, job, place and kind."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, time
from enum import StrEnum

from rovask.core.gate.gate import LET_GO
from rovask.core.plain.words import money
from rovask.core.refit.days.choices import Said
from rovask.core.refit.model import Decision, Photo, Refit
from rovask.core.refit.purse.choices import EntryKind


class LineKind(StrEnum):
    """What sort of thing a line tells."""

    DAY = "days"
    WORK = "work done"
    HOURS = "hours"
    FOUND = "findings"
    LOOKED = "looks"
    GATE = "launch gate"
    DECIDED = "decisions"
    MONEY = "money"
    PARCEL = "deliveries"
    SAID = "words from trades"
    LOST = "hours lost"
    PHOTO = "photos"


@dataclass(frozen=True, slots=True)
class LogLine:
    """One line: when, what kind, in words; who, of which job, at which place, as ids; where it is shown, and its photos."""

    at: datetime
    kind: LineKind
    words: str
    people: tuple[str, ...] = ()
    job: str = ""
    place: str = ""
    page: str = ""
    photos: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Wanted:
    """A filter; "" for all. text: words that must all stand in the line, whatever their case."""

    text: str = ""
    person: str = ""
    job: str = ""
    place: str = ""
    kind: str = ""

    @property
    def any(self) -> bool:
        """Whether it asks for anything at all."""
        return bool(self.text or self.person or self.job or self.place or self.kind)

    def fits(self, line: LogLine) -> bool:
        """Whether a line is wanted."""
        low = line.words.lower()
        return (
            (not self.kind or line.kind.value == self.kind)
            and (not self.person or self.person in line.people)
            and (not self.job or line.job == self.job)
            and (not self.place or line.place == self.place)
            and all(word in low for word in self.text.lower().split())
        )


def log_lines(
    refit: Refit, wanted: Wanted, decisions: Iterable[Decision] = (), photos: Iterable[Photo] = ()
) -> list[LogLine]:
    """The lines that are wanted, newest first. O(records)."""
    lines = [*_work(refit), *_seen(refit), *_days(refit), *_gate(refit), *_money(refit), *_aside(decisions, photos)]
    return sorted((line for line in lines if wanted.fits(line)), key=lambda line: line.at, reverse=True)


def last_noted(refit: Refit) -> datetime:
    """When something was last noted of a refit: the haul-out, where nothing was since."""
    times = [moment for task in refit.tasks.values() for moment in (task.begun_at, task.done_at) if moment is not None]
    times += [entry.at for entry in refit.hours_log] + [day.closed_at for day in refit.days]
    return max([refit.haul_at, *times])


def _task_line(refit: Refit, at: datetime, kind: LineKind, task: str, words: str, people: tuple[str, ...]) -> LogLine:
    """A line about a task that is there."""
    job = refit.job_of[task]
    return LogLine(at, kind, words, people, job.id, refit.tasks[task].place, f"jobs/{job.id}?task={task}#{task}")


def _work(refit: Refit) -> Iterator[LogLine]:
    for job, task in refit.walk():
        if task.done_at is not None:
            words = f"Done: {task.title} ({job.title})"
            yield _task_line(refit, task.done_at, LineKind.WORK, task.id, words, task.crew)
    for entry in refit.hours_log:
        who = refit.persons[entry.person].name
        words = f"{who}: {entry.hours:g} h at {refit.tasks[entry.task].title}" + (
            f". {entry.note}" if entry.note else ""
        )
        yield _task_line(refit, entry.at, LineKind.HOURS, entry.task, words, (entry.person,))
    for word in refit.words:
        if word.said is Said.FOUND:
            continue  # told once: as the finding it became
        title = f" {refit.tasks[word.task].title}" if word.task in refit.tasks else ""
        words = f"{refit.persons[word.person].name} says {word.said.value}:{title} {word.note}".rstrip()
        of = refit.job_of[word.task].id if word.task in refit.tasks else ""
        yield LogLine(word.at, LineKind.SAID, words, (word.person,), of, "", "morning", word.photos)


def _seen(refit: Refit) -> Iterator[LogLine]:
    for finding in refit.findings:
        job = finding.jobs[0] if finding.jobs else ""
        words = f"Found, {finding.severity.value}: {finding.title}. {finding.note}".strip()
        yield LogLine(
            finding.at, LineKind.FOUND, words, (), job, finding.place or "", f"finding/{finding.id}", finding.photos
        )
    for row in refit.inspections:
        if row.at is not None and row.verdict is not None:
            read = f", {row.reading:g} {row.unit}" if row.reading is not None else ""
            words = f"Looked at {row.title}: {row.verdict.value}{read}. {row.note}".strip()
            yield LogLine(row.at, LineKind.LOOKED, words, (), "", row.place or "", f"look#{row.id}", row.photos)
    for check in refit.checks:
        said = "passed" if check.passed else "did not pass"
        words = f"{refit.tasks[check.task].title}: {check.title}: {said}. {check.seen}".strip()
        people = (check.person,) if check.person else ()
        line = _task_line(refit, check.at, LineKind.LOOKED, check.task, words, people)
        yield LogLine(line.at, line.kind, words, people, line.job, line.place, f"accept/{check.task}", check.photos)


def _days(refit: Refit) -> Iterator[LogLine]:
    zone = refit.yard.zone
    for day in refit.days:
        words = " ".join(part for part in (day.weather + "." if day.weather else "", day.words) if part)
        yield LogLine(
            day.closed_at, LineKind.DAY, words or "Nothing said", day.here, "", "", f"day/{day.on}", day.photos
        )
    for one in refit.lost:
        evening = datetime.combine(one.on, time(18), tzinfo=zone)
        words = f"{one.hours:g} h lost to {one.reason.value}. {one.note}".strip()
        people = (one.person,) if one.person else ()
        yield LogLine(evening, LineKind.LOST, words, people, one.job or "", "", f"day/{one.on}")


def _gate(refit: Refit) -> Iterator[LogLine]:
    for tick in refit.gate_ticks:
        what = "She was let go" if tick.item == LET_GO else tick.item.partition(":")[2] or tick.item
        said = "overruled" if tick.overruled else "as it should be" if tick.passed else "not right"
        words = f"{what}: {said}. {tick.seen}".strip()
        people = (tick.person,) if tick.person else ()
        yield LogLine(tick.at, LineKind.GATE, words, people, "", "", "launch", tick.photos)


def _money(refit: Refit) -> Iterator[LogLine]:
    verbs = {EntryKind.PAYMENT: "Paid", EntryKind.INVOICE: "Invoiced", EntryKind.CREDIT: "Credited"}
    for entry in refit.entries:
        verb = verbs.get(entry.kind, "Came back")
        words = f"{verb} {money(entry.amount, entry.currency)}: {entry.title}" + (
            f", {entry.party}" if entry.party else ""
        )
        people = (entry.person,) if entry.person else ()
        yield LogLine(entry.at, LineKind.MONEY, words, people, entry.job or "", "", "purse/ledger", entry.photos)
    parts = {line.id: refit.part_by_id[line.part] for line in refit.order_lines}
    for row in refit.receipts:
        words = f"{parts[row.line].name}: {row.condition.value}" + (f", {row.stowed}" if row.stowed else "")
        page = f"stores/part/{parts[row.line].id}"
        yield LogLine(row.at, LineKind.PARCEL, words, (), "", "", page, row.photos)


def _aside(decisions: Iterable[Decision], photos: Iterable[Photo]) -> Iterator[LogLine]:
    for one in decisions:
        why = f", because {one.reason}" if one.reason else ""
        words = f"Decided {one.title}: {one.adopted}{why}"
        yield LogLine(one.at, LineKind.DECIDED, words, (), one.job or "", "", "findings#decisions")
    for photo in photos:
        yield LogLine(
            photo.at, LineKind.PHOTO, photo.title or "A photo", (), "", "", f"photo/{photo.id}.jpg", (photo.id,)
        )
