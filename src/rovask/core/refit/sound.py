"""What was found sound lately, so that a refit that grew out of it is looked at only where it is new.

Records are frozen: what was sound is sound still, unless what it stands beside has changed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from threading import Lock
from typing import Any, NamedTuple

from rovask.core.refit.register import KINDS, Kind


class Sound(NamedTuple):
    """A refit that was found sound, held so that the addresses of its rows stay theirs; those, and the ids, by kind."""

    data: Any = None
    rows: Mapping[str, frozenset[int]] = {}
    ids: Mapping[str, set[str]] = {}

    def same(self, data: Any, kind: Kind) -> bool:
        """Whether a kind's list is the very same one."""
        name = KINDS[kind.inside].list if kind.inside else kind.list
        return self.data is not None and kind.name in self.ids and getattr(data, name) is getattr(self.data, name)

    def all_there(self, kind: Kind, ids: Mapping[str, set[str]]) -> bool:
        """Whether everything that records of a kind may point at is there still."""
        if kind.name not in self.rows:
            return False
        for point in kind.points:
            known, now = self.ids.get(point.to.kind), ids.get(point.to.kind)
            if now is not None and known is not now and (known is None or not known <= now):
                return False
        return True

    def same_money(self, data: Any) -> bool:
        """Whether what entries belong to, and their currency, is the same."""
        return self.data is not None and all(
            getattr(self.data, name) is getattr(data, name) for name in ("orders", "agreements", "currency")
        )

    def same_clock(self, data: Any) -> bool:
        """Whether haul, launch and the yard's clock are the same."""
        return self.data is not None and all(
            getattr(self.data, name) is getattr(data, name) for name in ("haul_at", "launch_at", "yard")
        )


_SOUND: deque[Sound] = deque(maxlen=4)
_KEEPING = Lock()


def sound_before(data: Any) -> Sound:
    """The sound refit that has most lists in common with this one; nothing for a file, or for one that nothing is like."""
    if isinstance(data, Mapping) or not hasattr(data, "entries"):
        return Sound()
    with _KEEPING:
        known = list(_SOUND)
    names = {kind.list for kind in KINDS.values() if kind.list and hasattr(data, kind.list)}
    alike = [sum(getattr(one.data, name, None) is getattr(data, name) for name in names) for one in known]
    best = max(alike, default=0)
    return known[alike.index(best)] if best else Sound()


def keep_sound(sound: Sound) -> None:
    """Remember that a refit was found sound."""
    with _KEEPING:
        _SOUND.append(sound)


def forget_sound() -> None:
    """Everything, so that the next refit is looked at whole: for tests and benches."""
    with _KEEPING:
        _SOUND.clear()
