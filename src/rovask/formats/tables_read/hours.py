"""Hours logged, a row each."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, cast

from rovask.core.refit import typed
from rovask.core.refit.model import HoursEntry
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, Reader


class HoursReader(Reader):
    """Hours logged, a row each."""

    listed = "hours_log"
    given: ClassVar = {
        "date": ("at",),
        "person": ("person",),
        "task": ("task",),
        "job": ("task",),
        "hours": ("hours",),
        "note": ("note",),
    }

    def name_of(self, record: Frozen) -> Key | None:
        entry = cast(HoursEntry, record)
        return entry.at.astimezone(self.zone).date(), entry.person, entry.task

    def called(self, record: Frozen) -> str:
        entry = cast(HoursEntry, record)
        return f"{self.refit.persons[entry.person].name}, {self.refit.tasks[entry.task].title}"

    def key(self, entry: HoursEntry) -> Key:
        return entry.at.astimezone(self.zone).date(), entry.person, entry.task, entry.hours

    def known(self) -> Iterator[Key]:
        yield from (self.key(entry) for entry in self.refit.hours_log)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        who = [one for one in self.refit.people if one.name.casefold() == cells["person"].casefold()]
        if len(who) != 1:
            raise ValueError(f"person: nobody here is called “{cells['person'][:60]}”")
        tasks = [
            task
            for job, task in self.refit.walk()
            if task.title.casefold() == cells["task"].casefold()
            and (not cells.get("job") or job.title.casefold() == cells["job"].casefold())
        ]
        if len(tasks) != 1:
            what = "several tasks are" if tasks else "no task is"
            raise ValueError(f"task: {what} called “{cells['task'][:60]}”{'; say the job too' if tasks else ''}")
        try:
            hours = typed.hours(cells["hours"])
        except ValueError as error:
            raise ValueError(f"hours: {error}") from None
        entry = HoursEntry.model_validate(
            {
                "id": self.new_id("hours"),
                "task": tasks[0].id,
                "person": who[0].id,
                "at": self.day(cells["date"]),
                "hours": hours,
                "note": cells.get("note", "")[:200],
            }
        )
        return [entry], self.key(entry)
