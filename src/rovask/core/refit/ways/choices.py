"""What an act of a way is one of, and what each must say."""

from __future__ import annotations

from enum import StrEnum


class ActSort(StrEnum):
    """What an act does that has not happened. Each is done by one command of the application layer (desk/acts.py)."""

    NEXT_TIME = "next time"
    DROP = "leave out"
    INTERIM = "interim fix"
    OTHERWISE = "done otherwise"
    FOR_FINDING = "for a finding"
    HAND = "one more hand"
    LONGER = "longer days"
    OFFER = "offer"
    EXPRESS = "express"
    OWN_HANDS = "own hands"
    BY = "by somebody"
    SLOT = "slot"
    LOOK_FIRST = "look first"
    UNPIN = "unpin"
    COVER = "cover"
    SEASON = "season"


SAYS: dict[ActSort, tuple[str, ...]] = {
    ActSort.NEXT_TIME: ("of",),
    ActSort.DROP: ("of",),
    ActSort.INTERIM: ("of", "hours"),
    ActSort.OTHERWISE: ("of", "hours", "name"),
    ActSort.FOR_FINDING: ("of", "name"),
    ActSort.HAND: ("name", "first", "last"),
    ActSort.LONGER: ("of", "hours"),
    ActSort.OFFER: ("of",),
    ActSort.EXPRESS: ("of", "days"),
    ActSort.OWN_HANDS: ("of",),
    ActSort.BY: ("of", "name"),
    ActSort.SLOT: ("at",),
    ActSort.LOOK_FIRST: ("of",),
    ActSort.UNPIN: ("of",),
    ActSort.COVER: ("of",),
    ActSort.SEASON: ("at", "haul_at"),
}
