"""Moving and removing a thing of any kind; tasks and jobs have ties and hours that go along."""

from __future__ import annotations

from collections.abc import Callable

from rovask.core.plain.faults import refused
from rovask.core.refit.edits import moved_in, rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.register import Kind
from rovask.core.refit.removal import removed
from rovask.core.refit.work.edits import move_task, remove_job, remove_task


def move(refit: Refit, kind: Kind, key: str, steps: int) -> Refit:
    """Move a thing up (negative) or down its list, a task that of its job. Raises RefitFaults for what has no order."""
    if kind.name == "task":
        return move_task(refit, key, steps)
    if not kind.list or kind.aside:
        raise refused(f"There is no order of a {kind.word} to change.")
    return rebuilt(refit, **{kind.list: moved_in(getattr(refit, kind.list), key, steps)})


def remove(refit: Refit, kind: Kind, key: str, new_id: Callable[[], str], *, take_out: bool = False) -> Refit:
    """Remove a thing of any kind that stands in a list. Raises InUse, naming who still needs it, or RefitFaults."""
    if kind.name == "task":
        return remove_task(refit, key, new_id)
    if kind.name == "job":
        return remove_job(refit, key)
    if not kind.list:
        raise refused(f"The {kind.word} can't be removed.")
    sent = next((one for one in refit.orders if kind.name == "purchase" and one.id == key and one.mark), None)
    if sent is not None and sent.state.is_open:
        raise refused(f"This order went out to {sent.supplier}, so it can't just be removed: cancel it first.")
    return removed(refit, RecordKey(kind.name, key), take_out=take_out)
