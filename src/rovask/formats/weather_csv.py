"""Weather as CSV: hourly rows for a real forecast that somebody has as a table.

RFC 4180, UTF-8, a header row: ``time,temperature_c,humidity_pct,rain_mm,wind_ms``. Times are ISO 8601 full hours in
order and without gaps, on the yard's clock unless they carry an offset; numbers with a point.
"""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.core.refit.givens.weather import MOST_HOURS, Weather

COLUMNS = ("time", "temperature_c", "humidity_pct", "rain_mm", "wind_ms")
MOST_BYTES = 256 * 1024


def read_weather(content: bytes, zone: ZoneInfo, now: datetime, source: str, kept: Weather) -> Weather:
    """The forecast in ``content``, fetched ``now``; the climate of ``kept`` stays. Raises RefitFaults by line, all at once."""
    if len(content) > MOST_BYTES:
        raise RefitFaults([Fault("", f"is larger than {MOST_BYTES >> 10} KB, more than {MOST_HOURS} hours take")])
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise RefitFaults([Fault("", "is not UTF-8 text")]) from None
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), strict=True))
    except csv.Error as error:
        raise RefitFaults([Fault("", f"is not a table of commas and lines ({error}); save it as CSV again")]) from None
    if not rows or tuple(cell.strip().lower() for cell in rows[0]) != COLUMNS:
        raise RefitFaults([Fault("line 1", f"should be {','.join(COLUMNS)}")])
    faults: list[Fault] = []
    times: list[datetime] = []
    values: list[list[float]] = []
    for line, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(COLUMNS):
            faults.append(Fault(f"line {line}", f"has {len(row)} cells instead of {len(COLUMNS)}"))
            continue
        at, numbers, why = _row(row, zone)
        if why:
            faults.append(Fault(f"line {line}", why))
            continue
        if times and at != times[-1] + timedelta(hours=1):
            faults.append(Fault(f"line {line}", "does not follow the row before by one hour"))
        times.append(at)
        values.append(numbers)
    if not times and not faults:
        faults.append(Fault("", "holds no hours"))
    if faults:
        raise RefitFaults(faults)
    try:
        return Weather(
            source=source[:120],
            fetched_at=now,
            start=times[0],
            temperature=tuple(row[0] for row in values),
            humidity=tuple(row[1] for row in values),
            rain=tuple(row[2] for row in values),
            wind=tuple(row[3] for row in values),
            climate=kept.climate,
        )
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None


def _row(row: list[str], zone: ZoneInfo) -> tuple[datetime, list[float], str]:
    nothing = datetime.min.replace(tzinfo=UTC)
    try:
        at = datetime.fromisoformat(row[0].strip())
    except ValueError:
        return nothing, [], f"“{row[0]}” is not a time like 2026-05-12T09:00"
    try:
        at = (at if at.tzinfo else at.replace(tzinfo=zone)).astimezone(UTC)
    except OverflowError:
        return nothing, [], f"“{row[0]}” lies beyond any calendar"
    if at.minute or at.second or at.microsecond:
        return nothing, [], f"“{row[0]}” is not a full hour"
    try:
        return at, [float(cell) for cell in row[1:]], ""
    except ValueError:
        return nothing, [], "holds something that is no number"
