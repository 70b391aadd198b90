"""Signing in and out, links that work once, one's password and sessions, the light."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.refit import typed
from rovask.desk.command import Actor
from rovask.desk.commands.accounts import EndSession, Entry, MakeDeviceLink, SetPassword, SignIn, UseLink
from rovask.desk.limits import Limits
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.accounts import LinkView
from rovask.store.errors import SignInRefused, TooMany
from rovask.web.acting import on_to, ran
from rovask.web.asking import desk_of
from rovask.web.rendering import LIGHT_COOKIE, LIGHTS, render
from rovask.web.security import (
    COOKIE,
    DEVICE_COOKIE,
    Form,
    OpenForm,
    Who,
    address_of,
    is_secure,
    local_path,
    maybe_signed_in,
    set_cookie,
)

router = APIRouter()

NOBODY = Actor(None, "")  # somebody who is not signed in yet


def _limits(request: Request) -> Limits:
    limits: Limits = request.app.state.limits
    return limits


def _agent(request: Request) -> str:
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
        _limits(request).before_sign_in(name, address, known=known)
        entry: Entry = desk.run(NOBODY, SignIn(name, posted.text("password"), _agent(request)))
    except SignInRefused as error:
        return _page(request, str(error), name, next_, 422)
    except TooMany as error:
        return _page(request, str(error), name, next_, 429)
    _limits(request).signed_in(name, address)
    response = RedirectResponse(next_, status_code=303)
    set_cookie(request, response, entry)
    return response


@router.get("/come-aboard/{token}")
def link_page(request: Request, token: str) -> Response:
    """What a link is for; only its button uses it up, so that a preview does not."""
    return _link_page(request, token)


def _link_page(request: Request, token: str, name: str = "", fault: str = "", status: int = 200) -> Response:
    desk = desk_of(request)
    try:
        _limits(request).before_link(address_of(request))
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
        _limits(request).before_link(address_of(request))
        entry: Entry = desk_of(request).run(NOBODY, UseLink(token, name, who, _agent(request)))
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
    return response


@router.get("/access")
def access_page(request: Request, who: Who) -> Response:
    """One's own password, browsers, and a link for another device."""
    return _access(request, who)


@router.post("/access/password")
def set_password(request: Request, who: Who, posted: Form) -> Response:
    """Set one's own password; the old one is asked for."""
    try:
        _limits(request).before_sign_in(who.name, address_of(request), known=True)
        device = ran(request, who, SetPassword(who, posted.text("old"), posted.text("password")))
    except TooMany as error:
        return _access(request, who, fault=str(error), status=429)
    except ValueError as error:
        return _access(request, who, fault=str(error), status=422)
    said = "Your password is set. Every other browser of yours has been signed out."
    response = _access(request, who, said=said)
    set_cookie(request, response, Entry("", str(device)))
    return response


@router.post("/access/link")
def device_link(request: Request, who: Who, posted: Form) -> Response:
    """A link for oneself on another device."""
    token = ran(request, who, MakeDeviceLink(who))
    return _access(request, who, link=f"{request.base_url}come-aboard/{token}")


@router.post("/access/sessions/end")
def end_session(request: Request, who: Who, posted: Form) -> Response:
    """End one of one's own sessions."""
    try:
        number = typed.whole(posted.text("session"), 1)
    except ValueError:
        return _access(request, who, fault="Choose which of them is to end.", status=422)
    ran(request, who, EndSession(who, number))
    return on_to("/sign-in" if number == who.session else "/access")


def _access(request: Request, who: Who, status: int = 200, **more: str) -> Response:
    desk = desk_of(request)
    with desk.looking() as session:
        sessions = accounts.sessions_of(session, who, desk.settings.clock())
        now = accounts.who_is(session, request.cookies.get(COOKIE, ""), desk.settings.clock())
    context = {"fault": "", "said": "", "link": ""} | more
    return render(request, "access.html", context | {"who": now or who, "sessions": sessions}, status)


@router.post("/light/{light}")
def set_light(request: Request, light: str, posted: OpenForm) -> Response:
    """Day, glare or red light, kept in this browser."""
    response = RedirectResponse(local_path(posted.text("next", "/")), status_code=303)
    if light in LIGHTS:
        response.set_cookie(LIGHT_COOKIE, light, max_age=365 * 24 * 3600, samesite="lax", path="/")
    return response
