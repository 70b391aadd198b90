"""When each crew can be at each task: people's hours, the yard's hours and rules, daylight, weather."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime, time, timedelta

import numpy as np

from rovask.core.plan.problem.calendar import Mask, SlotGrid
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.problem.sky import light, suitable
from rovask.core.refit.model import Person, Refit, Task, WeatherNeed
from rovask.core.refit.work.choices import Emission, State

Limits = tuple[bool, bool, tuple[Emission, ...], WeatherNeed | None]


@dataclass
class Calendars:
    """Calendars by content, so that crews with the same hours share one."""

    horizon: int
    index: dict[bytes, int] = field(default_factory=dict)
    masks: list[Mask] = field(default_factory=list)
    seen: dict[int, tuple[int, Mask]] = field(default_factory=dict)
    lists: dict[int, tuple[list[int], list[Mask]]] = field(default_factory=dict)

    def add(self, mask: Mask) -> int:
        """The number of a calendar. Known by its id(), so it is held here as long as that is asked for."""
        if id(mask) not in self.seen:
            self.seen[id(mask)] = self._by_content(mask), mask
        return self.seen[id(mask)][0]

    def _by_content(self, mask: Mask) -> int:
        key = mask.tobytes()
        if key not in self.index:
            self.index[key] = len(self.masks)
            self.masks.append(mask)
        return self.index[key]

    def add_all(self, masks: list[Mask]) -> list[int]:
        """The numbers of several calendars; the same list, known by its id() too, is looked up once."""
        if id(masks) not in self.lists:
            self.lists[id(masks)] = [self.add(mask) for mask in masks], masks
        return self.lists[id(masks)][0]

    def arrays(self) -> tuple[np.ndarray, np.ndarray]:
        """rank and pos of every calendar; see problem.Arrays."""
        rank = np.zeros((len(self.masks), self.horizon + 1), dtype=np.int32)
        pos = np.full((len(self.masks), self.horizon + 1), self.horizon, dtype=np.int32)
        for row, mask in enumerate(self.masks):
            np.cumsum(mask, out=rank[row, 1:])
            where = np.flatnonzero(mask)
            pos[row, : len(where)] = where
        return rank, pos


def yard_mask(refit: Refit, grid: SlotGrid) -> Mask:
    """Half-hours in which the yard is open; a yard without hours always is, but on its closed days."""
    mask = grid.open_slots(refit.yard.hours) if refit.yard.hours else np.ones(grid.size, dtype=np.bool_)
    grid.close(mask, refit.yard.closed)
    return mask


@dataclass
class Hours:
    """Working half-hours of each person, of the yard, and of what limits a task."""

    refit: Refit
    grid: SlotGrid
    person: dict[str, Mask]
    ashore: Mask
    fitting: dict[object, list[tuple[str, ...]]] = field(default_factory=dict)
    together: dict[tuple[str, ...], Mask] = field(default_factory=dict)
    limits: dict[Limits, Mask] = field(default_factory=dict)
    numbers: dict[Limits, int] = field(default_factory=dict)
    number_of: dict[str, int] = field(default_factory=dict)
    most: dict[tuple[int, int, int, bool], int] = field(default_factory=dict)
    crews: dict[tuple[tuple[str, ...], int], Mask] = field(default_factory=dict)
    lists: dict[tuple[int, int], tuple[list[Mask], list[tuple[str, ...]]]] = field(default_factory=dict)
    by_task: dict[str, tuple[list[tuple[str, ...]], list[Mask]]] = field(default_factory=dict)

    @classmethod
    def of(cls, refit: Refit, grid: SlotGrid, *, closed: bool = True) -> Hours:
        """The hours of everybody in ``refit``, less their appointments; closed: and less what follows a day's closing."""
        person = {
            who.id: grid.hours_of(who, [one for one in refit.visits if one.person == who.id]) for who in refit.people
        }
        for meeting in refit.appointments:
            lo = max(grid.floor(meeting.at), 0)
            hi = max(grid.ceil(meeting.at + timedelta(hours=meeting.hours)), 0)
            for who in meeting.people:
                person[who][lo:hi] = False
        for day in refit.days if closed else ():  # a day that is written down is over: nobody is at work after
            lo = max(grid.floor(day.closed_at), 0)
            over = datetime.combine(day.on + timedelta(days=1), time(0), tzinfo=refit.yard.zone)
            if day.closed_at < over and grid.ceil(over) > 0:
                for mask in person.values():
                    mask[lo : grid.ceil(over)] = False
        return cls(refit, grid, person, yard_mask(refit, grid))

    def launching(self) -> Mask:
        """Half-hours at which the yard launches: its open ones, and where an open stretch ends."""
        mask = self.ashore.copy()
        mask[1:] |= self.ashore[:-1]
        if self.refit.yard.closed:
            self.grid.close(mask, self.refit.yard.closed)
        return mask

    def crews_of(self, task: Task) -> list[tuple[str, ...]]:
        """Crews for a task, worked out once for all tasks alike; one under way keeps the people who began it."""
        if task.id in self.by_task:
            return self.by_task[task.id][0]
        if task.is_under_way and task.crew:
            return [task.crew]
        key = (task.skill, task.skilled, task.hands, task.people)
        if key not in self.fitting:
            self.fitting[key] = crews_for(self.refit, task)
        return self.fitting[key]

    def _limits_of(self, task: Task) -> Limits:
        in_yard = task.state in (State.ASHORE, State.LIFTING, State.SLINGS, State.EITHER)
        place = self.refit.place_by_id[task.place]
        sited = self.refit.yard.latitude is not None and self.refit.yard.longitude is not None
        ruled = self.refit.yard.rules if in_yard and task.emits else ()
        return (
            task.state in (State.ASHORE, State.LIFTING, State.SLINGS),
            place.outdoors and sited,
            tuple(what for what in task.emits if any(rule.emits == what for rule in ruled)),
            task.weather,
        )

    def _allowed(self, limits: Limits) -> Mask:
        """Half-hours in which the yard, the light and the weather let a task go on."""
        if limits not in self.limits:
            ashore, outdoors, emits, need = limits
            yard = self.refit.yard
            mask = self.ashore.copy() if ashore else np.ones_like(self.ashore)
            if outdoors and yard.latitude is not None and yard.longitude is not None:
                mask &= light(self.grid, yard.latitude, yard.longitude)
            for rule in yard.rules:
                if rule.emits in emits:
                    if rule.only:
                        mask &= self.grid.open_slots(rule.only)
                    self.grid.close(mask, rule.never)
                    if rule.permit_from:
                        mask[: self.grid.midnight(rule.permit_from)] = False
            if need is not None:
                mask &= suitable(self.grid, self.refit.weather, need)
            self.limits[limits] = mask
        return self.limits[limits]

    def of_crews(self, crews: Iterable[tuple[str, ...]], task: Task) -> Iterator[Mask]:
        """For each crew the half-hours in which all of it can work on ``task``; one array for all tasks alike."""
        number = self._number_of(task)
        for crew in crews:
            key = (crew, number)
            if key not in self.crews:
                if crew not in self.together:
                    mask = np.ones_like(self.ashore)
                    for who in crew:
                        mask &= self.person[who]
                    self.together[crew] = mask
                self.crews[key] = self.together[crew] & self._allowed(self._limits_of(task))
            yield self.crews[key]

    def _number_of(self, task: Task) -> int:
        if task.id not in self.number_of:
            limits = self._limits_of(task)
            self.number_of[task.id] = self.numbers.setdefault(limits, len(self.numbers))
        return self.number_of[task.id]

    def masks_of(self, task: Task) -> list[Mask]:
        """The half-hours of each of a task's crews, in their order; one list for all tasks alike."""
        if task.id not in self.by_task:
            crews = self.crews_of(task)
            key = (id(crews), self._number_of(task))
            if key not in self.lists:
                self.lists[key] = list(self.of_crews(crews, task)), crews
            self.by_task[task.id] = crews, self.lists[key][0]
        return self.by_task[task.id][1]

    def most_of_any(self, masks: list[Mask], lo: int, hi: int, in_one_go: bool) -> int:
        """Of some crews' calendars (one of our lists) the working half-hours of the one that has most."""
        key = (id(masks), lo, hi, in_one_go)
        if key not in self.most:
            self.most[key] = max((self.most_in(mask, lo, hi, in_one_go) for mask in masks), default=0)
        return self.most[key]

    def most_in(self, mask: Mask, lo: int, hi: int, in_one_go: bool) -> int:
        """Working half-hours from slot ``lo`` to ``hi``, all of them or the most in a row; ``mask`` is one of ours."""
        key = (id(mask), lo, hi, in_one_go)
        if key not in self.most:
            left = mask[lo:hi]
            if in_one_go:
                edges = np.flatnonzero(np.diff(np.concatenate([[0], left.astype(np.int8), [0]])))
                self.most[key] = int(np.max(edges[1::2] - edges[::2], initial=0))
            else:
                self.most[key] = int(np.count_nonzero(left))
        return self.most[key]

    def longest_run(self, person: Person) -> int:
        """Days on end a person may work; 0 if their hours never allow more than that anyway."""
        run = most = 0
        for works in np.logical_or.reduceat(self.person[person.id], self.grid.day_starts()).tolist():
            run = run + 1 if works else 0
            most = max(most, run)
        return person.longest_run if most > person.longest_run else 0
