"""What a change did to the launch, in words."""

from __future__ import annotations

from rovask.core.plain.words import span
from rovask.core.plan.result import Outcome, Verdict


def effect_of(before: Verdict | None, after: Verdict | None) -> tuple[str, str]:
    """What a change did to the launch, in words, and its tone."""
    if before is None or after is None:
        return "", ""
    was, is_ = _spoken(before), _spoken(after)
    if was == is_:
        if after.no_work:
            return is_, ""
        return f"launch unchanged: {is_}", "warn" if len(after.left_out) > len(before.left_out) else ""
    if before.no_work or after.no_work:
        return f"{was} → {is_}", ""
    return f"{was} → {is_}", "good" if _rank(after) > _rank(before) else "urgent"


def _rank(verdict: Verdict) -> tuple[bool, int]:
    return verdict.outcome is not Outcome.IMPOSSIBLE, verdict.spare_minutes


def _spoken(verdict: Verdict) -> str:
    if verdict.no_work:
        return "no tasks yet"
    match verdict.outcome:
        case Outcome.IMPOSSIBLE:
            return "can't be planned"
        case Outcome.SHORT:
            return f"short {span(-verdict.spare_minutes)}"
        case Outcome.SLOT:
            return f"spare {span(verdict.spare_minutes)}, but the slot can't be"
        case Outcome.AFLOAT:
            return "afloat"
        case Outcome.HELD:
            return f"spare {span(verdict.spare_minutes)}"
