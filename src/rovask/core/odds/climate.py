"""What a month is usually like where nobody has typed it: a small table by latitude, rounded.

Coasts near sea level, air in the shade: mean temperature (°C), relative humidity (%), wind (m/s), days with rain. Rounded
after the order of magnitude of the World Meteorological Organization's Climatological Standard Normals (open data), **from
memory**, not copied from a station: a yard's own figures, typed under Yard or had from the weather service, always come first.
South of the equator the months are half a year on.
"""

from __future__ import annotations

import math

from rovask.core.refit.givens.weather import ClimateMonth, Weather

# Up to this latitude: temperature in the coldest and in the warmest month, humidity then, wind then, rain days then. The
# months between lie on a cosine whose coldest month is February (the sea lags the sun by some two months).
_BANDS: tuple[tuple[float, tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]], ...] = (
    (15, (26, 28), (75, 80), (5, 4), (6, 15)),
    (25, (20, 28), (72, 75), (5, 5), (5, 11)),
    (35, (12, 25), (72, 68), (5, 4), (9, 4)),
    (43, (9, 24), (77, 67), (5, 4), (10, 4)),
    (52, (6, 18), (84, 76), (6, 4), (15, 10)),
    (60, (2, 16), (84, 74), (6, 4), (16, 12)),
    (90, (-5, 11), (82, 76), (6, 4), (16, 13)),
)
_ASSUMED = 45.0  # degrees north: where nobody said where the yard lies


def usual_climate(latitude: float | None) -> tuple[ClimateMonth, ...]:
    """Twelve months by latitude (degrees north, None: not said), from the table.

    >>> [usual_climate(38)[month].temperature for month in (1, 7)], usual_climate(-38)[1].temperature
    ([9.0, 24.0], 24.0)
    """
    north = _ASSUMED if latitude is None else latitude
    _, warm, damp, wind, rain = next(band for band in _BANDS if abs(north) <= band[0])
    out = []
    for month in range(1, 13):
        turn = (month - 2 + (6 if north < 0 else 0)) / 12 * 2 * math.pi
        part = (1 - math.cos(turn)) / 2  # 0 in the coldest month, 1 in the warmest
        at = [round(low + (high - low) * part, 1) for low, high in (warm, damp, wind, rain)]
        out.append(ClimateMonth(month=month, temperature=at[0], humidity=at[1], wind=at[2], rain_days=at[3]))
    return tuple(out)


def climate_of(weather: Weather, latitude: float | None) -> tuple[dict[int, ClimateMonth], bool]:
    """Every month's usual weather, by its number, and whether the yard has said all of them itself."""
    typed = {one.month: one for one in weather.climate}
    return {one.month: one for one in usual_climate(latitude)} | typed, len(typed) == 12
