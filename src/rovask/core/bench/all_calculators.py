"""Every calculator of the bench, in the order of the page; and what was typed into one, read and worked out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from rovask.core.bench import coating_calculators, structure_calculators
from rovask.core.bench.calculator import AskedAt, Calculator, Result
from rovask.core.bench.electric_calculators import CABLE, GALVANIC
from rovask.core.bench.fastening_calculators import BOLT, PULLER
from rovask.core.bench.fit_calculators import BESIDE
from rovask.core.bench.lifting_calculators import CHAIN_, LOADS, RUDDER
from rovask.core.bench.plumbing_calculators import FLOOD, HOSE
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.typed import number as typed_number

FITTINGS = (HOSE, BESIDE, FLOOD, CHAIN_, CABLE, RUDDER, LOADS, GALVANIC, BOLT, PULLER)

MOST_HOURS, MOST_PARTS = 2000, 1e6  # as jobs.py takes them
CALCULATORS: dict[str, Calculator] = {
    one.id: one for one in (*coating_calculators.ALL, *structure_calculators.ALL, *FITTINGS)
}


def read_values(calculator: Calculator, typed: Mapping[str, str], place: AskedAt) -> dict[str, Any]:
    """The values of a calculator's inputs: as typed, else as usual. Raises RefitFaults, one for each wrong input."""
    values: dict[str, Any] = {}
    faults = []
    for one in calculator.inputs:
        text = typed.get(one.name, "").strip()
        usual = one.usual(place)
        if not text:
            values[one.name] = usual
        elif one.choices:
            values[one.name] = text
            if text not in dict(one.choices):
                faults.append(Fault(one.name, f"{text!r} is not one of the choices"))
        elif isinstance(usual, str):
            values[one.name] = text[:120]
        else:
            try:
                number = typed_number(text)
            except ValueError as error:
                faults.append(Fault(one.name, str(error)))
                continue
            if not one.least <= number <= one.most:
                faults.append(Fault(one.name, f"must lie between {one.least:g} and {one.most:g} {one.unit}".rstrip()))
            values[one.name] = number
    if faults:
        raise RefitFaults(faults)
    return values


def worked(calculator: Calculator, values: Mapping[str, Any], place: AskedAt) -> Result:
    """The result; what of it can't become a part, a duration or a lag (nothing, or far too much) is not offered.

    Raises RefitFaults when the values together make none.
    """
    try:
        found = calculator.work(values, place)
    except ValueError as error:
        raise RefitFaults([Fault("", str(error))]) from None
    hours = found.hours if found.hours is not None and 0 < found.hours <= MOST_HOURS else None
    lag = found.lag if found.lag is not None and max(found.lag[0], found.lag[1] or 0) <= MOST_HOURS else None
    parts = tuple(line for line in found.parts if 0 < line.quantity <= MOST_PARTS)
    return replace(found, parts=parts, hours=hours, lag=lag)
