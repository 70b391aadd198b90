"""Any order of acts through the slings, the launch, reopened jobs, moved slots and lost parts: there is always a plan.

What is said to have happened is kept; the plan passes the verifier or is marked as old with a reason; the forecast is
what other code counts; jobs that may be left out never stop must-work.
"""

from __future__ import annotations

from collections import defaultdict
from datetime import date, datetime, timedelta
from random import Random

import pytest
from pydantic import ValidationError

from benches.generate import generated_refit
from rovask.core.books.forecast import forecast
from rovask.core.plain.faults import RefitFaults
from rovask.core.plain.half_hours import HALF_HOUR, number_of
from rovask.core.plan.result import Outcome, Plan
from rovask.core.plan.verify.check import verify
from rovask.core.plan.verify.clock import Clock
from rovask.core.refit import edits
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import HoursEntry, Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work import edits as work_edits
from rovask.core.refit.work.choices import Need, State
from rovask.core.refit.work.make_good import with_make_good
from rovask.desk.planning import verified

STEPS = 26


def bare(demo: Refit) -> Refit:
    """The demo before anything was bought or agreed: what is recounted here is the plan's own part of the forecast."""
    lists = ("orders", "order_lines", "receipts", "entries", "agreements", "uses", "offers")
    parts = tuple(part.model_copy(update={"counted": None, "counted_at": None, "pack": None}) for part in demo.parts)
    yard = demo.yard.model_copy(update={"tariff": (), "meter": ()})
    return rebuilt(demo, parts=parts, yard=yard, **dict.fromkeys(lists, ()))


def recounted(refit: Refit, plan: Plan) -> int:
    """The forecast by other code: the verifier's clock, one half-hour after the other."""
    refit = with_make_good(refit, plan.made_good)
    clock, zone = Clock(refit), refit.yard.zone
    days = (plan.launch.astimezone(zone).date() - refit.haul_at.astimezone(zone).date()).days + 1
    out = refit.yard.lift_and_launch + max(days - refit.yard.free_days, 0) * refit.yard.lay_day
    hung = [item.start for item in plan.assignments if refit.tasks[item.task].state is State.SLINGS]
    if hung:
        nights = (plan.launch.astimezone(zone).date() - min(hung).astimezone(zone).date()).days
        out += max(nights, 0) * refit.yard.slings_night
    away = set(plan.left_out)
    for key in plan.unplanned:
        job = refit.job_of.get(key)
        if job and job.need is not Need.MUST and not any(task.begun_at for task in job.tasks):
            away.add(job.id)
    for part in refit.parts:
        users = {refit.job_of[task.id].id for task in refit.tasks.values() if part.id in task.parts}
        if part.status in (PartStatus.ABOARD, PartStatus.CHECKED):
            continue  # aboard: nothing more
        if part.status is not PartStatus.NEEDED or not users or users - away:
            out += part.price
    worked: dict[tuple[str, date], float] = defaultdict(float)
    for entry in refit.hours_log:
        worked[entry.person, clock.day(entry.at)] += entry.hours
    for task in refit.tasks.values():
        for who in task.crew if task.done_at else ():
            if not any(entry.task == task.id and entry.person == who for entry in refit.hours_log):
                worked[who, clock.day(task.done_at)] += task.work.likely * task.units  # type: ignore[arg-type]
    for item in plan.assignments:
        task = refit.tasks[item.task]
        if task.done_at:
            continue
        goes, moment = clock.may_go_on(task), item.resume or item.start
        while moment < item.end:
            at = number_of(moment, clock.zone)
            if goes[at] and all(clock.works[who][at] for who in item.people):
                for who in item.people:
                    worked[who, clock.day(moment)] += 0.5
            moment += HALF_HOUR
    paid: dict[str, float] = defaultdict(float)
    for (who, _), hours in worked.items():
        paid[who] += max(hours, refit.persons[who].call_out_hours)
    for who, hours in paid.items():
        out += round(refit.persons[who].rate * hours + 1e-9)
    return out + sum(round(one.chance * one.money) for one in refit.unknowns if one.state is UnknownState.OPEN)


def acted(random: Random, refit: Refit, now: datetime) -> Refit:
    """One act of a sailor, whatever the rules say."""
    tasks = list(refit.tasks.values())
    last = [task for task in tasks if task.state in (State.SLINGS, State.AFLOAT_AFTER)] or tasks
    task = random.choice(last if random.random() < 0.4 else tasks)
    who = (random.choice(refit.people).id,)
    match random.randrange(9):
        case 0:
            return work_edits.begin_task(refit, task.id, now, who)
        case 1 | 2:
            return work_edits.finish_task(refit, task.id, now - timedelta(minutes=random.choice([0, 30, 300])), who)
        case 3:
            return work_edits.reopen_task(refit, task.id)
        case 4:
            slot = now + timedelta(hours=random.choice([3, 20, 48, 400]))
            slot = slot.replace(minute=0, second=0, microsecond=0)
            return edits.rebuilt(refit, launch_at=max(slot, refit.haul_at + timedelta(hours=1)))
        case 5 if refit.parts:
            part = random.choice(refit.parts)
            lost = random.choice([PartStatus.NEEDED, PartStatus.ORDERED, PartStatus.CHECKED])
            row = part.model_copy(update={"status": lost, "arrives": now + timedelta(days=random.choice([1, 20]))})
            return edits.put(refit, row)
        case 6:
            entry = HoursEntry(id=f"h{random.randrange(10**9)}", task=task.id, person=who[0], at=now, hours=1.5)
            return work_edits.log_hours(refit, entry, random.choice([None, 0, 2]))
        case 7:
            return work_edits.update_task(refit, task.id, pin=now + timedelta(hours=random.choice([2, 30])))
        case _:
            job = random.choice(refit.jobs)
            return edits.put(refit, job.model_copy(update={"need": random.choice(list(Need))}))


@pytest.mark.parametrize("seed", range(6))
def test_whatever_happens_in_the_last_days_there_is_a_plan(seed: int, demo: Refit) -> None:
    random = Random(seed)
    refit = bare(demo) if seed % 2 else generated_refit(40, seed + 1)
    now = refit.haul_at + timedelta(days=9)
    if seed % 4 > 1:
        now = refit.launch_at - timedelta(hours=6)  # the most important hours
    plan = verified(refit, now).plan
    for step in range(STEPS):
        try:
            after = acted(random, refit, now)
        except (RefitFaults, ValidationError):
            continue
        planned = verified(after, now, before=plan)
        told = f"seed {seed}, step {step}"
        if planned.plan.old:
            assert planned.verdict.outcome is Outcome.IMPOSSIBLE, told
            assert planned.verdict.old, told
        else:
            assert verify(after, planned.plan) == [], told
            assert forecast(after, planned.plan).total.minor == recounted(after, planned.plan), told
        for collision in planned.plan.collisions:
            assert len(collision.sentence.split()) <= 30, collision.sentence
        optional = {job.id for job in after.jobs if job.need is not Need.MUST}
        whole = with_make_good(after, planned.plan.made_good)
        jobs = {whole.job_of[key].id for key in planned.plan.unplanned}
        if jobs and jobs <= optional:
            begun = any(task.begun_at for job in after.jobs if job.id in jobs for task in job.tasks)  # opened is closed
            assert begun or planned.verdict.outcome is not Outcome.IMPOSSIBLE or planned.plan.old, told
        refit, plan = after, planned.plan
        if random.random() < 0.3:
            now += timedelta(hours=random.choice([1, 5, 17]))
            plan = verified(refit, now, before=plan).plan


@pytest.mark.parametrize("key", ["launch-2", "launch-3", "launch-4"])
def test_ticking_what_is_done_in_the_slings_early_is_kept_and_planned_on(demo: Refit, key: str) -> None:
    """Seen: a server error and nothing kept, in the most important hours of the refit."""
    now = datetime.fromisoformat("2026-05-12T09:00Z")
    slings = [task.id for task in demo.tasks.values() if task.state is State.SLINGS]
    task = slings[int(key[-1]) % len(slings)]
    plan = verified(demo, now).plan
    ticked = work_edits.finish_task(demo, task, now, ("mira",))
    planned = verified(ticked, now, before=plan)
    assert not planned.plan.old
    assert verify(ticked, planned.plan) == []
    assert planned.plan.by_task()[task].end == now
    assert "bottom-8" in planned.plan.by_task()  # the rest goes on


def test_one_chain_that_cant_be_done_leaves_all_other_work_planned(demo: Refit) -> None:
    """Seen: a job that didn't fit a helper's visits made lift, winches, canvas and nearly all else unplannable."""
    now = datetime.fromisoformat("2026-05-12T09:00Z")
    task = next(task for task in demo.tasks.values() if not task.begun_at and task.id.startswith("bottom"))
    stuck = work_edits.update_task(
        demo, task.id, work={"least": 300, "likely": 300, "most": 300}, people=("lene",), hands=1
    )
    planned = verified(stuck, now)
    assert verify(stuck, planned.plan) == []
    lost = {stuck.job_of[key].id for key in planned.plan.unplanned}
    assert lost == {stuck.job_of[task.id].id}
    assert planned.verdict.stopped == (stuck.job_of[task.id].id,)
    job = next(job for job in stuck.jobs if job.id in lost)
    could = edits.put(stuck, job.model_copy(update={"need": Need.COULD, "tasks": tuple(
        one.model_copy(update={"begun_at": None, "done_at": None, "crew": ()}) for one in job.tasks)}))  # fmt: skip
    spared = verified(could, now)
    assert verify(could, spared.plan) == []
    assert spared.verdict.outcome is not Outcome.IMPOSSIBLE  # a could-job that can't be done stops nothing
