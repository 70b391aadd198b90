"""What a clash asks for, in the plan: something made or moved before the new thing is fitted; and shapes for the other side."""

from __future__ import annotations

from rovask.core.craft.fits import Clash, FitTables, clashes
from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import half_hours
from rovask.core.refit.craft.kinds import Corner, Fit, Hole, Shape
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Job, Link, Refit, Task
from rovask.core.refit.work.interrupted import put_between, some_place
from rovask.core.refit.work.kinds import Part, WorkTime


def fit_of(refit: Refit, key: str) -> Fit:
    """The sheet. Raises RefitFaults when it is gone."""
    row = next((one for one in refit.fits if one.id == key), None)
    if row is None:
        raise refused("This measured sheet is gone; somebody removed it meanwhile.")
    return row


def _clash(fit: Fit, key: str) -> Clash:
    found = next((one for one in clashes(fit) if one.key == key), None)
    if found is None:
        raise refused("It clashes no longer: the measures were changed.")
    return found


def settled_clash(refit: Refit, key: str, clash: str) -> Refit:
    """Somebody says that it doesn't matter."""
    fit = fit_of(refit, key)
    _clash(fit, clash)
    return put(refit, fit.model_copy(update={"settled": tuple(dict.fromkeys((*fit.settled, clash)))}))


def made_for(refit: Refit, tables: FitTables, key: str, clash: str, hours: float, money: int) -> Refit:
    """What a clash asks for as work before the thing is fitted, with what it costs as a part, and the hours it cures as a wait.

    money: minor units of the refit's currency. Raises RefitFaults for a clash there isn't any more, or one that is in the plan.
    """
    fit = fit_of(refit, key)
    found = _clash(fit, clash)
    if clash in fit.settled:
        raise refused("That is in the plan already.")
    remedy = tables.remedy[found.of]
    name = f"{fit.id}-{clash}"[:34]
    target = refit.tasks.get(fit.task or "")
    likely = half_hours(hours)
    parts: tuple[str, ...] = ()
    if money:
        part = Part(id=f"{name}-part", name=f"For: {remedy.make.lower()}, {fit.title}"[:120], price=money, lead_days=3)
        refit, parts = rebuilt(refit, parts=(*refit.parts, part)), (part.id,)
    task = Task(
        id=name,
        title=f"{remedy.make}: {fit.title}"[:120],
        place=target.place if target is not None else some_place(refit),
        state=target.state if target is not None else Task.model_fields["state"].default,
        work=WorkTime(least=half_hours(likely * 0.6), likely=likely, most=half_hours(likely * 2)),
        parts=parts,
        note=f"{found.said[0].upper()}{found.said[1:]}. {remedy.note}".strip(),
    )
    if target is None:
        job = next((one for one in refit.jobs if one.id == f"{fit.id}-job"), None)
        if job is None:
            refit = rebuilt(
                refit,
                jobs=(*refit.jobs, Job(id=f"{fit.id}-job", title=f"So that it fits: {fit.title}"[:120], tasks=(task,))),
            )
        else:
            changed = job.model_copy(update={"tasks": (*job.tasks, task)})
            refit = rebuilt(refit, jobs=tuple(changed if one.id == job.id else one for one in refit.jobs))
    else:
        if target.begun_at:
            raise refused(f"“{target.title}” is begun; add the work after it by hand.")
        refit = put_between(refit, None, [task], [], [target.id], "so that it fits")
        if remedy.wait:
            tie = next(link for link in refit.links if (link.first, link.then) == (task.id, target.id))
            cured = Link.model_validate(
                tie.model_dump() | {"min_lag": remedy.wait, "cures": True, "reason": "cured first"}
            )
            refit = put(refit, cured)
    return put(refit, fit.model_copy(update={"settled": (*fit.settled, clash)}))


def mirrored(shape: Shape, key: str) -> Shape:
    """The shape of the other side: left and right changed about its own middle line; its title says so."""
    return Shape(
        id=key,
        title=f"{shape.title[:104]}, other side",
        task=shape.task,
        corners=tuple(Corner(x=-one.x, y=one.y) for one in reversed(shape.corners)),
        holes=tuple(Hole(x=-one.x, y=one.y, d=one.d) for one in shape.holes),
        thick=shape.thick,
        of=shape.of,
        mirror_of=shape.id,
        note=shape.note,
        at=shape.at,
    )
