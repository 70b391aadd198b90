"""What a change would do, like with like: both sides planned from the same plan with the same effort.

What belongs to the change itself, its parts, its paid hours and its unknowns, is told apart from what the plan does in
answer: days on which somebody is called out, lay-days, what falls out or moves. The first is exact at once; the second
is a search, so a first answer says that it is being worked out, and the settled one comes from a search as long on both
sides. Noise of the search is no effect.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from copy import copy
from dataclasses import dataclass, field, replace
from datetime import datetime
from threading import Lock

from rovask.core.books.forecast import forecast
from rovask.core.books.items import unknowns_that_count
from rovask.core.plain.currency import exponent
from rovask.core.plain.money import Money
from rovask.core.plan.first.serial import Schedule, played_again
from rovask.core.plan.planner import Draft, Planned, draft_plan, moved_over, plan_of, schedule_of
from rovask.core.plan.problem.arrays import FIRST_TASK
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.problem.value import value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Assignment, Plan
from rovask.core.plan.solver.improve import Status, Stop, improve, put_right
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.model import Job, Part, Refit

SETTLING_SECONDS = 2.4  # on each side, both at once
RIGHT_SHARE, SOLVED_SHARE = 0.5, 0.3  # of that for what the change moves, and for the solver at the end
SEED = 1
FIRST_GO = 0.6  # of the time; the rest is for the other search
SEEDS_APART = 100
ROUNDS = 3  # that a search on both sides is cut into; the first is not counted on


class Halted(Exception):
    """A comparison was given up before it was settled: what it compares has changed meanwhile."""


class Halt:
    """A handle to give up a comparison from another thread, before it begins or while it runs."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._stops: list[Stop] = []
        self.asked = False

    def stop(self) -> Stop:
        """One more search that is to end with it."""
        stop = Stop()
        with self._lock:
            self._stops.append(stop)
            asked = self.asked
        if asked:
            stop.pull()
        return stop

    def pull(self) -> None:
        """Give it up."""
        with self._lock:
            self.asked, stops = True, list(self._stops)
        for stop in stops:
            stop.pull()


@dataclass(frozen=True, slots=True)
class Search:
    """How long each side is searched, by which clock (seconds that only grow), and the handle to give that up."""

    seconds: float
    clock: Callable[[], float]
    halt: Halt = field(default_factory=Halt)


@dataclass(frozen=True, slots=True)
class Comparison:
    """One change worked out. own: money of the thing itself; answer: what the plan of the rest does; both of the forecast.

    sooner: minutes by which *ready at* comes earlier, negative: later. out, back: titles of jobs that fall out and that
    fit again. settled: whether both sides were searched, and not only repaired.
    """

    before: Planned
    after: Planned
    own: Money
    answer: Money
    sooner: int
    out: tuple[str, ...]
    back: tuple[str, ...]
    settled: bool
    answers: Answers | None = None

    @property
    def firm(self) -> bool:
        """Whether the searches agree on the answer: within a hundredth of the thing's own money, or ten in the currency."""
        return self.answers is None or self.answers.high - self.answers.low <= about_nothing(self.own)

    @property
    def money(self) -> Money:
        """All of it."""
        return self.own + self.answer


def compare(
    refit: Refit, changed: Refit, now: datetime, so_far: Plan | None, search: Search | None = None
) -> Comparison:
    """What ``changed`` does against ``refit``, both planned from ``so_far``, and searched where that is asked. Two plans.

    Raises Halted when the search was given up.
    """
    if search is None:
        before, after = worked_out(refit, now, so_far), worked_out(changed, now, so_far)
        return between(refit, before, changed, after, settled=False)
    before, after, answers = settled(refit, changed, now, so_far, search)
    return between(refit, before, changed, after, settled=True, answers=answers)


def between(
    refit: Refit, before: Planned, changed: Refit, after: Planned, *, settled: bool, answers: Answers | None = None
) -> Comparison:
    """The comparison of two plans of two states of one refit, made with the same effort."""
    total = forecast(changed, after.plan).total - forecast(refit, before.plan).total
    own = own_money(refit, before.plan, changed, after.plan)
    if total != own:  # what an act changes of the work there was is its own, too: an hour more, a pace, another launch
        own += _reworked(refit, before.plan, changed, after.plan)
    titles = {job.id: job.title for one in (refit, changed) for job in one.jobs}
    there = {job.id for job in changed.jobs}
    out = left(changed, after.plan) - left(refit, before.plan)
    back = (left(refit, before.plan) - left(changed, after.plan)) & there
    was, is_ = before.plan.ready, after.plan.ready
    sooner = round((was.at - is_.at).total_seconds() / 60) if was is not None and is_ is not None else 0
    return Comparison(
        before,
        after,
        own,
        total - own,
        sooner,
        tuple(sorted(titles[key] for key in out)),
        tuple(sorted(titles[key] for key in back)),
        settled,
        answers,
    )


def about_nothing(own: Money) -> int:
    """The minor units within which an answer of the plan is told as about nothing: a hundredth of the own money, or ten."""
    return max(abs(own.minor) // 100, int(10 * 10 ** exponent(own.currency)))


def left(refit: Refit, plan: Plan) -> set[str]:
    """Jobs that are left out or can't be planned whole."""
    return set(plan.left_out) | {refit.job_of[key].id for key in plan.unplanned if key in refit.job_of}


def own_money(refit: Refit, before: Plan, changed: Refit, after: Plan) -> Money:
    """What the things that differ cost by themselves: what is new on the plan after, less what is gone on the one before."""
    if _only_booked(refit, changed) and _same_schedule(before, after):
        return forecast(changed, after).total - forecast(refit, before).total
    new = [job for job in changed.jobs if job not in refit.jobs and job.id not in {one.id for one in refit.jobs}]
    gone = [job for job in refit.jobs if job.id not in {one.id for one in changed.jobs}]
    parts, kept = ({part.id: part for part in one.parts} for one in (refit, changed))
    ordered = _ordered_otherwise(refit, changed)
    bought = [part for part in changed.parts if parts.get(part.id) != part or part.id in ordered]
    spared = [part for part in refit.parts if kept.get(part.id) != part or part.id in ordered]
    things = _worth(changed, after, new, bought) - _worth(refit, before, gone, spared)
    return things + _booked(refit, before, changed)


def _reworked(refit: Refit, before: Plan, changed: Refit, after: Plan) -> Money:
    """What jobs that are there before and after cost more by themselves, for other hours, logs or people; and a launch moved."""
    jobs = {job.id: job for job in refit.jobs}
    logs = [set(one.hours_log) for one in (refit, changed)]
    worked = {entry.task for entry in logs[0] ^ logs[1]}
    rates = refit.people != changed.people and {one.id: one.rate for one in refit.people} != {
        one.id: one.rate for one in changed.people
    }
    other = [
        job
        for job in changed.jobs
        if job.id in jobs
        and (rates or job.tasks != jobs[job.id].tasks or any(task.id in worked for task in job.tasks))
        and job.id not in left(refit, before) | left(changed, after)
    ]
    out = Money(0, refit.currency)
    if other:
        out += _worth(changed, after, other, []) - _worth(refit, before, [jobs[job.id] for job in other], [])
    new = {job.id for job in changed.jobs} ^ set(jobs)
    worth = [
        sum(
            Money(one.money, side.currency).times(one.chance).minor
            for one in unknowns_that_count(side, plan)
            if getattr(side.job_of.get(one.task or ""), "id", None) not in new | {job.id for job in other}
        )
        for side, plan in ((refit, before), (changed, after))
    ]
    out += Money(worth[1] - worth[0], refit.currency)
    moved = changed.launch_at - refit.launch_at
    if moved and before.launch == refit.launch_at:
        there = before.model_copy(update={"launch": changed.launch_at})
        other_slot = refit.supposed(launch_at=changed.launch_at)
        out += forecast(other_slot, there).total - forecast(refit, before).total
    return out


def _only_booked(refit: Refit, changed: Refit) -> bool:
    """Whether nothing is different but bills and agreements."""
    others = (name for name in Refit.model_fields if name not in BOOKED)
    return all(getattr(refit, name) == getattr(changed, name) for name in others)


def _same_schedule(before: Plan, after: Plan) -> bool:
    return (before.assignments, before.launch, before.left_out) == (after.assignments, after.launch, after.left_out)


BOOKED = ("entries", "agreements", "yard_extras")
TARIFF = ("tariff", "meter", "lift_and_launch", "lay_day", "free_days", "slings_night")


def _booked(refit: Refit, before: Plan, changed: Refit) -> Money:
    """What bills, agreements and the yard's tariff that differ come to on the plan before: none of it is the plan's answer."""
    lists = {name: getattr(changed, name) for name in BOOKED if getattr(changed, name) != getattr(refit, name)}
    prices = {name: getattr(changed.yard, name) for name in TARIFF}
    if any(getattr(refit.yard, name) != value for name, value in prices.items()):
        lists["yard"] = refit.yard.model_copy(update=prices)
    if not lists:
        return Money(0, refit.currency)
    ids = {job.id for job in refit.jobs}
    if "agreements" in lists:  # one for a job that is new is none without it
        lists["agreements"] = tuple(one for one in lists["agreements"] if one.job is None or one.job in ids)
    booked = refit.supposed(**lists)
    return forecast(booked, before).total - forecast(refit, before).total


def _ordered_otherwise(refit: Refit, changed: Refit) -> set[str]:
    """Ids of parts whose orders differ."""
    if refit.order_lines == changed.order_lines and refit.orders == changed.orders:
        return set()

    def lines(one: Refit) -> dict[tuple[str, str], object]:
        orders = {order.id: order for order in one.orders}
        return {(line.part, line.id): (line, orders[line.order]) for line in one.order_lines}

    was, is_ = lines(refit), lines(changed)
    return {key[0] for key in was.keys() | is_.keys() if was.get(key) != is_.get(key)}


def _worth(refit: Refit, plan: Plan, jobs: list[Job], parts: list[Part]) -> Money:
    """What some jobs and parts add to the forecast of a plan, whatever day they lie on: it with them, less it without.

    Paid hours count as hours of the cheapest who can: whether somebody has to come for an hour more or is there anyway,
    and who does it, is the plan's answer.
    """
    if not jobs and not parts:
        return Money(0, refit.currency)
    people = tuple(person.model_copy(update={"call_out_hours": 0.0}) for person in refit.people)
    refit = refit.supposed(people=people)
    keys = {task.id for job in jobs for task in job.tasks}
    bare = without(refit, {job.id for job in jobs}, {part.id for part in parts})
    rest = plan.model_copy(
        update={
            "assignments": tuple(item for item in plan.assignments if item.task not in keys),
            "unplanned": tuple(key for key in plan.unplanned if key not in keys),
            "left_out": tuple(key for key in plan.left_out if key not in {job.id for job in jobs}),
            "made_good": tuple(key for key in plan.made_good if any(link.id == key for link in bare.links)),
        }
    )
    dearer = sum(_dearer(refit, item) for item in plan.assignments if item.task in keys)
    return forecast(refit, plan).total - forecast(bare, rest).total - Money(dearer, refit.currency)


def _dearer(refit: Refit, item: Assignment) -> int:
    """Minor units by which those who are planned for a task cost more than the cheapest who could do it."""
    task = refit.tasks[item.task]
    if task.begun_at:
        return 0

    def rate(crew: tuple[str, ...]) -> int:
        return sum(refit.persons[who].rate for who in crew)

    cheapest = min((rate(crew) for crew in crews_for(refit, task)), default=rate(item.people))
    return Money(rate(item.people) - cheapest, refit.currency).times(refit.hours_to_do(task)).minor


def without(refit: Refit, jobs: set[str], parts: set[str]) -> Refit:
    """A refit without some jobs with all that hangs on them, and some parts; for arithmetic only, not validated."""
    keys = {task.id for job in refit.jobs if job.id in jobs for task in job.tasks}
    named = {line.order for line in refit.order_lines if line.part in parts}
    only_of = named - {line.order for line in refit.order_lines if line.part not in parts}
    rows = tuple(
        job.model_copy(
            update={
                "tasks": tuple(
                    task.model_copy(update={"parts": tuple(key for key in task.parts if key not in parts)})
                    if set(task.parts) & parts
                    else task
                    for task in job.tasks
                )
            }
        )
        for job in refit.jobs
        if job.id not in jobs
    )
    return refit.supposed(
        jobs=rows,
        parts=tuple(part for part in refit.parts if part.id not in parts),
        orders=tuple(order for order in refit.orders if order.id not in only_of),
        order_lines=tuple(line for line in refit.order_lines if line.order not in only_of),
        links=tuple(link for link in refit.links if link.first not in keys and link.then not in keys),
        hours_log=tuple(entry for entry in refit.hours_log if entry.task not in keys),
        unknowns=tuple(one for one in refit.unknowns if one.task not in keys),
    )


def worked_out(refit: Refit, now: datetime, so_far: Plan | None) -> Planned:
    """A plan that follows ``so_far``. Deterministic."""
    draft = draft_plan(refit, now, before=so_far)
    return Planned(draft.plan, judge(refit, draft.plan, draft.problem))


@dataclass(frozen=True, slots=True)
class Answers:
    """What several searches said the rest of the plan does in answer, in minor units, the least and the most."""

    low: int
    high: int


def settled(
    refit: Refit, changed: Refit, now: datetime, so_far: Plan | None, search: Search
) -> tuple[Planned, Planned, Answers]:
    """Both sides searched in step, each trying at once what the other has found, from the best that is known of the refit.

    Luck of one side would else be told as an effect: an order that one finds is nearly always as good for the other. The
    search is cut in rounds, and made once more with other luck from the same start: what the rounds after the first and
    that other search come to says how far the answer is to be trusted.
    """
    before = _Side(refit, draft_plan(refit, now, before=so_far))
    if so_far is not None and so_far.now == now:
        before.start_from(so_far)
    after = _Side(changed, draft_plan(changed, now, before=before.planned().plan))
    after.learn(before)
    goes = [
        (replace(search, seconds=search.seconds * FIRST_GO), ROUNDS),
        (replace(search, seconds=search.seconds * (1 - FIRST_GO)), 1),
    ]
    told: list[int] = []
    pairs = []
    for turn, (step, rounds) in enumerate(goes):
        pair = before.anew(), after.anew()
        told += _in_step(pair, step, rounds, SEED + turn * SEEDS_APART)
        pairs.append(pair)
        if pair[0].proven and pair[1].proven:
            return pair[0].planned(), pair[1].planned(), Answers(told[-1], told[-1])
    one, other = (min(sides, key=lambda side: side.value) for sides in zip(*pairs, strict=True))
    one.learn(other)
    other.learn(one)
    told.append(_answer(one, other))
    return one.planned(), other.planned(), Answers(min(told), max(told))


def _in_step(sides: tuple[_Side, _Side], search: Search, rounds: int, seed: int) -> list[int]:
    """Searches both sides and lets each learn of the other, round by round; what the answer is after each but the first."""
    found = []
    for at in range(rounds):
        with ThreadPoolExecutor(len(sides)) as pool:
            step = replace(search, seconds=search.seconds / rounds)
            list(pool.map(lambda side: side.search(step, at, seed), sides))  # noqa: B023 - done before the next one
        if search.halt.asked:
            raise Halted
        sides[0].learn(sides[1])
        sides[1].learn(sides[0])
        found.append(_answer(*sides))
        if sides[0].proven and sides[1].proven:
            return found[-1:]
    return found[1:] or found


def _answer(before: _Side, after: _Side) -> int:
    """Minor units by which the rest of the plan answers a change, as far as both sides are found."""
    one, other = before.planned(), after.planned()
    own = own_money(before.refit, one.plan, after.refit, other.plan)
    total = forecast(after.refit, other.plan).total - forecast(before.refit, one.plan).total
    return (total - own).minor


class _Side:
    """One side of a comparison: the best schedule so far, and the means to find a better one."""

    def __init__(self, refit: Refit, draft: Draft) -> None:
        self.refit, self.draft, self.best, self.proven = refit, draft, draft.schedule, False

    def anew(self) -> _Side:
        """The same side before any search."""
        return copy(self)

    @property
    def value(self) -> int:
        """What its best costs; nothing found is dearest."""
        return self.best.value if self.best is not None else 1 << 62

    def start_from(self, plan: Plan) -> None:
        """The plan that is kept of this very refit and moment: the best that is known."""
        if self.best is None:
            return
        self._take(schedule_of(self.draft.problem, plan))

    def search(self, search: Search, turn: int, seed: int) -> None:
        """What the change alone moves put right; then other orders, which may find room for a whole job; then as the worker searches."""
        problem = self.draft.problem
        if self.best is None or problem.size <= FIRST_TASK or self.proven:
            return
        stop, until = search.halt.stop(), search.clock() + search.seconds
        if not turn:
            self._take(put_right(problem, self.best, search.seconds * RIGHT_SHARE, search.clock, stop=stop))
        tries = Reorder(problem, windows_of(problem), seed + turn)
        while self.best is not None and not stop.asked and search.clock() < until - search.seconds * SOLVED_SHARE:
            self._take(tries.near(self.best))
        seconds = until - search.clock()
        found = improve(problem, self.best, seconds=seconds, clock=search.clock, workers=1, stop=stop, seed=seed + turn)
        self._take(found.schedule)
        self.proven = found.status is Status.OPTIMAL and not stop.asked

    def learn(self, other: _Side) -> None:
        """The other side's order and people, with its times and without."""
        if other.best is None or self.best is None:
            return
        problem = self.draft.problem
        known, windows = moved_over(other.draft.problem, other.best, problem), windows_of(problem)
        for held in (True, False):
            self._take(played_again(problem, windows, known, held=held))

    def _take(self, found: Schedule | None) -> None:
        if found is None or found.stuck >= 0 or self.best is None:
            return
        arrays = self.draft.problem.arrays  # what the solver found comes without a value
        found = replace(found, value=value_of(arrays, found.start, found.end, found.resume, found.mode))
        if found.value <= self.best.value:
            self.best = found

    def planned(self) -> Planned:
        """The best as a plan."""
        plan, problem = self.draft.plan, self.draft.problem
        if self.best is not None and self.best is not self.draft.schedule:
            plan = plan_of(self.refit, problem, self.best, plan.now, plan.starts_tried, ready=plan.ready)
        return Planned(plan, judge(self.refit, plan, problem))
