"""Tables of what goes out to services and what they tell: the outbox and the inbox."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, Json, choice_type


class OutState(StrEnum):
    """How far something that goes out has come. *given up*: it got no answer after all tries, and waits for somebody."""

    WAITS = "waits"
    TAKEN = "taken"
    REFUSED = "refused"
    GIVEN_UP = "given up"


class OutboxRow(Base):
    """Something that goes out of the house, written with the change that sends it.

    mark: by which the service knows it; it is never used again, and stays when the refit is gone. about: the order in its refit. body: what
    is sent, as it was then. recipient: whom it goes to, in words. told: what the service answered, or why it was given up.
    """

    __tablename__ = "outbox"

    mark: Mapped[str] = mapped_column(primary_key=True)
    refit_id: Mapped[int | None] = mapped_column(ForeignKey("refit.pk", ondelete="SET NULL"), index=True)
    about: Mapped[str]
    recipient: Mapped[str]
    body: Mapped[Json]
    at: Mapped[datetime]
    state: Mapped[OutState] = mapped_column(choice_type(OutState))
    tries: Mapped[int] = mapped_column(server_default="0")
    tried_at: Mapped[datetime | None]
    told: Mapped[str] = mapped_column(server_default="")


class InboxRow(Base):
    """What a service told of an order, kept before anything is done with it. done: whether the order knows it.

    tries, next_at: how often it was tried to do it, and when that is tried again; given_up_at, why: it is tried no more.
    """

    __tablename__ = "inbox"

    mark: Mapped[str] = mapped_column(primary_key=True)
    event: Mapped[str] = mapped_column(primary_key=True)
    body: Mapped[Json]
    at: Mapped[datetime]
    done: Mapped[bool]
    tries: Mapped[int] = mapped_column(server_default="0")
    next_at: Mapped[datetime | None]
    given_up_at: Mapped[datetime | None]
    why: Mapped[str] = mapped_column(server_default="")
