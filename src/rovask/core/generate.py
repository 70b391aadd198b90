"""Seeded refits for benches and property tests: calendars, cures, maximum lags, call-outs, parts, absences."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta

import numpy as np

from rovask.core.choices import Need, PartStatus, Role, State
from rovask.core.model import Boat, DayRange, Job, Link, Part, Person, Place, Refit, Shift, Task, WorkTime, Yard

_WEEK = ("mon", "tue", "wed", "thu", "fri", "sat")
_SKILLS = ("rigging", "engine", "laminating")


def _shift(start: int, end: int, *days: str) -> Shift:
    return Shift.model_validate({"days": days or _WEEK, "start": time(start), "end": time(end)})


def _people(first: date) -> tuple[Person, ...]:
    week = (_shift(8, 12), _shift(13, 18))
    away = DayRange(first=first + timedelta(days=12), last=first + timedelta(days=17), reason="away")
    return (
        Person(id="ann", name="Ann", skills=("paint", "laminating"), hours=week),
        Person(id="bo", name="Bo", skills=("engine",), hours=week, absences=(away,)),
        Person(id="cy", name="Cy", role=Role.HELPER, hours=week, arrives=first + timedelta(days=3)),
        Person(id="di", name="Di", role=Role.HELPER, skills=("paint",), hours=(_shift(9, 16),)),
        Person(
            id="rig",
            name="Rigger",
            role=Role.TRADE,
            skills=("rigging",),
            rate=5500,
            call_out_hours=3,
            hours=(_shift(8, 17, "tue", "thu", "fri"),),
        ),
        Person(
            id="eng",
            name="Engineer",
            role=Role.TRADE,
            skills=("engine",),
            rate=6000,
            call_out_hours=2,
            hours=(_shift(8, 17, "mon", "wed", "thu"),),
        ),
    )


def generated_refit(tasks: int, seed: int, days: int | None = None) -> Refit:
    """A refit of ``tasks`` tasks in jobs of four to eight, hauled on a Monday; same arguments, same refit.

    days: length of the haul-out; by default about what the crew needs.
    """
    random = np.random.default_rng(seed)
    haul = datetime(2026, 3, 2, 8, tzinfo=UTC)
    length = days if days is not None else max(8, round(tasks * 0.12) + 6)
    people = _people(haul.date())
    places = tuple(Place(id=f"p{n}", name=f"Place {n}", capacity=int(random.integers(1, 5))) for n in range(12))
    jobs: list[Job] = []
    links: list[Link] = []
    parts: list[Part] = []
    count = 0
    while count < tasks:
        size = min(int(random.integers(4, 9)), tasks - count)
        made: list[Task] = []
        need = random.choice([Need.MUST, Need.MUST, Need.MUST, Need.SHOULD, Need.COULD])
        where = int(random.integers(len(places)))
        for step in range(size):
            key = f"t{count}"
            work = int(random.integers(1, 13)) / 2
            skill = str(random.choice(_SKILLS)) if random.random() < 0.15 else None
            place = places[where if random.random() < 0.8 else int(random.integers(len(places)))]
            needs: tuple[str, ...] = ()
            if random.random() < 0.1:
                part = Part(
                    id=f"part{len(parts)}",
                    name=f"Part {len(parts)}",
                    price=int(random.integers(500, 90000)),
                    status=PartStatus.ORDERED,
                    arrives=haul + timedelta(hours=int(random.integers(0, length * 12))),
                )
                parts.append(part)
                needs = (part.id,)
            unbroken = bool(random.random() < 0.2 and work <= 4)
            hands = 2 if place.capacity > 1 and skill is None and random.random() < 0.2 else 1
            state = State.AFLOAT_AFTER if step == size - 1 and random.random() < 0.05 else State.ASHORE
            made.append(
                Task(
                    id=key,
                    title=f"Task {count}",
                    place=place.id,
                    state=state,
                    hands=hands,
                    skill=skill,
                    unbroken=unbroken,
                    parts=needs,
                    work=WorkTime(least=work / 2 // 0.5 * 0.5, likely=work, most=work * 2),
                )
            )
            if step:
                least, most = _lags(random)
                links.append(Link(id=f"l{len(links)}", first=made[-2].id, then=key, min_lag=least, max_lag=most))
            count += 1
        jobs.append(Job(id=f"j{len(jobs)}", title=f"Job {len(jobs)}", need=Need(need), tasks=tuple(made)))
    return Refit(
        name=f"Generated {tasks}/{seed}",
        haul_at=haul,
        launch_at=haul + timedelta(days=length, hours=2),
        boat=Boat(name="Test hull", length_m=11, waterline_m=9, beam_m=3.4, draft_m=1.8, displacement_kg=7200),
        yard=Yard(name="Test yard", time_zone="Atlantic/Azores", hours=(_shift(7, 19),)),
        places=places,
        people=people,
        parts=tuple(parts),
        jobs=tuple(jobs),
        links=tuple(links),
    )


def _lags(random: np.random.Generator) -> tuple[float, float | None]:
    """Hours between two steps of a job: none, a cure, or a cure with an overcoating window."""
    kind = random.random()
    if kind < 0.55:
        return 0, None
    cure = float(random.integers(2, 25))
    return (cure, None) if kind < 0.8 else (cure, cure + float(random.integers(24, 60)))
