"""Migrations agree with the models; accounts let in only whom they should, and members do only what they may."""

from contextlib import suppress
from datetime import datetime, timedelta

import pytest
from alembic import command
from fastapi.testclient import TestClient
from sqlalchemy import text

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Whole
from rovask.desk.command import Actor, DirectCommand
from rovask.desk.commands.accounts import Entry, SetPassword, SignIn, UseLink
from rovask.desk.commands.members import ChangeRole, Invite, Leave, TakeOut
from rovask.desk.commands.recipes import BringInRecipe, GiveRecipe, TakeOutRecipe
from rovask.desk.door import Desk
from rovask.desk.limits import Limits
from rovask.desk.rights import NotAllowed
from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.accounts import SignedIn
from rovask.store.database import engine_for, reading, sqlalchemy_url, transaction
from rovask.store.errors import NotFound, SignInRefused, TooMany
from rovask.store.migrate import config_for, migrate
from rovask.store.recipes import library_for, shipped_text
from tests.acts import ROVASK
from tests.conftest import MATE, SKIPPER, Sailor


def test_the_migrated_schema_is_what_the_models_say(database: str) -> None:
    engine = engine_for(database)
    with engine.connect() as connection:
        config = config_for(database)
        config.attributes["connection"] = connection
        command.check(config)  # raises when autogenerate would change anything
    engine.dispose()


def test_migrating_again_does_nothing(database: str) -> None:
    migrate(database)


def test_only_postgresql_addresses_are_taken() -> None:
    assert sqlalchemy_url("postgres://u@h/d") == "postgresql+psycopg://u@h/d"
    with pytest.raises(ValueError, match="postgresql://"):
        sqlalchemy_url("mysql://u@h/d")


def account(settings: Settings, name: str) -> int:
    with transaction(settings.database_url) as session:
        return accounts.new_account(session, name, settings.clock()).pk


def enter(settings: Settings, command: DirectCommand, clock: datetime | None = None) -> Entry:
    entry = Desk(settings).run(ROVASK, command, clock=clock)
    assert isinstance(entry, Entry)
    return entry


def whose(settings: Settings, cookie: str, clock: datetime | None = None) -> SignedIn | None:
    with reading(settings.database_url) as session:
        return accounts.who_is(session, cookie, clock or settings.clock())


def test_a_device_link_signs_in_once_and_ages(settings: Settings) -> None:
    clock, mine = settings.clock(), account(settings, "Linked")
    with transaction(settings.database_url) as session:
        token, old = (accounts.device_link(session, mine, mine, clock) for _ in range(2))
    cookie = enter(settings, UseLink(token)).cookie
    who = whose(settings, cookie)
    assert who is not None
    assert who.name == "Linked"
    with pytest.raises(SignInRefused):
        enter(settings, UseLink(token))
    with pytest.raises(SignInRefused):
        enter(settings, UseLink(old), clock + timedelta(days=2))
    assert whose(settings, cookie, clock + timedelta(days=31)) is None
    assert whose(settings, "made up") is None


def test_an_invitation_makes_a_new_person_or_lets_somebody_join_as_themselves(
    settings: Settings, demo_pk: int, client: TestClient
) -> None:
    """Nobody can become somebody else by a link: a name that is taken is refused, and the link is not used up."""
    skipper = Sailor(client, settings, SKIPPER)
    invite = Invite(Membership.CREW, "Lene")
    tokens = [Desk(settings).run(Actor(skipper.account), invite, demo_pk) for _ in range(3)]
    with pytest.raises(ValueError, match="another name"):
        enter(settings, UseLink(str(tokens[0]), "mira"))
    new = whose(settings, enter(settings, UseLink(str(tokens[0]), "Lene")).cookie)
    assert new is not None
    other = Sailor(client, settings, "Guest")
    assert enter(settings, UseLink(str(tokens[1]), "", other.who)).cookie == ""
    with reading(settings.database_url) as session:
        roles = {one.name: one.role for one in accounts.members(session, demo_pk)}
    assert (roles["Lene"], roles["Guest"], roles[SKIPPER]) == (Membership.CREW, Membership.CREW, Membership.SKIPPER)
    enter(settings, UseLink(str(tokens[2]), "", skipper.who))  # an invitation never makes a skipper less
    with reading(settings.database_url) as session:
        row = accounts.member(session, demo_pk, skipper.account)
    assert row is not None
    assert row.role is Membership.SKIPPER


def test_a_refit_is_never_left_without_a_skipper(settings: Settings, client: TestClient, demo: Refit) -> None:
    first, second = Sailor(client, settings, "First"), Sailor(client, settings, "Second")
    desk = Desk(settings)
    pk = desk.add(Actor(first.account), Whole(demo), "x").pk
    second.joins(pk, Membership.READER)
    one = Actor(first.account)
    for act in (Leave(), TakeOut(first.account), ChangeRole(first.account, Membership.CREW)):
        with pytest.raises(RefitFaults, match="needs a skipper"):
            desk.run(one, act, pk)
    with pytest.raises(NotAllowed):
        desk.run(Actor(second.account), ChangeRole(second.account, Membership.SKIPPER), pk)
    desk.run(one, ChangeRole(second.account, Membership.SKIPPER), pk)
    desk.run(one, Leave(), pk)
    with pytest.raises(NotFound):
        desk.run(one, Leave(), pk)


def test_a_new_password_asks_for_the_old_one_and_ends_the_other_sessions(
    settings: Settings, client: TestClient
) -> None:
    here, there = Sailor(client, settings, "Pass"), Sailor(client, settings, "Pass")
    desk, actor, password = Desk(settings), Actor(here.account), "a warm dry hull"
    with pytest.raises(ValueError, match="10 to 200"):
        desk.run(actor, SetPassword(here.who, "", "short"))
    assert whose(settings, there.cookie) is not None
    desk.run(actor, SetPassword(here.who, "", password))
    assert whose(settings, there.cookie) is None
    assert whose(settings, here.cookie) is not None
    with pytest.raises(ValueError, match="present password"):
        desk.run(actor, SetPassword(here.who, "something else", "another warm hull"))
    desk.run(actor, SetPassword(here.who, password, "another warm hull"))
    with transaction(settings.database_url) as session:
        stored = session.execute(text("select password_hash from account where name = 'Pass'")).scalar_one()
    assert stored.startswith("$argon2id$")
    assert enter(settings, SignIn(" pass ", "another warm hull")).cookie  # case and blanks aside
    for name, wrong in (("Pass", password), ("Nobody at all", password), ("Pass", "")):
        with pytest.raises(SignInRefused, match="belong together"):
            enter(settings, SignIn(name, wrong))


def test_a_new_account_has_no_password_that_works(settings: Settings) -> None:
    account(settings, "Bare")
    for name in ("Bare", "Nobody at all"):
        with pytest.raises(SignInRefused):
            enter(settings, SignIn(name, ""))


def test_tries_are_limited_by_name_and_address_and_a_known_browser_is_not_kept_out(settings: Settings) -> None:
    """Each web process counted for itself: with four of them a stranger had four times as many tries."""
    limits, other = Limits(Desk(settings)), Limits(Desk(settings))
    for one in (limits, other, other, limits, other):
        one.before_sign_in("Ada", "10.0.0.1", known=False)
    for name in ("Ada", " ada "):
        with pytest.raises(TooMany):
            limits.before_sign_in(name, "10.0.0.1", known=False)
    limits.before_sign_in("Ada", "10.0.0.2", known=False)  # from elsewhere
    limits.before_sign_in("Ada", "10.0.0.1", known=True)  # her own browser behind the same address
    for at in range(200):  # a stranger with many addresses
        with suppress(TooMany):
            limits.before_sign_in("Ada", f"10.1.{at}.1", known=False)
    with pytest.raises(TooMany):
        limits.before_sign_in("Ada", "10.2.0.1", known=False)
    limits.before_sign_in("Ada", "10.2.0.2", known=True)
    for at in range(30):  # one address that tries names
        limits.before_sign_in(f"n{at}", "10.3.0.1", known=False)
    with pytest.raises(TooMany):
        limits.before_sign_in("never tried", "10.3.0.1", known=False)
    with transaction(settings.database_url) as session:
        kept = session.execute(text("select who from attempt")).scalars().all()
    assert not any(b"Ada" in who or b"10.0" in who for who in kept)
    later = Limits(Desk(settings.model_copy(update={"now": settings.clock() + timedelta(hours=1, minutes=1)})))
    later.before_sign_in("Ada", "10.0.0.1", known=False)
    limits.signed_in("Ada", "10.0.0.1")
    limits.before_sign_in("ada", "10.0.0.1", known=True)


def test_an_own_recipe_is_at_hand_where_it_is_given_and_never_in_the_place_of_a_shipped_one(
    settings: Settings, client: TestClient, demo_pk: int, empty_pk: int
) -> None:
    mira, joss = Sailor(client, settings, SKIPPER), Sailor(client, settings, MATE)
    text_of = shipped_text("winches").replace("Winches serviced", "Winches my way")
    desk = Desk(settings)
    keys = [desk.run(Actor(one.account), BringInRecipe(text_of.encode()), demo_pk) for one in (mira, joss)]
    assert keys == ["winches-own", "winches-own2"]
    assert desk.run(Actor(mira.account), BringInRecipe(text_of.encode()), demo_pk) == "winches-own"  # again: replaced
    with reading(settings.database_url) as session:
        here, there = library_for(session, demo_pk), library_for(session, empty_pk)
    assert (here.recipes["winches"].title, here.recipes["winches-own"].title) == ("Winches serviced", "Winches my way")
    assert "winches-own" not in there.recipes
    with pytest.raises(NotFound):
        desk.run(Actor(joss.account), GiveRecipe("winches-own"), empty_pk)  # not hers to give
    desk.run(Actor(mira.account), GiveRecipe("winches-own"), empty_pk)
    desk.run(Actor(mira.account), TakeOutRecipe("winches-own"), demo_pk)
    with reading(settings.database_url) as session:
        assert "winches-own" in library_for(session, empty_pk).recipes
        assert "winches-own" not in library_for(session, demo_pk).recipes
