"""What is planned ashore and could be done afloat, and what that would save."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.explain.compare import Comparison, compare
from rovask.core.plain.money import Money
from rovask.core.plain.words import minutes_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan, Verdict
from rovask.core.readings.closes import CLOSED_BY, opened_by
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import Closed, State
from rovask.core.refit.work.kinds import Job


def afloat_instead(refit: Refit) -> list[tuple[Job, float]]:
    """Jobs not begun whose every task could be done afloat though planned ashore, with their hours: days ashore saved.

    A job can when she needs neither be dry nor out for it: no task of it is outside below the deck edge.
    """
    dry = {Spot.BOTTOM, Spot.KEEL, Spot.RUDDER, Spot.SHAFT, Spot.THROUGH_HULLS, Spot.WATERLINE, Spot.TOPSIDES}
    spots = {place.id: place.spot for place in refit.places}
    out = []
    for job in refit.jobs:
        open_ = [task for task in job.tasks if not task.done_at]
        ashore = [task for task in open_ if task.state is State.ASHORE]
        if not ashore or any(task.begun_at for task in job.tasks) or job.recipe in ("haul", "look", "ready", "launch"):
            continue
        if _leaves_with_it(refit, job):
            continue
        if all(spots.get(task.place) not in {*dry, None, Spot.ASHORE} for task in ashore) and not _hangs_on_hull(
            refit, job
        ):
            out.append((job, sum(task.work.likely * task.units * task.hands for task in ashore)))
    return out


def _leaves_with_it(refit: Refit, job: Job) -> bool:
    """Whether a job opens what she can't leave the slings without: her hull, steering, engine and shaft line, raw water."""
    kinds = {CLOSED_BY[what] for task in job.tasks for what in opened_by(refit, job, task) if what in CLOSED_BY}
    return bool(kinds & {Closed.HULL, Closed.STEERING, Closed.ENGINE})


BELOW = (Spot.THROUGH_HULLS, Spot.BOTTOM, Spot.KEEL, Spot.RUDDER, Spot.SHAFT, Spot.WATERLINE)
HEAVY_HANDS = 3


def better_ashore(refit: Refit, task: Task) -> str:
    """Why work planned afloat would be safer ashore, "" where nothing speaks against it: holes, and heavy lifts."""
    if task.done_at or task.state in (State.ASHORE, State.LIFTING, State.SLINGS) or task.begun_at:
        return ""
    if refit.job_of[task.id].recipe in ("launch", "proving"):
        return ""  # proved afloat, and nowhere else
    spot = refit.place_by_id[task.place].spot
    afloat = "afloat" if task.state is not State.EITHER else "perhaps afloat"
    if spot in BELOW:
        return (
            f"It is planned {afloat}, at or below the waterline: an opening that slips lets the sea in. Better ashore; "
            "else a plug in hand, the pumps tried, and somebody on deck."
        )
    if task.hands >= HEAVY_HANDS:
        return f"It is planned {afloat} and takes {task.hands} hands: a heavy lift is steadier ashore, with the yard's crane."
    return ""


AFLOAT = (State.AFLOAT_BEFORE, State.AFLOAT_AFTER, State.EITHER)


def done_afloat(refit: Refit, jobs: set[str], state: State) -> Refit:
    """The refit with these jobs done afloat instead of ashore."""
    moved = _moved(refit, jobs, (State.ASHORE,), state)
    tasks = {task.id for job in moved.jobs if job.id in jobs for task in job.tasks}
    links = tuple(link for link in moved.links if link.reason != "standing safely" or link.then not in tasks)
    return rebuilt(moved, links=links)


def done_ashore(refit: Refit, jobs: set[str]) -> Refit:
    """The refit with these jobs done ashore instead of afloat."""
    return _moved(refit, jobs, AFLOAT, State.ASHORE)


def _moved(refit: Refit, jobs: set[str], instead_of: tuple[State, ...], state: State) -> Refit:
    """The refit with what isn't begun of these jobs in another state of the boat."""

    def task_in(task: Task) -> Task:
        return task.model_copy(update={"state": state}) if task.state in instead_of and not task.begun_at else task

    rows = tuple(
        job.model_copy(update={"tasks": tuple(map(task_in, job.tasks))}) if job.id in jobs else job
        for job in refit.jobs
    )
    return rebuilt(refit, jobs=rows)


def _hangs_on_hull(refit: Refit, job: Job) -> bool:
    """Whether work elsewhere in the refit waits for this job, so that it can't simply go afloat."""
    mine = {task.id for task in job.tasks}
    return any(
        link.first in mine
        and link.then in refit.tasks
        and link.then not in mine
        and refit.tasks[link.then].state is State.ASHORE
        for link in refit.links
    )


def last_ashore(refit: Refit, plan: Plan) -> datetime:
    """When the last work ashore ends; the haul-out without any."""
    ends = (item.end for item in plan.assignments if refit.tasks[item.task].state is State.ASHORE)
    return max(ends, default=refit.haul_at)


@dataclass(frozen=True, slots=True)
class AfloatGain:
    """What it does when some jobs are all done after the launch.

    sooner: minutes by which the last work ashore ends earlier; lay_days: whole days of that, which the yard could be
    paid less if it can launch her earlier.
    """

    after: Verdict
    money: Money
    sooner: int
    lay_days: int


def afloat_gain(refit: Refit, planned: Planned, jobs: set[str]) -> AfloatGain:
    """Plan the refit with ``jobs`` done after the launch, and tell what that does. Costs two plans."""
    other = done_afloat(refit, jobs, State.AFLOAT_AFTER)
    told = compare(refit, other, planned.plan.now, planned.plan)
    sooner = max(minutes_of(last_ashore(refit, told.before.plan) - last_ashore(other, told.after.plan)), 0)
    return AfloatGain(told.after.verdict, told.money, sooner, sooner // (24 * 60))


def ashore_told(refit: Refit, planned: Planned, job: str) -> Comparison:
    """What it does to launch and money when a job planned afloat is done ashore. Costs two plans."""
    return compare(refit, done_ashore(refit, {job}), planned.plan.now, planned.plan)
