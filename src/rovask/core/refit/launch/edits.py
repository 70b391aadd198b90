"""Another night in the slings, let go, closed, begun anew: changes to a refit at its end, as functions from refit to refit."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import datetime, time, timedelta

from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import HALF_HOUR, floored, nearest
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.givens.slot import yard_launches
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Appointment, Refit, YardExtra
from rovask.core.refit.seen.edits import follow_up, own_job
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.kinds import Task, WorkTime

TIDE_LATER = timedelta(minutes=50)  # by which a tide comes later each day, near enough (common practice)
EVENING, NIGHT = time(19), 12.0
SEEN_HANGING = (
    "always:hangs",
    "always:pads",
    "always:below",
    "always:inside",
    "let-go",
)  # ticks that say that she hung
NewId = Callable[[str], str]


def next_slots(refit: Refit, now: datetime, most: int = 3) -> list[datetime]:
    """The next launches that may be: the same tide a day on and the days after, on a half-hour of the yard's hours.

    Where the yard is shut at that tide it is left out.
    """
    out: list[datetime] = []
    for days in range(1, 15):
        moment = refit.launch_at + days * (timedelta(days=1) + TIDE_LATER)
        moment = nearest(moment, refit.yard.zone)
        if moment > now and yard_launches(refit, moment) and len(out) < most:
            out.append(moment)
    return out


def is_hanging(refit: Refit) -> bool:
    """Whether she hangs in the slings by what was said: work in them begun, a night charged, or something seen in them."""
    if any(task.state is State.SLINGS and task.begun_at for task in refit.tasks.values()):
        return True
    if any(one.charge is Charge.SLINGS for one in refit.yard_extras):
        return True
    return any(tick.item in SEEN_HANGING or tick.item.endswith(f":{Stage.SLINGS.value}") for tick in refit.gate_ticks)


def another_night(
    refit: Refit, slot: datetime, now: datetime, *, stays: str | None, why: str, job: str, hours: float, new_id: NewId
) -> Refit:
    """She hangs another night: the slot moves, somebody stays, what didn't pass is work in the slings again.

    job: whose work is opened again; "" for a job of its own. The nights are those from the old slot to the new one, shut days
    too, whenever it is said. They are charged by the plan where work in the slings has begun, else as one thing the yard
    charges for, which the bill then doesn't charge by the plan as well. Raises RefitFaults for a slot that lies behind, or when the yard is shut.
    """
    if slot <= now:
        raise refused("The new slot must lie ahead.", "slot")
    if not yard_launches(refit, slot):
        raise refused("The yard doesn't launch then; choose a time in its hours.", "slot")
    longer = max(slot - refit.launch_at, timedelta(0)) / timedelta(hours=1)
    yard = refit.yard.model_copy(update={"slings_hours": refit.yard.slings_hours + math.ceil(longer * 2) / 2})
    old = refit.launch_at.astimezone(refit.yard.zone).date()
    nights = max((slot.astimezone(refit.yard.zone).date() - old).days, 0)
    hanging = any(task.state is State.SLINGS and task.begun_at for task in refit.tasks.values())
    refit = rebuilt(refit, launch_at=slot, yard=yard)
    on = now.astimezone(refit.yard.zone).date()
    if not hanging and nights and refit.yard.night_price:
        extra = YardExtra(
            id=new_id("yard-extra"),
            title="Another night in the slings",
            charge=Charge.SLINGS,
            on=old,
            count=nights,
            price=refit.yard.night_price,
        )
        refit = put(refit, extra)
    if stays is not None and stays in refit.persons:
        evening = datetime.combine(on, EVENING, tzinfo=refit.yard.zone)
        night = Appointment(
            id=new_id("appointment"), title="Aboard in the slings", at=evening, hours=NIGHT, people=(stays,)
        )
        refit = put(refit, night)
    title = f"Put right in the slings: {why}"[:120]
    home = next((one for one in refit.jobs if one.id == job and one.tasks), None)
    if home is None:
        key = new_id("job")
        refit = own_job(refit, key, title, None, max(hours, 0.5))
        return _in_slings(refit, key)
    last = home.tasks[-1]
    task = Task(
        id=new_id("task"),
        title=title,
        place=last.place,
        state=State.SLINGS,
        work=WorkTime(least=0.5, likely=max(hours, 0.5), most=max(hours, 0.5) * 2),
        opens=tuple(dict.fromkeys(what for one in home.tasks for what in one.opens)),
        caution=last.caution,
        check="Dry with her weight in the water.",
    )
    before = [one for one in home.tasks if one.state is not State.AFLOAT_AFTER]
    return follow_up(refit, (before or list(home.tasks))[-1].id, task, new_id("link"), "seen in the slings")


def _in_slings(refit: Refit, job: str) -> Refit:
    """A job of one task, done while she hangs."""
    jobs = tuple(
        one.model_copy(update={"tasks": tuple(task.model_copy(update={"state": State.SLINGS}) for task in one.tasks)})
        if one.id == job
        else one
        for one in refit.jobs
    )
    return rebuilt(refit, jobs=jobs)


def launched(refit: Refit, at: datetime) -> Refit:
    """She was let go: the launch was when it was, and what is proved afloat counts from then."""
    moment = floored(at, refit.yard.zone)
    return rebuilt(refit, launch_at=max(moment, refit.haul_at + HALF_HOUR)) if moment != refit.launch_at else refit
