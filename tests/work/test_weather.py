"""Weather through the client, from a file and by word of mouth: what is kept, and what is said when it fails."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import httpx2 as httpx
import pytest
from fastapi.testclient import TestClient

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.givens.sky_edits import said_rain
from rovask.core.refit.givens.weather import RAIN_FROM, Weather
from rovask.desk.weather_service import WeatherAway, fetch_weather
from rovask.formats.weather_csv import read_weather
from rovask.standins.weather import create_app

NOW = datetime(2026, 5, 12, 9, 30, tzinfo=UTC)
LISBON = ZoneInfo("Europe/Lisbon")
HEAD = "time,temperature_c,humidity_pct,rain_mm,wind_ms\n"


class Through(httpx.BaseTransport):
    """Hands requests to the simulated service without a socket."""

    def __init__(self) -> None:
        self.client = TestClient(create_app(seed=4))

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        answer = self.client.get(str(request.url.raw_path, "ascii"))
        return httpx.Response(answer.status_code, content=answer.content)


def test_the_simulated_service_is_fetched_like_a_real_one() -> None:
    first = fetch_weather("http://sky.test", 38.5, -9.2, NOW, Through())
    assert first.start == NOW.replace(minute=0)
    assert first.fetched_at == NOW
    assert len(first.rain) == 14 * 24
    assert [month.month for month in first.climate] == list(range(1, 13))
    later = fetch_weather("http://sky.test", 38.5, -9.2, NOW + timedelta(days=2), Through())
    assert later.temperature[:100] == first.temperature[48:148]  # the same hours are told the same
    elsewhere = fetch_weather("http://sky.test", 56.0, 3.0, NOW, Through())
    assert elsewhere.temperature != first.temperature


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (httpx.Response(500), "refused \\(status 500\\)"),
        (httpx.Response(200, text="<html>hello</html>"), "something else than a forecast"),
        (httpx.Response(200, json={"issued": "x", "hours": []}), "something else than a forecast"),
    ],
)
def test_what_it_answers_wrong_is_told_and_nothing_is_kept(answer: httpx.Response, words: str) -> None:
    with pytest.raises(WeatherAway, match=words):
        fetch_weather("http://sky.test", 38, -9, NOW, httpx.MockTransport(lambda _: answer))


def test_a_silent_service_is_told() -> None:
    def silent(request: httpx.Request) -> httpx.Response:
        raise httpx.ReadTimeout("", request=request)

    with pytest.raises(WeatherAway, match="did not answer within 10 s"):
        fetch_weather("http://sky.test", 38, -9, NOW, httpx.MockTransport(silent))
    with pytest.raises(WeatherAway, match="can't be reached"):
        fetch_weather("http://127.0.0.1:9", 38, -9, NOW)


def test_a_forecast_as_csv_is_read_on_the_yard_s_clock() -> None:
    rows = HEAD + "2026-05-12T09:00,14.5,80,0,3\n2026-05-12T10:00,15,78,1.2,4\n"
    found = read_weather(rows.encode(), LISBON, NOW, "barometer.csv", Weather())
    assert found.start == datetime(2026, 5, 12, 8, tzinfo=UTC)
    assert found.rain == (0, 1.2)
    assert found.source == "barometer.csv"


def test_every_fault_of_a_csv_is_told_by_line() -> None:
    rows = HEAD + "soon,1,2,3,4\n2026-05-12T09:15,1,2,3,4\n2026-05-12T10:00,1,2,3\n2026-05-12T11:00,a,2,3,4\n"
    rows += "2026-05-12T12:00,1,2,3,4\n2026-05-12T15:00,1,2,3,4\n"
    with pytest.raises(RefitFaults) as told:
        read_weather(rows.encode(), LISBON, NOW, "x", Weather())
    lines = {fault.path: fault.message for fault in told.value.faults}
    assert set(lines) == {"line 2", "line 3", "line 4", "line 5", "line 7"}
    assert "full hour" in lines["line 3"]
    for content, words in [
        (b"a,b\n", "should be time,"),
        (HEAD.encode(), "no hours"),
        (b"\xff\xfe", "not UTF-8"),
        (b"x" * 300_000, "larger than"),
        ((HEAD + "2026-05-12T09:00,999,80,0,3\n").encode(), "60"),
    ]:
        with pytest.raises(RefitFaults, match=words):
            read_weather(content, LISBON, NOW, "x", Weather())


def test_it_rains_now_because_somebody_looked_up() -> None:
    told = fetch_weather("http://sky.test", 38.5, -9.2, NOW, Through())
    wet = said_rain(told, NOW, 3, wet=True)
    assert all(amount >= RAIN_FROM for amount in wet.rain[:3])
    assert wet.rain[3:] == told.rain[3:]
    assert said_rain(wet, NOW, 3, wet=False).rain[:3] == (0, 0, 0)
    alone = said_rain(Weather(), NOW, 2, wet=True)
    assert alone.rain == (1.0, 1.0)
    with pytest.raises(RefitFaults, match="1 to 48"):
        said_rain(told, NOW, 0, wet=True)
