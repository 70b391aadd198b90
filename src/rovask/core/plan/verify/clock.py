"""The verifier's own reading of hours, rules, daylight and forecast, half-hour by half-hour off the local clock."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from functools import lru_cache

from rovask.core.refit.choices import State
from rovask.core.refit.model import Refit, Shift, Task, WeatherNeed
from rovask.core.refit.weather import RAIN_FROM, daylight, dew_point

HALF_HOUR = timedelta(minutes=30)


class Clock:
    """What a half-hour allows. All moments are aware; a half-hour is named by its beginning."""

    def __init__(self, refit: Refit) -> None:
        self.refit = refit
        self.zone = refit.yard.zone
        self.works = lru_cache(maxsize=None)(self._works)
        self.open = lru_cache(maxsize=None)(self._open)
        self.rains = lru_cache(maxsize=None)(self._rains)
        self.suits = lru_cache(maxsize=None)(self._suits)
        self.sun = lru_cache(maxsize=None)(self._sun)

    def day(self, moment: datetime) -> date:
        """The local day."""
        return moment.astimezone(self.zone).date()

    def _in_shifts(self, shifts: tuple[Shift, ...], moment: datetime) -> bool:
        local = moment.astimezone(self.zone)
        clock = local.time().replace(tzinfo=None)
        return any(
            local.weekday() in {day.number for day in shift.days} and shift.start <= clock < shift.end
            for shift in shifts
        )

    def _open(self, moment: datetime) -> bool:
        """Whether the yard allows work ashore."""
        yard, today = self.refit.yard, self.day(moment)
        if any(span.first <= today <= span.last for span in yard.closed):
            return False
        return not yard.hours or self._in_shifts(yard.hours, moment)

    def _works(self, who: str, moment: datetime) -> bool:
        """Whether a person works."""
        person, today = self.refit.persons[who], self.day(moment)
        if (person.arrives and today < person.arrives) or (person.leaves and today > person.leaves):
            return False
        if any(span.first <= today <= span.last for span in person.absences):
            return False
        for meeting in self.refit.appointments:
            ends = meeting.at + timedelta(hours=meeting.hours)
            if who in meeting.people and meeting.at < moment + HALF_HOUR and moment < ends:
                return False
        return self._in_shifts(person.hours, moment)

    def _hours_of(self, moment: datetime) -> list[int]:
        """The hours of the forecast that a half-hour touches."""
        weather = self.refit.weather
        last = moment + HALF_HOUR - timedelta(seconds=1)
        return [hour for hour in {weather.hour_of(moment), weather.hour_of(last)} if hour is not None]

    def _rains(self, moment: datetime) -> bool:
        """Whether the forecast has rain."""
        return any(self.refit.weather.rain[hour] >= RAIN_FROM for hour in self._hours_of(moment))

    def _suits(self, need: WeatherNeed, moment: datetime) -> bool:
        """Whether the forecast, as far as it goes, has what a task needs."""
        weather = self.refit.weather
        for hour in self._hours_of(moment):
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

    def _sun(self, day: date) -> tuple[datetime, datetime] | None:
        yard = self.refit.yard
        if yard.latitude is None or yard.longitude is None:
            raise ValueError("a yard without a position has no daylight to read")
        return daylight(day, yard.latitude, yard.longitude)

    def is_light(self, moment: datetime) -> bool:
        """Whether the whole half-hour lies between sunrise and sunset."""
        sun = self.sun(self.day(moment))
        return sun is not None and sun[0] <= moment and moment + HALF_HOUR <= sun[1]

    def may_go_on(self, task: Task, moment: datetime) -> bool:
        """Whether the yard, the light and the weather let a task go on."""
        yard, place = self.refit.yard, self.refit.place_by_id[task.place]
        if task.state in (State.ASHORE, State.SLINGS) and not self.open(moment):
            return False
        if place.outdoors and None not in (yard.latitude, yard.longitude) and not self.is_light(moment):
            return False
        if task.weather is not None and not self.suits(task.weather, moment):
            return False
        if task.state in (State.AFLOAT_BEFORE, State.AFLOAT_AFTER):
            return True
        today = self.day(moment)
        for rule in yard.rules:
            if rule.emits not in task.emits:
                continue
            if rule.only and not self._in_shifts(rule.only, moment):
                return False
            if any(span.first <= today <= span.last for span in rule.never):
                return False
            if rule.permit_from and today < rule.permit_from:
                return False
        return True

    def all_at_work(self, task: Task, people: tuple[str, ...], moment: datetime) -> bool:
        """Whether everybody is at work and the task may go on."""
        return self.may_go_on(task, moment) and all(
            self.works(who, moment) for who in people if who in self.refit.persons
        )
