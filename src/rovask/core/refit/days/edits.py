"""Changes to what is written down day by day: a day closed, a look at work, a tick at the gate, a stay that slips."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from rovask.core.plain.faults import refused
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.kinds import DayRange
from rovask.core.refit.model import Check, DayEntry, Lost, Person, Refit, Visit
from rovask.core.refit.seen.edits import follow_up
from rovask.core.refit.work.choices import Opens, State
from rovask.core.refit.work.edits import update_task
from rovask.core.refit.work.kinds import Task, WorkTime

LONGEST_SLIP = 120  # days


def day_of(refit: Refit, on: date) -> DayEntry | None:
    """A day as it was written down; None where it wasn't."""
    return next((one for one in refit.days if one.on == on), None)


def close_day(refit: Refit, entry: DayEntry, lost: tuple[Lost, ...]) -> Refit:
    """A day is written down, or set right: its entry and the hours it lost replace what was there."""
    old = day_of(refit, entry.on)
    entry = entry if old is None else entry.model_copy(update={"id": old.id, "photos": (*old.photos, *entry.photos)})
    rest = tuple(one for one in refit.lost if one.on != entry.on)
    return put(rebuilt(refit, lost=(*rest, *lost)), entry)


def look_at_work(
    refit: Refit,
    check: Check,
    *,
    who: str | None,
    hours: float,
    snag_id: str,
    link_id: str,
    opens: tuple[Opens, ...],
    along: str = "",
    state: State | None = None,
) -> Refit:
    """Note a look at work that is done. What did not pass is put right by ``who``, in a task of its own that what follows
    waits for. along: a snag of the same look that this is put right with; state: of the boat, where it isn't the work's own.
    Raises RefitFaults for work that isn't done, and for a snag nobody is to put right.
    """
    task = refit.tasks.get(check.task)
    if task is None:
        raise refused("This task is gone; somebody removed it meanwhile.")
    if task.done_at is None:
        raise refused("It isn't done yet, so there is nothing to accept.")
    if check.passed:
        return put(refit, check.model_copy(update={"snag": None, "until": None}))
    open_snag = next(
        (
            refit.tasks[one.snag]
            for one in refit.checks
            if one.task == check.task and one.title == check.title and one.snag in refit.tasks
            if one.snag and refit.tasks[one.snag].done_at is None
        ),
        None,
    )
    if open_snag is not None:  # seen wrong again while the same snag is still open
        return put(refit, check.model_copy(update={"snag": open_snag.id}))
    if who is None or who not in refit.persons:
        raise refused("Say who puts it right.", "who")
    if along in refit.tasks:
        return put(_put_right_too(refit, along, check, hours), check.model_copy(update={"snag": along}))
    snag = Task(
        id=snag_id,
        title=f"Put right: {check.title}"[:120],
        place=task.place,
        state=state or task.state,
        work=WorkTime(least=0.5, likely=max(hours, 0.5), most=max(hours, 0.5) * 2),
        people=(who,),
        caution=task.caution,
        opens=opens,
        check=check.title,
        note=f"“{task.title}” did not pass. {check.seen}".strip(),
    )
    return put(follow_up(refit, task.id, snag, link_id, "put right first"), check.model_copy(update={"snag": snag_id}))


def _put_right_too(refit: Refit, snag: str, check: Check, hours: float) -> Refit:
    """One thing more in a snag that stands already: a fault that shows in several places is one."""
    task = refit.tasks[snag]
    more = max(task.work.likely, hours, 0.5)
    changes = {
        "work": WorkTime(least=task.work.least, likely=more, most=more * 2),
        "note": f"{task.note}\nAnd: {check.title}. {check.seen}".strip()[:4000],
        "check": f"{task.check}; {check.title}"[:200],
    }
    return update_task(refit, snag, **changes)


def slipped(refit: Refit, person: str, now_day: date, back: date, reason: str, new_id: str) -> tuple[Refit, str]:
    """Somebody comes back later than planned: what is left of the stay moves, or they are away until then.

    Returns the refit and the id of the stay that moved, "" when it is an absence. Of a stay that has begun, the days so
    far stay what they were. Raises RefitFaults for somebody who doesn't exist and a day that isn't later.
    """
    who = refit.persons.get(person)
    if who is None:
        raise refused("This person is gone; somebody removed them meanwhile.")
    if not now_day < back <= now_day + timedelta(days=LONGEST_SLIP):
        raise refused(f"Give a day after {now_day:%-d %B}, at most {LONGEST_SLIP} days on.", "back")
    stay = next_stay(refit, person, now_day)
    if stay is None:
        return _away(refit, who, now_day, back, reason), ""
    if back <= stay.first:
        raise refused(f"Their stay begins on {stay.first:%a %-d %b}; give a later day, or edit the stay.", "back")
    length = stay.last - max(stay.first, now_day)
    begun = stay.first < now_day
    if begun:
        before = stay.model_copy(update={"last": now_day - timedelta(days=1)})
        after = Visit.model_validate(
            stay.model_dump() | {"id": new_id, "first": back, "last": back + length, "was": stay.was or now_day}
        )
        return put(put(refit, before), after), new_id
    moved: dict[str, Any] = {"first": back, "last": back + length, "was": stay.was or stay.first}
    return put(refit, Visit.model_validate(stay.model_dump() | moved)), stay.id


def next_stay(refit: Refit, person: str, day: date) -> Visit | None:
    """The stay of somebody that a day lies in, else the next one."""
    mine = sorted((one for one in refit.visits if one.person == person and one.last >= day), key=lambda one: one.first)
    return mine[0] if mine else None


def _away(refit: Refit, who: Person, now_day: date, back: date, reason: str) -> Refit:
    span = DayRange(first=now_day, last=back - timedelta(days=1), reason=reason[:120])
    changed = Person.model_validate(who.model_dump() | {"absences": (*who.absences, span)})
    return put(refit, changed)


def is_paid_person(person: Person) -> bool:
    """Whether somebody is paid by the hour or the job: a trade or the yard's."""
    return person.role in (Role.TRADE, Role.YARD)
