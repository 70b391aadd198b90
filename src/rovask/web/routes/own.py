"""One's own account: password, passkeys, recovery codes, browsers; all that is one's own as a file; erased for good."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from rovask.core.refit import typed
from rovask.desk.commands.accounts import (
    EndSession,
    Entry,
    EraseAccount,
    MakeCodes,
    MakeDeviceLink,
    NoteRefused,
    SetPassword,
)
from rovask.desk.commands.passkeys import AskForNew, AskForProof, DropPasskey, KeepNew, Place, SignInByPasskey
from rovask.store import accounts, erasing, journal, ways_in
from rovask.store.errors import SignInRefused, TooMany
from rovask.web.acting import on_to, ran
from rovask.web.asking import address_of, desk_of
from rovask.web.rendering import render
from rovask.web.routes.sign_in import agent_of, limits_of, nobody
from rovask.web.security import COOKIE, Form, OpenForm, Who, local_path, set_cookie

router = APIRouter()
MOST_PROOF = 20_000  # signs of what a device answers


@router.get("/access")
def access_page(request: Request, who: Who) -> Response:
    """One's own password, browsers, and a link for another device."""
    return _access(request, who)


@router.post("/access/password")
def set_password(request: Request, who: Who, posted: Form) -> Response:
    """Set one's own password; the old one is asked for."""
    try:
        limits_of(request).before_sign_in(who.name, address_of(request), known=True)
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


def _access(request: Request, who: Who, status: int = 200, **more: Any) -> Response:
    desk = desk_of(request)
    clock, idle = desk.settings.clock(), timedelta(days=desk.settings.idle_days)
    with desk.looking() as session:
        sessions = accounts.sessions_of(session, who, clock, idle)
        now = accounts.who_is(session, request.cookies.get(COOKIE, ""), clock, idle)
        own = {
            "passkeys": ways_in.passkeys_of(session, who.account),
            "codes_left": ways_in.codes_left(session, who.account),
            "lines": journal.lines(session, account=who.account, most=20),
        }
    context = {"fault": "", "said": "", "link": "", "codes": [], "idle_days": desk.settings.idle_days} | own | more
    return render(request, "access.html", context | {"who": now or who, "sessions": sessions}, status)


@router.post("/access/codes")
def make_codes(request: Request, who: Who, posted: Form) -> Response:
    """New recovery codes, shown this once."""
    codes: Any = ran(request, who, MakeCodes(who))
    return _access(request, who, codes=codes)


@router.post("/access/passkey/options")
def passkey_options(request: Request, who: Who, posted: Form) -> Response:
    """What a device is asked to make a passkey of."""
    return Response(str(ran(request, who, AskForNew(who, place_of(request)))), media_type="application/json")


@router.post("/access/passkey")
def keep_passkey(request: Request, who: Who, posted: Form) -> Response:
    """Keep the passkey a device made."""
    try:
        proof = posted.words("proof", MOST_PROOF)
        ran(request, who, KeepNew(who, place_of(request), proof, posted.words("name", 40) or "A device"))
    except (SignInRefused, ValueError) as error:
        return _access(request, who, fault=str(error), status=422)
    return _access(request, who, said="This device signs you in from now on, without your password.")


@router.post("/access/passkey/drop")
def drop_passkey(request: Request, who: Who, posted: Form) -> Response:
    """Take a passkey away."""
    try:
        number = typed.whole(posted.text("passkey"), 1)
    except ValueError:
        return _access(request, who, fault="Choose which passkey is to go.", status=422)
    ran(request, who, DropPasskey(who, number))
    return on_to("/access")


@router.post("/sign-in/passkey/options")
def proof_options(request: Request, posted: OpenForm) -> Response:
    """What a device is asked to prove."""
    try:
        limits_of(request).before_link(address_of(request))
    except TooMany as error:
        return JSONResponse({"told": str(error)}, 429)
    found = desk_of(request).run(nobody(request), AskForProof(place_of(request)))
    return Response(str(found), media_type="application/json", headers={"Cache-Control": "no-store"})


@router.post("/sign-in/passkey")
def sign_in_by_passkey(request: Request, posted: OpenForm) -> Response:
    """Sign in by a device's proof; where to go then, as JSON."""
    desk = desk_of(request)
    try:
        limits_of(request).before_link(address_of(request))
        proof = posted.words("proof", MOST_PROOF)
        entry: Entry = desk.run(nobody(request), SignInByPasskey(place_of(request), proof, agent_of(request)))
    except SignInRefused as error:
        desk.run(nobody(request), NoteRefused("", "a passkey that isn't known, or a wrong proof"))
        return JSONResponse({"told": str(error)}, 422)
    except TooMany as error:
        return JSONResponse({"told": str(error)}, 429)
    response = JSONResponse({"to": local_path(posted.text("next", "/"))})
    set_cookie(request, response, entry)
    return response


@router.get("/access/erase")
def erase_page(request: Request, who: Who) -> Response:
    """What erasing one's account takes along, and what stays with others."""
    return _erase(request, who)


def _erase(request: Request, who: Who, fault: str = "", status: int = 200) -> Response:
    with desk_of(request).looking() as session:
        goes = erasing.what_goes(session, who.account)
    return render(request, "erase.html", {"who": who, "goes": goes, "fault": fault}, status)


@router.post("/access/erase")
def erase(request: Request, who: Who, posted: Form) -> Response:
    """Erase one's account, with the refits nobody else is in."""
    try:
        limits_of(request).before_sign_in(who.name, address_of(request), known=True)
        gone: Any = ran(request, who, EraseAccount(who, posted.text("password"), posted.text("name")))
    except TooMany as error:
        return _erase(request, who, str(error), 429)
    except ValueError as error:
        return _erase(request, who, str(error), 422)
    for sha256 in gone:
        desk_of(request).photos.drop(sha256)
    response = RedirectResponse("/sign-in", status_code=303)
    response.delete_cookie(COOKIE, path="/")
    response.headers["Clear-Site-Data"] = '"cache", "storage"'
    return response


def place_of(request: Request) -> Place:
    """Under which name and address this page is served."""
    return Place(request.url.hostname or "", f"{request.url.scheme}://{request.url.netloc}")
