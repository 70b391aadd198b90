"""Who is in a refit: inviting, changing what somebody is, taking out, leaving."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.desk.command import DirectCommand, Scene
from rovask.desk.rights import Right
from rovask.store import accounts, refits
from rovask.store.account_tables import Membership
from rovask.store.errors import NotFound

LAST_SKIPPER = "A refit needs a skipper: make somebody else one first."


@dataclass(frozen=True)
class Invite(DirectCommand):
    """A link by which somebody becomes a member. ``person``: of the refit's people, for a trade and its work."""

    role: Membership
    name: str = ""
    person: str = ""
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> str:
        """Its token. Raises RefitFaults."""
        refit = refits.load(scene.session, pk).refit
        if self.person and self.person not in refit.persons:
            raise RefitFaults([Fault("person", "is not one of the people of this refit")])
        if self.role is Membership.TRADE and not self.person:
            raise RefitFaults([Fault("person", "say which of the people this trade is; only that one's work is shown")])
        return accounts.invitation(
            scene.session, pk, self.role, self.name, self.person or None, scene.actor.account or 0, scene.clock
        )


def _keeps_a_skipper(scene: Scene, pk: int, account: int) -> None:
    row = accounts.member(scene.session, pk, account)
    if row is None:
        raise NotFound("They are not in this refit any more.")
    if row.role is Membership.SKIPPER and accounts.skippers(scene.session, pk) == 1:
        raise RefitFaults([Fault("", LAST_SKIPPER)])


@dataclass(frozen=True)
class ChangeRole(DirectCommand):
    """Make a member something else."""

    account: int
    role: Membership
    person: str = ""
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> None:
        """Changed. Raises RefitFaults when the refit would be left without a skipper."""
        refits.lock(scene.session, pk)
        if self.role is not Membership.SKIPPER:
            _keeps_a_skipper(scene, pk, self.account)
        row = accounts.member(scene.session, pk, self.account)
        if row is None:
            raise NotFound("They are not in this refit any more.")
        if self.role is Membership.TRADE and not (self.person or row.person):
            raise RefitFaults([Fault("person", "say which of the people this trade is; only that one's work is shown")])
        row.role, row.person = self.role, self.person or row.person


@dataclass(frozen=True)
class TakeOut(DirectCommand):
    """Take somebody out of the refit; what they did stays in its history."""

    account: int
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> None:
        """Out. Raises RefitFaults when the refit would be left without a skipper."""
        refits.lock(scene.session, pk)
        _keeps_a_skipper(scene, pk, self.account)
        accounts.leave(scene.session, pk, self.account, scene.clock)


@dataclass(frozen=True)
class Leave(DirectCommand):
    """Leave a refit oneself."""

    needs: ClassVar[Right] = Right.OWN_JOBS

    def run(self, scene: Scene, pk: int) -> None:
        """Gone. Raises RefitFaults for the last skipper."""
        refits.lock(scene.session, pk)
        _keeps_a_skipper(scene, pk, scene.actor.account or 0)
        accounts.leave(scene.session, pk, scene.actor.account or 0, scene.clock)
