"""Who is asking, and whether the request came from our own pages."""

from __future__ import annotations

import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import Depends, Request
from starlette.datastructures import FormData
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rovask.settings import Settings
from rovask.store.accounts import SignedIn, who_is
from rovask.store.database import transaction

COOKIE = "rovask_session"
MOST_BODY_BYTES = 9 * 1024 * 1024
MOST_PHOTO_BYTES = 26 * 1024 * 1024
MOST_BUNDLE_BYTES = 400 * 1024 * 1024  # a refit with its photos
_WITH_PHOTO = ("/look/", "/found", "/photo")


def most_bytes(path: str) -> int:
    """How much may be sent to an address: photos are larger than forms, a refit with its photos is the largest."""
    if path == "/import":
        return MOST_BUNDLE_BYTES
    return MOST_PHOTO_BYTES if any(part in path for part in _WITH_PHOTO) else MOST_BODY_BYTES


HEADERS = {
    "Content-Security-Policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; "
        "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
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


class SafetyHeaders:
    """ASGI middleware: safety headers on every answer, and a limit on what may be sent."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        taken, most = 0, most_bytes(scope["path"])

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise TooLarge
            return message

        async def headed(message: Message) -> None:
            if message["type"] == "http.response.start":
                present = {name.lower() for name, _ in message["headers"]}
                message["headers"] = [
                    *message["headers"],
                    *(
                        (name.lower().encode(), value.encode())
                        for name, value in HEADERS.items()
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


def settings_of(request: Request) -> Settings:
    """The settings this application was made with."""
    settings: Settings = request.app.state.settings
    return settings


def maybe_signed_in(request: Request) -> SignedIn | None:
    """Whoever is signed in in this browser, or None."""
    token = request.cookies.get(COOKIE)
    if not token:
        return None
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        return who_is(session, token, settings.clock())


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
    form = await request.form(max_files=1, max_fields=2000)
    try:
        token = request.headers.get("x-csrf-token") or form.get("csrf")
        if not isinstance(token, str) or not secrets.compare_digest(token.encode(), who.csrf.encode()):
            raise ForeignForm
        yield Posted(form)
    finally:
        await form.close()


async def posted_by_anyone(request: Request) -> Posted:
    """A form on the sign-in pages, which no session protects yet: only from our own origin. Raises ForeignForm."""
    origin = request.headers.get("origin")
    if origin and origin.partition("://")[2] != request.headers.get("host", ""):
        raise ForeignForm
    if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        raise ForeignForm
    return Posted(await request.form(max_files=0, max_fields=20))


Form = Annotated[Posted, Depends(posted_by)]
OpenForm = Annotated[Posted, Depends(posted_by_anyone)]


def set_cookie(response: Any, token: str, settings: Settings) -> None:
    """Hand a session to the browser."""
    response.set_cookie(
        COOKIE, token, max_age=30 * 24 * 3600, httponly=True, samesite="lax", secure=settings.secure_cookies, path="/"
    )


def local_path(text: str, default: str = "/") -> str:
    """``text`` if it is a path on this host, else ``default``: nobody is led elsewhere."""
    safe = text.startswith("/") and not text.startswith(("//", "/\\")) and "\n" not in text and "\\" not in text
    return quote(text, safe="/?&=#%+-_.~:,") if safe else default
