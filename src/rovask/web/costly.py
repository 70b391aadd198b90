"""What takes many plans to work out: done once for a plan, one at a time, and never again for reloading a page.

A search of seconds (what a change does, settled) waits for other searches only, so that no page waits for one; it is
given up when its refit changes, and when somebody asks for what matters more.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Any, TypeVar

from cachetools import LRUCache

from rovask.core.explain.compare import SETTLING_SECONDS, Halt, Search
from rovask.web.page import Page

Found = TypeVar("Found")

_KEPT: LRUCache[tuple[int, int, Any, str], tuple[Any, Any]] = LRUCache(maxsize=120)
PATIENCE = 0.4  # seconds that a page waits for what is worked out for others
_GUARD = Lock()
_ONE_AT_A_TIME = Lock()  # plans for comparison leave the other core to everybody else's pages
_ONE_SEARCH = Lock()
_RUNNING: dict[int, set[Halt]] = defaultdict(set)


@contextmanager
def searching(pk: int) -> Iterator[Halt]:
    """For the one search at a time; the handle is pulled when its refit is about to change."""
    with _ONE_SEARCH:
        halt = Halt()
        with _GUARD:
            _RUNNING[pk].add(halt)
        try:
            yield halt
        finally:
            with _GUARD:
                _RUNNING[pk].discard(halt)


def overtaken(pk: int) -> None:
    """The refit is about to change, or another search of it matters more: the one that runs is given up."""
    with _GUARD:
        running = list(_RUNNING.get(pk, ()))
    for halt in running:
        halt.pull()


class Waits(Exception):
    """Others are being worked out for just now: what is known at once is shown, and the page asks again by itself."""


def worked_once(page: Page, what: str, work: Callable[[], Found]) -> Found:
    """``work()``, or what it came to before on the very same plan. ``what``: names it within its refit.

    Raises Waits when others' take longer than a moment: nobody's page is held for them.
    """
    if (kept := _kept(page, what)) is not None:
        return kept[0]  # type: ignore[no-any-return]
    if not _ONE_AT_A_TIME.acquire(timeout=PATIENCE):
        raise Waits
    try:
        return _once(page, what, work)
    finally:
        _ONE_AT_A_TIME.release()


def searched_once(page: Page, what: str, work: Callable[[Search], Found]) -> Found:
    """The same for a search: how long it may take, and the handle by which it may be given up. Raises Halted then."""
    if (kept := _kept(page, what)) is not None:
        return kept[0]  # type: ignore[no-any-return]
    overtaken(page.kept.pk)
    with searching(page.kept.pk) as halt:
        return _once(page, what, lambda: work(Search(SETTLING_SECONDS, time.monotonic, halt)))


def known(page: Page, what: str) -> Any:
    """What it came to on the very same plan; None when nobody asked."""
    kept = _kept(page, what)
    return kept[0] if kept is not None else None


def _kept(page: Page, what: str) -> tuple[Any] | None:
    """The same in a tuple, for what may have come to None."""
    with _GUARD:
        kept = _KEPT.get((page.kept.pk, page.kept.change, page.plan.now, what))
    return (kept[1],) if kept is not None and kept[0] is page.planned else None


def _once(page: Page, what: str, work: Callable[[], Found]) -> Found:
    if (kept := _kept(page, what)) is not None:
        return kept[0]  # type: ignore[no-any-return]
    found = work()
    with _GUARD:
        _KEPT[page.kept.pk, page.kept.change, page.plan.now, what] = (page.planned, found)
    return found
