"""How hours, days and rules are typed and read back in forms, by the yard's clock."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.refit import typed
from rovask.core.refit.givens.choices import Service, Weekday
from rovask.core.refit.givens.kinds import MIDNIGHT
from rovask.core.refit.model import DayRange, Margin, OutageLimit, Shift, UsualSpread, WorkBy, YardRule
from rovask.core.refit.work.choices import Closed, Emission, UsualOf

_DAYS = [day.value for day in Weekday]
_DAY = r"\d{4}-\d{1,2}-\d{1,2}|\d{1,2}[./]\s?\d{1,2}[./]\s?\d{4}|\d{1,2}\.? [A-Za-z]{3,9}\.? \d{4}"
_RANGE = re.compile(rf"(?P<first>{_DAY})(?:\s*(?:to|until|[-–])\s*(?P<last>{_DAY}))?(?:[\s,:]+(?P<reason>.*))?")
_CLOCK = re.compile(r"[0-9]{1,2}[:.h][0-9]{2}\b")
_SPAN = re.compile(r"^([0-9]{1,2}):?([0-9]{2})?\s*[-–]\s*([0-9]{1,2}):?([0-9]{2})?$")


def shifts_text(shifts: Iterable[Shift]) -> str:
    """Shifts as lines like ``mon-sat 08:00-12:00, 13:00-18:00``."""
    by_days: dict[tuple[str, ...], list[str]] = {}
    for shift in shifts:
        end = "24:00" if shift.end == MIDNIGHT else f"{shift.end:%H:%M}"
        span = f"{shift.start:%H:%M}-{end}"
        by_days.setdefault(tuple(day.value for day in shift.days), []).append(span)
    return "\n".join(f"{_days_text(days)} {', '.join(spans)}" for days, spans in by_days.items())


def _days_text(days: tuple[str, ...]) -> str:
    numbers = [_DAYS.index(day) for day in days]
    if len(numbers) > 2 and numbers == list(range(numbers[0], numbers[0] + len(numbers))):
        return f"{days[0]}-{days[-1]}"
    return " ".join(days)


def read_shifts(text: str) -> list[dict[str, Any]]:
    """The shifts in such lines. Raises ValueError, naming the line and what is wrong in it."""
    out = []
    for line in filter(None, (line.strip() for line in text.lower().splitlines())):
        match = re.match(r"^([a-z ,\-–]+?)\s+(\d.*)$", line)
        if not match:
            raise ValueError(f"“{line}” should read like mon-sat 08:00-12:00, 13:00-18:00")
        days = _read_days(match.group(1), line)
        for span in match.group(2).split(","):
            found = _SPAN.match(span.strip())
            if not found:
                raise ValueError(f"“{span.strip()}” should read like 08:00-12:00")
            h1, m1, h2, m2 = (int(group or 0) for group in found.groups())
            if (h2, m2) == (24, 0):
                h2 = 0  # midnight at the end of the day
            if h1 > 23 or h2 > 23 or m1 > 59 or m2 > 59:
                raise ValueError(f"“{span.strip()}” is not a time of day")
            out.append({"days": days, "start": f"{h1:02d}:{m1:02d}", "end": f"{h2:02d}:{m2:02d}"})
    return out


def _read_days(text: str, line: str) -> list[str]:
    days: list[str] = []
    for word in re.split(r"[ ,]+", text.strip()):
        ends = [end[:3] for end in re.split(r"[-–]", word) if end]
        if any(end not in _DAYS for end in ends) or not 1 <= len(ends) <= 2:
            raise ValueError(f"“{word}” in “{line}” is not a weekday; write mon tue wed thu fri sat sun")
        if len(ends) == 1:
            days.append(ends[0])
            continue
        first, last = _DAYS.index(ends[0]), _DAYS.index(ends[1])
        if last < first:
            raise ValueError(f"“{word}” runs backwards")
        days += _DAYS[first : last + 1]
    return list(dict.fromkeys(days))


def ranges_text(ranges: Iterable[DayRange]) -> str:
    """Day ranges as lines like ``18 May 2026 to 24 May 2026 away``."""
    lines = []
    for span in ranges:
        days = day_text(span.first) if span.first == span.last else f"{day_text(span.first)} to {day_text(span.last)}"
        lines.append(f"{days} {span.reason}".strip())
    return "\n".join(lines)


def read_ranges(text: str) -> list[dict[str, Any]]:
    """The day ranges in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        match = _RANGE.fullmatch(line)
        if not match:
            raise ValueError(f"“{line}” should read like 18 May 2026 to 24 May 2026, then why")
        if _CLOCK.match(match["reason"] or ""):
            raise ValueError(
                f"“{line}” names hours and these are whole days; somebody's hours of a single day are said under stays"
            )
        first = typed.day(match["first"])
        last = typed.day(match["last"]) if match["last"] else first
        if last < first:
            raise ValueError(f"“{line}” ends before it begins")
        out.append({"first": first.isoformat(), "last": last.isoformat(), "reason": match["reason"] or ""})
    return out


def rules_text(rules: Iterable[YardRule]) -> str:
    """Yard rules as lines like ``sparks only mon-fri 08:00-16:00``, ``dust never 18 May 2026``, ``… permit from …``."""
    lines = []
    for rule in rules:
        why = f" ({rule.reason})" if rule.reason else ""
        lines += [f"{rule.emits.value} only {line}{why}" for line in shifts_text(rule.only).splitlines()]
        lines += [f"{rule.emits.value} never {line}{why}" for line in ranges_text(rule.never).splitlines()]
        if rule.permit_from:
            lines.append(f"{rule.emits.value} permit from {day_text(rule.permit_from)}{why}")
    return "\n".join(lines)


def read_rules(text: str) -> list[dict[str, Any]]:
    """The rules in such lines; the hours of one emission are one rule. Raises ValueError, naming the line."""
    only: dict[str, list[str]] = {}
    out: list[dict[str, Any]] = []
    reasons: dict[str, str] = {}
    for line in filter(None, (line.strip() for line in text.splitlines())):
        match = re.match(r"^(\w+)\s+(only|never|permit from)\s+(.*?)(?:\s*\(([^)]*)\))?$", line, re.IGNORECASE)
        if not match or match.group(1).lower() not in set(Emission):
            names = ", ".join(Emission)
            raise ValueError(f"“{line}” should begin with one of {names}, then only, never or permit from")
        what, verb, rest = match.group(1).lower(), match.group(2).lower(), match.group(3)
        reason = match.group(4) or ""
        if verb == "only":
            only.setdefault(what, []).append(rest)
            reasons.setdefault(what, reason)
        elif verb == "never":
            out.append({"emits": what, "never": read_ranges(rest), "reason": reason})
        else:
            out.append({"emits": what, "permit_from": read_ranges(rest)[0]["first"], "reason": reason})
    hours = [
        {"emits": what, "only": read_shifts("\n".join(lines)), "reason": reasons[what]} for what, lines in only.items()
    ]
    return hours + out


def limits_text(limits: Iterable[OutageLimit]) -> str:
    """Outage limits as lines like ``heads 48 h``."""
    return "\n".join(f"{limit.service.value} {limit.hours:g} h" for limit in limits)


def read_limits(text: str) -> list[dict[str, Any]]:
    """The limits in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.lower().splitlines())):
        match = re.match(r"^(\w+)\s+([\d.,]+)\s*h?$", line)
        if not match or match.group(1) not in set(Service):
            raise ValueError(f"“{line}” should read like heads 48 h, with one of {', '.join(Service)}")
        out.append({"service": match.group(1), "hours": typed.number(match.group(2))})
    return out


def margins_text(margins: Iterable[Margin]) -> str:
    """Margins before the slings as lines like ``hull 1 d``."""
    return "\n".join(f"{margin.what.value} {margin.days:g} d" for margin in margins)


def read_margins(text: str) -> list[dict[str, Any]]:
    """The margins in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.lower().splitlines())):
        match = re.match(r"^(\w+)\s+([\d.,]+)\s*d?$", line)
        if not match or match.group(1) not in set(Closed):
            raise ValueError(f"“{line}” should read like hull 1 d, with one of {', '.join(Closed)}")
        out.append({"what": match.group(1), "days": typed.number(match.group(2))})
    return out


def spreads_text(spreads: Iterable[UsualSpread]) -> str:
    """Usual spreads as lines like ``work 0.6 to 2.2``."""
    return "\n".join(f"{spread.of.value} {spread.least:g} to {spread.most:g}" for spread in spreads)


def read_spreads(text: str) -> list[dict[str, Any]]:
    """The spreads in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.lower().splitlines())):
        match = re.match(r"^([a-z ]+?)\s+([\d.,]+)\s*(?:to|-|–)\s*([\d.,]+)$", line)
        if not match or match.group(1) not in set(UsualOf):
            raise ValueError(f"“{line}” should read like work 0.6 to 2.2, with one of {', '.join(UsualOf)}")
        least, most = typed.number(match.group(2)), typed.number(match.group(3))
        if not 0.05 <= least <= 1 <= most <= 20:
            raise ValueError(f"“{line}” runs from a part of 0.05 to 1 to one of 1 to 20 of what was thought")
        out.append({"of": match.group(1), "least": least, "most": most})
    return out


def by_text(rows: Iterable[WorkBy]) -> str:
    """Hours by a skill as lines like ``rigging 4 h``."""
    return "\n".join(f"{row.skill} {row.hours:g} h" for row in rows)


def read_by(text: str) -> list[dict[str, Any]]:
    """The hours by skill in such lines. Raises ValueError."""
    out = []
    for line in filter(None, (line.strip() for line in text.lower().splitlines())):
        match = re.match(r"^(.+?)\s+([\d.,:]+)\s*h?$", line)
        if not match:
            raise ValueError(f"“{line}” should read like rigging 4 h")
        out.append({"skill": match.group(1), "hours": typed.hours(match.group(2))})
    return out


def moment_text(moment: datetime | None, zone: ZoneInfo) -> str:
    """A moment as a date-and-time field shows it, on the yard's clock: as pages say it, with its year."""
    return f"{moment.astimezone(zone):%-d %b %Y %H:%M}" if moment else ""


def day_text(day: date | None) -> str:
    """A day as a date field shows it: as pages say it, with its year."""
    return f"{day:%-d %b %Y}" if day else ""
