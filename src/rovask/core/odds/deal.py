"""What each run is dealt: how long everything takes, when it comes, who stays away, under which sky.

One number of luck for each source and run picks a row of its table (spread.py, luck.py). Nothing here knows of any order of work.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from rovask.core.odds.luck import Streams, luck, stream_of
from rovask.core.odds.net import BEGUN, MODE_LO, PEOPLE, STATE, TO_PLAY, Made
from rovask.core.odds.source import Sort, table_of
from rovask.core.odds.sources import Sources
from rovask.core.odds.spread import ROWS, Table
from rovask.core.odds.usual import AGAIN
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints
from rovask.core.plan.problem.compile import Compiler
from rovask.core.plan.problem.compiled import compiled
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.result import Plan
from rovask.core.readings.open_days import open_days
from rovask.core.readings.readiness import FIT_CHECK, is_short
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Refit, Task

SLOTS_A_DAY = 48
NONE = -1


class Deck(NamedTuple):
    """What is dealt from. Times are slots; NONE where nothing is drawn.

    tables: ROWS rows each. work, work_stream: by node, its hours still to do; scale: what they are multiplied with. pace,
    pace_stream: what people err by, logarithms of factors; pace_ptr, pace_of: those of each node. whole, whole_stream: the one factor for all.
    again, again_stream: by node, the chance that it is not right, and takes ``part`` of its hours again. wait, wait_stream, wait_unit: by drawn wait, in hours.
    come, come_stream, parent, come_node: by unknown: chance, the one it comes after, its node. lead, lead_stream: days its parts take.
    part, part_stream, part_node: by pair of task and part: the slot from which it is at hand. away, away_stream: by node, the
    chance that who is paid doesn't come on the day. ill, ill_stream, ill_days, ill_length: by person.
    """

    tables: npt.NDArray[np.float64]
    work: Ints
    work_stream: Streams
    scale: npt.NDArray[np.float64]
    pace: Ints
    pace_stream: Streams
    pace_ptr: Ints
    pace_of: Ints
    whole: int
    whole_stream: np.uint64
    again: npt.NDArray[np.float64]
    again_stream: Streams
    part_again: float
    wait: Ints
    wait_stream: Streams
    wait_unit: Ints
    come: npt.NDArray[np.float64]
    come_stream: Streams
    parent: Ints
    come_node: Ints
    lead: Ints
    lead_stream: Streams
    part: npt.NDArray[np.int32]
    part_stream: Streams
    part_node: Ints
    away: npt.NDArray[np.float64]
    away_stream: Streams
    ill: npt.NDArray[np.float64]
    ill_stream: Streams
    ill_length: Ints
    ill_days: Streams
    sky_stream: np.uint64
    skies: int
    now: int


class Dealt(NamedTuple):
    """What some runs were dealt; a row a run. Times are slots.

    work: by node. wait: by drawn wait and unknown, in the units of its clock. release: by node, when its parts are at hand.
    away: by node. ill: by person, from when to when (the same: never). came: by unknown. sky.
    """

    work: npt.NDArray[np.int16]
    wait: Ints
    release: npt.NDArray[np.int32]
    away: npt.NDArray[np.bool_]
    ill: npt.NDArray[np.int32]
    came: npt.NDArray[np.bool_]
    sky: Ints


@compiled
def _deal(deck, first, count, nodes):  # type: ignore[no-untyped-def]
    rows = deck.tables.shape[1]
    waits, unknowns, people = len(deck.wait), len(deck.come), len(deck.ill)
    work = np.zeros((count, nodes), dtype=np.int16)
    wait = np.zeros((count, waits + unknowns), dtype=np.int64)
    release = np.full((count, nodes), NONE, dtype=np.int32)
    away = np.zeros((count, nodes), dtype=np.bool_)
    ill = np.zeros((count, people, 2), dtype=np.int32)
    came = np.zeros((count, unknowns), dtype=np.bool_)
    sky = np.zeros(count, dtype=np.int64)
    errs = np.zeros(len(deck.pace), dtype=np.float64)
    for at in range(count):
        run = first + at
        whole = 0.0
        if deck.whole >= 0:
            whole = deck.tables[deck.whole, int(luck(deck.whole_stream, run) * rows)]
        for one in range(len(deck.pace)):
            errs[one] = deck.tables[deck.pace[one], int(luck(deck.pace_stream[one], run) * rows)]
        for one in range(unknowns):
            # just as often as it is said: the last of the numbers between 0 and 1
            came[at, one] = luck(deck.come_stream[one], run) >= 1.0 - deck.come[one]
            if deck.parent[one] >= 0:
                came[at, one] = came[at, one] and came[at, deck.parent[one]]
            if came[at, one] and deck.lead[one] >= 0:
                days = deck.tables[deck.lead[one], int(luck(deck.lead_stream[one], run) * rows)]
                wait[at, waits + one] = int(np.floor(days + 0.5)) * SLOTS_A_DAY
        for node in range(nodes):
            if deck.work[node] < 0:
                continue
            hours = deck.tables[deck.work[node], int(luck(deck.work_stream[node], run) * rows)]
            low, high = deck.pace_ptr[node], deck.pace_ptr[node + 1]
            err = whole
            for one in range(low, high):
                err += errs[deck.pace_of[one]] / (high - low)
            slots = 2.0 * hours * deck.scale[node] * np.exp(err)
            if deck.again[node] > 0 and luck(deck.again_stream[node], run) >= 1.0 - deck.again[node]:
                slots *= 1.0 + deck.part_again
            work[at, node] = min(max(int(np.floor(slots + 0.5)), 1), 16000)
            away[at, node] = deck.away[node] > 0 and luck(deck.away_stream[node], run) >= 1.0 - deck.away[node]
        for one in range(unknowns):
            if not came[at, one]:
                work[at, deck.come_node[one]] = 0
        for one in range(waits):
            hours = deck.tables[deck.wait[one], int(luck(deck.wait_stream[one], run) * rows)]
            wait[at, one] = int(np.ceil(2.0 * hours - 1e-9)) * deck.wait_unit[one]
        for one in range(len(deck.part_node)):
            node = deck.part_node[one]
            release[at, node] = max(release[at, node], deck.part[one, int(luck(deck.part_stream[one], run) * rows)])
        for who in range(people):
            if deck.ill[who] > 0:
                falls = int(np.log1p(-luck(deck.ill_stream[who], run)) / np.log1p(-deck.ill[who]))
                lasts = deck.tables[deck.ill_length[who], int(luck(deck.ill_days[who], run) * rows)]
                begins = min(deck.now // SLOTS_A_DAY + falls, 4000) * SLOTS_A_DAY
                ill[at, who, 0] = begins
                ill[at, who, 1] = begins + int(np.floor(lasts + 0.5)) * SLOTS_A_DAY
        sky[at] = int(luck(deck.sky_stream, run) * deck.skies)
    return work, wait, release, away, ill, came, sky


def part_of(hand: Dealt, first: int, end: int) -> Dealt:
    """Some runs of a deal, ``first`` to ``end - 1`` as they lie in it."""
    return Dealt(
        hand.work[first:end],
        hand.wait[first:end],
        hand.release[first:end],
        hand.away[first:end],
        hand.ill[first:end],
        hand.came[first:end],
        hand.sky[first:end],
    )


def dealt(deck: Deck, first: int, count: int) -> Dealt:
    """Runs ``first`` to ``first + count - 1``; the same whatever is dealt beside them. O(runs x nodes)."""
    return Dealt(*_deal(deck, first, count, len(deck.work)))


@dataclass
class _Tables:
    """Tables by what they say, so that what is alike is kept once."""

    index: dict[bytes, int] = field(default_factory=dict)
    rows: list[Table] = field(default_factory=list)

    def add(self, table: Table) -> int:
        key = table.tobytes()
        if key not in self.index:
            self.index[key] = len(self.rows)
            self.rows.append(table)
        return self.index[key]

    def array(self) -> npt.NDArray[np.float64]:
        return np.stack(self.rows or [np.zeros(ROWS)])


def deck_of(refit: Refit, plan: Plan, made: Made, compiler: Compiler, sources: Sources, seed: int) -> Deck:
    """What the runs of a net are dealt from. refit: with the make-good work in it; compiler: of the net. O(nodes + sources)."""
    net, tables, size = made.net, _Tables(), len(made.names)
    people = [who.id for who in refit.people]
    work, scale = np.full(size, NONE, dtype=np.int64), np.ones(size)
    work_stream, again_stream, away_stream = (np.zeros(size, dtype=np.uint64) for _ in range(3))
    again, away = np.zeros(size), np.zeros(size)
    paces = {pair: at for at, pair in enumerate(sources.pace)}
    pace_ptr, pace_of = [0], list[int]()

    def crew_of(node: int) -> list[str]:
        return [people[who] for who in net.mode[net.node[node, MODE_LO], PEOPLE:].tolist() if who >= 0]

    def paced(node: int, kind: str) -> list[int]:
        return [paces[who, kind] for who in crew_of(node) if (who, kind) in paces]

    for node in range(size):
        mine: list[int] = []
        if net.node[node, STATE] == TO_PLAY and FIRST_TASK <= node < made.problem.size:
            task = refit.tasks[made.names[node]]
            source = sources.work[task.id]
            assert source.table is not None
            work[node] = tables.add(source.table)
            work_stream[node] = stream_of(seed, *source.stream)
            mine = paced(node, sources.of_task.get(task.id, ""))
            if task.paced != 1 and any(sources.pace[pair].likely != 1 for pair, at in paces.items() if at in mine):
                scale[node] = 1 / task.paced  # the pace that was taken over is in what is learned of them, too
            if task.id in sources.not_accepted:
                accepted = sources.not_accepted[task.id]
                again[node], again_stream[node] = accepted.chance or 0.0, stream_of(seed, *accepted.stream)
            absent = [who for who in crew_of(node) if who in sources.trade]
            if absent and not net.node[node, BEGUN]:
                day = plan.by_task()[task.id].start.astimezone(refit.yard.zone).date()
                away[node] = sources.trade[absent[0]].chance or 0.0
                away_stream[node] = stream_of(seed, "trade", absent[0], day.isoformat())
        pace_of += mine
        pace_ptr.append(len(pace_of))
    for one, node in made.unknowns:
        source = sources.unknown[one.id]
        assert source.table is not None
        work[node] = tables.add(source.table) if one.hours else NONE
        work_stream[node] = stream_of(seed, *source.stream)
    unknowns = _unknowns(made, sources, tables, seed)
    parts = list(_parts(refit, plan, made, compiler, sources, seed))
    pace_rows = [table_of(one) for one in sources.pace.values()]
    waits = [sources.wait[key] for key in made.waits]
    cures = {link.id for link in refit.links if link.cures}
    ill = [sources.illness.get(who) for who in people]
    return Deck(
        tables=np.empty((0, 0)),
        work=work,
        work_stream=work_stream,
        scale=scale,
        pace=_ints(tables.add(np.log(one)) for one in pace_rows),
        pace_stream=_streams(stream_of(seed, *one.stream) for one in sources.pace.values()),
        pace_ptr=_ints(pace_ptr),
        pace_of=_ints(pace_of),
        whole=NONE if sources.refit is None else tables.add(np.log(table_of(sources.refit))),
        whole_stream=np.uint64(0) if sources.refit is None else stream_of(seed, *sources.refit.stream),
        again=again,
        again_stream=again_stream,
        part_again=AGAIN,
        wait=_ints(tables.add(table_of(one)) for one in waits),
        wait_stream=_streams(stream_of(seed, *one.stream) for one in waits),
        wait_unit=_ints(CURE_UNIT if one.key in cures else 1 for one in waits),
        **unknowns,
        part=np.stack([row for row, _, _ in parts] or [np.zeros(ROWS, dtype=np.int32)]),
        part_stream=_streams(stream for _, stream, _ in parts),
        part_node=_ints(node for _, _, node in parts),
        away=away,
        away_stream=away_stream,
        ill=np.array([0.0 if one is None else one.chance for one in ill] or [0.0], dtype=np.float64),
        ill_stream=_streams([stream_of(seed, Sort.ILLNESS, who) for who in people] or [np.uint64(0)]),
        ill_length=_ints([NONE if one is None else tables.add(table_of(one)) for one in ill] or [NONE]),
        ill_days=_streams([stream_of(seed, "ill for", who) for who in people] or [np.uint64(0)]),
        sky_stream=stream_of(seed, "sky of the run"),
        skies=made.skies,
        now=net.now,
    )._replace(tables=tables.array())


def _unknowns(made: Made, sources: Sources, tables: _Tables, seed: int) -> dict[str, Any]:
    at = {one.id: n for n, (one, _) in enumerate(made.unknowns)}
    leads = [sources.unknown_lead.get(one.id) for one, _ in made.unknowns]
    return {
        "come": np.array([one.chance for one, _ in made.unknowns], dtype=np.float64),
        "come_stream": _streams(stream_of(seed, "unknown", one.id) for one, _ in made.unknowns),
        "parent": _ints(at.get(one.after or "", NONE) for one, _ in made.unknowns),
        "come_node": _ints(node for _, node in made.unknowns),
        "lead": _ints(NONE if lead is None else tables.add(table_of(lead)) for lead in leads),
        "lead_stream": _streams(np.uint64(0) if lead is None else stream_of(seed, *lead.stream) for lead in leads),
    }


def _parts(
    refit: Refit, plan: Plan, made: Made, compiler: Compiler, sources: Sources, seed: int
) -> Iterator[tuple[npt.NDArray[np.int32], np.uint64, int]]:
    """For each task that waits for a part whose time to come is drawn: from which slot it is at hand, by row of luck."""
    found, grid, now = stocks(refit), made.problem.grid, plan.now
    for node in range(FIRST_TASK, made.problem.size):
        if made.net.node[node, STATE] != TO_PLAY or made.net.node[node, BEGUN]:
            continue
        task = refit.tasks[made.names[node]]
        for key in task.parts:
            source, base = sources.lead.get(key), compiler.ready[task.id, key]
            if source is None or base is None:
                continue
            part = refit.part_by_id[key]
            cover = found[key].by_task[task.id]
            travels = open_days(refit, part.supplier)
            table = np.floor(table_of(source) + 0.5).astype(np.int64)

            def slot(days: int) -> int:
                if is_short(cover):  # noqa: B023 - asked at once
                    late = travels.after(now, days) + (FIT_CHECK if part.must_fit else timedelta(0))  # noqa: B023
                    return grid.ceil(late)
                return grid.ceil(base + timedelta(days=days))  # noqa: B023

            by_days = {days: slot(days) for days in np.unique(table).tolist()}
            yield (
                np.array([by_days[days] for days in table.tolist()], dtype=np.int32),
                stream_of(seed, *source.stream),
                node,
            )


def certain_release(compiler: Compiler, sources: Sources, task: Task) -> int:
    """From which slot a task may start, its parts whose time to come is drawn left away."""
    ready: dict[tuple[str, str], datetime | None] = {
        (task.id, key): None if key in sources.lead else compiler.ready[task.id, key] for key in task.parts
    }
    return compiler.release_of(task, ready)


def _ints(values: Iterable[int]) -> Ints:
    return np.array(list(values), dtype=np.int64)


def _streams(values: Iterable[np.uint64]) -> Streams:
    return np.array(list(values), dtype=np.uint64)
