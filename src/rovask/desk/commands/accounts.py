"""People: signing in and out, links that work once, passwords, sessions."""

from __future__ import annotations

from dataclasses import dataclass, replace

from rovask.desk.command import DirectCommand, Scene
from rovask.store import accounts, erasing, journal, passwords, refits, ways_in
from rovask.store.account_tables import AccountRow, Membership
from rovask.store.accounts import SignedIn
from rovask.store.errors import SignInRefused
from rovask.store.queue import stop_search
from rovask.store.safety_tables import Happened


@dataclass(frozen=True, slots=True)
class Entry:
    """What a browser gets when somebody signs in: the session's cookie, and the mark of a known browser.

    refit, role: which refit they came into, and what they are in it; the only one they have, where a list of one is no choice.
    """

    cookie: str
    device: str
    refit: int | None = None
    role: Membership | None = None


def enter(scene: Scene, account: int, agent: str, how: str, what: Happened = Happened.SIGNED_IN) -> Entry:
    """A session for an account, noted in the journal."""
    name = scene.session.get_one(AccountRow, account).name
    scene.note(what, how, account=account, who=name)
    found = refits.list_refits(scene.session, account)
    only = found[0] if len(found) == 1 else None
    return Entry(
        accounts.begin_session(scene.session, account, agent, scene.clock, scene.actor.address),
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
        found = accounts.right_password(scene.session, self.name, self.password).pk
        return enter(scene, found, self.agent, "by password")


@dataclass(frozen=True)
class NoteRefused(DirectCommand):
    """Somebody was refused. name: whose account it was said to be; one there isn't is not kept, for it may be a password."""

    name: str
    how: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        found = accounts.account_named(scene.session, self.name)
        scene.note(
            Happened.REFUSED,
            self.how,
            account=found.pk if found is not None else None,
            who=found.name if found is not None else "a name that isn't here",
        )


@dataclass(frozen=True)
class Recover(DirectCommand):
    """A recovery code in, a session out, and the password forgotten: a new one is set next."""

    name: str
    code: str
    agent: str = ""

    def run(self, scene: Scene, pk: int) -> Entry:
        """Raises SignInRefused."""
        found = accounts.account_named(scene.session, self.name)
        if not ways_in.use_code(scene.session, found.pk if found is not None else None, self.code) or found is None:
            raise SignInRefused("That name and code don't belong together, or the code was used before.")
        found.password_hash = None
        left = ways_in.codes_left(scene.session, found.pk)
        return enter(scene, found.pk, self.agent, f"by a recovery code; {left} left", Happened.RECOVERED)


@dataclass(frozen=True)
class MakeCodes(DirectCommand):
    """New recovery codes for oneself; those before are good no more."""

    who: SignedIn

    def run(self, scene: Scene, pk: int) -> list[str]:
        """Told once."""
        scene.note(Happened.CODES, "made anew")
        return ways_in.new_codes(scene.session, self.who.account, scene.clock)


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
            return enter(scene, link.account_pk, self.agent, "by a link", Happened.LINK_USED)
        if link.refit_id is None or link.role is None:
            raise SignInRefused(accounts.LINK_REFUSED)
        account = (
            self.who.account if self.who is not None else accounts.new_account(scene.session, self.name, scene.clock).pk
        )
        accounts.join(scene.session, link.refit_id, account, link.role, scene.clock, link.person)
        row = accounts.member(scene.session, link.refit_id, account)
        role = row.role if row is not None else link.role  # a skipper stays one, whatever the link says
        name = scene.session.get_one(AccountRow, account).name
        scene.note(Happened.JOINED, f"as {role.value}", refit=link.refit_id, account=account, who=name)
        if self.who is not None:
            return Entry("", "", link.refit_id, role)
        return replace(enter(scene, account, self.agent, "by an invitation"), refit=link.refit_id, role=role)


@dataclass(frozen=True)
class MakeDeviceLink(DirectCommand):
    """A link that signs oneself in on another device."""

    who: SignedIn

    def run(self, scene: Scene, pk: int) -> str:
        """Its token."""
        scene.note(Happened.LINK_MADE, "for another device of one's own")
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
        scene.note(Happened.PASSWORD, "every other browser was signed out")
        return accounts.know_device(scene.session, self.who.account, scene.clock)


@dataclass(frozen=True)
class EndSession(DirectCommand):
    """End one of one's sessions; this one is signing out."""

    who: SignedIn
    session: int

    def run(self, scene: Scene, pk: int) -> None:
        """Raises NotFound."""
        accounts.end_session(scene.session, self.who, self.session)
        scene.note(Happened.SIGNED_OUT, "here" if self.session == self.who.session else "another browser")


@dataclass(frozen=True)
class NoteSeen(DirectCommand):
    """A session is still in use."""

    who: SignedIn

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        accounts.note_seen(scene.session, self.who, scene.clock)


@dataclass(frozen=True)
class EraseAccount(DirectCommand):
    """Erase one's own account with all that is personal. password: asked for where there is one; typed: one's name, else."""

    who: SignedIn
    password: str
    typed: str

    def run(self, scene: Scene, pk: int) -> set[str]:
        """Checksums of photos that no refit names any more. Raises ValueError, saying what is asked of one."""
        row = scene.session.get_one(AccountRow, self.who.account, with_for_update=True)
        if row.password_hash is not None and not passwords.matches(row.password_hash, self.password):
            raise ValueError("That is not your present password. Nothing was erased.")
        if self.typed.strip() != row.name:
            raise ValueError(f"Type your name “{row.name}” to erase the account for good. Nothing was erased.")
        for number, _ in erasing.what_goes(scene.session, row.pk).alone:
            stop_search(scene.session, number)
        gone = erasing.erase(scene.session, row.pk)
        journal.note(scene.session, scene.clock, Happened.ERASED, who="an erased account")
        return gone


@dataclass(frozen=True)
class DismissNote(DirectCommand):
    """This browser has seen what a change did."""

    who: SignedIn
    change: int

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        accounts.dismiss(scene.session, self.who, self.change)
