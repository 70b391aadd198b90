"""What takes many plans to work out: done once for a plan, one at a time, and never again for reloading a page."""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

from cachetools import LRUCache

from rovask.web.page import Page

Found = TypeVar("Found")

_KEPT: LRUCache[tuple[int, int, Any, str], tuple[Any, Any]] = LRUCache(maxsize=120)
_GUARD = Lock()
_ONE_AT_A_TIME = Lock()  # plans for comparison leave the other core to everybody else's pages


def worked_once(page: Page, what: str, work: Callable[[], Found]) -> Found:
    """``work()``, or what it came to before on the very same plan. ``what``: names it within its refit."""
    where = (page.kept.pk, page.kept.change, page.plan.now, what)
    with _GUARD:
        kept = _KEPT.get(where)
    if kept is not None and kept[0] is page.planned:
        return kept[1]  # type: ignore[no-any-return]
    with _ONE_AT_A_TIME:
        with _GUARD:
            kept = _KEPT.get(where)
        if kept is not None and kept[0] is page.planned:
            return kept[1]  # type: ignore[no-any-return]
        found = work()
        with _GUARD:
            _KEPT[where] = (page.planned, found)
        return found
