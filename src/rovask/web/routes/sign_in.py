"""Signing in and out, one-time links, the light."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.store import accounts
from rovask.store.database import transaction
from rovask.store.errors import SignInRefused
from rovask.web.rendering import LIGHT_COOKIE, LIGHTS, render
from rovask.web.security import COOKIE, Form, OpenForm, Who, local_path, maybe_signed_in, set_cookie, settings_of

router = APIRouter()


@router.get("/sign-in")
def sign_in_page(request: Request, next: str = "/") -> Response:
    """The sign-in form."""
    if maybe_signed_in(request):
        return RedirectResponse(local_path(next), status_code=303)
    return render(request, "sign_in.html", {"fault": "", "name": "", "next": local_path(next)})


@router.post("/sign-in")
def sign_in(request: Request, posted: OpenForm) -> Response:
    """Name and password in, a session out."""
    settings = settings_of(request)
    name, next_ = posted.text("name"), local_path(posted.text("next", "/"))
    try:
        with transaction(settings.database_url) as session:
            token = accounts.sign_in(session, name, posted.text("password"), settings.clock())
    except SignInRefused as error:
        return render(request, "sign_in.html", {"fault": str(error), "name": name, "next": next_}, 422)
    response = RedirectResponse(next_, status_code=303)
    set_cookie(response, token, settings)
    return response


@router.get("/come-aboard/{token}")
def link_page(request: Request, token: str) -> Response:
    """What a one-time link shows; only its button uses it up, so that a preview does not."""
    settings = settings_of(request)
    try:
        with transaction(settings.database_url) as session:
            name = accounts.link_owner(session, token, settings.clock())
    except SignInRefused as error:
        return render(request, "sign_in.html", {"fault": str(error), "name": "", "next": "/"}, 410)
    return render(request, "come_aboard.html", {"name": name, "token": token})


@router.post("/come-aboard/{token}")
def use_link(request: Request, token: str, posted: OpenForm) -> Response:
    """Use the link: signed in, once."""
    settings = settings_of(request)
    try:
        with transaction(settings.database_url) as session:
            cookie = accounts.use_link(session, token, settings.clock())
    except SignInRefused as error:
        return render(request, "sign_in.html", {"fault": str(error), "name": "", "next": "/"}, 410)
    response = RedirectResponse("/", status_code=303)
    set_cookie(response, cookie, settings)
    return response


@router.post("/sign-out")
def sign_out(request: Request, who: Who, posted: Form) -> Response:
    """End this browser's session."""
    with transaction(settings_of(request).database_url) as session:
        accounts.sign_out(session, who)
    response = RedirectResponse("/sign-in", status_code=303)
    response.delete_cookie(COOKIE, path="/")
    return response


@router.get("/access")
def access_page(request: Request, who: Who) -> Response:
    """Who may sign in, a password of one's own, links for others."""
    return _access(request, who)


@router.post("/access/password")
def set_password(request: Request, who: Who, posted: Form) -> Response:
    """Set one's own password."""
    try:
        with transaction(settings_of(request).database_url) as session:
            accounts.set_password(session, who.account, posted.text("password"))
    except ValueError as error:
        return _access(request, who, fault=str(error), status=422)
    return _access(request, who, said="Your password is set. It works from the next sign-in on.")


@router.post("/access/link")
def invite(request: Request, who: Who, posted: Form) -> Response:
    """A one-time link for somebody else, or for oneself on another device."""
    settings = settings_of(request)
    try:
        with transaction(settings.database_url) as session:
            account = accounts.account_named(session, posted.text("name"), settings.clock())
            token = accounts.make_link(session, account, settings.clock())
            name = account.name
    except ValueError as error:
        return _access(request, who, link_fault=str(error), name=posted.text("name"), status=422)
    return _access(request, who, link=f"{request.base_url}come-aboard/{token}", link_for=name)


def _access(request: Request, who: Who, status: int = 200, **more: str) -> Response:
    with transaction(settings_of(request).database_url) as session:
        names = accounts.account_names(session)
    context = {"fault": "", "link_fault": "", "said": "", "link": "", "link_for": "", "name": ""} | more
    return render(request, "access.html", context | {"who": who, "names": names}, status)


@router.post("/light/{light}")
def set_light(request: Request, light: str, posted: OpenForm) -> Response:
    """Day, glare or red light, kept in this browser."""
    response = RedirectResponse(local_path(posted.text("next", "/")), status_code=303)
    if light in LIGHTS:
        response.set_cookie(LIGHT_COOKIE, light, max_age=365 * 24 * 3600, samesite="lax", path="/")
    return response
