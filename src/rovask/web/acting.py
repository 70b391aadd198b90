"""From a form to a command and back to a page: what every route that changes something does."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Refit
from rovask.desk.command import DirectCommand, Done, RefitCommand
from rovask.desk.rights import Right
from rovask.desk.taking_back import TakeBack
from rovask.formats.apart import apart
from rovask.formats.photo import Picture, read_photo
from rovask.formats.receipt import read_receipt
from rovask.store.accounts import SignedIn
from rovask.web.asking import actor_of, desk_of, helpers_of
from rovask.web.security import Posted, local_path


def acted(request: Request, who: SignedIn, pk: int, command: RefitCommand | TakeBack) -> Done:
    """Do a command on a refit; what is being compared on it is given up."""
    helpers_of(request).overtaken(pk)
    return desk_of(request).act(actor_of(who, request), pk, command)


def ran(request: Request, who: SignedIn, command: DirectCommand, pk: int = 0) -> object:
    """Do a command that changes no record."""
    return desk_of(request).run(actor_of(who, request), command, pk)


def let_in(request: Request, who: SignedIn, pk: int, right: Right) -> None:
    """Refuse at once whoever may not do this, before what they sent is looked at."""
    desk = desk_of(request)
    with desk.looking() as session:
        desk.let_in(session, actor_of(who), pk, right)


def refit_of(request: Request, who: SignedIn, pk: int) -> Refit:
    """The refit as it stands, for whoever may see it. Raises NotFound for others."""
    desk = desk_of(request)
    with desk.looking() as session:
        return desk.seen_by(session, who.account, pk).kept.refit


def back_to(posted: Posted, otherwise: str) -> Response:
    """Back to where it was asked for, or to where it usually leads."""
    return RedirectResponse(local_path(posted.text("next"), otherwise), status_code=303)


def on_to(address: str) -> Response:
    """On to another page."""
    return RedirectResponse(address, status_code=303)


def picture_in(posted: Posted, field: str = "photo") -> Picture | None:
    """The picture that came with a form, re-encoded; None when none was chosen. Raises RefitFaults."""
    upload = posted.upload(field)
    return apart(read_photo, upload.file.read(), path="photo") if upload is not None else None


def pictures_in(posted: Posted, field: str = "photo") -> tuple[Picture, ...]:
    """All pictures that came with a form in one field, re-encoded. Raises RefitFaults."""
    return tuple(apart(read_photo, upload.file.read(), path="photo") for upload in posted.uploads(field))


def paper_in(posted: Posted, field: str = "photo") -> tuple[Picture, ...]:
    """The pictures of a paper that came with a form, a photo or a PDF; none when none was chosen. Raises RefitFaults."""
    upload = posted.upload(field)
    return apart(read_receipt, upload.file.read(), path="photo") if upload is not None else ()


def faults_of_form(error: RefitFaults) -> dict[str, list[str]]:
    """Faults by the field they belong to; "" for the whole."""
    out: dict[str, list[str]] = {}
    for fault in error.faults:
        out.setdefault(fault.path, []).append(fault.message)
    return out
