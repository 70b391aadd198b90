"""Signing in and out, by password, recovery code or a link that works once; the light."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.desk.command import Actor
from rovask.desk.commands.accounts import EndSession, Entry, NoteRefused, Recover, SignIn, UseLink
from rovask.desk.limits import Limits
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.accounts import LinkView
from rovask.store.errors import SignInRefused, TooMany
from rovask.web.acting import ran
from rovask.web.asking import address_of, desk_of
from rovask.web.rendering import LIGHT_COOKIE, LIGHTS, render
from rovask.web.security import (
    COOKIE,
    DEVICE_COOKIE,
    FORGET,
    Form,
    OpenForm,
    Who,
    is_secure,
    local_path,
    maybe_signed_in,
    set_cookie,
)

router = APIRouter()


def nobody(request: Request) -> Actor:
    """Somebody who is not signed in yet."""
    return Actor(None, "", address=address_of(request))


def limits_of(request: Request) -> Limits:
    """How often somebody may try."""
    limits: Limits = request.app.state.limits
    return limits


def agent_of(request: Request) -> str:
    """What the browser calls itself."""
    return request.headers.get("user-agent", "")


def _page(request: Request, fault: str, name: str, next_: str, status: int = 200) -> Response:
    secure_only = is_secure(request) and request.url.scheme != "https"
    return render(
        request, "sign_in.html", {"fault": fault, "name": name, "next": next_, "secure_only": secure_only}, status
    )


@router.get("/sign-in")
def sign_in_page(request: Request, next: str = "/") -> Response:
    """The sign-in form."""
    if maybe_signed_in(request):
        return RedirectResponse(local_path(next), status_code=303)
    return _page(request, "", "", local_path(next))


@router.post("/sign-in")
def sign_in(request: Request, posted: OpenForm) -> Response:
    """Name and password in, a session out."""
    name, next_ = posted.text("name")[:200], local_path(posted.text("next", "/"))
    desk, address = desk_of(request), address_of(request)
    try:
        with desk.looking() as session:
            known = accounts.is_known_device(session, request.cookies.get(DEVICE_COOKIE, ""), name)
        limits_of(request).before_sign_in(name, address, known=known)
        entry: Entry = desk.run(nobody(request), SignIn(name, posted.text("password"), agent_of(request)))
    except SignInRefused as error:
        desk.run(nobody(request), NoteRefused(name, "a wrong password"))
        return _page(request, str(error), name, next_, 422)
    except TooMany as error:
        return _page(request, str(error), name, next_, 429)
    limits_of(request).signed_in(name, address)
    return entered(request, entry, next_)


def entered(request: Request, entry: Entry, to: str) -> Response:
    """Signed in, and on."""
    response = RedirectResponse(to, status_code=303)
    set_cookie(request, response, entry)
    return response


@router.get("/recover")
def recover_page(request: Request) -> Response:
    """The form for a recovery code."""
    return render(request, "recover.html", {"fault": "", "name": ""})


@router.post("/recover")
def recover(request: Request, posted: OpenForm) -> Response:
    """Sign in by a recovery code; a new password is set next."""
    name, address = posted.text("name"), address_of(request)
    desk = desk_of(request)
    try:
        limits_of(request).before_sign_in(name, address, known=False)
        entry: Entry = desk.run(nobody(request), Recover(name, posted.text("code"), agent_of(request)))
    except SignInRefused as error:
        desk.run(nobody(request), NoteRefused(name, "a wrong recovery code"))
        return render(request, "recover.html", {"fault": str(error), "name": name}, 422)
    except TooMany as error:
        return render(request, "recover.html", {"fault": str(error), "name": name}, 429)
    limits_of(request).signed_in(name, address)
    return entered(request, entry, "/access")


@router.get("/come-aboard/{token}")
def link_page(request: Request, token: str) -> Response:
    """What a link is for; only its button uses it up, so that a preview does not."""
    return _link_page(request, token)


def _link_page(request: Request, token: str, name: str = "", fault: str = "", status: int = 200) -> Response:
    desk = desk_of(request)
    try:
        limits_of(request).before_link(address_of(request))
        with desk.looking() as session:
            view: LinkView = accounts.look_at_link(session, token, desk.settings.clock())
            refit = desk.seen_by(session, None, view.refit).kept.refit.name if view.refit is not None else ""
    except (SignInRefused, TooMany) as error:
        return _page(request, str(error), "", "/", 410)
    context = {
        "view": view,
        "refit_name": refit,
        "token": token,
        "name": name or view.name,
        "fault": fault,
        "visitor": maybe_signed_in(request),
    }
    return render(request, "come_aboard.html", context, status)


@router.post("/come-aboard/{token}")
def use_link(request: Request, token: str, posted: OpenForm) -> Response:
    """Use the link: signed in once, or a member of a refit from now on."""
    name = posted.text("name")
    who = maybe_signed_in(request) if posted.text("as") == "me" else None
    try:
        limits_of(request).before_link(address_of(request))
        entry: Entry = desk_of(request).run(nobody(request), UseLink(token, name, who, agent_of(request)))
    except (SignInRefused, TooMany) as error:
        return _page(request, str(error), "", "/", 410)
    except ValueError as error:
        return _link_page(request, token, name, str(error), 422)
    page = "mine" if entry.role is Membership.TRADE else "morning"
    response = RedirectResponse(f"/r/{entry.refit}/{page}" if entry.refit else "/", status_code=303)
    set_cookie(request, response, entry)
    return response


@router.post("/sign-out")
def sign_out(request: Request, who: Who, posted: Form) -> Response:
    """End this browser's session."""
    ran(request, who, EndSession(who, who.session))
    response = RedirectResponse("/sign-in", status_code=303)
    response.delete_cookie(COOKIE, path="/")
    response.headers["Clear-Site-Data"] = FORGET  # pages that were kept on this device go with whoever leaves
    return response


@router.post("/light/{light}")
def set_light(request: Request, light: str, posted: OpenForm) -> Response:
    """Day, glare or red light, kept in this browser."""
    response = RedirectResponse(local_path(posted.text("next", "/")), status_code=303)
    if light in LIGHTS:
        response.set_cookie(LIGHT_COOKIE, light, max_age=365 * 24 * 3600, samesite="lax", path="/")
    return response
