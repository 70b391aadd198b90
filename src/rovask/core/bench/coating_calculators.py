"""Calculators about coating: area and tins, film, cure, dew point and paintable hours, day length."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import timedelta

from rovask.core.bench.bottom import HULL_SLENDERNESS, SHARE, area_told, bottom_area, estimated_bottom_area
from rovask.core.bench.calculator import (
    AskedAt,
    Calculator,
    Input,
    PartResult,
    Result,
    Row,
    Values,
    fahrenheit,
    gallons,
    mils,
    square_feet,
)
from rovask.core.bench.paint import litres_for, practical_rate, spreading_rate, tins_for, wet_film
from rovask.core.plan.problem.sky import hour_suits
from rovask.core.readings.curing import CureClock
from rovask.core.refit.givens.weather import cure_factor, daylight, dew_point, lag_at
from rovask.core.refit.typed import number as typed_number
from rovask.core.refit.work.kinds import WeatherNeed

LOSS = (("roller", "roller, 10 %"), ("brush", "brush, 15 %"), ("spray", "spray, 40 %"))
_LOSSES = {"roller": 0.10, "brush": 0.15, "spray": 0.40}
DATA_SHEET = "The product's data sheet comes first: window, thickness, temperature and thinner are its own."
POISON = "Antifouling dust is poison: wet-sand, sheet the ground, collect it, follow the yard."


def _tins(text: str) -> list[float]:
    """Sizes typed with spaces between: 0.75 2.5 5."""
    sizes = [float(word.replace(",", ".")) for word in str(text).replace(";", " ").split()]
    if not sizes or not all(math.isfinite(size) and 0.05 <= size <= 1000 for size in sizes):
        raise ValueError("type the tins sold in litres with spaces between: 0.75 2.5 5")
    return sizes


def _coats(values: Values, place: AskedAt) -> Result:
    area, coats = values["area"], values["coats"]
    theory = spreading_rate(values["solids"], values["film"])
    rate = practical_rate(theory, _LOSSES[values["how"]])
    whole = area * coats + area / 3 * values["edges"]
    litres = litres_for(whole, 1, rate)
    tins = tins_for(litres, _tins(values["tins"]))
    bought = sum(size * count for size, count in tins.items())
    rows = [
        Row("Area a coat", f"{area:.1f} m²", square_feet(area), area_told(place.refit.boat)),
        Row(
            "Painted in all",
            f"{whole:.1f} m²",
            square_feet(whole),
            f"{coats:g} coats and a third along the edges" if values["edges"] else "",
        ),
        Row("Spreading rate", f"{rate:.1f} m²/L", "", f"theory {theory:.1f} m²/L, loss {_LOSSES[values['how']]:.0%}"),
        Row(
            "Wet film of each coat",
            f"{wet_film(values['solids'], values['film']):.0f} µm",
            mils(wet_film(values["solids"], values["film"])),
        ),
        Row(
            "Dry film in all",
            f"{coats * values['film']:.0f} µm",
            mils(coats * values["film"]),
            f"{coats:g} × {values['film']:g} µm",
        ),
        Row("Paint", f"{litres:.2f} L", gallons(litres), f"{litres_for(area, 1, rate):.2f} L a coat", main=True),
        Row(
            "Tins",
            ", ".join(f"{count} of {size:g} L" for size, count in tins.items()) or "none",
            gallons(bought),
            f"{bought - litres:.2f} L left over",
            main=True,
        ),
    ]
    hours = math.ceil(area * 0.09 * 2) / 2
    warnings = []
    if place.refit.boat.hull_material.value == "aluminium":
        warnings.append("Aluminium hull: no copper, on it or near it.")
    estimate = estimated_bottom_area(place.refit.boat)
    if not 0.6 < area / estimate < 1.6:
        warnings.append(f"Her bottom is estimated at {estimate:.0f} m²; is the area typed that of the whole bottom?")
    table = (
        ("Coat", "Litres", "Area"),
        *((f"{n + 1}", f"{litres_for(area, 1, rate):.2f}", f"{area:.1f} m²") for n in range(int(coats))),
    )
    if values["edges"]:
        table = (*table, ("edges", f"{litres_for(area / 3, 1, rate):.2f}", f"{area / 3:.1f} m²"))
    return Result(
        tuple(rows),
        tuple(PartResult(values["name"], round(bought, 2), "L") for _ in [0] if bought),
        hours=max(hours, 0.5),
        warnings=tuple(warnings),
        drawing=(
            "film",
            {"dry": values["film"], "wet": wet_film(values["solids"], values["film"]), "coats": int(coats)},
        ),
        table=table,
    )


COATS = Calculator(
    "coats",
    "Bottom area and coats",
    "Coating",
    "How much paint, in which tins, and what is left over.",
    (
        Input("area", "Area", "m²", lambda place: round(bottom_area(place.refit.boat), 1), 0.1, 2000),
        Input("coats", "Coats", "", 2, 1, 12),
        Input("edges", "One more along edges and waterline", "", 1, 0, 1, help="1: yes, a third of the area; 0: no"),
        Input("solids", "Volume solids", "%", 50, 5, 100),
        Input("film", "Dry film of a coat", "µm", 55, 5, 1000),
        Input("how", "Put on with", "", "roller", choices=LOSS),
        Input("tins", "Tins sold", "L", "0.75 2.5 5", help="with spaces between"),
        Input("name", "Product", "", "Antifouling"),
    ),
    "bottom area = waterline × (beam + draft) × share by keel, of each hull, whose beam with two or more is waterline ÷ "
    f"{HULL_SLENDERNESS:g}; m²/L = 10 × volume solids ÷ dry film × (1 − loss)",
    "Area: common handbook estimate, from memory ("
    + ", ".join(f"{keel.value} {share:g}" for keel, share in SHARE.items())
    + ", of a moderate fin keel two thirds"
    + "). Spreading rate: by its definition. Losses: from memory.",
    "Yachts of ordinary form, ± 15 %; a measured area on her page overrides. Solids 5–100 %.",
    _coats,
    (POISON, DATA_SHEET),
)


def _film(values: Values, _: AskedAt) -> Result:
    solids = values["solids"] / (1 + values["thinner"] / 100)
    wet, theory = wet_film(solids, values["dry"]), spreading_rate(solids, values["dry"])
    coats = math.ceil(values["wanted"] / values["dry"] - 1e-9)
    return Result(
        (
            Row("Wet film to lay", f"{wet:.0f} µm", mils(wet), f"solids with the thinner {solids:.0f} %", main=True),
            Row("Covers", f"{theory:.1f} m²/L", "", "without loss"),
            Row("Coats for the whole film", f"{coats}", "", f"{values['wanted']:g} µm in all", main=True),
        ),
        drawing=("film", {"dry": values["dry"], "wet": wet, "coats": coats}),
    )


FILM = Calculator(
    "film",
    "Film thickness",
    "Coating",
    "How thick to lay it wet, so that it dries as thick as it must be.",
    (
        Input("solids", "Volume solids", "%", 60, 5, 100),
        Input("dry", "Dry film of a coat", "µm", 100, 5, 1000),
        Input("wanted", "Dry film in all", "µm", 300, 5, 5000),
        Input("thinner", "Thinner added", "% by volume", 0, 0, 30),
    ),
    "wet film = dry film ÷ volume solids; solids after thinning = solids ÷ (1 + thinner)",
    "By definition of volume solids (ISO 3233 determines them; from memory).",
    "Solids 5–100 %, thinner up to 30 %.",
    _film,
    (DATA_SHEET,),
)


def _cure(values: Values, _: AskedAt) -> Result:
    factor = cure_factor(values["temperature"])
    least, most = (
        lag_at(values["least"], values["temperature"]),
        lag_at(values["most"], values["temperature"], longest=True),
    )
    warnings = []
    if values["temperature"] < values["coldest"]:
        warnings.append(
            f"Below {values['coldest']:g} °C it doesn't cure at all: wait, warm it, or take another product."
        )
    if values["most"] and most < least:
        warnings.append("At this temperature the window closes before it opens: it must be abraded between the coats.")
    return Result(
        (
            Row("Factor against 20 °C", f"× {factor:.2f}", fahrenheit(values["temperature"])),
            Row("Dry to overcoat after", f"{least:g} h", "", "rounded up to the half hour", main=True),
            Row("Window closes after", f"{most:g} h" if values["most"] else "no limit", "", "rounded down", main=True),
            *_so_long(values["since"], least, most if values["most"] else None, factor),
        ),
        lag=(least, most if values["most"] else None),
        warnings=tuple(warnings),
    )


def _so_long(since: float, least: float, most: float | None, factor: float) -> tuple[Row, ...]:
    """What the hours since it was coated are worth, and what is left of the wait and of the window."""
    if not since:
        return ()
    left = f"{least - since:g} h to go" if since < least else "may be coated over"
    if most is not None and since > most:
        left = f"the window closed {since - most:g} h ago: wash, abrade, wipe"
    elif most is not None:
        left += f", {most - since:g} h until the window closes"
    return (Row("So long it has been", left, "", f"{since:g} h, worth {since / factor:.1f} h at 20 °C", main=True),)


CURE = Calculator(
    "cure",
    "Overcoat and cure time",
    "Coating",
    "When the next coat may go on, and when it is too late, at the temperature that is.",
    (
        Input("least", "Dry to overcoat at 20 °C", "h", 6, 0, 500),
        Input("most", "Window at 20 °C", "h", 48, 0, 2000, help="0: no limit"),
        Input(
            "temperature",
            "Surface temperature",
            "°C",
            lambda place: round(CureClock.of(place.refit).temperature(place.now), 1),
            -10,
            60,
        ),
        Input("coldest", "Product's minimum", "°C", 10, -10, 30),
        Input("since", "Since it was put on", "h", 0, 0, 5000, help="0: not yet"),
    ),
    "hours × 2 ^ ((20 − temperature) ÷ 10)",
    "Cure slows by about half for each 10 °C colder: common practice.",
    "0–40 °C, never below the product's minimum. Tacky is not cured: a fingernail tells.",
    _cure,
    (DATA_SHEET,),
)


def _dew(values: Values, place: AskedAt) -> Result:
    dew = dew_point(values["temperature"], values["humidity"])
    gap = values["surface"] - dew
    broken = []
    if gap < values["margin"]:
        broken.append(f"the surface is {gap:.1f} °C over the dew point, {values['margin']:g} wanted")
    if values["humidity"] > values["dampest"]:
        broken.append(f"{values['humidity']:g} % is damper than {values['dampest']:g} %")
    if values["surface"] < values["coldest"]:
        broken.append(f"{values['surface']:g} °C is colder than {values['coldest']:g} °C")
    rows = [
        Row("Dew point", f"{dew:.1f} °C", fahrenheit(dew), main=True),
        Row("Surface over it", f"{gap:.1f} °C", "", f"at least {values['margin']:g} °C wanted", main=True),
        Row("Now", "not now" if broken else "may be painted", "", "; ".join(broken), main=True),
    ]
    weather, zone = place.refit.weather, place.refit.yard.zone
    need = WeatherNeed(
        dry=True, least_temp=values["coldest"], most_humidity=values["dampest"], dew_margin=values["margin"]
    )
    days: dict[str, list[int]] = {}
    if weather.start:
        for hour in range(len(weather.temperature)):
            local = (weather.start + timedelta(hours=hour)).astimezone(zone)
            if local.timestamp() >= place.now.timestamp() - 3600 and 7 <= local.hour < 20:
                days.setdefault(f"{local:%a} {local.day} {local:%b}", []).append(
                    local.hour if hour_suits(need, weather, hour) else -1
                )
    table = tuple(
        (name, f"{sum(h >= 0 for h in hours)} h", _runs([h for h in hours if h >= 0])) for name, hours in days.items()
    )
    return Result(
        tuple(rows),
        warnings=()
        if weather.start
        else ("Without a forecast only the present hour can be judged; fetch it on the Yard page.",),
        table=(("Day", "Paintable", "Hours"), *table) if table else (),
    )


def _runs(hours: list[int]) -> str:
    """Hours in a row as spans: 8-11, 14-16.

    >>> _runs([8, 9, 10, 14])
    '8-11, 14-15'
    """
    out: list[list[int]] = []
    for hour in hours:
        if out and out[-1][1] == hour:
            out[-1][1] = hour + 1
        else:
            out.append([hour, hour + 1])
    return ", ".join(f"{a}-{b}" for a, b in out) or "none"


DEW = Calculator(
    "dew",
    "Dew point and paintable hours",
    "Coating",
    "Whether it may be painted now, and in which hours of the coming days.",
    (
        Input("temperature", "Air", "°C", 15, -30, 50),
        Input("humidity", "Relative humidity", "%", 75, 1, 100),
        Input("surface", "Surface", "°C", 15, -30, 70),
        Input("margin", "Over the dew point", "°C", 3, 0, 20),
        Input("dampest", "Dampest", "%", 85, 20, 100),
        Input("coldest", "Coldest", "°C", 10, -20, 30),
    ),
    "dew point by the Magnus form, 17.625 and 243.04 °C; surface at least 3 °C above it",
    "Alduchov & Eskridge, J. Applied Meteorology 35 (1996), eq. 21; 3 °C: ISO 8502-4 (from memory).",
    "−40 to 50 °C. The air's temperature stands for the surface's in the hours to come.",
    _dew,
    (DATA_SHEET,),
)


def _position(value: float | str, name: str) -> float:
    """A latitude or longitude in degrees. Raises ValueError where there is none, or none that can be."""
    if not str(value).strip():
        raise ValueError(f"The yard has no position yet: type its {name} here, or under Yard for all of them.")
    found = typed_number(str(value))
    most = 90 if name == "latitude" else 180
    if not -most <= found <= most:
        raise ValueError(f"A {name} lies between -{most} and {most} degrees.")
    return found


def _yards(name: str) -> Callable[[AskedAt], str]:
    def usual(place: AskedAt) -> str:
        found = getattr(place.refit.yard, name)
        return "" if found is None else f"{found:g}"

    return usual


def _daylight(values: Values, place: AskedAt) -> Result:
    zone = place.refit.yard.zone
    day = place.now.astimezone(zone).date() + timedelta(days=int(values["ahead"]))
    sun = daylight(day, *(_position(values[name], name) for name in ("latitude", "longitude")))
    if sun is None:
        return Result((Row("Daylight", "none: polar night", main=True),))
    rise, set_ = (moment.astimezone(zone) for moment in sun)
    length = (sun[1] - sun[0]).total_seconds() / 3600
    return Result(
        (
            Row("Day", f"{day:%A} {day.day} {day:%B}"),
            Row("Sunrise", f"{rise:%H:%M}", "", place.refit.yard.time_zone, main=True),
            Row("Sunset", f"{set_:%H:%M}", main=True),
            Row("Light", f"{int(length)} h {round(length % 1 * 60):02d} min", main=True),
        )
    )


LIGHT = Calculator(
    "daylight",
    "Day length",
    "Coating",
    "How long it is light for work outdoors.",
    (
        Input("latitude", "Latitude", "° north", _yards("latitude")),
        Input("longitude", "Longitude", "° east", _yards("longitude")),
        Input("ahead", "Days from today", "", 0, 0, 400),
    ),
    "sunrise equation, the sun's centre 0.833° under the horizon",
    "Spencer 1971, the NOAA Solar Calculator's series (from memory); checked against astral.",
    "About five minutes up to 58° of latitude.",
    _daylight,
)
ALL = (COATS, FILM, CURE, DEW, LIGHT)
