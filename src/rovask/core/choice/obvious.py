"""The two or three obvious ways where a question arises, laid out so that one need not begin with an empty desk.

Prices are never invented: what a courier or a hand costs is typed by the sailor, here or on the desk.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.books.savings import INTERIM_HOURS
from rovask.core.choice.act_words import act_words
from rovask.core.choice.levers import may_be_left
from rovask.core.judged.offer_edits import open_offers
from rovask.core.judged.way_edits import of_trades
from rovask.core.plan.problem.crews import may_do
from rovask.core.plan.result import Plan
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.slot import yard_launches
from rovask.core.refit.model import Act, Job, ProposedWay, Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.ways.choices import ActSort
from rovask.core.refit.ways.kinds import MOST_WAYS
from rovask.core.refit.work.choices import Need

MOST_AHEAD = 21  # days after the slot in which another is looked for
SHORT, OVER = "short", "budget"  # questions that are about no record


@dataclass(frozen=True, slots=True)
class Question:
    """A choice as it is laid out first."""

    title: str
    about: str
    ways: tuple[ProposedWay, ...]


def question_about(refit: Refit, plan: Plan, about: str, express: tuple[int, int] | None = None) -> Question | None:
    """The ways of a question: "job:…", "part:…", "finding:…", "person:…", "unknown:…", "short" or "budget". None for what isn't there.

    express: days and minor units, where a courier is to be had.
    """
    sort, _, key = about.partition(":")
    title, acts = "", list[tuple[Act, ...]]()
    match sort:
        case "job":
            job = next((one for one in refit.jobs if one.id == key), None)
            title = f"{job.title}: properly, interim, or next time?" if job is not None else ""
            acts = [(one,) for one in _of_job(refit, job)] if job is not None else []
        case "part":
            part = refit.part_by_id.get(key)
            title = f"{part.name}: wait for it?" if part is not None else ""
            acts = [(one,) for one in _of_part(refit, key, express)] if part is not None else []
        case "finding":
            finding = next((one for one in refit.findings if one.id == key), None)
            title = f"{finding.title}: what to do?" if finding is not None else ""
            acts = [(one,) for one in _of_finding(finding.id, blocks=finding.blocks)] if finding is not None else []
        case "unknown":
            unknown = next((one for one in refit.unknowns if one.id == key), None)
            title = f"{unknown.title}: look first?" if unknown is not None else ""
            if unknown is not None and unknown.task and unknown.state is UnknownState.OPEN:
                acts = [(Act(do=ActSort.LOOK_FIRST, of=unknown.task),)]
        case "person":
            person = refit.persons.get(key)
            title = f"{person.name} comes later: wait?" if person is not None else ""
            acts = list(_of_person(refit, plan, key)) if person is not None else []
        case "short":
            title, acts = "What makes the launch surer?", list(_surer(refit, plan))
        case "budget":
            title, acts = "Where can money be saved?", list(_cheaper(refit))
    if not title:
        return None
    ways = tuple(
        ProposedWay(id=f"way-{at}", title=_title([act_words(refit, act) for act in row]), acts=row)
        for at, row in enumerate(acts[:MOST_WAYS], 1)
    )
    return Question(title[:120], about, ways)


def _title(words: list[str]) -> str:
    """A way by its first act or two; how many more there are is told by their list."""
    if len(words) <= 2:
        return "; ".join(words)[:120]
    return f"{words[0][:100]} and {len(words) - 1} more"


def _of_job(refit: Refit, job: Job) -> Iterator[Act]:
    left = any(not task.begun_at for task in job.tasks)
    if left and not any(task.is_under_way for task in job.tasks):
        yield Act(do=ActSort.INTERIM, of=job.id, hours=INTERIM_HOURS)
        if may_be_left(refit, job):
            yield Act(do=ActSort.NEXT_TIME, of=job.id)
    if of_trades(refit, job):
        yield Act(do=ActSort.OWN_HANDS, of=job.id)


def _of_part(refit: Refit, key: str, express: tuple[int, int] | None) -> Iterator[Act]:
    stock = stocks(refit)[key]
    if express is not None and (to_buy(refit, key) > 0 or stock.coming):
        yield Act(do=ActSort.EXPRESS, of=key, days=express[0], money=express[1])
    for offer in open_offers(refit, key)[:3]:
        if offer.state.value != "chosen":
            yield Act(do=ActSort.OFFER, of=offer.id)
    for job in refit.jobs:
        takes = any(key in task.parts and not task.begun_at for task in job.tasks)
        if takes and job.need is not Need.MUST and may_be_left(refit, job):
            yield Act(do=ActSort.NEXT_TIME, of=job.id)


def _of_finding(key: str, *, blocks: bool) -> Iterator[Act]:
    yield Act(do=ActSort.FOR_FINDING, of=key, name="-interim", hours=INTERIM_HOURS)
    if not blocks:
        yield Act(do=ActSort.FOR_FINDING, of=key, name="-next-time")


def _of_person(refit: Refit, plan: Plan, key: str) -> Iterator[tuple[Act, ...]]:
    """Others who may do it, own hands, without what may be left, a later slot."""
    at = plan.by_task()
    theirs = [
        task for task in refit.tasks.values() if not task.begun_at and task.id in at and key in at[task.id].people
    ]
    others = [
        one
        for one in refit.people
        if one.id != key and theirs and all(may_do(one, task.model_copy(update={"people": ()})) for task in theirs)
    ]
    if len(theirs) <= 8:
        yield from (tuple(Act(do=ActSort.BY, of=task.id, name=one.id) for task in theirs) for one in others[:2])
    jobs = list(dict.fromkeys(refit.job_of[task.id].id for task in theirs))
    by_id = {job.id: job for job in refit.jobs}
    own = [job for job in jobs if of_trades(refit, by_id[job])]
    if own:
        yield tuple(Act(do=ActSort.OWN_HANDS, of=job) for job in own[:6])
    left = [job for job in jobs if by_id[job].need is not Need.MUST and may_be_left(refit, by_id[job])]
    if left:
        yield tuple(Act(do=ActSort.NEXT_TIME, of=job) for job in left[:6])
    slot = next_slot(refit)
    if slot is not None:
        yield (Act(do=ActSort.SLOT, at=slot),)


def _surer(refit: Refit, plan: Plan) -> Iterator[tuple[Act, ...]]:
    planned = plan.by_task()
    optional = [
        job.id
        for job in refit.jobs
        if job.need is not Need.MUST and may_be_left(refit, job) and any(task.id in planned for task in job.tasks)
    ]
    if optional:
        yield tuple(Act(do=ActSort.NEXT_TIME, of=job) for job in optional[:12])
    hands = [one for one in refit.people if one.role in (Role.OWNER, Role.HELPER) and one.hours]
    if hands:
        yield tuple(Act(do=ActSort.LONGER, of=one.id, hours=1) for one in hands[:6])
    looks = {
        one.task: planned[one.task].start
        for one in refit.unknowns
        if one.state is UnknownState.OPEN and one.task in planned and not refit.tasks[one.task].begun_at
    }
    if looks:  # the one that is planned last can be taken sooner, if any can
        yield (Act(do=ActSort.LOOK_FIRST, of=max(looks, key=lambda task: looks[task]) or ""),)
    slot = next_slot(refit)
    if slot is not None:
        yield (Act(do=ActSort.SLOT, at=slot),)


def _cheaper(refit: Refit) -> Iterator[tuple[Act, ...]]:
    left = [job for job in refit.jobs if job.need is Need.COULD and may_be_left(refit, job)]
    if left:
        yield tuple(Act(do=ActSort.NEXT_TIME, of=job.id) for job in left[:12])
    own = [job for job in refit.jobs if of_trades(refit, job)]
    for job in own[:2]:
        yield (Act(do=ActSort.OWN_HANDS, of=job.id),)
    both = [job for job in refit.jobs if job.need is not Need.MUST and may_be_left(refit, job)]
    if len(both) > len(left):
        yield tuple(Act(do=ActSort.NEXT_TIME, of=job.id) for job in both[:12])


def next_slot(refit: Refit) -> datetime | None:
    """The next launch after the slot: one the yard gave, else the same hour on its next open day."""
    given = [one for one in refit.next_slots if one > refit.launch_at]
    if given:
        return min(given)
    zone = refit.yard.zone
    local = refit.launch_at.astimezone(zone)
    for days in range(1, MOST_AHEAD):
        moment = datetime.combine(local.date() + timedelta(days=days), local.timetz())
        if yard_launches(refit, moment):
            return moment
    return None
