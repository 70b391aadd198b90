"""Migrations agree with the models; accounts let in only whom they should."""

from datetime import timedelta

import pytest
from alembic import command
from sqlalchemy import text

from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.database import engine_for, sqlalchemy_url, transaction
from rovask.store.errors import SignInRefused
from rovask.store.migrate import config_for, migrate


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


def link_for(settings: Settings, name: str) -> str:
    with transaction(settings.database_url) as session:
        return accounts.make_link(session, accounts.account_named(session, name, settings.clock()), settings.clock())


def test_a_link_signs_in_once_and_ages(settings: Settings) -> None:
    clock, token = settings.clock(), link_for(settings, "Linked")
    with transaction(settings.database_url) as session:
        cookie = accounts.use_link(session, token, clock)
        who = accounts.who_is(session, cookie, clock)
        assert who is not None
        assert who.name == "Linked"
        with pytest.raises(SignInRefused):
            accounts.use_link(session, token, clock)
    old = link_for(settings, "Linked")
    with transaction(settings.database_url) as session, pytest.raises(SignInRefused):
        accounts.use_link(session, old, clock + timedelta(days=2))
    with transaction(settings.database_url) as session:
        assert accounts.who_is(session, cookie, clock + timedelta(days=31)) is None
        assert accounts.who_is(session, "made up", clock) is None


def test_passwords_are_hashed_checked_and_locked_after_too_many_tries(settings: Settings) -> None:
    clock, password = settings.clock(), "a warm dry hull"
    with transaction(settings.database_url) as session:
        account = accounts.account_named(session, "Pass", clock)
        accounts.set_password(session, account.pk, password)
        with pytest.raises(ValueError, match="10 to 200"):
            accounts.set_password(session, account.pk, "short")
    with transaction(settings.database_url) as session:
        stored = session.execute(text("select password_hash from account where name = 'Pass'")).scalar_one()
        assert stored.startswith("$argon2id$")
        assert accounts.sign_in(session, " pass ", password, clock)  # case and blanks aside
    for _ in range(accounts.FREE_TRIES):
        with pytest.raises(SignInRefused, match="belong together"), transaction(settings.database_url) as session:
            accounts.sign_in(session, "Pass", "wrong password", clock)
    with pytest.raises(SignInRefused, match="Too many"), transaction(settings.database_url) as session:
        accounts.sign_in(session, "Pass", password, clock)
    with transaction(settings.database_url) as session:
        assert accounts.sign_in(session, "Pass", password, clock + timedelta(hours=2))


def test_a_new_account_has_no_password_that_works(settings: Settings) -> None:
    link_for(settings, "Bare")
    for name in ("Bare", "Nobody at all"):
        with pytest.raises(SignInRefused), transaction(settings.database_url) as session:
            accounts.sign_in(session, name, "", settings.clock())
