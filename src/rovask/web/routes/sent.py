"""Whether a form whose answer was lost was done."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from rovask.web.asking import desk_of
from rovask.web.security import maybe_signed_in
from rovask.web.sent_once import SHOWN_ONCE, sender_of

router = APIRouter()


@router.get("/sent/{mark}")
def sent(request: Request, mark: str) -> Response:
    """``done`` and where it led ``to``, "" while that isn't known; 401 for nobody."""
    who = maybe_signed_in(request)
    if who is None:
        return JSONResponse({"done": False}, status_code=401)
    found = desk_of(request).answer_to_mark(sender_of(who.account), mark)
    answer = {"done": found is not None, "to": "" if found in (None, SHOWN_ONCE) else found}
    return JSONResponse(answer, headers={"Cache-Control": "no-store"})
