"""The day closed, somebody who slips, a plan kept to measure by, the refit closed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta

from rovask.core.books.pace import at_pace, paces, with_paces
from rovask.core.plain.faults import Fault, RefitFaults, refused
from rovask.core.plain.words import count
from rovask.core.plan.baseline import baseline_of
from rovask.core.refit import edits
from rovask.core.refit.days.choices import LostTo
from rovask.core.refit.days.edits import close_day, day_of, slipped
from rovask.core.refit.model import DayEntry, Finding, HoursEntry, Lost, OffBoat, Photo, Refit, Use, Visit
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.seen.edits import moved_off
from rovask.core.refit.whole import Edited
from rovask.core.refit.work import edits as work_edits
from rovask.desk.command import EditOutcome, RefitCommand, Situation
from rovask.desk.commands.seen import photo_of
from rovask.formats.photo import Picture

EVENING = time(18)  # when things are taken to have happened on a past day, unless it is said


@dataclass(frozen=True, slots=True)
class Worked:
    """What was done of one task in a day: hours by person, and whether it is done now."""

    task: str
    hours: tuple[tuple[str, float], ...] = ()
    done: bool = False


@dataclass(frozen=True, slots=True)
class CameOff:
    """Something that came off in a day: one of the register by its id, or a new thing by its name."""

    thing: str = ""
    what: str = ""
    lies_at: str = ""
    bag: str = ""


@dataclass(frozen=True, slots=True)
class HoursLost:
    """Hours of a day that came to nothing. id: of those that were noted before, set right now."""

    reason: LostTo
    hours: float
    job: str = ""
    person: str = ""
    note: str = ""
    id: str = ""


@dataclass(frozen=True)
class DaySeen:
    """What a day's form showed when it was opened, so that saving it changes what was changed in it and nothing else.

    hours: by (task, person), used: by (task, part), None where there was nothing; lost: by id.
    """

    words: str = ""
    weather: str = ""
    here: frozenset[str] = frozenset()
    hours: Mapping[tuple[str, str], float | None] = field(default_factory=dict)
    used: Mapping[tuple[str, str], float | None] = field(default_factory=dict)
    lost: Mapping[str, HoursLost] = field(default_factory=dict)


@dataclass(frozen=True)
class CloseDay(RefitCommand):
    """A day is written down, or set right: what was done, used up, found and taken off, lost hours, weather, words, photos.

    worked: only what is said is changed; hours that are said for somebody take the place of those logged for that task
    on that day. used: by (task, part), how much of it went. Anything done is a fact and asks nothing.
    seen_day: what whoever closes it saw; what somebody else changed meanwhile is then told instead of overwritten.
    """

    on: date
    words: str = ""
    weather: str = ""
    here: tuple[str, ...] = ()
    worked: tuple[Worked, ...] = ()
    used: tuple[tuple[str, str, float], ...] = ()
    off: tuple[CameOff, ...] = ()
    lost: tuple[HoursLost, ...] = ()
    found: str = ""
    found_place: str = ""
    found_severity: Severity = Severity.WATCH
    paper: tuple[Picture, ...] = field(default=())
    seen_day: DaySeen | None = None

    @property
    def pictures(self) -> tuple[Picture, ...]:
        """The photos of the day."""
        return self.paper

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Everything at once, or nothing of it. Raises RefitFaults for a day that lies ahead."""
        zone = refit.yard.zone
        today = at.moment.astimezone(zone).date()
        if self.on > today:
            raise refused("This day lies ahead; close it in its evening.")
        evening = datetime.combine(self.on, EVENING, tzinfo=zone)
        moment = at.moment if self.on == today else min(evening, at.moment)
        told = f"wrote down {self.on:%a %-d %b}" if day_of(refit, self.on) is None else f"set {self.on:%a %-d %b} right"
        ticked = 0
        meanwhile = list(self._meanwhile(refit)) if self.seen_day is not None else []
        if meanwhile:
            raise RefitFaults(meanwhile)
        for one in self.worked:
            refit, done = self._work(refit, one, moment, at)
            ticked += done
        for task, part, much in self.used:
            refit = self._use(refit, task, part, much, at)
        photos: list[Photo] = []
        for thing in self.off:
            refit = self._off(refit, thing, moment, at)
        if self.found:
            where = self.found_place if self.found_place in refit.place_by_id else None
            finding = Finding(
                id=at.new_id("finding"), title=self.found, place=where, severity=self.found_severity, at=moment
            )
            refit = edits.put(refit, finding)
        keys = []
        for picture in self.paper:
            rows, key = photo_of(picture, f"{self.on:%-d %B}", at)
            photos += rows
            keys.append(key)
        entry = self._entry(refit, tuple(keys), at)
        refit = close_day(refit, entry, tuple(self._lost_now(refit, at)))
        more = [f"{count(ticked, 'task')} done"] if ticked else []
        lost = sum(one.hours for one in refit.lost if one.on == self.on)
        more += [f"{lost:g} h lost"] if lost else []
        return EditOutcome(Edited(refit, tuple(photos)), told + (f": {', '.join(more)}" if more else ""))

    def _entry(self, refit: Refit, photos: tuple[str, ...], at: Situation) -> DayEntry:
        """The day's own lines: as they are typed, else as somebody else wrote them meanwhile."""
        old, saw = day_of(refit, self.on), self.seen_day
        here, words, weather = self.here, self.words, self.weather
        if old is not None and saw is not None:
            here = (*(who for who in old.here if who in self.here or who not in saw.here), *self.here)
            words = old.words if words == saw.words else words
            weather = old.weather if weather == saw.weather else weather
        entry = DayEntry(
            id=at.new_id("day"),
            on=self.on,
            here=tuple(dict.fromkeys(who for who in here if who in refit.persons)),
            weather=weather,
            words=words,
            photos=photos,
            closed_at=at.moment,
        )
        if old is not None and (set(entry.here), words, weather, photos) == (set(old.here), old.words, old.weather, ()):
            return old.model_copy(update={"photos": ()})  # nothing of it changed, nor when it was closed
        return entry

    def _meanwhile(self, refit: Refit) -> Iterator[Fault]:
        """What is changed here and was changed by somebody else since the form was opened: both are told."""
        saw, zone = self.seen_day or DaySeen(), refit.yard.zone
        for one in self.worked:
            for who, hours in one.hours:
                there = sum(
                    row.hours
                    for row in refit.hours_log
                    if row.task == one.task and row.person == who and row.at.astimezone(zone).date() == self.on
                )
                if (one.task, who) in saw.hours and there not in (saw.hours[one.task, who] or 0, hours):
                    yield _changed(f"hours:{one.task}:{who}", f"{there:g} h", f"{hours:g} h")
        uses = {(use.task, use.part): use.used for use in refit.uses}
        for task, part, much in self.used:
            used = uses.get((task, part))
            if (task, part) in saw.used and used not in (saw.used[task, part], much):
                yield _changed(f"used:{task}:{part}", f"{used or 0:g}", f"{much:g}")
        old = day_of(refit, self.on)
        for name, typed, shown in (("words", self.words, saw.words), ("weather", self.weather, saw.weather)):
            theirs = getattr(old, name) if old is not None else ""
            if typed != shown and theirs not in ("", shown, typed):
                yield _changed(name, f"“{theirs}”", "what you typed")
        now = {one.id: _as_said(one) for one in refit.lost if one.on == self.on}
        mine = {one.id: one for one in self.lost if one.id}
        for key, was in saw.lost.items():
            if key in now and now[key] not in (was, mine.get(key)) and mine.get(key) != was:
                yield _changed(f"lost:{key}", f"{now[key].hours:g} h to {now[key].reason.value}", "what you typed")

    def _lost_now(self, refit: Refit, at: Situation) -> Iterator[Lost]:
        """The hours the day lost: those of the form, and what somebody else noted since it was opened."""
        mine = {one.id: one for one in self.lost if one.id}
        saw = self.seen_day
        for row in refit.lost:
            if row.on != self.on or saw is None:
                continue
            said = mine.pop(row.id, None)
            if said is None and row.id in saw.lost:
                continue  # taken out here
            shown = saw.lost.get(row.id)
            yield row if said is None or said == shown else self._lost(refit, said, at, row.id)
        for one in self.lost:
            if not one.id or saw is None or one.id in mine:
                yield self._lost(refit, one, at, at.new_id("lost"))

    def _work(self, refit: Refit, one: Worked, moment: datetime, at: Situation) -> tuple[Refit, int]:
        """Hours logged and the tick; of hours of that day only what differs is written again."""
        task = work_edits.task_of(refit, one.task)
        zone = refit.yard.zone
        mine = {
            who: [
                row
                for row in refit.hours_log
                if row.task == task.id and row.person == who and row.at.astimezone(zone).date() == self.on
            ]
            for who, _ in one.hours
        }
        for who, hours in one.hours:
            if who not in refit.persons:
                raise refused("Somebody in this form is not one of the people any more; open the day again.")
            old = mine[who]
            if sum(row.hours for row in old) == hours:
                continue
            gone = {row.id for row in old}
            refit = edits.rebuilt(refit, hours_log=tuple(row for row in refit.hours_log if row.id not in gone))
            if hours > 0:
                entry = HoursEntry(id=at.new_id("hours"), task=task.id, person=who, at=moment, hours=hours)
                if old or task.done_at is not None:  # set right: what is left was judged already
                    refit = edits.rebuilt(refit, hours_log=(*refit.hours_log, entry))
                else:
                    refit = work_edits.log_hours(refit, entry, None)
        task = refit.tasks[task.id]
        if one.done and task.done_at is None:
            crew = tuple(who for who, hours in one.hours if hours > 0)
            planned = at.planned.plan.by_task().get(task.id)
            crew = crew or task.crew or (planned.people if planned is not None else ())
            longest = max((hours for _, hours in one.hours), default=0.0)
            morning = datetime.combine(
                self.on, time(0), tzinfo=zone
            )  # closed before the shift, it is still of this day
            begun = max(moment - timedelta(hours=longest), morning) if longest else None
            return work_edits.finish_task(refit, task.id, moment, crew, begun), 1
        return refit, int(one.done and task.done_at == moment)

    def _use(self, refit: Refit, task: str, part: str, much: float, at: Situation) -> Refit:
        """What a task took of a part. Raises RefitFaults when it doesn't take it."""
        if part not in work_edits.task_of(refit, task).parts:
            raise refused("A task in this form does not use that part any more; open the day again.")
        old = next((use for use in refit.uses if (use.task, use.part) == (task, part)), None)
        data = (
            old.model_dump() if old else {"id": at.new_id("use"), "task": task, "part": part, "amount": max(much, 1e-6)}
        )
        return edits.put(refit, Use.model_validate(data | {"used": much}))

    def _off(self, refit: Refit, one: CameOff, moment: datetime, at: Situation) -> Refit:
        """Off, with where it lies; a new thing goes into the register."""
        key = one.thing
        if not key:
            key = at.new_id("off-boat")
            refit = edits.put(refit, OffBoat(id=key, what=one.what))
        return moved_off(refit, key, "off", moment, lies_at=one.lies_at or None, note=None, bag=one.bag or None)

    def _lost(self, refit: Refit, one: HoursLost, at: Situation, key: str) -> Lost:
        return Lost(
            id=key,
            on=self.on,
            reason=one.reason,
            hours=one.hours,
            person=one.person if one.person in refit.persons else None,
            job=one.job if any(job.id == one.job for job in refit.jobs) else None,
            note=one.note,
        )


def _changed(path: str, theirs: str, mine: str) -> Fault:
    return Fault(path, f"it was made {theirs} meanwhile; save again, and {mine} takes its place")


def _as_said(row: Lost) -> HoursLost:
    """Hours lost as a form has them."""
    return HoursLost(row.reason, row.hours, row.job or "", row.person or "", row.note, row.id)


@dataclass(frozen=True)
class Slips(RefitCommand):
    """Somebody comes later: on ``back``. All the rest is planned round it; who must be told is on their page.

    word: what they said of it by their own link, dealt with by this.
    """

    person: str
    back: date
    reason: str = ""
    word: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Their stay moves, or they are away until then."""
        today = at.moment.astimezone(refit.yard.zone).date()
        after, stay = slipped(refit, self.person, today, self.back, self.reason, at.new_id("visit"))
        said = next((one for one in after.words if one.id == self.word), None)
        if said is not None:
            after = edits.put(after, said.model_copy(update={"answered": True}))
        told = f"put {refit.persons[self.person].name} off to {self.back:%a %-d %b}"
        return EditOutcome(Edited(after), told + (f": {self.reason}" if self.reason else ""), stay)


@dataclass(frozen=True)
class ComeTogether(RefitCommand):
    """Several people stay at once: a stay for each, with the same days and the same to be ready."""

    title: str
    people: tuple[str, ...]
    first: date
    last: date
    ready: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Their stays. Raises RefitFaults for nobody, and for days that can't be."""
        known = [who for who in self.people if who in refit.persons]
        faults = [] if known else [Fault("person", "Tick who comes.")]
        if self.last < self.first:
            faults.append(Fault("last", "leaves before it comes"))
        if faults:
            raise RefitFaults(faults)
        names = [refit.persons[who].name for who in known]
        rows = tuple(
            Visit(
                id=at.new_id("visit"),
                title=(self.title or refit.persons[who].name)[:120],
                person=who,
                first=self.first,
                last=self.last,
                ready=self.ready,
            )
            for who in known
        )
        told = f"a stay of {', '.join(names)} from {self.first:%-d %b} to {self.last:%-d %b}"
        return EditOutcome(Edited(edits.rebuilt(refit, visits=(*refit.visits, *rows))), told)


@dataclass(frozen=True)
class UsePaces(RefitCommand):
    """What is left goes by the paces that were learned, of the people and kinds of work that are chosen; for none of them
    it goes by what was first thought again.
    """

    chosen: tuple[tuple[str, str], ...]

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The hours of what is left and not begun."""
        learned = {(one.person, one.work): one.factor for one in paces(refit) if (one.person, one.work) in self.chosen}
        rows = {row.task.id: row for row in with_paces(refit, at.planned.plan, learned)}
        if not rows:
            return EditOutcome(Edited(refit), "changed no hours")
        jobs = tuple(
            job
            if not any(task.id in rows for task in job.tasks)
            else job.model_copy(
                update={
                    "tasks": tuple(
                        at_pace(task, rows[task.id].factor) if task.id in rows else task for task in job.tasks
                    )
                }
            )
            for job in refit.jobs
        )
        more = sum((row.then - row.now) * row.task.units * row.task.hands for row in rows.values())
        told = f"took the paces learned for {count(len(rows), 'task')}: {more:+g} h"
        return EditOutcome(Edited(edits.rebuilt(refit, jobs=jobs)), told)


@dataclass(frozen=True)
class KeepBaseline(RefitCommand):
    """The present plan is kept to measure by."""

    title: str
    why: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Put aside."""
        title = self.title or f"Plan of {at.moment.astimezone(refit.yard.zone):%-d %B}"
        kept = baseline_of(refit, at.planned, at.new_id("baseline"), title, self.why, at.moment)
        return EditOutcome(Edited(refit, (kept,)), f"kept the plan to measure by: {title}", kept.id)
