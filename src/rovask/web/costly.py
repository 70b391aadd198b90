"""What takes many plans to work out, as a page sees it: asked for once, picked up when it is there, never waited for.

It is worked out beside the pages (desk/helpers.py). A page shows at once what it knows by itself and asks again; what was
worked out is held by the plan it is of, and kept in the database for whoever asks elsewhere or later.
"""

from __future__ import annotations

from collections.abc import Callable
from hashlib import sha256
from typing import Any, TypeVar

from rovask.core.explain.search import Search
from rovask.core.plain.derived import derived
from rovask.core.plan.result import Plan, Verdict
from rovask.store.answers import Question
from rovask.web.page import Page

Found = TypeVar("Found")
PATIENCE = 0.4  # seconds that a page waits for an answer that nobody else is before …
FOR_WHAT_WAS_TYPED = 20.0  # … and one that shows again what somebody typed, whoever is before it


class Waits(Exception):
    """It is being worked out: what is known at once is shown, and the page asks again by itself."""


def worked_once(page: Page, what: str, work: Callable[[], Found]) -> Found:
    """``work()``, or what it came to before on the very same plan. Raises Waits when that takes longer than a moment.

    what: names it within its refit. work: a function of the core with its arguments, which another process can be handed.
    """
    return _answer(page, what, work, search=False)  # type: ignore[no-any-return]


def searched_once(page: Page, what: str, work: Callable[[Search], Found]) -> Found:
    """The same for a search of seconds, which is given up when its refit changes. Raises Halted then."""
    return _answer(page, what, work, search=True)  # type: ignore[no-any-return]


def worked_meanwhile(page: Page, what: str, work: Callable[[], Found]) -> Found | None:
    """As ``worked_once``; None while it is being worked out."""
    try:
        return worked_once(page, what, work)
    except Waits:
        return None


def searched_meanwhile(page: Page, what: str, work: Callable[[Search], Found]) -> Found | None:
    """As ``searched_once``; None while it is being worked out."""
    try:
        return searched_once(page, what, work)
    except Waits:
        return None


def known(page: Page, what: str) -> Any:
    """What it came to on the very same plan; None when nobody asked."""
    kept = _kept(page, _question(page, what))
    return kept[0] if kept is not None else None


def _answer(page: Page, what: str, work: Callable[..., Any], *, search: bool) -> Any:
    question = _question(page, what)
    if (kept := _kept(page, question)) is not None:
        return kept[0]
    patience = FOR_WHAT_WAS_TYPED if page.sent else PATIENCE if page.helpers.idle() and not search else 0.0
    future = page.helpers.ask(question, work, search=search)
    try:
        future.exception(patience)
    except TimeoutError:
        raise Waits from None
    found = future.result()
    _held(page.plan)[question.change, question.digest] = found
    return found


def _kept(page: Page, question: Question) -> tuple[Any] | None:
    """The answer in a tuple, for it may be None."""
    held, where = _held(page.plan), (question.change, question.digest)
    if where not in held and (found := page.answers.of(question)) is not None:
        held[where] = found[0]
    return (held[where],) if where in held else None


def _question(page: Page, what: str) -> Question:
    return Question(page.kept.pk, page.kept.change, _mark(page.plan, page.verdict), what)


@derived()
def _mark(plan: Plan, verdict: Verdict) -> str:
    """A digest of a plan with its verdict."""
    return sha256((plan.model_dump_json() + verdict.model_dump_json()).encode()).hexdigest()


@derived()
def _held(plan: Plan) -> dict[tuple[int, str], Any]:
    """What was worked out of a plan, by the change it was asked after (a price may change and the plan not) and by what was asked."""
    return {}
