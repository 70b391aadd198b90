"""What is given to the commands that need no database: refit files, plans, moments."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from rovask.core.plain.faults import RefitFaults, RovaskError

if TYPE_CHECKING:
    from rovask.core.plan.result import Plan
    from rovask.core.refit.model import Refit


def read_file(file: Path) -> Refit:
    """The refit of a file. Raises RefitFaults, and RovaskError for a file that can't be read."""
    from rovask.formats.refit_file import read_refit

    try:
        return read_refit(file.read_bytes()).refit
    except OSError as error:
        raise RovaskError(f"{file}: {error.strerror}") from None


def moment_of(text: str, default: datetime, option: str = "--now") -> datetime:
    """A moment as typed, or the default for nothing. Raises RovaskError."""
    if not text:
        return default
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        raise RovaskError(f"{option} {text!r} is not a moment; write it like 2026-05-12T10:00+01:00") from None
    if moment.tzinfo is None:
        raise RovaskError(f"{option} needs a time zone offset, such as +01:00")
    return moment.astimezone(UTC)


def read_plan(file: Path) -> Plan:
    """A plan as a file holds it. Raises RefitFaults."""
    from pydantic import ValidationError

    from rovask.core.plain.faults import faults_of
    from rovask.core.plan.result import Plan

    try:
        return Plan.model_validate_json(file.read_bytes())
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None
