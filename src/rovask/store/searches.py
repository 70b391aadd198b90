"""How the search for a better plan of each refit stands: written by the worker, read by the pages."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import text, update
from sqlalchemy.orm import Session

from rovask.store.plan_tables import SearchRow, SearchState

CHANNEL = "rovask_search"
SILENT_AFTER = timedelta(seconds=20)


@dataclass(frozen=True, slots=True)
class SearchView:
    """The latest search of a refit. ``seconds``: how long it may look; ``taken``: how long it has looked."""

    revision: int
    state: SearchState
    seconds: float
    taken: float
    first_value: int | None
    value: int | None
    bound: int | None
    better: int
    stopping: bool
    told: str

    @property
    def running(self) -> bool:
        """Whether it is still at it."""
        return self.state is SearchState.RUNNING

    @property
    def gap(self) -> float | None:
        """How far the plan may still be from the best, as a share of its value; None while nothing is proven."""
        if not self.value or self.bound is None or self.bound <= 0:
            return None
        return max(self.value - self.bound, 0) / self.value


def view_of(row: SearchRow | None, clock: datetime) -> SearchView | None:
    """The latest search of a refit; one whose worker went silent is told as failed."""
    if row is None:
        return None
    state, told = row.state, row.told
    if state is SearchState.RUNNING and clock - row.seen_at > SILENT_AFTER:
        state, told = SearchState.FAILED, "The search was cut off; the best plan it had found is kept."
    return SearchView(
        row.revision, state, row.seconds, row.taken, row.first_value, row.value, row.bound, row.better, row.stop, told
    )


def begin_search(session: Session, pk: int, revision: int, seconds: float, clock: datetime) -> None:
    """Note that a search begins; it takes the place of the one before."""
    session.merge(
        SearchRow(
            refit_id=pk,
            revision=revision,
            state=SearchState.RUNNING,
            started_at=clock,
            seen_at=clock,
            seconds=seconds,
            taken=0,
            first_value=None,
            value=None,
            bound=None,
            better=0,
            stop=False,
            told="",
        )
    )
    session.flush()
    tell(session, pk)


def note_search(
    session: Session,
    pk: int,
    clock: datetime,
    *,
    taken: float,
    first_value: int | None = None,
    value: int | None = None,
    bound: int | None = None,
    better: int | None = None,
    state: SearchState | None = None,
    told: str | None = None,
) -> bool:
    """Note how far a search is; what is None stays. Returns whether it has been asked to stop."""
    row = session.get(SearchRow, pk)
    if row is None:
        return True  # the refit is gone
    row.seen_at, row.taken = clock, taken
    values = {
        "first_value": first_value,
        "value": value,
        "bound": bound,
        "better": better,
        "state": state,
        "told": told,
    }
    for name, new in values.items():
        if new is not None:
            setattr(row, name, new)
    session.flush()
    tell(session, pk)
    return row.stop


def ask_to_stop(session: Session, pk: int) -> None:
    """Have a running search stop at its next look; it keeps the best it has."""
    session.execute(update(SearchRow).where(SearchRow.refit_id == pk).values(stop=True))
    tell(session, pk)


def tell(session: Session, pk: int) -> None:
    """Wake the pages that watch this refit, once the transaction is committed."""
    session.execute(text("select pg_notify(:channel, :pk)"), {"channel": CHANNEL, "pk": str(pk)})
