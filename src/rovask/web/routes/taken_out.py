"""A refit out as a file, with its plan, with its photos and Log; and all that is somebody's own. Each stands in the security journal."""

from __future__ import annotations

import tempfile
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask

from rovask.desk.commands.refits import NoteExport
from rovask.desk.taking_out import bundle_of, everything_of, file_name, whole_of
from rovask.formats.refit_file import plan_json, write_refit
from rovask.web.acting import ran
from rovask.web.asking import Pk, desk_of
from rovask.web.page import page_here
from rovask.web.security import Who

router = APIRouter()


def _file(content: bytes, name: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(content, media_type=kind, headers=headers)


@router.get("/r/{pk}/export")
def export_refit(request: Request, who: Who, pk: Pk) -> Response:
    """The whole refit as a file."""
    desk = desk_of(request)
    with desk.looking() as session:
        whole = whole_of(desk, session, who.account, pk)
    ran(request, who, NoteExport("the refit file"), pk)
    return _file(write_refit(whole), f"{file_name(whole.refit)}.refit.json", "application/json")


@router.get("/r/{pk}/plan")
def export_plan(request: Request, who: Who, pk: Pk) -> Response:
    """The plan that is kept, as `rovask account` and `rovask verify` read it."""
    page = page_here(request, who, pk)
    ran(request, who, NoteExport("the plan"), pk)
    return _file(plan_json(page.plan).encode(), f"{file_name(page.refit)}.plan.json", "application/json")


@router.get("/r/{pk}/bundle")
def export_bundle(request: Request, who: Who, pk: Pk) -> Response:
    """The whole refit with its photos and its Log as one zip."""
    refit, content = bundle_of(desk_of(request), who.account, pk)
    ran(request, who, NoteExport("the refit with its photos and its Log"), pk)
    return _file(content, f"{file_name(refit)}.refit.zip", "application/zip")


@router.get("/access/everything")
def everything(request: Request, who: Who) -> Response:
    """All refits of somebody, each as it can be brought in again, and their account."""
    with tempfile.NamedTemporaryFile(prefix="rovask-", suffix=".zip", delete=False) as file:
        path = Path(file.name)
        try:
            everything_of(desk_of(request), who, file)
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    ran(request, who, NoteExport("everything of the account"))
    gone = BackgroundTask(path.unlink, missing_ok=True)
    return FileResponse(path, filename="rovask-everything.zip", headers={"Cache-Control": "no-store"}, background=gone)
