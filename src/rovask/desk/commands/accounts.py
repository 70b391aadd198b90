"""People: signing in and out, links that work once, passwords, sessions."""

from __future__ import annotations

from dataclasses import dataclass, replace

from rovask.desk.command import DirectCommand, Scene
from rovask.store import accounts, refits
from rovask.store.account_tables import Membership
from rovask.store.accounts import SignedIn
from rovask.store.errors import SignInRefused


@dataclass(frozen=True, slots=True)
class Entry:
    """What a browser gets when somebody signs in: the session's cookie, and the mark of a known browser.

    refit, role: which refit they came into, and what they are in it; the only one they have, where a list of one is no choice.
    """

    cookie: str
    device: str
    refit: int | None = None
    role: Membership | None = None


def _enter(scene: Scene, account: int, agent: str) -> Entry:
    found = refits.list_refits(scene.session, account)
    only = found[0] if len(found) == 1 else None
    return Entry(
        accounts.begin_session(scene.session, account, agent, scene.clock),
        accounts.know_device(scene.session, account, scene.clock),
        only.pk if only is not None else None,
        only.role if only is not None else None,
    )


@dataclass(frozen=True)
class SignIn(DirectCommand):
    """Name and password in, a session out."""

    name: str
    password: str
    agent: str = ""

    def run(self, scene: Scene, pk: int) -> Entry:
        """Raises SignInRefused."""
        return _enter(scene, accounts.right_password(scene.session, self.name, self.password).pk, self.agent)


@dataclass(frozen=True)
class UseLink(DirectCommand):
    """Use a link up: on another device of one's own, or as a new person in a refit.

    name: what a new person is called; who: somebody signed in already, who then joins the refit as themselves.
    """

    token: str
    name: str = ""
    who: SignedIn | None = None
    agent: str = ""

    def run(self, scene: Scene, pk: int) -> Entry:
        """Raises SignInRefused, or ValueError for a name that can't be had; the link is not used up then."""
        link = accounts.take_link(scene.session, self.token, scene.clock)
        if link.account_pk is not None:
            return _enter(scene, link.account_pk, self.agent)
        if link.refit_id is None or link.role is None:
            raise SignInRefused(accounts.LINK_REFUSED)
        account = (
            self.who.account if self.who is not None else accounts.new_account(scene.session, self.name, scene.clock).pk
        )
        accounts.join(scene.session, link.refit_id, account, link.role, scene.clock, link.person)
        row = accounts.member(scene.session, link.refit_id, account)
        role = row.role if row is not None else link.role  # a skipper stays one, whatever the link says
        if self.who is not None:
            return Entry("", "", link.refit_id, role)
        return replace(_enter(scene, account, self.agent), refit=link.refit_id, role=role)


@dataclass(frozen=True)
class MakeDeviceLink(DirectCommand):
    """A link that signs oneself in on another device."""

    who: SignedIn

    def run(self, scene: Scene, pk: int) -> str:
        """Its token."""
        return accounts.device_link(scene.session, self.who.account, self.who.account, scene.clock)


@dataclass(frozen=True)
class SetPassword(DirectCommand):
    """Set one's own password; the old one is asked for, and the other sessions end."""

    who: SignedIn
    old: str
    new: str

    def run(self, scene: Scene, pk: int) -> str:
        """The mark by which this browser is known from now on. Raises ValueError, saying what is asked of one."""
        accounts.set_password(scene.session, self.who, self.old, self.new)
        return accounts.know_device(scene.session, self.who.account, scene.clock)


@dataclass(frozen=True)
class EndSession(DirectCommand):
    """End one of one's sessions; this one is signing out."""

    who: SignedIn
    session: int

    def run(self, scene: Scene, pk: int) -> None:
        """Raises NotFound."""
        accounts.end_session(scene.session, self.who, self.session)


@dataclass(frozen=True)
class NoteSeen(DirectCommand):
    """A session is still in use."""

    who: SignedIn

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        accounts.note_seen(scene.session, self.who, scene.clock)


@dataclass(frozen=True)
class DismissNote(DirectCommand):
    """This browser has seen what a change did."""

    who: SignedIn
    change: int

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        accounts.dismiss(scene.session, self.who, self.change)
