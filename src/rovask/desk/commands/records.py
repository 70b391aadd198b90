"""Adding, editing and removing a record of any kind."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from rovask.core.craft.seized_edits import retold
from rovask.core.judged.ledger_edits import draw_faults
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import rounded
from rovask.core.refit import edits, lists
from rovask.core.refit.givens.slot import yard_launches
from rovask.core.refit.model import Draw, Job, Link, Refit, Seized, Task
from rovask.core.refit.records import HEADER, SINGLE, RecordKey, find
from rovask.core.refit.register import KINDS
from rovask.core.refit.values import Frozen
from rovask.core.refit.whole import Edited
from rovask.core.refit.work import edits as work_edits
from rovask.core.refit.work.rings import ring_of, ring_told
from rovask.core.refit.work.titles import tie_title, title_in
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.desk.rights import Right
from rovask.formats.craft_tables import seized_tables


@dataclass(frozen=True)
class SaveRecord(RefitCommand):
    """Keep a sheet: a new record (no ``key``), or that one as it was seen at ``revision``.

    data: the values of the fields that were on the sheet; the others stay as they are. job, after: where a new task goes.
    """

    kind: str
    key: str
    data: Mapping[str, object]
    title: str
    revision: int | None = None
    job: str = ""
    after: str = ""

    @property
    def right(self) -> Right:
        """What the plan takes as given is a skipper's."""
        return Right.GIVENS if KINDS[self.kind].givens else Right.WORK

    @property
    def seen(self) -> Mapping[RecordKey, int]:
        """The record as whoever edits it saw it."""
        return {RecordKey(self.kind, self.key): self.revision} if self.revision is not None else {}

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with the sheet's data in it. Raises RefitFaults or ValidationError for what can't be."""
        kind = KINDS[self.kind]
        exists = bool(self.key) or self.kind in (HEADER, *SINGLE)
        told = f"{'edited' if exists else 'added'} {kind.word} “{self._title(refit)}”"
        if self.kind == HEADER:
            after = edits.rebuilt(refit, **self.data)
            if after.launch_at != refit.launch_at and not yard_launches(after, after.launch_at):
                told += "; the launch slot lies outside the yard's hours"
            return EditOutcome(Edited(after), told)
        old = find(refit, RecordKey(self.kind, self.key)) if exists else None
        if exists and old is None and not kind.aside:
            raise RefitFaults([Fault("", f"This {kind.word} is gone; somebody removed it meanwhile.")])
        key = self.key or at.new_id(self.kind)
        was = dict(old) if old is not None else {}
        data = {name: in_old_order(was.get(name), value) for name, value in self.data.items()}
        if self.kind == "part":
            data = with_middle_price(data)
        item = kind.model.model_validate(was | data | ({} if kind.single else {"id": key}))
        if isinstance(item, Draw) and (faults := draw_faults(item)):
            raise RefitFaults(faults)
        edited = self._in(refit, item, at)
        if isinstance(item, Link | Task):
            ring = ring_of(edited.refit)
            if ring and not ring_of(refit):
                raise RefitFaults([Fault("", ring_told(edited.refit, ring))])
        return EditOutcome(edited, told, key)

    def _title(self, refit: Refit) -> str:
        there = find(refit, RecordKey(self.kind, self.key)) if self.kind == "link" and self.key else None
        ends = [self.data.get(name, getattr(there, name, None)) for name in ("first", "then")]
        if self.kind == "link" and all(isinstance(end, str) for end in ends):
            return tie_title(refit, str(ends[0]), str(ends[1]))
        return self.title

    def _in(self, refit: Refit, item: object, at: Situation) -> Edited:
        kind = KINDS[self.kind]
        if kind.single:
            return Edited(edits.rebuilt(refit, **{self.kind: item}))
        if isinstance(item, Task):
            if self.key:
                was = refit.tasks.get(self.key)
                if was is not None and was.units_done != item.units_done:  # what is done says what is left
                    item = item.model_copy(update={"remaining": None})
                return Edited(work_edits.put_task(refit, item))
            return Edited(work_edits.add_task(refit, self.job, item, at.new_id("link"), self.after or None))
        if isinstance(item, Job) and self.key:
            item = item.model_copy(update={"tasks": next(job.tasks for job in refit.jobs if job.id == self.key)})
        if isinstance(item, Seized) and self.key:
            return Edited(retold(edits.put(refit, item), at.library().common, seized_tables(), self.key))
        if not isinstance(item, Frozen):
            raise TypeError(f"{type(item)} is no record")
        return Edited(refit, (item,)) if kind.aside else Edited(edits.put(refit, item))


def with_middle_price(data: dict[str, object]) -> dict[str, object]:
    """A part's data with the middle of its least and most price where no price is said."""
    least, most = data.get("price_least"), data.get("price_most")
    if data.get("price") or not isinstance(least, int) or not isinstance(most, int):
        return data
    return data | {"price": rounded(Decimal(least + most) / 2)}


def in_old_order(old: object, new: object) -> object:
    """Ticked things in the order they had; a form hands them over in the order it shows them."""
    if not isinstance(old, tuple) or not isinstance(new, list | tuple):
        return new
    if not all(isinstance(one, str) for one in (*old, *new)):
        return new
    return [*(one for one in old if one in new), *(one for one in new if one not in old)]


@dataclass(frozen=True)
class RemoveRecord(ChangeCommand):
    """Remove one thing; it can be undone. Refused, with the reason, while something needs it.

    take_out: what uses it and can do without shall do without.
    """

    kind: str
    key: str
    take_out: bool = False

    @property
    def right(self) -> Right:
        """What the plan takes as given is a skipper's."""
        return Right.GIVENS if KINDS[self.kind].givens else Right.WORK

    def told(self, refit: Refit) -> str:
        """What it was called. Raises RefitFaults when it is gone already."""
        kind = KINDS[self.kind]
        item = find(refit, RecordKey(self.kind, self.key))
        if kind.aside:
            return f"removed a {kind.word}"
        if item is None:
            raise RefitFaults([Fault("", f"This {kind.word} is gone already.")])
        return f"removed {kind.word} “{title_in(refit, kind, item)}”"

    def change(self, refit: Refit, at: Situation) -> Refit | Edited:
        """Without it."""
        kind = KINDS[self.kind]
        if kind.aside:
            return Edited(refit, gone=(RecordKey(self.kind, self.key),))
        return lists.remove(refit, kind, self.key, lambda: at.new_id("link"), take_out=self.take_out)
