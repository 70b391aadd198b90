"""What was lately worked out of some objects, found again as long as the very same objects are asked about.

Records are frozen, so the same object says the same; comparing two by their content would cost more than it saves.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

Found = TypeVar("Found")


class Recent(Generic[Found]):
    """The last ``most`` answers, each with the objects it is of. Safe to ask from several threads."""

    def __init__(self, most: int) -> None:
        self._lock = Lock()
        self._kept: deque[tuple[tuple[object, ...], Found]] = deque(maxlen=most)

    def of(self, objects: tuple[object, ...], make: Callable[[], Found]) -> Found:
        """``make()``, or what it came to for these very objects. O(most x objects)."""
        with self._lock:
            for known, found in self._kept:
                if len(known) == len(objects) and all(one is other for one, other in zip(known, objects, strict=True)):
                    return found
        found = make()
        with self._lock:
            self._kept.append((objects, found))
        return found

    def forget(self) -> None:
        """Everything, so that the next answer is worked out anew: for a bench."""
        with self._lock:
            self._kept.clear()
