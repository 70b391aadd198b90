"""How often a stranger may try: by address, and by name and address; a known browser is never kept out by others.

Counted in the database with a moving window, so that all web processes count together; by digests, so that no name and no address is kept.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from rovask.desk.command import Actor
from rovask.desk.commands.tries import CountTry, ForgetTries, Limit
from rovask.desk.door import Desk
from rovask.store.errors import TooMany

TOO_MANY = "Too many tries. Wait five minutes and try again."
NOBODY = Actor(None, "")


BY_ADDRESS = Limit("address", 30, timedelta(minutes=1))  # tries of any name
BY_BOTH = Limit("both", 5, timedelta(minutes=5))  # of one name from one address
BY_NAME = Limit("name", 60, timedelta(hours=1))  # of one name from all unknown browsers
LINKS = Limit("link", 30, timedelta(minutes=1))


@dataclass(frozen=True)
class Limits:
    """The tries of late."""

    desk: Desk

    def _count(self, *by: tuple[Limit, bytes]) -> None:
        if not self.desk.run(NOBODY, CountTry(by)):
            raise TooMany(TOO_MANY)

    def before_sign_in(self, name: str, address: str, *, known: bool) -> None:
        """Count a try to sign in. Raises TooMany, for a name that isn't there just as for one that is.

        known: somebody of that name has signed in with this browser before; others' tries don't count against it.
        """
        name = _plain(name)
        both = BY_BOTH.of(name, address + ("+" if known else ""))
        self._count(BY_ADDRESS.of(address), both, *(() if known else (BY_NAME.of(name),)))

    def signed_in(self, name: str, address: str) -> None:
        """Forget the wrong tries before a right one."""
        self.desk.run(NOBODY, ForgetTries(tuple(BY_BOTH.of(_plain(name), address + mark)[1] for mark in ("", "+"))))

    def before_link(self, address: str) -> None:
        """Count a try of a link. Raises TooMany."""
        self._count(LINKS.of(address))


def _plain(name: str) -> str:
    return " ".join(name.split()).lower()[:60]
