"""What will not come off, in the plan: the rung that is tried now as tasks, what may follow as unknowns, and what each answer makes of them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime

from rovask.core.craft.means import SeizedTables
from rovask.core.craft.seized import RISKY, SLOWER, Ladder, Step, heat_harms, hours_of, ladder
from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import half_hours
from rovask.core.recipes.common import Common
from rovask.core.refit.craft.choices import Means, SeizedState, Tried
from rovask.core.refit.craft.kinds import Rung, Seized
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Gear, Job, Refit, Task, Unknown
from rovask.core.refit.work.edits import finish_task
from rovask.core.refit.work.interrupted import interrupted, not_begun_after, put_between, some_place
from rovask.core.refit.work.kinds import Part, WorkTime

TOGETHER = re.compile(
    r"\b(in|on|back|hung|hang|bed|bedded|together|closed?|up|shipped)\b", re.IGNORECASE
)  # titles of putting together
HEATS = (Means.WARM, Means.FLAME, Means.WELD)
WORKS = "it has to do its work"  # why one waits between
NEW_ON = 0.5  # hours to fit a new one where the old is out (judgement), slower where it is hard to reach


@dataclass(frozen=True, slots=True)
class NewOne:
    """A new part to have first: its name, price in minor units of the refit's currency, days until it is there."""

    name: str
    price: int = 0
    lead_days: int = 0


def seized_of(refit: Refit, key: str) -> Seized:
    """The record. Raises RefitFaults when it is gone."""
    row = next((one for one in refit.seized if one.id == key), None)
    if row is None:
        raise refused("This seized thing is gone; somebody removed it meanwhile.")
    return row


def met(
    refit: Refit, common: Common, tables: SeizedTables, row: Seized, at: datetime, new: NewOne | None = None
) -> Refit:
    """It doesn't come: kept, the first rung in the plan before what waits for it, the work in which it was met cut where it stands.

    Raises RefitFaults when nothing on the ladder may be used at it.
    """
    if new is not None:
        part = Part(id=f"{row.id}-new", name=new.name, price=new.price, lead_days=new.lead_days, must_fit=True)
        refit = rebuilt(refit, parts=(*refit.parts, part))
        row = row.model_copy(update={"part": part.id})
    if row.task in refit.tasks:
        refit = interrupted(refit, row.task, at, f"{row.id}-on", f"{row.id}-on-tie")
    return _on(put(refit, row), common, tables, row)


def turned_out(refit: Refit, common: Common, tables: SeizedTables, key: str, outcome: Tried, at: datetime) -> Refit:
    """How the rung that is in the plan turned out: it is done, the rest of the ladder vanishes or comes.

    Raises RefitFaults when none is in the plan.
    """
    row = seized_of(refit, key)
    if row.now is None or row.state in (SeizedState.OFF, SeizedState.GIVEN_UP):
        raise refused("Nothing of it is in the plan; put the next means in first.")
    for task in _tasks(refit, row, row.now):
        if not task.done_at:
            refit = finish_task(refit, task.id, at, ())
    state = {Tried.CAME: SeizedState.OFF, Tried.BROKE: SeizedState.BROKEN}.get(outcome, row.state)
    tried = (*row.tried, Rung(means=row.now, outcome=outcome, at=at))
    row = row.model_copy(update={"tried": tried, "now": None, "state": state})
    refit = _without_unknowns(put(refit, row), row)
    if outcome is not Tried.CAME:
        return _on(refit, common, tables, row)
    spoilt = tables.means[tried[-1].means].ends or any(one.outcome is Tried.BROKE for one in tried)
    return _new_one(refit, row) if spoilt else refit


def stepped_to(refit: Refit, common: Common, tables: SeizedTables, key: str, means: Means) -> Refit:
    """Another means now than the one in the plan. Raises RefitFaults for one that is under way, or that may not be used at it."""
    row = seized_of(refit, key)
    if row.state in (SeizedState.OFF, SeizedState.GIVEN_UP):
        raise refused("It is off already, or given up; say that it is still fast first.")
    if row.now is not None and any(task.begun_at for task in _tasks(refit, row, row.now)):
        raise refused("The one before is under way; say how it turned out first.")
    found = next((step for step in ladder(tables, row).ahead if step.means is means), None)
    if found is None:
        raise refused("This means may not be used at it.")
    return _placed(_without_rung(refit, row), common, row, found, ladder(tables, row))


def given_up(refit: Refit, key: str) -> Refit:
    """Somebody else takes it on, or it stays: nothing of the ladder is in the plan any more; what was begun stays noted."""
    row = seized_of(refit, key)
    refit = _without_unknowns(_without_rung(refit, row), row)
    return put(refit, row.model_copy(update={"now": None, "state": SeizedState.GIVEN_UP}))


def still_fast(refit: Refit, common: Common, tables: SeizedTables, key: str) -> Refit:
    """It was not off, or not to be given up: the next means comes into the plan."""
    row = seized_of(refit, key)
    broken = any(one.outcome is Tried.BROKE for one in row.tried)
    row = row.model_copy(update={"state": SeizedState.BROKEN if broken else SeizedState.FAST})
    return _on(put(refit, row), common, tables, row)


def retold(refit: Refit, common: Common, tables: SeizedTables, key: str) -> Refit:
    """What is in the plan of it after its facts were changed: the same means with its hours and chances as they now are, another
    where that one may no longer be used at it. What is begun of it keeps its hours.
    """
    row = seized_of(refit, key)
    if row.now is None:
        return refit
    now, rungs = ladder(tables, row), _tasks(refit, row, row.now)
    step = next((one for one in now.ahead if one.means is row.now), None)
    if step is not None and rungs and any(task.begun_at for task in rungs):
        return _with_unknowns(refit, row, step, now, rungs[-1].id)
    refit = _without_rung(refit, row)
    return _placed(refit, common, row, step, now) if step is not None else _on(refit, common, tables, row)


def _on(refit: Refit, common: Common, tables: SeizedTables, row: Seized) -> Refit:
    """The next rung in the plan; where there is none left, it is given up."""
    now = ladder(tables, row)
    if not now.ahead:
        return put(refit, row.model_copy(update={"now": None, "state": SeizedState.GIVEN_UP}))
    return _placed(refit, common, row, now.ahead[0], now)


def _placed(refit: Refit, common: Common, row: Seized, step: Step, now: Ladder) -> Refit:
    """One means as tasks, with what may follow as unknowns of the last of them."""
    chain, waits = _rung(refit, common, row, step)
    before, then = _between(refit, row)
    refit = _with_gear(refit, common, step)
    if before is None and not then:
        job = Job(id=f"{row.id}-job", title=row.title, tasks=(chain[0],))
        refit = rebuilt(refit, jobs=(*refit.jobs, job))
        if len(chain) > 1:
            refit = put_between(refit, chain[0].id, chain[1:], waits[1:], (), WORKS, waits[0])
    else:
        refit = put_between(refit, before, chain, waits, then, WORKS)
    refit = put(refit, row.model_copy(update={"now": step.means}))
    return _with_unknowns(refit, row, step, now, chain[-1].id)


def _rung(refit: Refit, common: Common, row: Seized, step: Step) -> tuple[list[Task], list[float]]:
    """The tasks of one means: applied, and where it has to work for hours, tried after them."""
    line, planned = step.line, hours_of(step.line, row.reach)
    met_in = refit.tasks.get(row.task or "")
    place = met_in.place if met_in is not None else row.place or some_place(refit)
    harms = heat_harms(row.near) if step.means in HEATS else []
    cautions = [common.cautions[name].text for name in line.cautions]
    whole = row.state is not SeizedState.BROKEN  # what is broken already waits for nothing: only the new one does
    risky = row.part is not None and whole and (line.ends or step.breaks >= RISKY)
    note = f"{line.does} At hand first: {', '.join(line.at_hand)}."

    def task(key: str, title: str, likely: float) -> Task:
        return Task.model_validate(
            {
                "id": key, "title": f"{row.title}: {title}"[:120], "place": place,
                "state": met_in.state if met_in is not None else "ashore", "hands": max(len(line.skilled), 1),
                "work": {"least": half_hours(likely * 0.5), "likely": likely, "most": half_hours(likely * 2.5)},
                "skilled": line.skilled, "gear": line.gear, "emits": line.emits,
                "caution": "\n".join([*cautions, *(f"Beside it: {one}." for one in harms)]), "note": note,
                "parts": (row.part,) if risky else (), "does": () if met_in is None else met_in.does,
            }
        )  # fmt: skip

    lower = line.title[0].lower() + line.title[1:]
    if not line.wait:
        return [task(f"{row.id}-{step.means.value}", lower, planned[0])], []
    soak = task(f"{row.id}-{step.means.value}", lower, planned[0])
    after = task(f"{row.id}-{step.means.value}-try", f"tried after {line.wait:g} h", planned[1])
    return [soak, after], [line.wait]


def _tasks(refit: Refit, row: Seized, means: Means) -> list[Task]:
    named = (f"{row.id}-{means.value}", f"{row.id}-{means.value}-try")
    return [refit.tasks[key] for key in named if key in refit.tasks]


def _between(refit: Refit, row: Seized) -> tuple[str | None, list[str]]:
    """What the rung comes after, and what waits for it: before the work in which it was met, or between that and its rest."""
    last = next((task for rung in reversed(row.tried) for task in reversed(_tasks(refit, row, rung.means))), None)
    if last is not None:
        return last.id, not_begun_after(refit, last.id)
    if row.task not in refit.tasks:
        return None, []
    if not refit.tasks[row.task].begun_at:
        return None, [row.task]
    return row.task, not_begun_after(refit, row.task)


def _with_gear(refit: Refit, common: Common, step: Step) -> Refit:
    known = {gear.id for gear in refit.gear}
    made = tuple(
        Gear(id=key, name=common.gear[key].name, count=common.gear[key].count)
        for key in step.line.gear
        if key not in known
    )
    return rebuilt(refit, gear=(*refit.gear, *made)) if made else refit


def _with_unknowns(refit: Refit, row: Seized, step: Step, now: Ladder, task: str) -> Refit:
    """That it stays fast, with the hours of what is left of the ladder, and that it breaks, with those of getting the rest out."""
    at = now.ahead.index(step)
    _next, expected, most = now.hours_after(at)
    refit = _without_unknowns(refit, row)
    rows = []
    if step.holds > 0.005 and most:
        likely = half_hours(expected)
        rows.append(
            Unknown(
                id=f"{row.id}-rest", title=f"{row.title}: {step.means.value} does not do it"[:120], chance=round(step.holds, 3),
                hours=likely, hours_least=min(half_hours(_next), likely), hours_most=max(half_hours(most), likely), task=task,
            )
        )  # fmt: skip
    ends = [one.hours for one in now.ahead[at + 1 :] if one.line.ends]
    if step.breaks > 0.005:
        hours = half_hours((min(ends) if ends else step.hours) + NEW_ON * SLOWER[row.reach])
        rows.append(
            Unknown(
                id=f"{row.id}-break",
                title=f"{row.title}: it breaks"[:120],
                chance=round(step.breaks, 3),
                hours=hours,
                task=task,
            )
        )
    return rebuilt(refit, unknowns=(*refit.unknowns, *rows))


def _without_unknowns(refit: Refit, row: Seized) -> Refit:
    names = {f"{row.id}-rest", f"{row.id}-break"}
    return rebuilt(refit, unknowns=tuple(one for one in refit.unknowns if one.id not in names))


def _without_rung(refit: Refit, row: Seized) -> Refit:
    """The tasks of the rung that is in the plan out of it, with their ties, as far as they are not begun."""
    gone = {task.id for task in _tasks(refit, row, row.now)} if row.now is not None else set()
    gone = {key for key in gone if not refit.tasks[key].begun_at}
    jobs = tuple(
        job.model_copy(update={"tasks": tuple(task for task in job.tasks if task.id not in gone)})
        if gone & {task.id for task in job.tasks} else job
        for job in refit.jobs
    )  # fmt: skip
    jobs = tuple(job for job in jobs if job.tasks or job.id != f"{row.id}-job")  # its own job goes with its last task
    links = tuple(link for link in refit.links if not {link.first, link.then} & gone)
    unknowns = tuple(one for one in refit.unknowns if one.task not in gone)
    return rebuilt(refit, jobs=jobs, links=links, unknowns=unknowns)


def _new_one(refit: Refit, row: Seized) -> Refit:
    """The old one is spoilt: a new one is fitted before the work that puts things together again; taking apart goes on without it."""
    before = next((task for rung in reversed(row.tried) for task in reversed(_tasks(refit, row, rung.means))), None)
    if before is None:
        return refit
    hours = half_hours(NEW_ON * SLOWER[row.reach])
    task = Task(
        id=f"{row.id}-fit",
        title=f"{row.title}: a new one fitted"[:120],
        place=before.place,
        state=before.state,
        work=WorkTime(least=hours, likely=hours, most=hours * 2),
        parts=(row.part,) if row.part in refit.part_by_id else (),
        note="Thread cleaned; a paste between unlike metals.",
    )
    mine = refit.job_of[before.id].tasks
    later = [one for one in mine[mine.index(before) + 1 :] if not one.begun_at]
    back = next((one for one in later if TOGETHER.search(one.title)), later[-1] if later else None)
    return put_between(refit, before.id, [task], [], [back.id] if back is not None else [], "the old one is spoilt")


def is_of_seized(refit: Refit, unknown: str) -> Seized | None:
    """The seized thing of which an unknown is; None for all others. Its ladder settles it, not the unknown by itself."""
    return next((row for row in refit.seized if unknown in (f"{row.id}-rest", f"{row.id}-break")), None)


def tried_in(refit: Refit, task: str) -> Seized | None:
    """The seized thing that is tried in a task now; None for all other work."""
    for row in refit.seized:
        if row.now is not None and task in (f"{row.id}-{row.now.value}", f"{row.id}-{row.now.value}-try"):
            return row
    return None
