"""The verifier's own reading of hours, rules, daylight and forecast, half-hour by half-hour off the local clock.

A half-hour is named by its number (half_hours.py), and each question is answered once: whether a person works in it,
and whether the yard, the light and the weather let a kind of work go on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from datetime import date, datetime, time, timedelta
from functools import cache
from itertools import accumulate
from zoneinfo import ZoneInfo

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import HALF_HOUR, beginning, number_of
from rovask.core.plan.result import Assignment
from rovask.core.refit.givens.weather import RAIN_FROM, daylight, dew_point
from rovask.core.refit.model import Person, Refit, Shift, Task, WeatherNeed
from rovask.core.refit.work.choices import Emission, State

MOST_HALVES = 20_000

Yes = Callable[[int], bool]
# What limits a kind of work: its state, whether it is outdoors, what it gives off, the weather it needs.
Limits = tuple[State, bool, tuple[Emission, ...], WeatherNeed | None]


HALVES_A_DAY = 48
FORTNIGHT = 14 * HALVES_A_DAY


def _of_day(clock: time) -> int:
    """The half-hour of a day that a clock time lies in."""
    return clock.hour * 2 + clock.minute // 30


# Local day and half-hour of the week by half-hour: the same for every plan of a zone, so found out once.
_LOCAL_TIMES: dict[ZoneInfo, dict[int, tuple[date, int]]] = {}


class _Asked(dict[int, bool]):
    """Answers by half-hour, each found out once."""

    def __init__(self, answer: Yes) -> None:
        super().__init__()
        self._answer = answer

    def __missing__(self, at: int) -> bool:
        found = self[at] = self._answer(at)
        return found


class _Givens:
    """What a half-hour allows by the people, appointments, yard and weather alone, whatever is planned in it."""

    def __init__(self, refit: Refit) -> None:
        self.appointments, self.yard, self.weather = refit.appointments, refit.yard, refit.weather
        self.visits = refit.visits
        self.closed = {day.on: day.closed_at for day in refit.days}
        self.zone = refit.yard.zone
        self._epoch = beginning(self.zone)
        self._local = _LOCAL_TIMES.setdefault(self.zone, {})
        self.works = {person.id: _Asked(self._works_at(person)) for person in refit.people}
        self._open = _Asked(self._open_at())
        self._open_of_day: dict[date, int] = {}
        self._days: tuple[int, list[float]] = 0, []  # from a half-hour on, working days up to each
        self._goes: dict[Limits, _Asked] = {}
        self._rain = _Asked(lambda at: any(self.weather.rain[hour] >= RAIN_FROM for hour in self._hours_of(at)))
        self._suns: dict[date, tuple[datetime, datetime] | None] = {}

    def local(self, at: int) -> tuple[date, int]:
        """Local day, and half-hour of the week from Monday 00:00, at the beginning of a half-hour."""
        found = self._local.get(at)
        if found is None:
            moment = (self._epoch + at * HALF_HOUR).astimezone(self.zone)
            of_week = moment.weekday() * HALVES_A_DAY + _of_day(moment.time())
            found = self._local[at] = (moment.date(), of_week)
        return found

    def day(self, moment: datetime) -> date:
        """The local day of a moment."""
        return moment.astimezone(self.zone).date()

    def day_of(self, at: int) -> date:
        """The local day of a half-hour."""
        return self.local(at)[0]

    def _hours_at(self, shifts: Iterable[Shift], *, empty: bool) -> Yes:
        """Whether one of the shifts runs; ``empty``: what no shifts at all mean."""
        week = [False] * (7 * HALVES_A_DAY)
        for shift in shifts:
            for name in shift.days:
                for half in range(_of_day(shift.start), _of_day(shift.end) or HALVES_A_DAY):
                    week[name.number * HALVES_A_DAY + half] = True
        if empty and not any(week):
            week = [True] * len(week)
        local = self.local
        return lambda at: week[local(at)[1]]

    def _works_at(self, person: Person) -> Yes:
        """Whether a person works."""
        in_shift = self._hours_at(person.hours, empty=False)
        busy = [
            (meeting.at, meeting.at + timedelta(hours=meeting.hours))
            for meeting in self.appointments
            if person.id in meeting.people
        ]

        stays = [visit for visit in self.visits if visit.person == person.id]

        @cache
        def there(today: date) -> bool:
            if stays and not any(stay.first <= today <= stay.last for stay in stays):
                return False
            if (person.arrives and today < person.arrives) or (person.leaves and today > person.leaves):
                return False
            return not any(span.first <= today <= span.last for span in person.absences)

        def works(at: int) -> bool:
            if not in_shift(at) or not there(self.local(at)[0]):
                return False
            begins, on = self._epoch + at * HALF_HOUR, self.local(at)[0]
            if on in self.closed and begins + HALF_HOUR > self.closed[on]:
                return False  # the day is written down: nobody is at work after
            return not any(start < begins + HALF_HOUR and begins < end for start, end in busy)

        return works

    def _open_at(self) -> Yes:
        """Whether the yard allows work ashore."""
        in_hours, closed = self._hours_at(self.yard.hours, empty=True), self.yard.closed
        return lambda at: in_hours(at) and not any(span.first <= self.local(at)[0] <= span.last for span in closed)

    def working_days(self, first: datetime, then: datetime) -> float:
        """The yard's working days between two moments: each day counts by the part of its open half-hours in between."""
        begins, ends = number_of(first, self.zone), number_of(then, self.zone)
        if ends <= begins:
            return 0.0
        since, so_far = self._days
        if begins < since or ends >= since + len(so_far):  # made anew whole, for others may be reading it
            since, until = min(begins, since or begins) - FORTNIGHT, max(ends, since + len(so_far)) + FORTNIGHT
            parts = (self._part_of_a_day(at) for at in range(since, until))
            so_far = list(accumulate(parts, initial=0.0))
            self._days = since, so_far
        return so_far[ends - since] - so_far[begins - since]

    def _part_of_a_day(self, at: int) -> float:
        """The part of the yard's working day that a half-hour is; 0 while it is shut."""
        if not self._open[at]:
            return 0.0
        today = self.local(at)[0]
        if today not in self._open_of_day:
            begins = at - self.local(at)[1] % HALVES_A_DAY
            near = range(begins - 4, begins + HALVES_A_DAY + 4)  # a day on which clocks change has more or fewer
            self._open_of_day[today] = sum(self._open[one] for one in near if self.local(one)[0] == today)
        return 1 / self._open_of_day[today]

    def _hours_of(self, at: int) -> list[int]:
        """The hours of the forecast that a half-hour touches."""
        weather, moment = self.weather, self._epoch + at * HALF_HOUR
        last = moment + HALF_HOUR - timedelta(seconds=1)
        return [hour for hour in {weather.hour_of(moment), weather.hour_of(last)} if hour is not None]

    def rains(self, moment: datetime) -> bool:
        """Whether the forecast has rain in the half-hour of a moment."""
        return self._rain[number_of(moment, self.zone)]

    def _suits(self, need: WeatherNeed, at: int) -> bool:
        """Whether the forecast, as far as it goes, has what a task needs."""
        weather = self.weather
        for hour in self._hours_of(at):
            air, damp = weather.temperature[hour], weather.humidity[hour]
            if need.dry and weather.rain[hour] >= RAIN_FROM:
                return False
            if need.least_temp is not None and air < need.least_temp:
                return False
            if need.most_temp is not None and air > need.most_temp:
                return False
            if need.most_humidity is not None and damp > need.most_humidity:
                return False
            if need.dew_margin is not None and air < dew_point(air, damp) + need.dew_margin:
                return False
            if need.most_wind is not None and weather.wind[hour] > need.most_wind:
                return False
        return True

    def _is_light(self, at: int) -> bool:
        """Whether the whole half-hour lies between sunrise and sunset; without a position there is no daylight to read."""
        yard, today = self.yard, self.local(at)[0]
        if yard.latitude is None or yard.longitude is None:
            return True
        if today not in self._suns:
            self._suns[today] = daylight(today, yard.latitude, yard.longitude)
        sun, moment = self._suns[today], self._epoch + at * HALF_HOUR
        return sun is not None and sun[0] <= moment and moment + HALF_HOUR <= sun[1]

    def _goes_on(self, limits: Limits) -> Yes:
        """Whether the yard, the light and the weather let a kind of work go on."""
        state, outdoors, emits, need = limits
        in_yard = state not in (State.AFLOAT_BEFORE, State.AFLOAT_AFTER)
        rules = [rule for rule in self.yard.rules if in_yard and rule.emits in emits]
        hours = [self._hours_at(rule.only, empty=True) for rule in rules]

        def goes(at: int) -> bool:
            if state in (State.ASHORE, State.LIFTING, State.SLINGS) and not self._open[at]:
                return False
            if outdoors and not self._is_light(at):
                return False
            if need is not None and not self._suits(need, at):
                return False
            today = self.local(at)[0]
            for rule, runs in zip(rules, hours, strict=True):
                if not runs(at) or any(span.first <= today <= span.last for span in rule.never):
                    return False
                if rule.permit_from and today < rule.permit_from:
                    return False
            return True

        return goes

    def goes_on(self, limits: Limits) -> Mapping[int, bool]:
        """For each half-hour whether the yard, the light and the weather let a kind of work go on."""
        found = self._goes.get(limits)
        if found is None:
            found = self._goes[limits] = _Asked(self._goes_on(limits))
        return found


@derived(lambda refit: (refit.people, refit.appointments, refit.visits, refit.days, refit.yard, refit.weather))
def _givens(refit: Refit) -> _Givens:
    return _Givens(refit)


class Clock:
    """What a half-hour allows the tasks of one plan of a refit."""

    def __init__(self, refit: Refit) -> None:
        self.refit = refit
        self._givens = _givens(refit)
        self.zone, self.works = self._givens.zone, self._givens.works
        self.working_days = self._givens.working_days
        self.day, self.day_of, self.rains = self._givens.day, self._givens.day_of, self._givens.rains
        self._of_task: dict[str, Mapping[int, bool]] = {}
        self._halves: dict[str, tuple[bool, ...]] = {}

    def may_go_on(self, task: Task) -> Mapping[int, bool]:
        """For each half-hour whether the yard, the light and the weather let a task go on."""
        found = self._of_task.get(task.id)
        if found is None:
            limits = (task.state, self.refit.place_by_id[task.place].outdoors, task.emits, task.weather)
            found = self._of_task[task.id] = self._givens.goes_on(limits)
        return found

    def halves(self, task: Task, item: Assignment) -> tuple[bool, ...]:
        """For each half-hour of an assignment whether everybody is at work and the task may go on."""
        found = self._halves.get(task.id)
        if found is None:
            begins, ends = item.resume or item.start, item.end
            first = number_of(begins, self.zone)
            last = min(first - ((begins - ends) // HALF_HOUR), first + MOST_HALVES)
            allowed = self.may_go_on(task)
            crew = [self.works[who] for who in item.people if who in self.works]
            if len(crew) == 1:  # most are one person's, and this is asked of every half-hour
                works = crew[0]
                found = tuple(allowed[at] and works[at] for at in range(first, last))
            else:
                found = tuple(allowed[at] and all(works[at] for works in crew) for at in range(first, last))
            self._halves[task.id] = found
        return found
