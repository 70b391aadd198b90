"""Who is asking and for what: the numbers and names in an address, read and bounded before anything else sees them."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from rovask.core.refit import typed
from rovask.core.refit.register import KINDS, Kind
from rovask.desk.command import Actor
from rovask.desk.door import Desk
from rovask.desk.helpers import Helpers
from rovask.store.accounts import SignedIn
from rovask.store.errors import NotFound
from rovask.store.sendings import Sending

NO_PAGE = "There is no such page."
_BIGGEST = 2**63 - 1


def desk_of(request: Request) -> Desk:
    """The door of this application."""
    desk: Desk = request.app.state.desk
    return desk


def helpers_of(request: Request) -> Helpers:
    """What works out beside the pages what takes many plans."""
    helpers: Helpers = request.app.state.helpers
    return helpers


def actor_of(who: SignedIn, request: Request | None = None) -> Actor:
    """Somebody signed in, as who acts; request: the form by which, where it is done once however often it is sent."""
    if request is None:
        return Actor(who.account, who.name)
    said_at = getattr(request.state, "said_at", None)
    return Actor(who.account, who.name, sending_in(request), address_of(request), said_at)


def address_of(request: Request) -> str:
    """Where somebody comes from, as far as the connection, or a proxy that is trusted, says."""
    return request.client.host if request.client else ""


def sending_in(request: Request | None) -> Sending | None:
    """The form of a request as it was sent; None where it has no mark."""
    return getattr(request.state, "sending", None) if request is not None else None


def refit_number(request: Request) -> int:
    """The refit of an address. Raises NotFound for what can't be one."""
    text = request.path_params["pk"]
    if not (text.isascii() and text.isdigit() and len(text) <= 19 and 0 < int(text) <= _BIGGEST):
        raise NotFound(NO_PAGE)
    return int(text)


def record_key(request: Request) -> str:
    """The record of an address. Raises NotFound for what can't be one."""
    try:
        return typed.key(request.path_params["key"])
    except ValueError:
        raise NotFound(NO_PAGE) from None


def kind_asked(request: Request) -> Kind:
    """The kind of record of an address. Raises NotFound for one that has no sheet."""
    kind = KINDS.get(request.path_params["kind"])
    if kind is None:
        raise NotFound(NO_PAGE)
    return kind


Pk = Annotated[int, Depends(refit_number)]
RecordId = Annotated[str, Depends(record_key)]
AskedKind = Annotated[Kind, Depends(kind_asked)]
