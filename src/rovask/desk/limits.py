"""How often a stranger may try: by address, and by name and address; a known browser is never kept out by others.

Counted in memory, by each web process for itself, with a moving window (the package ``limits``).
"""

from __future__ import annotations

from dataclasses import dataclass, field

from limits import RateLimitItemPerHour, RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter

from rovask.store.errors import TooMany

BY_ADDRESS = RateLimitItemPerMinute(30)  # tries of any name
BY_BOTH = RateLimitItemPerMinute(5, 5)  # of one name from one address, in five minutes
BY_NAME = RateLimitItemPerHour(60)  # of one name from all unknown browsers
LINKS = RateLimitItemPerMinute(30)
TOO_MANY = "Too many tries. Wait five minutes and try again."


@dataclass
class Limits:
    """The tries of late."""

    limiter: MovingWindowRateLimiter = field(default_factory=lambda: MovingWindowRateLimiter(MemoryStorage()))

    def before_sign_in(self, name: str, address: str, *, known: bool) -> None:
        """Count a try to sign in. Raises TooMany, for a name that isn't there just as for one that is.

        known: somebody of that name has signed in with this browser before; others' tries don't count against it.
        """
        name = " ".join(name.split()).lower()[:60]
        if not self.limiter.hit(BY_ADDRESS, "address", address):
            raise TooMany(TOO_MANY)
        if not self.limiter.hit(BY_BOTH, "both", name, address + ("+" if known else "")):
            raise TooMany(TOO_MANY)
        if not known and not self.limiter.hit(BY_NAME, "name", name):
            raise TooMany(TOO_MANY)

    def signed_in(self, name: str, address: str) -> None:
        """Forget the wrong tries before a right one."""
        name = " ".join(name.split()).lower()[:60]
        for mark in ("", "+"):
            self.limiter.clear(BY_BOTH, "both", name, address + mark)

    def before_link(self, address: str) -> None:
        """Count a try of a link. Raises TooMany."""
        if not self.limiter.hit(LINKS, "link", address):
            raise TooMany(TOO_MANY)
