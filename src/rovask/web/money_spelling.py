"""How a tariff, meter readings and stages of an agreement are typed and read back in forms."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.refit import typed
from rovask.core.refit.choices import Charge, Per
from rovask.core.refit.givens import MeterReading, TariffLine
from rovask.core.refit.purse import Stage
from rovask.web.spelling import day_text, moment_text


def _any_of(words: Iterable[str]) -> str:
    return "|".join(re.escape(word) for word in sorted(words, key=len, reverse=True))


_TARIFF = re.compile(
    rf"(?P<charge>{_any_of(Charge)})\s+(?P<price>[\d.,\s\u202f]+?)\s*(?P<per>{_any_of(Per)})"
    r"(?:,?\s+days?\s+(?P<first>\d{1,3})\s*(?P<to>[-–]|to|on)?\s*(?P<last>\d{1,3})?)?(?:\s*:\s*(?P<title>.*))?",
    re.IGNORECASE,
)
_STAGE = re.compile(r"(?P<amount>[\d.,\u202f]+)\s+(?P<title>.+?)(?:\s+by\s+(?P<due>[\d./-]+|\d.*))?", re.IGNORECASE)
_METER = re.compile(r"(?P<at>.+\s\d{1,2}:\d{2})\s+(?P<kwh>[\d.,]+)\s*(?:kwh)?", re.IGNORECASE)


def tariff_text(lines: Iterable[TariffLine], currency: str) -> str:
    """A tariff as lines like ``lay-days 12.50 a metre and day days 31-90: summer``."""
    out = []
    for line in lines:
        percent = line.per is Per.PERCENT
        price = f"{line.price / 100:g}" if percent else typed.minor_text(line.price, currency)
        days = ""
        if line.from_day > 1 or line.to_day is not None:
            days = f" days {line.from_day}-{line.to_day}" if line.to_day is not None else f" days {line.from_day} on"
        out.append(f"{line.charge.value} {price} {line.per.value}{days}{f': {line.title}' if line.title else ''}")
    return "\n".join(out)


def read_tariff(text: str, currency: str) -> list[dict[str, Any]]:
    """The tariff in such lines. Raises ValueError, naming the line."""
    out = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        match = _TARIFF.fullmatch(line)
        if not match:
            raise ValueError(
                f"“{line}” should read like lay-days 12.50 a day days 1-30: spring; it begins with one of "
                f"{', '.join(Charge)}, and ends in {', '.join(Per)}"
            )
        per = Per(match["per"].lower() if match["per"].lower() != "a kwh" else "a kWh")
        amount = match["price"].strip()
        price = round(typed.number(amount, 0, 100) * 100) if per is Per.PERCENT else typed.minor(amount, currency)
        first, last = match["first"], match["last"]
        to_day = int(last) if last else int(first) if first and not match["to"] else None
        out.append(
            {
                "charge": match["charge"].lower(),
                "title": (match["title"] or "").strip(),
                "price": price,
                "per": per.value,
                "from_day": int(first or 1),
                "to_day": to_day,
            }
        )
    return out


def stages_text(stages: Iterable[Stage], currency: str) -> str:
    """Stages as lines like ``500 mast down by 18.5.2026``."""
    return "\n".join(
        f"{typed.minor_text(one.amount, currency)} {one.title}{f' by {day_text(one.due)}' if one.due else ''}"
        for one in stages
    )


def read_stages(text: str, currency: str) -> list[dict[str, Any]]:
    """The stages in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        match = _STAGE.fullmatch(line)
        if not match:
            raise ValueError(f"“{line}” should read like 500 mast down by 18.5.2026")
        due = typed.day(match["due"]).isoformat() if match["due"] else None
        out.append({"title": match["title"], "amount": typed.minor(match["amount"], currency), "due": due})
    return out


def meter_text(readings: Iterable[MeterReading], zone: ZoneInfo) -> str:
    """Readings as lines like ``04.05.2026 10:00 1234.5 kWh``."""
    return "\n".join(f"{moment_text(one.at, zone)} {one.kwh:.10g} kWh" for one in readings)


def read_meter(text: str, zone: ZoneInfo) -> list[dict[str, Any]]:
    """The readings in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        match = _METER.fullmatch(line)
        if not match:
            raise ValueError(f"“{line}” should read like 4.5.2026 10:00 1234.5 kWh")
        out.append({"at": typed.moment(match["at"], zone), "kwh": float(typed.number(match["kwh"], 0, 1e7))})
    return sorted(out, key=lambda one: one["at"])
