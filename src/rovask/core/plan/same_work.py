"""Whether a change touches what the planner reads: an entry of the ledger moves no task."""

from __future__ import annotations

from rovask.core.refit.model import Header, Refit

UNREAD = frozenset(
    (
        *("budget", "budget_lines", "draws", "entries", "name", "offers", "yard_extras"),
        *("closed_at", "gate_ticks", "lost", "surprised", "words"),
    )
)
"""Fields of a refit that neither planner, verifier nor verdict reads; a test plans a refit that lacks them."""


def same_work(before: Refit, after: Refit) -> bool:
    """Whether two refits differ at most in what no plan reads, so that a plan of one is the plan of the other.

    Lists that an edit left alone are the very same objects, so this looks at no record.
    """
    for name in Refit.model_fields:
        one, other = getattr(before, name), getattr(after, name)
        if name not in UNREAD and one is not other and (name not in Header.model_fields or one != other):
            return False
    return True
