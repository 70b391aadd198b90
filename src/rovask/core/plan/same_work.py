"""Whether a change touches what the planner reads: an entry of the ledger moves no task."""

from __future__ import annotations

from rovask.core.refit.model import Refit
from rovask.core.refit.register import kinds

OF_THE_HEADER = ("budget", "name", "closed_at", "surprised")


def unread() -> frozenset[str]:
    """Fields of a refit that neither planner, verifier nor verdict reads, by the declarations; a test plans one that lacks them."""
    return frozenset((*OF_THE_HEADER, *(kind.list for kind in kinds(aside=False) if not kind.planned)))


def same_work(before: Refit, after: Refit) -> bool:
    """Whether two refits differ at most in what no plan reads, so that a plan of one is the plan of the other."""
    left = unread()
    return all(getattr(before, name) == getattr(after, name) for name in Refit.model_fields if name not in left)
