"""What a refit has in common with the sound one it grew out of, so that it is looked at only where it is new.

Records are frozen: what was sound is sound still, unless what it stands beside has changed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from rovask.core.plain.derived import derived
from rovask.core.refit.register import KINDS, Kind

Rows = Mapping[str, Any]  # records of one kind, by id


class _Read(NamedTuple):
    """A list that was read, and its records; of those inside others, all of them."""

    rows: tuple[Any, ...]
    by_id: Rows


@derived(grows=True)
def _read(refit: Any, before: Mapping[str, _Read] | None = None) -> dict[str, _Read]:
    """Every list of a refit with its records by id; one that is as it was is not read again."""
    found: dict[str, _Read] = {}
    for kind in KINDS.values():
        outer = KINDS[kind.inside] if kind.inside else kind
        if not kind.list or not hasattr(refit, outer.list):
            continue
        rows = getattr(refit, outer.list)
        known = (before or {}).get(kind.name)
        if known is not None and same(known.rows, rows):
            found[kind.name] = known
        elif kind.inside:
            found[kind.name] = _Read(rows, {one.id: one for row in rows for one in getattr(row, kind.list)})
        else:
            found[kind.name] = _Read(rows, {one.id: one for one in rows})
    return found


def same(one: Any, other: Any) -> bool:
    """Whether two things say the same; the very same is not read again."""
    return bool(one is other or one == other)


class Beside:
    """A sound refit that another grew out of; without one everything is new."""

    def __init__(self, before: Any = None) -> None:
        self._before = before
        self._read = _read(before) if before is not None else {}

    def as_it_was(self, data: Any, kind: Kind) -> bool:
        """Whether a kind's list says the same."""
        known = self._read.get(kind.name)
        return known is not None and same(known.rows, getattr(data, (KINDS[kind.inside] if kind.inside else kind).list))

    def ids(self, kind: Kind) -> set[str]:
        """The ids there were of a kind."""
        known = self._read.get(kind.name)
        return set(known.by_id) if known is not None else set()

    def new(self, kind: Kind, records: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
        """Those of some records that are not as they were."""
        known = self._read.get(kind.name)
        return records if known is None else [row for row in records if not same(known.by_id.get(row[1].id), row[1])]

    def all_there(self, kind: Kind, ids: Mapping[str, set[str]]) -> bool:
        """Whether everything that records of a kind may point at is there still."""
        if kind.name not in self._read:
            return False
        return all(
            point.to.kind in self._read and self._read[point.to.kind].by_id.keys() <= ids[point.to.kind]
            for point in kind.points
            if point.to.kind in ids
        )

    def gone_or_new(self, kind: Kind, rows: Iterator[Any]) -> bool:
        """Whether one of the records there were is gone, or is not as it was."""
        known, now = self._read.get(kind.name), {row.id: row for row in rows}
        return known is None or any(not same(now.get(key), row) for key, row in known.by_id.items())

    def says_the_same(self, data: Any, *fields: str) -> bool:
        """Whether some fields of the refit itself are as they were."""
        return self._before is not None and all(same(getattr(self._before, one), getattr(data, one)) for one in fields)
