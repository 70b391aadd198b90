"""Work that is done is looked at before it is covered or paid for: what of it, by whom, and how that stands.

Paid work ends in checks: what its task asks, what belongs to its trade and, where a job is closed up, to what that opened.
One's own has one, lighter, where bad work lets water in or burns: a second pair of eyes. All of it is common practice.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from typing import Protocol
from zoneinfo import ZoneInfo

from rovask.core.plain.derived import derived
from rovask.core.readings.closes import opened_by
from rovask.core.readings.looks import GRAVE
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Check, Job, Link, Refit, Task
from rovask.core.refit.work.choices import LinkKind, Opens, State

BY_THING: Mapping[Opens, str] = {
    Opens.THROUGH_HULL: "Bedded all round, bolts tight, sealant as agreed and fair outside",
    Opens.VALVE: "Opens and shuts by hand, its handle clear of its neighbour",
    Opens.HOSE: "Two clamps where two belong, hose cut to length, clear of anything that turns",
    Opens.SEAL: "Clamped, and set to the maker's figure, which is written down",
    Opens.ANODE: "Bright behind, bolts tight, bare",
    Opens.PROPELLER: "Nut locked, pin in and bent, no play that shouldn't be",
    Opens.RUDDER: "Pin, lock and stop seen; nothing can fall out",
    Opens.STEERING: "Every pin split, bolts tight, stop to stop",
    Opens.PLUG: "In, tight, on a line",
    Opens.TANK: "Closed and tried for leaks",
    Opens.CIRCUIT: "Runs supported and labelled, fuse as drawn, volts at the far end written down",
    Opens.GAS: "Pressure test signed, paper aboard",
    Opens.ENGINE: "Bolts tight; alignment figures written down",
    Opens.KEEL: "Torque written down, joint closed all round",
    Opens.SKIN: "No daylight, no bubbles, tapered as agreed",
    Opens.DECK: "A hose on it, dry inside; nothing smeared",
    Opens.RIG: "Every pin split and taped, terminals as they should be",
}
BY_TRADE: Mapping[str, str] = {
    "alignment": "Alignment figures written down",
    "electric": "Runs supported and labelled, fuse as drawn, volts at the far end written down",
    "gas": "Pressure test signed, paper aboard",
    "laminating": "No daylight, no bubbles, the finish as agreed",
    "mains": "Earth leakage switch trips; the paper signed",
    "mechanics": "Bolts tight, nothing left over in the tray",
    "paint": "The finish as agreed, in daylight; no runs, nothing painted that mustn't be",
    "plumbing": "Two clamps where two belong, hose cut to length, clear of anything that turns",
    "rigging": "Every pin split and taped, terminals as they should be",
    "spraying": "The finish as agreed, in daylight; no runs, nothing painted that mustn't be",
    "structure": "Tapered as agreed, measured all round",
    "welding": "Welds looked at with dye, no crack",
}
LEFT_CLEAN = "Place left as it was found: nothing loose, no tools, nothing smeared"
SECOND_EYES = "Looked at by somebody who didn't do it"


@dataclass(frozen=True, slots=True)
class Wanted:
    """One thing to look at, and the last look at it since the work was done; snag: what puts it right, where it failed."""

    title: str
    last: Check | None
    snag: Task | None

    @property
    def passed(self) -> bool:
        """Whether somebody saw it right."""
        return self.last is not None and self.last.passed

    @property
    def failed(self) -> bool:
        """Whether somebody saw it wrong, and nobody right since."""
        return self.last is not None and not self.last.passed


@dataclass(frozen=True, slots=True)
class Acceptance:
    """How one task that is done stands: whether it is paid for, and what is looked at."""

    job: Job
    task: Task
    paid: bool
    wanted: tuple[Wanted, ...]

    @property
    def accepted(self) -> bool:
        """Whether all of it was seen right."""
        return all(one.passed for one in self.wanted)

    @property
    def failed(self) -> bool:
        """Whether something of it did not pass."""
        return any(one.failed for one in self.wanted)


def is_paid(refit: Refit, task: Task) -> bool:
    """Whether a trade or the yard's people do a task, or did."""
    paid = {Role.TRADE, Role.YARD}
    who = task.crew or task.people
    return any(refit.persons[key].role in paid for key in who if key in refit.persons)


def closes(refit: Refit, job: Job, task: Task) -> bool:
    """Whether a task is the one that closes its job up: the last of it before she floats, what puts a snag right left out."""
    snags = {check.snag for check in refit.checks if check.snag}
    before = [one for one in job.tasks if one.state is not State.AFLOAT_AFTER and one.id not in snags]
    return bool(before) and before[-1].id == task.id


def wanted_of(refit: Refit, job: Job, task: Task) -> tuple[str, ...]:
    """What is looked at when a task is done; nothing for most of one's own.

    What belongs to the things a job opened is looked at when it is closed up: at the task that is the last of it.
    """
    last = closes(refit, job, task)
    opens = tuple(dict.fromkeys(what for one in job.tasks if one.begun_at for what in opened_by(refit, job, one)))
    if not is_paid(refit, task):
        grave = GRAVE & set(opens)
        return ((task.check or SECOND_EYES)[:120],) if grave and (last or task.check) else ()
    yard = all(refit.persons[key].role is Role.YARD for key in task.crew if key in refit.persons)
    skills = (*((task.skill,) if task.skill else ()), *task.skilled)
    said = [task.check, *(BY_THING[what] for what in opens if last)]
    said += [BY_TRADE[skill] for skill in skills if skill in BY_TRADE]
    said += [] if yard and not (last and opens) else [LEFT_CLEAN]
    return tuple(dict.fromkeys(words[:120] for words in said if words))


@derived(lambda refit: (refit.jobs, refit.checks, refit.people, refit.places))
def acceptances(refit: Refit) -> Mapping[str, Acceptance]:
    """Every task that is done and has something to be looked at, by its id, in order. O(tasks + checks)."""
    last: dict[tuple[str, str], Check] = {}
    asked: dict[str, list[str]] = defaultdict(list)
    snags = {check.snag for check in refit.checks if check.snag}
    for check in sorted(refit.checks, key=lambda one: one.at):
        last[check.task, check.title] = check
        asked[check.task].append(check.title)
    out = {}
    for job, task in refit.walk():
        if task.done_at is None or task.id in snags:
            continue  # what puts a snag right is looked at by looking again at what did not pass
        rows = []
        # what somebody once looked at goes on being asked, whatever was added to the job since
        for title in dict.fromkeys((*wanted_of(refit, job, task), *asked[task.id])):
            found = last.get((task.id, title))
            since = found if found is not None and found.at >= task.done_at else None
            snag = refit.tasks.get(since.snag or "") if since is not None else None
            rows.append(Wanted(title, since, snag))
        if rows:
            out[task.id] = Acceptance(job, task, is_paid(refit, task), tuple(rows))
    return out


def unaccepted(refit: Refit, job: str = "", person: str = "") -> list[Acceptance]:
    """Done and not accepted: of a job, by a person, or all."""
    return [
        one
        for one in acceptances(refit).values()
        if not one.accepted and (not job or one.job.id == job) and (not person or person in one.task.crew)
    ]


def covered_by(refit: Refit, task: Task) -> Iterator[Acceptance]:
    """The paid work that a task not begun yet would close in, and that isn't accepted."""
    if task.begun_at is not None or (not refit.checks and not any(is_paid(refit, one) for one in refit.tasks.values())):
        return
    yield from (found for link in refit.links if link.then == task.id and (found := waits_for_look(refit, link)))


def looked_at_from(now: datetime, zone: ZoneInfo) -> datetime:
    """From when the plan takes what isn't accepted yet to be so: tomorrow."""
    tomorrow = now.astimezone(zone).date() + timedelta(days=1)
    return datetime.combine(tomorrow, time(0), tzinfo=zone).astimezone(UTC)


def waits_for_look(refit: Refit, link: Link) -> Acceptance | None:
    """The paid work at the beginning of a tie that isn't accepted and that the end of the tie would close in.

    What follows it in its job, or in its place, closes it in; what puts a snag of it right does not.
    """
    first, then = refit.tasks.get(link.first), refit.tasks.get(link.then)
    if link.kind is not LinkKind.FS or first is None or then is None or then.begun_at is not None:
        return None
    found = acceptances(refit).get(first.id)
    if found is None or not found.paid or found.accepted:
        return None
    if any(check.snag == then.id for check in refit.checks):
        return None
    near = refit.job_of[first.id] is refit.job_of[then.id] or first.place == then.place
    return found if near else None


class AtGate(Protocol):
    """One thing looked at at the gate, as far as it says what it is of."""

    @property
    def key(self) -> str:
        """Its mark: what, whose, at which stage."""


def made_by(refit: Refit, item: AtGate) -> tuple[Task, str, str] | None:
    """Whose paid work a thing at the gate is: the task that is done, what of it is looked at, and who did it.

    None where it is of no job, or nobody was paid for it.
    """
    parts = item.key.split(":")
    if len(parts) != 3 or parts[0] not in set(Opens):
        return None
    what, mark = Opens(parts[0]), parts[1]
    rows = [row for row in acceptances(refit).values() if row.job.id == mark and row.paid]
    for row in reversed(rows):
        title = next((one.title for one in row.wanted if one.title == BY_THING[what][:120]), None)
        title = title or (row.wanted[0].title if row is rows[0] and row.wanted else None)
        roles = {who: refit.persons[who].role for who in row.task.crew if who in refit.persons}
        paid = [who for who, role in roles.items() if role in (Role.TRADE, Role.YARD)]
        if title is not None and paid:
            return row.task, title, paid[0]
    return None
