"""The tables of what is seen, not known, parked, off the boat, decided and photographed."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, CheckConstraint, false
from sqlalchemy.orm import Mapped, mapped_column

from rovask.core.refit.choices import Severity, State, UnknownState
from rovask.store.tables import Base, JsonList, ManyOfRefit, Words, within


class InspectionRow(ManyOfRefit, Base):
    """One thing to look at on the first walk round."""

    __tablename__ = "inspection"

    title: Mapped[str]
    place: Mapped[str | None]
    task: Mapped[str | None]
    how: Mapped[str]
    unit: Mapped[str]
    good_to: Mapped[float | None]
    bad_from: Mapped[float | None]
    repair_hours: Mapped[float]
    lead_days: Mapped[int]
    recipe: Mapped[str | None]
    verdict: Mapped[Severity | None]
    reading: Mapped[float | None]
    note: Mapped[str]
    at: Mapped[datetime | None]
    photos: Mapped[Words]

    __table_args__ = (
        within("place", "place"),
        within("task", "task"),
        CheckConstraint("good_to is null or bad_from is null or bad_from >= good_to", name="limits"),
    )


class FindingRow(ManyOfRefit, Base):
    """Something that was seen."""

    __tablename__ = "finding"

    title: Mapped[str]
    place: Mapped[str | None]
    severity: Mapped[Severity]
    note: Mapped[str]
    at: Mapped[datetime]
    photos: Mapped[Words]
    jobs: Mapped[Words]
    settled: Mapped[bool] = mapped_column(server_default=false())

    __table_args__ = (within("place", "place"),)


class UnknownRow(ManyOfRefit, Base):
    """A finding not yet made."""

    __tablename__ = "unknown"

    title: Mapped[str]
    chance: Mapped[float]
    hours: Mapped[float]
    lead_days: Mapped[int]
    money: Mapped[int] = mapped_column(BigInteger)
    task: Mapped[str | None]
    recipe: Mapped[str | None]
    state: Mapped[UnknownState]

    __table_args__ = (within("task", "task"), CheckConstraint("chance between 0 and 1", name="chance"))


class OffBoatRow(ManyOfRefit, Base):
    """Something that comes off the boat."""

    __tablename__ = "off_boat"

    what: Mapped[str]
    off_task: Mapped[str | None]
    back_task: Mapped[str | None]
    lies_at: Mapped[str]
    note: Mapped[str]
    photos: Mapped[Words]
    off_at: Mapped[datetime | None]
    back_at: Mapped[datetime | None]

    __table_args__ = (
        within("task", "off_task"),
        within("task", "back_task"),
        CheckConstraint("back_at is null or off_at is not null", name="off_before_back"),
    )


class ParkedRow(ManyOfRefit, Base):
    """A job that waits for a state she can be in."""

    __tablename__ = "parked"

    title: Mapped[str]
    place: Mapped[str | None]
    state: Mapped[State]
    hours: Mapped[float]
    recipe: Mapped[str | None]
    note: Mapped[str]
    next_time: Mapped[bool]

    __table_args__ = (within("place", "place"),)


class DecisionRow(ManyOfRefit, Base):
    """Alternatives, the one adopted, and why."""

    __tablename__ = "decision"

    title: Mapped[str]
    alternatives: Mapped[JsonList]
    adopted: Mapped[str]
    reason: Mapped[str]
    job: Mapped[str | None]
    at: Mapped[datetime]

    __table_args__ = (within("job", "job"),)


class PhotoRow(ManyOfRefit, Base):
    """A picture kept beside the database."""

    __tablename__ = "photo"

    title: Mapped[str]
    sha256: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    size: Mapped[int] = mapped_column(BigInteger)
    at: Mapped[datetime]

    __table_args__ = (CheckConstraint("sha256 ~ '^[0-9a-f]{64}$'", name="sha256"),)
