"""Tables brought in: the file kept to be looked over, then all its new rows in one change."""

from __future__ import annotations

import hashlib
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import count
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import ColumnMatch, Refit
from rovask.core.refit.register import kind_of
from rovask.core.refit.whole import Edited
from rovask.desk.command import DirectCommand, EditOutcome, RefitCommand, Scene, Situation
from rovask.formats.table_kinds import KINDS
from rovask.formats.table_rows import read_rows
from rovask.formats.tables import Table
from rovask.store import quotas, uploads


@dataclass(frozen=True)
class KeepUpload(DirectCommand):
    """Keep a file that was sent and is known to be a table, to be looked over."""

    name: str
    content: bytes

    def run(self, scene: Scene, pk: int) -> str:
        """By what it is asked for. Raises RefitFaults when too many wait already."""
        quotas.waiting(scene.session, pk, len(self.content))
        return uploads.keep(scene.session, pk, self.name, self.content, scene.clock)


def match_id(kind: str, head: tuple[str, ...]) -> str:
    """The id under which the matching of such files is remembered."""
    return "m-" + hashlib.sha256("\n".join([kind, *head]).encode()).hexdigest()[:16]


@dataclass(frozen=True)
class BringInTable(RefitCommand):
    """Add the rows of a table that aren't there yet, and change what its rows change: all in one change, or none.

    columns: which of its columns is which of ours; remembered for the next file with the same first row. but_faulty:
    leave out rows that can't be read; otherwise any of them stops all.
    """

    kind: str
    name: str
    table: Table
    columns: Mapping[str, int]
    but_faulty: bool = False

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with them. Raises RefitFaults, naming lines."""
        kind = KINDS[self.kind]
        found = read_rows(refit, kind, self.table, self.columns, at.new_id, at.moment)
        if found.faults and not self.but_faulty:
            many = count(len(found.faults), "line")
            told = (
                f"{many} can't be read: mend them in the file, or tick that they are left out. Nothing was brought in."
            )
            raise RefitFaults([Fault("", told)])
        added: dict[str, list[Any]] = defaultdict(list)
        for record in found.new:
            added[kind_of(type(record)).list].append(record)
        changed: dict[str, dict[str, Any]] = defaultdict(dict)
        for change in found.changed:
            for record in change.records:
                changed[kind_of(type(record)).list][record.id] = record  # type: ignore[attr-defined]
        lists = {
            name: (*(changed[name].get(row.id, row) for row in getattr(refit, name)), *added[name])
            for name in {*added, *changed}
        }
        after = rebuilt(refit, **lists)
        places = {at_: name for name, at_ in self.columns.items()}
        match = ColumnMatch(
            id=match_id(self.kind, self.table.head),
            table=self.kind,
            head=tuple(name[:120] for name in self.table.head),
            columns=tuple(places.get(at_, "") for at_ in range(len(self.table.head))),
            at=at.moment,
        )
        new = len(found.new) if self.kind != "orders" else len(added["order_lines"])
        told = f"brought in {count(new, kind.word, kind.words)} of {self.name}" if new else f"brought in {self.name}"
        told += f", {len(found.changed)} changed" if found.changed else "" if new else ": nothing new"
        return EditOutcome(Edited(after, (match,)), told)
