"""The tables of plans, and of the searches for better ones."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import BigInteger, ForeignKey, false
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, Json, JsonList, choice_type


class SearchState(StrEnum):
    """How a search for a better plan stands."""

    RUNNING = "running"
    DONE = "done"
    PROVEN = "proven"
    STOPPED = "stopped"
    FAILED = "failed"


class PlanRow(Base):
    """The plan of a refit as it stood at one revision, verified before it was kept.

    serial: which of this revision's plans it is; a better one takes the place of the one before.
    previous: the plan it took the place of, with its verdict; proposal: a better one that waits to be adopted.
    made_by: the version of Rovask that made it and looked it over.
    """

    __tablename__ = "plan"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    now: Mapped[datetime]
    made_at: Mapped[datetime]
    plan: Mapped[Json]
    verdict: Mapped[Json]
    serial: Mapped[int] = mapped_column(default=0)
    previous: Mapped[Json | None]
    proposal: Mapped[Json | None]
    made_by: Mapped[str] = mapped_column(server_default="")


class DayPlanRow(Base):
    """What was planned on the morning of a day, for that day and the days after: to lay beside what was done.

    tasks: core.refit.days.PlannedTask, one for each task that lies in those days.
    """

    __tablename__ = "day_plan"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    tasks: Mapped[JsonList]


class SearchRow(Base):
    """The latest search for a better plan of a refit: how far it is, and whether it should stop.

    seconds: how long it may look; values are the planner's (core.plan.problem.value), None while nothing is known.
    seen_at: when the worker last said it is alive.
    """

    __tablename__ = "search"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int]
    state: Mapped[SearchState] = mapped_column(choice_type(SearchState))
    started_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    seconds: Mapped[float]
    taken: Mapped[float] = mapped_column(server_default="0")
    first_value: Mapped[int | None] = mapped_column(BigInteger)
    value: Mapped[int | None] = mapped_column(BigInteger)
    bound: Mapped[int | None] = mapped_column(BigInteger)
    better: Mapped[int] = mapped_column(server_default="0")
    stop: Mapped[bool] = mapped_column(server_default=false())
    told: Mapped[str] = mapped_column(server_default="")


class OddsRow(Base):
    """How sure the launch was as the refit stood after one change (core.odds.told.Odds).

    now: the half-hour of the plan that was played. odds: None where nothing could be said. drives: the titles of what drove it.
    body: all that was found; kept of the newest alone.
    """

    __tablename__ = "odds"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    change: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    now: Mapped[datetime]
    kept_at: Mapped[datetime]
    runs: Mapped[int]
    odds: Mapped[float | None]
    low: Mapped[float | None]
    high: Mapped[float | None]
    body: Mapped[Json | None]


class AnswerRow(Base):
    """An answer that took many plans to work out (store/answers.py). body: pickled, read by the very version that wrote it."""

    __tablename__ = "answer"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(primary_key=True)
    change: Mapped[int] = mapped_column(BigInteger)
    body: Mapped[bytes]


class LaidRow(Base):
    """What was found of a choice's ways as the refit stood after one change (core.choice.laid.Laid).

    now: the half-hour they were planned at; plans: by way the one it is told by, which it gets when it is taken. Of all but the
    newest of a choice the plans are gone.
    """

    __tablename__ = "laid"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    ways: Mapped[str] = mapped_column(primary_key=True)
    change: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    now: Mapped[datetime]
    kept_at: Mapped[datetime]
    body: Mapped[Json]
    plans: Mapped[Json]


class FrontierRow(Base):
    """The search for what makes the date, one of a refit at a time: what was asked, how far it is, what it has found.

    change: as of which change it was asked. seen_at: when the worker last said it is alive. stop: it is to end with what it has.
    """

    __tablename__ = "frontier"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    change: Mapped[int] = mapped_column(BigInteger)
    asked_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    asked: Mapped[Json]
    stop: Mapped[bool] = mapped_column(server_default=false())
    over: Mapped[bool] = mapped_column(server_default=false())
    body: Mapped[Json | None]
