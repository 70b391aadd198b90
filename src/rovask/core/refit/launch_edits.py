"""Another night in the slings, let go, closed, begun anew: changes to a refit at its end, as functions from refit to refit."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Any

from rovask.core.refit.choices import Charge, Stage, State
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.givens import KnownPace
from rovask.core.refit.half_hours import HALF_HOUR, floored, nearest
from rovask.core.refit.jobs import Job, Task, WorkTime
from rovask.core.refit.model import Appointment, Parked, Refit, YardExtra
from rovask.core.refit.seen_edits import follow_up, own_job
from rovask.core.refit.slot import yard_launches

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


def _refuse(message: str, path: str = "") -> RefitFaults:
    return RefitFaults([Fault(path, message)])


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
        raise _refuse("The new slot must lie ahead.", "slot")
    if not yard_launches(refit, slot):
        raise _refuse("The yard doesn't launch then; choose a time in its hours.", "slot")
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


# The end, and the next one


@dataclass(frozen=True, slots=True)
class NextGivens:
    """When the next haul-out and launch are thought to be, and what it is called."""

    name: str
    haul_at: datetime
    launch_at: datetime
    budget: int


def next_refit(
    refit: Refit, given: NextGivens, paces: Mapping[str, list[tuple[str, float, int]]], new_id: NewId
) -> Refit:
    """The next haul-out's refit: the same boat, places, people and yard; parked is what was left, put off and not proved.

    paces: for each person what was learned of them, as (kind of work, pace, tasks). Stays, absences, money and all that
    happened stay behind. Raises ValidationError for dates that can't be.
    """
    people = tuple(
        person.model_copy(
            update={
                "arrives": None,
                "leaves": None,
                "absences": (),
                "paces": tuple(
                    KnownPace(work=work, factor=factor, tasks=tasks) for work, factor, tasks in paces.get(person.id, [])
                ),
            }
        ).model_dump()
        for person in refit.people
    )
    data: dict[str, Any] = {
        "name": given.name,
        "currency": refit.currency,
        "budget": given.budget,
        "haul_at": given.haul_at,
        "launch_at": given.launch_at,
        "outage_limits": refit.outage_limits,
        "margins": refit.margins,
        "nobody_without": refit.nobody_without,
        "ask_first": refit.ask_first,
        "certainty": refit.certainty,
        "boat": refit.boat,
        "yard": refit.yard.model_copy(update={"closed": (), "meter": ()}),
        "places": refit.places,
        "people": people,
        "gear": refit.gear,
        "suppliers": refit.suppliers,
        "budget_lines": refit.budget_lines,
        "parked": tuple(_left(refit, new_id)),
    }
    return Refit.model_validate({key: _plain(value) for key, value in data.items()})


def _plain(value: Any) -> Any:
    if hasattr(value, "model_dump"):
        return value.model_dump()
    if isinstance(value, tuple):
        return tuple(_plain(one) for one in value)
    return value


def _left(refit: Refit, new_id: NewId) -> list[Parked]:
    """What the next haul-out's list begins with: what was parked for it, and jobs that are not done."""
    rows = [one.model_copy(update={"next_time": False}) for one in refit.parked]
    for job in refit.jobs:
        left = [task for task in job.tasks if task.done_at is None]
        if left and job.recipe not in ("haul", "look", "ready", "launch", "proving"):
            rows.append(_parked(refit, job, left, new_id))
    watch = [one for one in refit.findings if not one.settled and not one.jobs]
    rows += [
        Parked(id=new_id("parked"), title=one.title, place=one.place, note=one.note, hours=2, state=State.ASHORE)
        for one in watch
    ]
    return rows


def _parked(refit: Refit, job: Job, left: list[Task], new_id: NewId) -> Parked:
    whole = len(left) == len(job.tasks)
    note = job.note if whole else f"Left of it: {'; '.join(task.title for task in left)}. {job.note}".strip()
    hours = sum(refit.hours_to_do(task) for task in left)
    state = left[0].state if left[0].state is not State.SLINGS else State.ASHORE
    return Parked(
        id=new_id("parked"),
        title=job.title,
        place=left[0].place,
        state=State.AFLOAT_BEFORE if state is State.AFLOAT_AFTER else state,
        hours=min(max(hours, 0.5), 2000),
        recipe=job.recipe if whole else None,
        note=note[:4000],
    )
