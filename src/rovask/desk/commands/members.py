"""Who is in a refit: inviting, changing what somebody is, taking out, leaving."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.desk.command import DirectCommand, Scene
from rovask.desk.rights import Right
from rovask.store import accounts, refits
from rovask.store.account_tables import AccountRow, Membership
from rovask.store.errors import NotFound
from rovask.store.safety_tables import Happened

IN_OTHERS = (
    "They are in refits of others too, so a link of yours would open those. They use a recovery code, "
    "or whoever runs this Rovask makes them a link."
)
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
        scene.note(Happened.INVITED, f"{self.name or 'somebody'} as {self.role.value}", refit=pk)
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
        scene.note(Happened.ROLE, f"{_name(scene, self.account)} is {self.role.value}", refit=pk)


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
        scene.note(Happened.TAKEN_OUT, _name(scene, self.account), refit=pk)


@dataclass(frozen=True)
class Leave(DirectCommand):
    """Leave a refit oneself."""

    needs: ClassVar[Right] = Right.OWN_JOBS

    def run(self, scene: Scene, pk: int) -> None:
        """Gone. Raises RefitFaults for the last skipper."""
        refits.lock(scene.session, pk)
        _keeps_a_skipper(scene, pk, scene.actor.account or 0)
        accounts.leave(scene.session, pk, scene.actor.account or 0, scene.clock)
        scene.note(Happened.LEFT, refit=pk)


@dataclass(frozen=True)
class MakeWayBack(DirectCommand):
    """A link that signs a member in who has lost every other way, once within a day. Only for somebody who is in no refit but those of
    the skipper who makes it: nobody gets into the refits of others by it.
    """

    account: int
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> str:
        """Its token. Raises RefitFaults, NotFound."""
        if accounts.member(scene.session, pk, self.account) is None or self.account == scene.actor.account:
            raise NotFound("They are not in this refit any more.")
        if not accounts.is_skipper_of_all(scene.session, scene.actor.account or 0, self.account):
            raise RefitFaults([Fault("", IN_OTHERS)])
        scene.note(Happened.LINK_MADE, f"a way back in for {_name(scene, self.account)}", refit=pk)
        scene.note(
            Happened.LINK_MADE,
            f"a way back in, by {scene.actor.name}",
            account=self.account,
            who=_name(scene, self.account),
        )
        return accounts.device_link(scene.session, self.account, scene.actor.account, scene.clock)


def _name(scene: Scene, account: int) -> str:
    row = scene.session.get(AccountRow, account)
    return row.name if row is not None else "somebody"
