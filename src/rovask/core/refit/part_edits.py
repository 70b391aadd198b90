"""What happens to a part: ordered, received, tried for fit."""

from __future__ import annotations

from datetime import datetime, timedelta

from rovask.core.refit.choices import PartStatus
from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Part, Refit

STATUS_TOLD = {
    PartStatus.NEEDED: "put back on the list to order: {}",
    PartStatus.ORDERED: "ordered {}",
    PartStatus.ABOARD: "received {}",
    PartStatus.CHECKED: "tried {}: it fits",
}


def part_of(refit: Refit, key: str) -> Part:
    """The part of that id. Raises RefitFaults if it is gone."""
    if key not in refit.part_by_id:
        raise RefitFaults([Fault("", "This part is gone; somebody removed it meanwhile.")])
    return refit.part_by_id[key]


def moved_on(refit: Refit, key: str, status: PartStatus, now: datetime) -> Refit:
    """The part one step further, at ``now``; one ordered now is expected after its lead time."""
    part = part_of(refit, key)
    arrives = part.arrives
    if status is PartStatus.ORDERED:
        arrives = now + timedelta(days=part.lead_days)
    elif status in (PartStatus.ABOARD, PartStatus.CHECKED) and (arrives is None or arrives > now):
        arrives = now
    return put(
        refit, Part.model_validate(part.model_dump() | {"status": status, "arrives": arrives, "missing_since": None})
    )


def missed(refit: Refit, key: str, since: datetime | None) -> Refit:
    """The part can't be found since then; None: it is found, and stands as it did."""
    return put(refit, part_of(refit, key).model_copy(update={"missing_since": since}))
