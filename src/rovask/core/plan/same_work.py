"""Whether a change touches what the planner reads: an entry of the ledger moves no task."""

from __future__ import annotations

from rovask.core.refit.model import Refit

UNREAD = frozenset(
    (
        *("budget", "budget_lines", "draws", "entries", "name", "offers", "yard_extras"),
        *("closed_at", "gate_ticks", "lost", "surprised", "words"),
    )
)
"""Fields of a refit that neither planner, verifier nor verdict reads; a test plans a refit that lacks them."""


def same_work(before: Refit, after: Refit) -> bool:
    """Whether two refits differ at most in what no plan reads, so that a plan of one is the plan of the other."""
    return all(getattr(before, name) == getattr(after, name) for name in Refit.model_fields if name not in UNREAD)
