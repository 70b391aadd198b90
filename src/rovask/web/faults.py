"""What a person sees when something is refused or fails: a sentence that says what to do, and what was typed."""

from __future__ import annotations

import logging
from typing import Any
from urllib.parse import quote

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as NoConnectionFree
from starlette.exceptions import HTTPException

from rovask.core.explain.search import Halted
from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.desk.rights import NotAllowed
from rovask.store.errors import NotFound, StoreError, TooMany
from rovask.store.sendings import SentBefore
from rovask.web.costly import Waits
from rovask.web.refusal import in_its_form, in_its_frame, kept_to_send_again
from rovask.web.rendering import render
from rovask.web.security import COOKIE, FORGET, ForeignForm, SignInNeeded, TooLarge
from rovask.web.sent_once import SHOWN_ONCE, first_answer

log = logging.getLogger("rovask")


def tell_faults(app: FastAPI) -> None:
    """Teach the application what to answer when something is refused or fails."""

    @app.exception_handler(SignInNeeded)
    async def sign_in_needed(request: Request, error: SignInNeeded) -> Response:
        answer = RedirectResponse(f"/sign-in?next={quote(error.next, safe='/')}", status_code=303)
        if COOKIE in request.cookies:  # a session that has ended, here or elsewhere: nothing of it stays readable
            answer.headers["Clear-Site-Data"] = FORGET
        return answer

    @app.exception_handler(NotFound)
    async def not_found(request: Request, error: NotFound) -> Response:
        return await kept_to_send_again(request, 404, "Not here", str(error))

    @app.exception_handler(ForeignForm)
    async def foreign_form(request: Request, error: ForeignForm) -> Response:
        return await kept_to_send_again(
            request,
            403,
            "This form is too old",
            "You signed in again since it was opened, or it came from another page. Nothing was changed.",
        )

    @app.exception_handler(TooLarge)
    async def too_large(request: Request, error: TooLarge) -> Response:
        return _told(
            request,
            413,
            "Too large",
            "More was sent than can be taken: a photo has at most 25 MB, all photos of a form 60 MB, a file of a refit 8 MB. "
            "Go back: what you typed is still in the form; choose a smaller copy.",
        )

    @app.exception_handler(RefitFaults)
    async def refit_faults(request: Request, error: RefitFaults) -> Response:
        return await in_its_form(request, 422, error.faults)

    @app.exception_handler(ValidationError)
    async def invalid(request: Request, error: ValidationError) -> Response:
        return await in_its_form(request, 422, faults_of(error))

    @app.exception_handler(Halted)
    async def halted(request: Request, error: Halted) -> Response:
        if request.method == "GET" and request.headers.get("hx-request"):
            return Response(status_code=204)  # it asked beside itself: what it shows stays, and nothing is wrong
        return _told(request, 409, "Changed meanwhile", "The refit changed while this was worked out. Open it again.")

    @app.exception_handler(Waits)
    async def waits(request: Request, error: Waits) -> Response:
        if request.headers.get("hx-request") and not request.headers.get("hx-target", "body").startswith("body"):
            return Response(status_code=204)  # a part of a page that asks again by itself: what it shows stays
        if request.method != "GET":
            words = "It is still being worked out; nothing was changed yet. Send it again in a moment."
            return await in_its_form(request, 409, [Fault("", words)])
        return await in_its_frame(request, "waiting.html")

    @app.exception_handler(NotAllowed)
    async def not_allowed(request: Request, error: NotAllowed) -> Response:
        return await in_its_form(request, 403, [Fault("", str(error))], "Not yours to do")

    @app.exception_handler(TooMany)
    async def too_many(request: Request, error: TooMany) -> Response:
        return _told(request, 429, "Too many at once", str(error))

    @app.exception_handler(RequestValidationError)
    async def bad_address(request: Request, error: RequestValidationError) -> Response:
        names = ", ".join(str(item["loc"][-1]) for item in error.errors()[:5])
        return _told(request, 422, "That can't be done", f"What the address says of {names} can't be read.")

    @app.exception_handler(SentBefore)
    async def sent_before(request: Request, error: SentBefore) -> Response:
        answer = await first_answer(request.app.state.desk, error.sending)
        if answer not in ("", SHOWN_ONCE):
            return RedirectResponse(answer, status_code=303)
        told = "This form was sent before, and what it asks for was done once."
        shown = " What it showed is shown once only: an address, say, can be withdrawn and made anew." if answer else ""
        return _told(request, 409, "Done already", told + shown)

    @app.exception_handler(StoreError)
    async def refused(request: Request, error: StoreError) -> Response:
        return await in_its_form(request, 409, [Fault("", str(error))])

    @app.exception_handler(OperationalError)
    async def database_away(request: Request, error: OperationalError) -> Response:
        log.error("the database does not answer: %s", error.orig)
        return await kept_to_send_again(
            request,
            503,
            "The database does not answer",
            "Whether this was kept is not known. Wait a moment and try again: what was done already isn't done twice. "
            "If the database stays away, start Rovask again.",
        )

    @app.exception_handler(NoConnectionFree)
    async def none_free(request: Request, error: NoConnectionFree) -> Response:
        log.error("no connection to the database was free in time")
        return await kept_to_send_again(
            request,
            503,
            "Too much at once",
            "Rovask is busy just now; nothing was changed. Wait a moment and try again.",
        )

    @app.exception_handler(HTTPException)
    async def http(request: Request, error: HTTPException) -> Response:
        if error.status_code == 404:
            return _told(request, 404, "Not here", "There is no such page.")
        if error.status_code == 405 and request.method in ("GET", "HEAD"):  # an address that only takes forms, reloaded
            return RedirectResponse("/", status_code=303)
        return _told(request, error.status_code, "That can't be done", f"{error.detail}.")


def _told(request: Request, status: int, title: str, message: str) -> Response:
    context: dict[str, Any] = {
        "title": title,
        "message": message,
        "faults": [],
        "again": None,
        "fields": [],
        "shown": [],
        "files": [],
    }
    return render(request, "fault.html", context, status)
