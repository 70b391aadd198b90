"""Seeded refits for benches and property tests, with every kind of rule in them.

Calendars, absences, call-outs, rest days; cures with and without temperature, overcoating windows with make-good
work; places with room, dust and wet coats; equipment; parts; weather and daylight; yard rules; outages; the slings.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from typing import Any

import numpy as np

from rovask.core.refit.givens.choices import Role, Service
from rovask.core.refit.model import (
    Boat,
    DayRange,
    Gear,
    Job,
    Link,
    Part,
    Person,
    Place,
    Refit,
    Shift,
    Task,
    WeatherNeed,
    WorkTime,
    Yard,
    YardRule,
)
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import Emission, Need, State
from rovask.standins.synthetic_weather import synthetic_weather

_WEEK = ("mon", "tue", "wed", "thu", "fri", "sat")
_SKILLS = ("rigging", "engine", "laminating")
_COAT = WeatherNeed(dry=True, least_temp=8, most_humidity=88, dew_margin=3)
_ALOFT = WeatherNeed(dry=True, most_wind=9)


def _shift(start: int, end: int, *days: str) -> Shift:
    return Shift.model_validate({"days": days or _WEEK, "start": time(start), "end": time(end)})


def _people(first: date) -> tuple[Person, ...]:
    week = (_shift(8, 12), _shift(13, 18))
    every_day = (_shift(8, 12, *_WEEK, "sun"), _shift(13, 18, *_WEEK, "sun"))
    away = DayRange(first=first + timedelta(days=12), last=first + timedelta(days=17), reason="away")
    trades: list[tuple[str, str, str, int, float, Shift]] = [
        ("rig", "Rigger", "rigging", 5500, 3, _shift(8, 17, "tue", "thu", "fri")),
        ("eng", "Engineer", "engine", 6000, 2, _shift(8, 17, "mon", "wed", "thu")),
    ]
    return (
        Person(id="ann", name="Ann", skills=("paint", "laminating"), hours=every_day, longest_run=6),
        Person(id="bo", name="Bo", skills=("engine",), hours=week, absences=(away,)),
        Person(id="cy", name="Cy", role=Role.HELPER, hours=week, arrives=first + timedelta(days=3)),
        Person(id="di", name="Di", role=Role.HELPER, skills=("paint",), hours=(_shift(9, 16),)),
        *(
            Person(id=key, name=name, role=Role.TRADE, skills=(skill,), rate=rate, call_out_hours=least, hours=(hours,))
            for key, name, skill, rate, least, hours in trades
        ),
    )


def _places(random: np.random.Generator) -> tuple[Place, ...]:
    """Six places outdoors and six below, each of those open onto the next."""
    return tuple(
        Place(
            id=f"p{n}",
            name=f"Place {n}",
            capacity=int(random.integers(2, 5)) if n < 6 else int(random.integers(1, 4)),
            outdoors=n < 3,
            opens_onto=(f"p{n + 1}",) if 6 <= n < 11 else (),
        )
        for n in range(12)
    )


class _Writer:
    """Writes jobs one by one with a random stream of its own."""

    def __init__(self, seed: int, haul: datetime, length: int) -> None:
        self.random = np.random.default_rng(seed)
        self.haul, self.length = haul, length
        self.places = _places(self.random)
        self.parts: list[Part] = []
        self.links: list[Link] = []
        self.count = 0

    def chance(self, share: float) -> bool:
        return bool(self.random.random() < share)

    def part(self) -> tuple[str, ...]:
        """Now and then a part that is still on its way."""
        if not self.chance(0.1):
            return ()
        key = f"part{len(self.parts)}"
        arrives = self.haul + timedelta(hours=int(self.random.integers(0, self.length * 10)))
        price = int(self.random.integers(500, 90000))
        self.parts.append(Part(id=key, name=key, price=price, status=PartStatus.ORDERED, arrives=arrives))
        return (key,)

    def task(self, where: int, last: bool) -> Task:
        random = self.random
        work = int(random.integers(1, 13)) / 2
        skill = str(random.choice(_SKILLS)) if self.chance(0.15) else None
        place = self.places[where if self.chance(0.8) else int(random.integers(len(self.places)))]
        more: dict[str, Any] = {}
        kind = random.random()
        if kind < 0.12 and work <= 4:
            more = {"unbroken": True, "shuns": (Emission.DUST,), "tender": float(random.integers(2, 9))}
            if place.outdoors:
                more["weather"] = _COAT
        elif kind < 0.24:
            more = {"emits": (Emission.DUST,), "gear": ("sander",) if self.chance(0.6) else ()}
        elif kind < 0.30:
            more = {"emits": (Emission.FUMES,)}
        elif kind < 0.33:
            more = {"emits": (Emission.SPARKS,)}
        elif kind < 0.36 and place.outdoors:
            more = {"weather": _ALOFT}
        elif kind < 0.40:
            more = {"gear": ("scaffold",)}
        hands = 2 if place.capacity > 1 and skill is None and self.chance(0.2) else 1
        if last and self.chance(0.05):
            more["state"] = State.AFLOAT_AFTER
        elif last and self.chance(0.03) and work <= 1.5 and "weather" not in more:
            more["state"] = State.SLINGS
        units = 1
        if work >= 2 and work % 1 == 0 and not more.get("unbroken") and self.chance(0.1):
            units, work = 2, work / 2
        return Task(
            id=f"t{self.count}",
            title=f"Task {self.count}",
            place=place.id,
            hands=hands,
            skill=skill,
            parts=self.part(),
            units=units,
            work=WorkTime(least=work / 2 // 0.5 * 0.5, likely=work, most=work * 2),
            **more,
        )

    def job(self, number: int, size: int) -> Job:
        random = self.random
        need = Need(random.choice([Need.MUST, Need.MUST, Need.MUST, Need.SHOULD, Need.COULD]))
        where = int(random.integers(len(self.places)))
        made: list[Task] = []
        for step in range(size):
            made.append(self.task(where, last=step == size - 1))
            self.count += 1
            if step:
                self.links.append(Link(id=f"l{len(self.links)}", first=made[-2].id, then=made[-1].id, **self._lags()))
        if size >= 3 and self.chance(0.08):  # opening it takes the heads out until it is closed again
            made[-2] = made[-2].model_copy(update={"takes_out": (Service.HEADS,), "until": made[-1].id})
        return Job(id=f"j{number}", title=f"Job {number}", need=need, tasks=tuple(made))

    def _lags(self) -> dict[str, Any]:
        """Hours between two steps of a job: none, a cure, or a cure with an overcoating window."""
        kind = self.random.random()
        if kind < 0.55:
            return {}
        cure = float(self.random.integers(2, 20))
        if kind < 0.8:
            return {"min_lag": cure, "cures": self.chance(0.5)}
        window = float(self.random.integers(24, 60))
        return {"min_lag": cure, "max_lag": cure + window, "make_good_hours": 2.0}


def generated_refit(tasks: int, seed: int, days: int | None = None) -> Refit:
    """A refit of ``tasks`` tasks in jobs of four to eight, hauled on a Monday; same arguments, same refit.

    days: length of the haul-out; by default about what the crew needs.
    """
    haul = datetime(2026, 3, 2, 8, tzinfo=UTC)
    length = days if days is not None else round(tasks * 0.11) + 12
    writer = _Writer(seed, haul, length)
    jobs: list[Job] = []
    while writer.count < tasks:
        size = min(int(writer.random.integers(4, 9)), tasks - writer.count)
        jobs.append(writer.job(len(jobs), size))
    return Refit(
        name=f"Generated {tasks}/{seed}",
        haul_at=haul,
        launch_at=haul + timedelta(days=length, hours=2),
        boat=Boat(name="Test hull", length_m=11, waterline_m=9, beam_m=3.4, draft_m=1.8, displacement_kg=7200),
        yard=Yard(
            name="Test yard",
            time_zone="Atlantic/Azores",
            latitude=37.7,
            longitude=-25.7,
            hours=(_shift(7, 19),),
            rules=(YardRule(emits=Emission.SPARKS, only=(_shift(8, 16),), reason="hot work while the yard is there"),),
        ),
        weather=synthetic_weather(seed, haul, 14 * 24, latitude=37.7, source="generated"),
        places=writer.places,
        people=_people(haul.date()),
        gear=(Gear(id="sander", name="Sander", count=1), Gear(id="scaffold", name="Scaffold", count=2)),
        parts=tuple(writer.parts),
        jobs=tuple(jobs),
        links=tuple(writer.links),
    )


def with_a_longer_task(refit: Refit, seed: int) -> tuple[Refit, str]:
    """The refit with one ashore task of two hours or more half as long again; which one is the seed's choice."""
    fit = [task.id for task in refit.tasks.values() if task.work.likely >= 2 and task.state is State.ASHORE]
    key = str(np.random.default_rng(seed).choice(fit))

    def longer(task: Any) -> Any:
        if task.id != key:
            return task
        likely = round(task.work.likely * 1.5 * 2) / 2
        return task.model_copy(update={"work": task.work.model_copy(update={"likely": likely, "most": likely * 2})})

    jobs = tuple(job.model_copy(update={"tasks": tuple(longer(task) for task in job.tasks)}) for job in refit.jobs)
    return Refit.model_construct(**(dict(refit) | {"jobs": jobs})), key
