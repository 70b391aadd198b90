"""Who is asking, and whether the request came from our own pages."""

from __future__ import annotations

import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated
from urllib.parse import quote

from fastapi import Depends, Request
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, UploadFile
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit import typed
from rovask.desk.commands.accounts import Entry, NoteSeen
from rovask.settings import Settings
from rovask.store.accounts import SEEN_AGAIN_AFTER, SESSION_LIFE, SignedIn, who_is
from rovask.web.asking import actor_of, desk_of, refit_number
from rovask.web.sent_once import answer_kept, sender_of, sent_once
from rovask.web.what_was_typed import remember_typed

COOKIE, DEVICE_COOKIE = "rovask_session", "rovask_device"
FORGET = '"cache"'  # of what this browser keeps; ticks that wait stay, for they are sent when whoever made them signs in again
MOST_BODY_BYTES = 9 * 1024 * 1024
MOST_PHOTO_BYTES = (
    60 * 1024 * 1024
)  # several photos in one form; each is looked at by itself, and one too large keeps the form
MOST_BUNDLE_BYTES = 400 * 1024 * 1024  # a refit with its photos
_WITH_PHOTO = ("/look/", "/found", "/photo", "/receive", "/purse/entry", "/tables/")


def most_bytes(path: str) -> int:
    """How much may be sent to an address: photos are larger than forms, a refit with its photos is the largest."""
    if path == "/import":
        return MOST_BUNDLE_BYTES
    return MOST_PHOTO_BYTES if any(part in path for part in _WITH_PHOTO) else MOST_BODY_BYTES


HEADERS = {
    "Content-Security-Policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; "
        "connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}


class SignInNeeded(Exception):
    """The page is only for people who are signed in; ``next`` is where they wanted to go."""

    def __init__(self, next_: str) -> None:
        self.next = next_
        super().__init__(next_)


class ForeignForm(Exception):
    """A form that did not come from our own page in this session, or one from an ended session."""


class TooLarge(Exception):
    """More was sent than anything here needs."""


HSTS = "max-age=31536000"


class SafetyHeaders:
    """ASGI middleware: safety headers on every answer, and a limit on what may be sent.

    beyond: whether the pages are served beyond this machine, where only https is safe.
    """

    def __init__(self, app: ASGIApp, beyond: bool = False) -> None:
        self.app, self.beyond = app, beyond

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        taken, most = 0, most_bytes(scope["path"])
        headers = HEADERS
        if self.beyond or scope.get("scheme") == "https":
            headers = HEADERS | {"Strict-Transport-Security": HSTS}

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise TooLarge
            return message

        async def headed(message: Message) -> None:
            if message["type"] == "http.response.start":
                await answer_kept(scope, message)
                present = {name.lower() for name, _ in message["headers"]}
                message["headers"] = [
                    *message["headers"],
                    *(
                        (name.lower().encode(), value.encode())
                        for name, value in headers.items()
                        if name.lower().encode() not in present
                    ),
                ]
            await send(message)

        await self.app(scope, counted, headed)


@dataclass(frozen=True, slots=True)
class Posted:
    """A form that came from our own page."""

    form: FormData

    def text(self, name: str, default: str = "") -> str:
        """A field as text."""
        value = self.form.get(name, default)
        return value if isinstance(value, str) else default

    def touched(self, name: str) -> bool:
        """Whether a field says something else than it did when its form was opened (``saw-`` and its name)."""
        return name in self.form and self.text(name).strip() != self.text(f"saw-{name}", "\0").strip()

    def words(self, name: str, most: int, default: str = "") -> str:
        """A field as words without blanks around them, of at most ``most`` signs. Raises RefitFaults, naming the field."""
        try:
            return typed.plain(self.text(name, default).replace("\r\n", "\n"), most)
        except ValueError as error:
            raise RefitFaults([Fault(name, str(error))]) from None

    def many(self, name: str) -> tuple[str, ...]:
        """All values of a field that can be ticked several times."""
        return tuple(value for value in self.form.getlist(name) if isinstance(value, str))

    def uploads(self, name: str) -> list[UploadFile]:
        """Every file that came in a field; none where none was chosen."""
        return [one for one in self.form.getlist(name) if isinstance(one, UploadFile) and one.filename]

    def upload(self, name: str) -> UploadFile | None:
        """A file that was chosen; None when none was."""
        value = self.form.get(name)
        return value if isinstance(value, UploadFile) and value.filename else None


def settings_of(request: Request) -> Settings:
    """The settings this application was made with."""
    settings: Settings = request.app.state.settings
    return settings


def maybe_signed_in(request: Request) -> SignedIn | None:
    """Whoever is signed in in this browser, or None."""
    token = request.cookies.get(COOKIE)
    if not token:
        return None
    desk = desk_of(request)
    clock = desk.settings.clock()
    with desk.looking() as session:
        who = who_is(session, token, clock, timedelta(days=desk.settings.idle_days))
    if who is not None and clock - who.seen_at > SEEN_AGAIN_AFTER:
        desk.run(actor_of(who), NoteSeen(who))
    return who


def signed_in(request: Request) -> SignedIn:
    """Whoever is signed in. Raises SignInNeeded, which leads to the sign-in page."""
    who = maybe_signed_in(request)
    if who is None:
        path = request.url.path + (f"?{request.url.query}" if request.url.query else "")
        raise SignInNeeded(path if request.method == "GET" else "/")
    request.state.who = who
    return who


Who = Annotated[SignedIn, Depends(signed_in)]


async def posted_by(request: Request, who: Who) -> AsyncIterator[Posted]:
    """The form of a signed-in person, once its token is right. Raises ForeignForm."""
    from_our_pages(request)
    await run_in_threadpool(_is_member, request, who)  # before what was sent is looked at
    form = await request.form(max_files=8, max_fields=4000)
    remember_typed(request, form)
    try:
        token = request.headers.get("x-csrf-token") or form.get("csrf")
        if not isinstance(token, str) or not secrets.compare_digest(token.encode(), who.csrf.encode()):
            raise ForeignForm
        if form.get("by", str(who.account)) != str(who.account):  # a tick that a device kept of somebody else
            raise ForeignForm
        await sent_once(request, form, sender_of(who.account))
        request.state.said_at = _said_at(form)
        yield Posted(form)
    finally:
        await form.close()


def _said_at(form: FormData) -> datetime | None:
    """When it was said, as the device has it that kept it; None for what is said now, or a moment that can't be read."""
    try:
        return typed.aware(str(form.get("ticked_at", "")))
    except ValueError:
        return None


def _is_member(request: Request, who: SignedIn) -> None:
    """Raises NotFound for an address of a refit that is none of theirs."""
    number = request.path_params.get("pk")
    if number is not None:
        desk = desk_of(request)
        with desk.looking() as session:
            desk.is_member(session, actor_of(who), refit_number(request))


def from_our_pages(request: Request) -> None:
    """Raises ForeignForm for what a browser says comes from another place."""
    origin, site = request.headers.get("origin"), request.headers.get("sec-fetch-site", "same-origin")
    if origin == "null" and site == "same-origin" and "sec-fetch-site" in request.headers:
        return  # of a page that tells nobody its address, a trade's own
    if origin and origin.partition("://")[2] != request.headers.get("host", ""):
        raise ForeignForm
    if site not in ("same-origin", "none"):
        raise ForeignForm


async def posted_by_anyone(request: Request) -> Posted:
    """A form on the sign-in pages, which no session protects yet: only from our own origin. Raises ForeignForm."""
    from_our_pages(request)
    return Posted(await request.form(max_files=0, max_fields=20))


Form = Annotated[Posted, Depends(posted_by)]
OpenForm = Annotated[Posted, Depends(posted_by_anyone)]


def is_secure(request: Request) -> bool:
    """Whether cookies are for https alone: served so, told so, or reachable from beyond this machine."""
    settings = settings_of(request)
    return settings.secure_cookies or request.url.scheme == "https" or settings.beyond_loopback


def set_cookie(request: Request, response: Response, entry: Entry) -> None:
    """Hand a session, and the mark of a known browser, to the browser."""
    days = {COOKIE: (entry.cookie, SESSION_LIFE.days), DEVICE_COOKIE: (entry.device, 365)}
    for name, (value, kept) in days.items():
        if value:
            response.set_cookie(
                name, value, max_age=kept * 86400, httponly=True, samesite="lax", secure=is_secure(request), path="/"
            )


def local_path(text: str, default: str = "/") -> str:
    """``text`` if it is a path on this host, else ``default``: nobody is led elsewhere."""
    safe = (
        text.isprintable()
        and text.startswith("/")
        and not text.startswith(("//", "/\\"))
        and "\n" not in text
        and "\\" not in text
    )
    return quote(text, safe="/?&=#%+-_.~:,") if safe else default
