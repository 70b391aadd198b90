"""Days gained or lost against a baseline, by task, job, person and reason; and the work left beside the days left.

The whole slip is when the must-work is ready now less when it was to be ready by the baseline. It is told off along the
chain that leads to the end: backwards from what drives the launch, each task to the one that ended last of those it
waited for. With L(t) how much later t ends than in the baseline, each task's share is L(t) less L of the one before it,
so the shares add up to the whole to the minute. Work the baseline doesn't know takes the time it took.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from rovask.core.plain.words import minutes_of
from rovask.core.plan.planner import Planned
from rovask.core.refit.days.choices import LostTo
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Baseline, PlannedTask, Refit, Task
from rovask.core.refit.work.choices import LinkKind
from rovask.core.refit.work.make_good import with_make_good

SLOWER = 1.1  # worked hours over estimated ones from which a task was slower than thought


@dataclass(frozen=True, slots=True)
class Share:
    """One task's share of the slip, in minutes; negative: gained. new: the baseline doesn't know the task."""

    task: str
    title: str
    job: str
    people: tuple[str, ...]
    reason: LostTo | None
    minutes: int
    new: bool = False


@dataclass(frozen=True)
class Progress:
    """How a refit stands against a baseline. was, now: when the must-work was to be ready, and is; shares add up to slip.

    worked, estimated: person-hours logged on what is done, and what that was estimated at. by_*: minutes by what is said.
    """

    baseline: Baseline
    was: datetime
    now: datetime
    shares: tuple[Share, ...]
    worked: float
    estimated: float
    added: tuple[Task, ...]

    @property
    def slip(self) -> int:
        """Minutes later (negative: sooner) than by the baseline."""
        return minutes_of(self.now - self.was)

    def by(self, what: str) -> list[tuple[str, int]]:
        """Minutes by ``job``, ``person`` or ``reason``, the most lost first. A task of several people is shared out evenly."""
        sums: dict[str, float] = defaultdict(float)
        for one in self.shares:
            if what == "job":
                sums[one.job or "the launch itself"] += one.minutes
            elif what == "reason":
                sums[_reason_told(one)] += one.minutes
            else:
                for who in one.people or ("",):
                    sums[who] += one.minutes / max(len(one.people), 1)
        rows = [(name, round(much)) for name, much in sums.items() if round(much)]
        return sorted(rows, key=lambda row: (-row[1], row[0]))


def _reason_told(share: Share) -> str:
    if share.reason is not None:
        return share.reason.value
    return "gained" if share.minutes < 0 else "no reason known"


def ready_of(planned: Planned) -> datetime:
    """When the must-work is ready, as the verdict has it; once she floats, when the plan launched her."""
    return planned.plan.ready.at if planned.plan.ready is not None else planned.plan.launch


def progress(refit: Refit, planned: Planned, baseline: Baseline) -> Progress:
    """The slip against a baseline, told off. O(tasks + ties)."""
    now = ready_of(planned)
    was = baseline.ready_at or baseline.launch_at
    refit = with_make_good(refit, planned.plan.made_good)
    done = [task for task in refit.tasks.values() if task.done_at is not None and task.id in refit.logged]
    known = baseline.known
    return Progress(
        baseline,
        was,
        now,
        tuple(_Chain(refit, planned, baseline).shares(was, now)),
        sum(refit.logged[task.id] for task in done),
        sum(estimate(task) * task.hands for task in done),
        tuple(task for task in refit.tasks.values() if task.id not in known),
    )


def estimate(task: Task) -> float:
    """Hours a task was first thought to take, with all its hands at it."""
    return task.work.likely * task.units / task.paced


def _netted(minutes: list[int], waits: list[int]) -> list[int]:
    """Shares of a chain with what was lost and then only not waited for taken off both; the sum stays.

    waits: of each share, by how much the wait before its task grew (negative: shrank). Where work that was found took five
    days out of a wait of six, one day is lost and none is gained.

    >>> _netted([6, -5], [0, -5]), _netted([-3, 3], [0, 3]), _netted([6, -5], [0, 0])
    ([1, 0], [0, 0], [6, -5])
    """
    out = list(minutes)
    for at, wait in enumerate(waits):
        left = min(abs(wait), abs(out[at])) if wait * out[at] > 0 else 0
        sign = 1 if wait > 0 else -1
        for before in range(at - 1, -1, -1):
            if left and out[before] * sign < 0:
                take = min(left, abs(out[before]))
                out[before] += sign * take
                out[at] -= sign * take
                left -= take
    return out


class _Chain:
    """The chain that leads to the end, and what each task of it adds to the slip."""

    def __init__(self, refit: Refit, planned: Planned, baseline: Baseline) -> None:
        self.refit, self.planned = refit, planned
        self.old = {row.task: row for row in baseline.tasks}
        self.known = baseline.known
        self.now_at = self._times()
        self.before: dict[str, list[str]] = defaultdict(list)
        for link in refit.links:
            if link.kind in (LinkKind.FS, LinkKind.FF) and link.first in refit.tasks:
                self.before[link.then].append(link.first)

    def _times(self) -> dict[str, tuple[datetime, datetime, tuple[str, ...]]]:
        """Start, end and people of every task: as it happened, else as in the schedule that shows when she is ready."""
        plan = self.planned.plan
        out = {item.task: (item.start, item.end, item.people) for item in plan.assignments}
        if plan.ready is not None:
            out |= {item.task: (item.start, item.end, item.people) for item in plan.ready.assignments}
        for task in self.refit.tasks.values():
            if task.begun_at is not None and task.done_at is not None:
                out[task.id] = (task.begun_at, task.done_at, task.crew)
        return {key: row for key, row in out.items() if key in self.refit.tasks}

    def _last(self, by: datetime) -> str | None:
        """What ends last of the must-work by a moment: what drives the launch, where that is known."""
        driving = [key for key in self.planned.verdict.driving if key in self.now_at and self.now_at[key][1] <= by]
        rows = driving or [key for key, row in self.now_at.items() if row[1] <= by]
        return max(rows, key=lambda key: (self.now_at[key][1], key), default=None)

    def _previous(self, key: str, seen: set[str]) -> str | None:
        """What a task came after: of what it waits for, and of what its people did before, what ended last."""
        start, _, people = self.now_at[key]
        rows = [one for one in self.before[key] if one in self.now_at and one not in seen]
        rows = [one for one in rows if self.now_at[one][1] <= start] or [
            one
            for one, row in self.now_at.items()
            if one not in seen and one != key and row[1] <= start and set(row[2]) & set(people)
        ]
        return max(rows, key=lambda one: (self.now_at[one][1], one), default=None)

    def shares(self, was: datetime, now: datetime) -> Iterable[Share]:
        """One for each task of the chain, from the end back to the beginning, in order of time; nothing of nought."""
        chain: list[str] = []
        key = self._last(now)
        while key is not None:
            chain.append(key)
            key = self._previous(key, set(chain))
        chain.reverse()
        minutes, waits = list[int](), list[int]()
        late, ended = 0, None
        for key in chain:
            start, end, _ = self.now_at[key]
            if key in self.old:
                old = self.old[key]
                mine = minutes_of(end - old.end) - late
                waits.append(mine - minutes_of((end - start) - (old.end - old.start)))
            else:
                mine = minutes_of(end - (ended if ended is not None else start))
                waits.append(0)
            late += mine
            ended = end
            minutes.append(mine)
        out = [self._share(key, mine) for key, mine in zip(chain, _netted(minutes, waits), strict=True)]
        rest = minutes_of(now - was) - late
        if rest:
            out.append(Share("", "From the last task to the launch", "", (), None, rest))
        return [one for one in out if one.minutes]

    def _share(self, key: str, minutes: int) -> Share:
        task = self.refit.tasks[key]
        people = self.now_at[key][2]
        reason = self._reason(task, minutes) if minutes > 0 else None
        return Share(key, task.title, self.refit.job_of[key].title, people, reason, minutes, key not in self.old)

    def _reason(self, task: Task, minutes: int) -> LostTo | None:
        """Why a task is later: what was said of those days, else what the records show."""
        old = self.old.get(task.id)
        if old is None:
            return LostTo.FOUND if task.id not in self.known else None
        start, end, people = self.now_at[task.id]
        said = self._said(task, people, min(old.start, start), end)
        if said is not None:
            return said
        thought = estimate(task) * task.hands * SLOWER
        if task.done_at is not None and self.refit.logged.get(task.id, 0.0) > thought:
            return LostTo.SLOWER
        if start - old.start >= timedelta(minutes=minutes) / 2:
            if any(self._came_late(key, old) for key in task.parts):
                return LostTo.PART
            trades = [self.refit.persons[who] for who in people if who in self.refit.persons]
            slipped = {visit.person for visit in self.refit.visits if visit.was is not None}
            if any(who.role in (Role.TRADE, Role.YARD) and (who.id in slipped or who.absences) for who in trades):
                return LostTo.NO_SHOW
            if task.weather is not None and task.weather.dry:
                return LostTo.RAIN
        return None

    def _said(self, task: Task, people: tuple[str, ...], first: datetime, last: datetime) -> LostTo | None:
        """To what most hours were lost, of those that were written down for its job or its people in those days."""
        zone = self.refit.yard.zone
        days = (first.astimezone(zone).date(), last.astimezone(zone).date())
        job = self.refit.job_of[task.id].id
        sums: dict[LostTo, float] = defaultdict(float)
        for one in self.refit.lost:
            mine = one.job == job or (one.job is None and (one.person is None or one.person in people))
            if days[0] <= one.on <= days[1] and mine:
                sums[one.reason] += one.hours
        return max(sums, key=lambda reason: sums[reason], default=None)

    def _came_late(self, part: str, old: PlannedTask) -> bool:
        """Whether a part came, or comes, after the task was to begin."""
        lines = {line.id for line in self.refit.order_lines if line.part == part}
        came = [row.at for row in self.refit.receipts if row.line in lines]
        said = self.refit.part_by_id[part].arrives
        return max([*came, *([said] if said is not None else [])], default=old.start) > old.start


# Work left, days left


@dataclass(frozen=True, slots=True)
class LeftOn:
    """Person-hours of work left at the end of a day: as it was or is planned, by the baseline (None: not known), and the
    hours people have from then to the launch.
    """

    day: date
    left: float
    hoped: float | None
    past: bool


def work_left(refit: Refit, planned: Planned, baseline: Baseline | None) -> list[LeftOn]:
    """The work left day by day, from the haul-out to the later of slot and planned end of the work before the launch.

    What is past counts back from today: what was logged since was still to do. What is to come goes off as planned; a
    task's hours go evenly over its span. O(tasks x days).
    """
    refit = with_make_good(refit, planned.plan.made_good)
    zone = refit.yard.zone
    plan = planned.plan
    today = plan.now.astimezone(zone).date()
    left = {task.id: refit.hours_to_do(task) * task.hands for task in refit.tasks.values()}
    out_of_plan = {task.id for job in refit.jobs if job.id in plan.left_out for task in job.tasks}
    items = [item for item in plan.assignments if left.get(item.task) and item.task not in out_of_plan]
    whole = sum(left[item.task] for item in items)
    gone: dict[date, float] = defaultdict(float)
    for entry in refit.hours_log:
        gone[entry.at.astimezone(zone).date()] += entry.hours
    for task in refit.tasks.values():
        if task.done_at is not None and task.id not in refit.logged:
            gone[task.done_at.astimezone(zone).date()] += estimate(task) * task.hands
    first = min([refit.haul_at.astimezone(zone).date(), *gone])
    ends = [item.end for item in items]
    last = max([refit.launch_at, plan.launch, *ends]).astimezone(zone).date()
    ahead = _going(((item.resume or item.start, item.end, left[item.task]) for item in items), zone)
    hoped = _hoped(refit, baseline)
    rows, now_left = [], whole
    for n in range((last - first).days + 1):
        day = first + timedelta(days=n)
        if day < today:
            value = whole + sum(much for on, much in gone.items() if on > day)
        else:
            now_left -= ahead.get(day, 0.0)
            value = max(now_left, 0.0)
        rows.append(LeftOn(day, value, hoped(day) if hoped is not None else None, day < today))
    return rows


def _going(spans: Iterable[tuple[datetime, datetime, float]], zone: object) -> Mapping[date, float]:
    """Hours that go off on each day, each span's evenly over its days."""
    out: dict[date, float] = defaultdict(float)
    for start, end, much in spans:
        first, last = start.astimezone(zone).date(), end.astimezone(zone).date()  # type: ignore[arg-type]
        days = (last - first).days + 1
        for n in range(days):
            out[first + timedelta(days=n)] += much / days
    return out


def _hoped(refit: Refit, baseline: Baseline | None):  # type: ignore[no-untyped-def]
    """The baseline's work left at the end of a day."""
    if baseline is None:
        return None
    hands = {
        row.task: refit.tasks[row.task].hands if row.task in refit.tasks else max(len(row.people), 1)
        for row in baseline.tasks
    }
    going = _going(((row.start, row.end, row.hours * hands[row.task]) for row in baseline.tasks), refit.yard.zone)
    whole = sum(going.values())
    return lambda day: max(whole - sum(much for on, much in going.items() if on <= day), 0.0)


def planned_share(baseline: Baseline, keys: set[str], at: datetime) -> float:
    """Share of some tasks' hours that was to be done by a moment, 0 to 1; what the baseline doesn't know is left out."""
    rows = [row for row in baseline.tasks if row.task in keys and row.hours]
    whole = sum(row.hours for row in rows)
    gone = 0.0
    for row in rows:
        length = (row.end - row.start).total_seconds()
        share = 1.0 if at >= row.end else max((at - row.start).total_seconds(), 0) / length if length else 0.0
        gone += row.hours * min(share, 1.0)
    return gone / whole if whole else 0.0
