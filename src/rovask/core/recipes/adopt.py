"""An expansion taken into a refit: its job with all that hangs on it, in one change that can be undone."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from rovask.core.recipes.expand import Expansion
from rovask.core.recipes.ties import free_id
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Role, Spot, Weekday
from rovask.core.refit.givens.kinds import Person, Place, Shift
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.kinds import Job, Part

_SPOTS = list(Spot)
_WEEK = tuple(Weekday)[:5]


def adopted(refit: Refit, expansion: Expansion, *, reason: str = "", hire: Iterable[str] = ()) -> Refit:
    """The refit with the job in it. reason: why this school. hire: skills for which a trade is taken on.

    Raises ValidationError when something can't be.
    """
    job = expansion.job.model_copy(update={"reason": reason})
    return rebuilt(
        refit,
        places=in_order((*refit.places, *expansion.places)),
        people=(*refit.people, *hired(refit, hire)),
        gear=(*refit.gear, *expansion.gear),
        parts=(*refit.parts, *expansion.parts),
        jobs=_inserted(refit.jobs, job),
        links=(*refit.links, *expansion.links),
        unknowns=(*refit.unknowns, *expansion.unknowns),
        off_boat=(*refit.off_boat, *expansion.off_boat),
        inspections=(*refit.inspections, *expansion.inspections),
    )


def bought_for(expansion: Expansion, total: int, taken: set[str]) -> Expansion:
    """The expansion with all it buys for ``total`` minor units, as somebody offered: each part its share of that.

    taken: ids of the parts there are. What buys nothing gets a part for it, which its first task has at hand.
    """
    parts, whole = expansion.parts, sum(part.price for part in expansion.parts)
    if total == whole:
        return expansion
    if not parts:
        task, *rest = expansion.job.tasks
        key = free_id(f"{expansion.job.id[:30]}-agreed", taken)
        agreed = Part(id=key, name=f"As agreed: {expansion.job.title}"[:120], price=total, status=PartStatus.CHECKED)
        first = task.model_copy(update={"parts": (*task.parts, key)})
        return replace(expansion, parts=(agreed,), job=expansion.job.model_copy(update={"tasks": (first, *rest)}))
    shares, said = [], 0
    for at, part in enumerate(parts):  # cut the running total, so that the shares add up to the last cent
        said += part.price if whole else int(at == 0)
        shares.append(total * said // (whole or 1))
    prices = [share - before for share, before in zip(shares, [0, *shares[:-1]], strict=True)]
    rows = (part.model_copy(update={"price": price}) for part, price in zip(parts, prices, strict=True))
    return replace(expansion, parts=tuple(rows))


def _inserted(jobs: tuple[Job, ...], job: Job) -> tuple[Job, ...]:
    """Haul and first look stand first; making ready, launch and proving last; the rest between them."""
    if job.recipe in ("haul", "look"):
        at = sum(one.recipe in ("haul", "look")[: ("haul", "look").index(job.recipe)] for one in jobs)
        return (*jobs[:at], job, *jobs[at:])
    last = ("ready", "launch", "proving")
    rank = last.index(job.recipe) if job.recipe in last else -1
    at = next((n for n, one in enumerate(jobs) if one.recipe in last and last.index(one.recipe) > rank), len(jobs))
    return (*jobs[:at], job, *jobs[at:])


def in_order(places: Iterable[Place]) -> tuple[Place, ...]:
    """Places from masthead to keel; one without a spot stays behind the one it stood behind."""
    ranked: list[tuple[int, Place]] = []
    last = -1
    for place in places:
        last = _SPOTS.index(place.spot) if place.spot is not None else last
        ranked.append((last, place))
    return tuple(place for _, place in sorted(ranked, key=lambda pair: pair[0]))


def hired(refit: Refit, skills: Iterable[str]) -> list[Person]:
    """A trade for each skill, working weekdays; rate and call-out are still to be agreed and typed in."""
    out: list[Person] = []
    for skill in skills:
        taken = {person.id for person in (*refit.people, *out)}
        yard = skill == "lifting"
        hours = (Shift.model_validate({"days": _WEEK, "start": "08:00", "end": "16:00"}),)
        for count in range(2 if yard else 1):
            name = f"Yard crew {count + 1}" if yard else f"{skill.title()} (to be found)"
            out.append(
                Person(
                    id=free_id(skill.replace(" ", "-")[:30], taken | {person.id for person in out}),
                    name=name,
                    role=Role.YARD if yard else Role.TRADE,
                    skills=(skill,),
                    hours=hours,
                )
            )
    return out
