"""The weather: fetched, brought in as a file, or said."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.sky_edits import said_rain
from rovask.core.refit.givens.weather import Weather
from rovask.core.refit.model import Refit
from rovask.desk.command import Actor, ChangeCommand, Done, Situation
from rovask.desk.door import Desk
from rovask.desk.weather_service import WeatherAway, fetch_weather


@dataclass(frozen=True)
class SetWeather(ChangeCommand):
    """A forecast takes the place of the one before. ``words``: where it comes from."""

    weather: Weather
    words: str

    def told(self, refit: Refit) -> str:
        """Where from."""
        return self.words

    def change(self, refit: Refit, at: Situation) -> Refit:
        """With this weather."""
        return rebuilt(refit, weather=self.weather)


@dataclass(frozen=True)
class SayWeather(ChangeCommand):
    """It rains, or it doesn't, for some hours, whatever the forecast says."""

    wet: bool
    hours: int

    def told(self, refit: Refit) -> str:
        """What was said."""
        return f"said that {'it rains' if self.wet else 'it is dry'} for {self.hours} h"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """With that in the forecast."""
        return rebuilt(refit, weather=said_rain(refit.weather, at.now, self.hours, wet=self.wet))


def fetched(desk: Desk, actor: Actor, pk: int) -> Done:
    """Ask the weather service and take its forecast; what was known before stands when it doesn't answer.

    Nothing is locked while it is asked. Raises RefitFaults, saying what to do.
    """
    url = desk.settings.weather_url
    with desk.looking() as session:
        desk.let_in(session, actor, pk, SetWeather.needs)
        kept = desk.seen_by(session, actor.account, pk).kept
    yard = kept.refit.yard
    if not url:
        why = "No weather service is set (ROVASK_WEATHER_URL); bring a forecast in as a file."
        raise RefitFaults([Fault("", why)])
    if yard.latitude is None or yard.longitude is None:
        raise RefitFaults([Fault("", "Say where the yard lies first: latitude and longitude, under Yard.")])
    try:
        found = fetch_weather(url, yard.latitude, yard.longitude, kept.now(desk.settings.clock()))
    except WeatherAway as error:
        raise RefitFaults([Fault("", str(error))]) from None
    return desk.act(actor, pk, SetWeather(found, "fetched the weather"))
