"""Readers of published scheduling instances: PSPLIB ``.sm``, ProGen/max ``.sch``, Patterson ``.rcp``.

Formats as their generators' papers give them: Kolisch & Sprecher, "PSPLIB - a project scheduling problem library",
EJOR 96 (1996); Schwindt, "ProGen/max", WIOR-449 (1995); Patterson (1984). Single mode, renewable resources.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import PurePath

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.problem.instance import Instance


def read_instance(name: str, text: str) -> Instance:
    """The instance in ``text``; the ending of ``name`` says which format it is. Raises RefitFaults."""
    readers: dict[str, Callable[[str, str], Instance]] = {".sm": _sm, ".sch": _sch, ".rcp": _rcp}
    reader = readers.get(PurePath(name).suffix.lower())
    if reader is None:
        raise RefitFaults([Fault("", f"{name}: an instance file ends in {', '.join(readers)}")])
    try:
        return _sound(reader(PurePath(name).name, text))
    except (ValueError, IndexError, StopIteration):
        raise RefitFaults([Fault("", f"{name} is cut short or not the format its ending says")]) from None


def _sound(instance: Instance) -> Instance:
    count = len(instance.durations)
    if not count or any(not 0 <= at < count for first, then, _ in instance.waits for at in (first, then)):
        raise ValueError("names an activity that isn't there")
    if any(len(row) != len(instance.capacities) for row in instance.demands) or len(instance.demands) != count:
        raise ValueError("rows of different length")
    return instance


def _numbers(line: str) -> list[int]:
    return [int(word) for word in line.split()]


def _sm(name: str, text: str) -> Instance:
    lines = text.splitlines()

    def after(title: str, skip: int) -> list[str]:
        at = next(at for at, line in enumerate(lines) if line.startswith(title))
        out = []
        for line in lines[at + skip :]:
            if line.startswith("*"):
                break
            out.append(line)
        return out

    follows = [_numbers(line) for line in after("PRECEDENCE RELATIONS", 2)]
    rows = [_numbers(line) for line in after("REQUESTS/DURATIONS", 3)]
    room = _numbers(after("RESOURCEAVAILABILITIES", 2)[0])
    waits = [(row[0] - 1, then - 1, 0) for row in follows for then in row[3 : 3 + row[2]]]
    return Instance(
        name,
        tuple(row[2] for row in rows),
        tuple(tuple(row[3 : 3 + len(room)]) for row in rows),
        tuple(room),
        tuple(waits),
        from_end=True,
    )


def _sch(name: str, text: str) -> Instance:
    lines = [line for line in text.splitlines() if line.strip()]
    count, kinds = (int(word) for word in lines[0].split()[:2])
    waits = []
    for line in lines[1 : count + 3]:
        lags = [int(lag) for lag in re.findall(r"\[(-?\d+)", line)]
        words = _numbers(line.partition("[")[0])
        waits += [(words[0], then, lag) for then, lag in zip(words[3:], lags, strict=True)]
    rows = [_numbers(line) for line in lines[count + 3 : 2 * count + 5]]
    return Instance(
        name,
        tuple(row[2] for row in rows),
        tuple(tuple(row[3 : 3 + kinds]) for row in rows),
        tuple(_numbers(lines[2 * count + 5])),
        tuple(waits),
        from_end=False,
    )


def _rcp(name: str, text: str) -> Instance:
    numbers = iter(int(word) for word in text.split())
    count, kinds = next(numbers), next(numbers)
    room = tuple(next(numbers) for _ in range(kinds))
    durations, demands, waits = [], [], []
    for activity in range(count):
        durations.append(next(numbers))
        demands.append(tuple(next(numbers) for _ in range(kinds)))
        waits += [(activity, next(numbers) - 1, 0) for _ in range(next(numbers))]
    return Instance(name, tuple(durations), tuple(demands), room, tuple(waits), from_end=True)
