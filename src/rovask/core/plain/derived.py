"""What follows from a frozen thing: worked out when first asked, held by that very thing, and gone when the thing is.

Each revision of a refit, and each plan, has one such view (``refit.derived``, ``plan.derived``), which is handed down with
it. Nothing is remembered anywhere else, so nothing has to be forgotten: forty boats side by side hold forty views, one that is
dropped takes its own along. A refit that grew out of another is its heir: it takes over what reads nothing that has changed,
which is asked of the content of what was read.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, Protocol, TypeVar, cast

Asked = ParamSpec("Asked")
Answer = TypeVar("Answer")
Known = tuple[tuple[object, ...], Any]
BESIDE = 2  # answers of one kind in one view: the plan of now and the one it is compared with
_HANDED_ON: set[object] = set()  # functions whose answers an heir may take over


class Derived:
    """The answers about one thing, each with what it was worked out of besides that thing."""

    __slots__ = ("carried", "known")

    def __init__(self, carried: dict[object, Known] | None = None) -> None:
        self.known: dict[object, list[Known]] = {}
        self.carried = carried or {}

    def heir(self) -> Derived:
        """The view of a thing that grew out of this one: it may take over what was asked here."""
        return Derived(self.carried | {what: rows[0] for what, rows in self.known.items() if what in _HANDED_ON})

    def __reduce__(self) -> tuple[type[Derived], tuple[()]]:
        """A copy in another process begins with nothing."""
        return Derived, ()

    def __deepcopy__(self, _: object) -> Derived:
        return Derived()


class Holds(Protocol):
    """A thing that holds what follows from it."""

    @property
    def derived(self) -> Derived:
        """Its view."""


def _alike(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    """Whether two lots of things say the same; the very same things, by far the usual case, are not read again."""
    return len(one) == len(other) and all(a is b or a == b for a, b in zip(one, other, strict=True))


def derived(
    reads: Callable[..., tuple[object, ...]] | None = None, *, of: int = 0, grows: bool = False, beside: int = BESIDE
) -> Callable[[Callable[Asked, Answer]], Callable[Asked, Answer]]:
    """Have a function's answer held by what it is about.

    of: which argument holds it. reads: what of its arguments the answer hangs on, as one tuple; an heir takes an answer over
    while that is the same. Without it the answer hangs on all of the arguments and is never handed on. grows: what an heir
    can't take over whole is handed to the function as ``before``, to take over what is the same in it. beside: answers to
    different arguments that one view may hold.
    """

    def made(work: Callable[Asked, Answer]) -> Callable[Asked, Answer]:
        if reads is not None or grows:
            _HANDED_ON.add(work)

        @wraps(work)
        def asked(*args: Asked.args, **more: Asked.kwargs) -> Answer:
            view = cast(Holds, args[of]).derived
            rows = view.known.get(work)
            if rows is not None and len(args) == 1 and not more:
                return cast(Answer, rows[0][1])
            given = reads(*args) if reads is not None else (*args[:of], *args[of + 1 :], *more.items())
            for row in rows or ():
                if _alike(row[0], given):
                    return cast(Answer, row[1])
            old = view.carried.pop(work, None)
            if old is not None and reads is not None and _alike(old[0], given):
                answer = old[1]
            else:
                answer = work(*args, **(more | {"before": old[1]} if grows and old is not None else more))  # type: ignore[arg-type]
            view.known[work] = [(given, answer), *(rows or ())[: beside - 1]]
            return cast(Answer, answer)

        return asked

    return made
