"""Who may do what in a refit."""

from __future__ import annotations

from enum import StrEnum

from rovask.store.account_tables import Membership
from rovask.store.errors import StoreError


class Right(StrEnum):
    """What an act asks of whoever does it.

    look: to see the refit. work: to change its work, findings, stores and log. givens: to change what the plan takes as
    given: dates, money, yard, boat, people. people: to invite, to remove people or the refit. own_jobs: to see what is
    one's own to do, as a trade.
    """

    LOOK = "look"
    WORK = "work"
    GIVENS = "givens"
    PEOPLE = "people"
    OWN_JOBS = "own jobs"


RIGHTS: dict[Membership, frozenset[Right]] = {
    Membership.SKIPPER: frozenset(Right),
    Membership.CREW: frozenset({Right.LOOK, Right.WORK, Right.OWN_JOBS}),
    Membership.READER: frozenset({Right.LOOK, Right.OWN_JOBS}),
    Membership.TRADE: frozenset({Right.OWN_JOBS}),
}


class NotAllowed(StoreError):
    """Somebody who may see the refit may not do this; the message says who may."""


def may(role: Membership, right: Right) -> bool:
    """Whether a role has a right."""
    return right in RIGHTS[role]


def refusal(role: Membership, right: Right) -> NotAllowed:
    """Why a role may not, in words."""
    if right is Right.WORK:
        return NotAllowed(f"You are a {role} here and look on. A skipper or the crew can do this.")
    return NotAllowed("Only a skipper of this refit can do this.")
