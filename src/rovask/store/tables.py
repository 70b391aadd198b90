"""The tables. Everything of a refit hangs on its row; ids are the refit file's own, unique within a refit.

Money is bigint in minor units, moments are timestamptz, choices are enums, constraints are named. Foreign
keys inside a refit are checked at commit, so that one transaction may write records in any order.
"""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum
from typing import Any, ClassVar

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    DateTime,
    Enum,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    MetaData,
    Text,
    UniqueConstraint,
    false,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from rovask.core.refit.choices import (
    Cooling,
    Drive,
    HullMaterial,
    Keel,
    LinkKind,
    MastStep,
    Need,
    PartStatus,
    Propeller,
    Role,
    Rudder,
    Severity,
    Spot,
    State,
    UnknownState,
)


class SearchState(StrEnum):
    """How a search for a better plan stands."""

    RUNNING = "running"
    DONE = "done"
    PROVEN = "proven"
    STOPPED = "stopped"
    FAILED = "failed"


Json = dict[str, Any]
JsonList = list[Json]
Words = list[str]
Numbers = list[float]


class Base(DeclarativeBase):
    """Names every constraint, and maps Python types to PostgreSQL's."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_N_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map: ClassVar[dict[Any, Any]] = {
        str: Text,
        float: Float,
        datetime: DateTime(timezone=True),
        Json: JSONB,
        JsonList: JSONB,
        Words: ARRAY(Text),
        Numbers: ARRAY(Float),
        bytes: LargeBinary,
    } | {
        choice: Enum(choice, name=choice.__name__.lower(), values_callable=lambda kind: [item.value for item in kind])
        for choice in (
            Cooling,
            Drive,
            HullMaterial,
            Keel,
            LinkKind,
            MastStep,
            Need,
            PartStatus,
            Propeller,
            Role,
            Rudder,
            SearchState,
            Severity,
            Spot,
            State,
            UnknownState,
        )
    }


def within(table: str, column: str) -> ForeignKeyConstraint:
    """A reference to another record of the same refit, checked at commit."""
    return ForeignKeyConstraint(
        ["refit_id", column], [f"{table}.refit_id", f"{table}.id"], deferrable=True, initially="DEFERRED"
    )


class RefitRow(Base):
    """One refit. ``revision`` counts its changes; ``clock_shift`` (seconds) is for a demo that plays on another day."""

    __tablename__ = "refit"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    revision: Mapped[int] = mapped_column(default=0)
    row_revision: Mapped[int] = mapped_column(default=0)
    clock_shift: Mapped[int] = mapped_column(BigInteger, default=0)
    is_demo: Mapped[bool] = mapped_column(default=False)
    name: Mapped[str]
    currency: Mapped[str]
    budget: Mapped[int] = mapped_column(BigInteger)
    haul_at: Mapped[datetime]
    launch_at: Mapped[datetime]
    prepare_from: Mapped[date | None]
    outage_limits: Mapped[JsonList] = mapped_column(server_default="[]")
    ask_first: Mapped[bool] = mapped_column(server_default=false())

    __table_args__ = (
        CheckConstraint("launch_at > haul_at", name="launch_after_haul"),
        CheckConstraint("budget >= 0", name="budget"),
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency"),
    )


class OneOfRefit:
    """Mixin of the boat and the yard: one row a refit."""

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    row_revision: Mapped[int]


class ManyOfRefit:
    """Mixin of everything in lists: id, place in the list, and the refit's revision when it last changed."""

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    id: Mapped[str] = mapped_column(primary_key=True)
    position: Mapped[int]
    row_revision: Mapped[int]


class BoatRow(OneOfRefit, Base):
    """The boat."""

    __tablename__ = "boat"

    name: Mapped[str]
    rig: Mapped[str]
    hulls: Mapped[int]
    hull_material: Mapped[HullMaterial]
    keel: Mapped[Keel]
    rudder: Mapped[Rudder]
    drive: Mapped[Drive]
    length_m: Mapped[float]
    waterline_m: Mapped[float]
    beam_m: Mapped[float]
    draft_m: Mapped[float]
    displacement_kg: Mapped[int]
    masts: Mapped[int] = mapped_column(server_default="1")
    mast_step: Mapped[MastStep] = mapped_column(server_default="deck")
    mast_height_m: Mapped[float | None]
    freeboard_bow_m: Mapped[float | None]
    freeboard_stern_m: Mapped[float | None]
    bottom_area_m2: Mapped[float | None]
    engines: Mapped[int] = mapped_column(server_default="1")
    propeller: Mapped[Propeller] = mapped_column(server_default="fixed")
    cooling: Mapped[Cooling] = mapped_column(server_default="heat exchanger")
    through_hulls: Mapped[int] = mapped_column(server_default="8")
    heads: Mapped[int] = mapped_column(server_default="1")
    berths: Mapped[int] = mapped_column(server_default="4")
    water_tanks: Mapped[int] = mapped_column(server_default="1")
    fuel_tanks: Mapped[int] = mapped_column(server_default="1")
    fitted: Mapped[Words] = mapped_column(server_default="{}")


class YardRow(OneOfRefit, Base):
    """The yard, its hours and its tariff."""

    __tablename__ = "yard"

    name: Mapped[str]
    town: Mapped[str]
    time_zone: Mapped[str]
    latitude: Mapped[float | None]
    longitude: Mapped[float | None]
    hours: Mapped[JsonList]
    closed: Mapped[JsonList]
    rules: Mapped[JsonList] = mapped_column(server_default="[]")
    slings_hours: Mapped[float] = mapped_column(server_default="4")
    slings_night: Mapped[int] = mapped_column(BigInteger, server_default="0")
    lift_and_launch: Mapped[int] = mapped_column(BigInteger)
    lay_day: Mapped[int] = mapped_column(BigInteger)
    free_days: Mapped[int]


class WeatherRow(OneOfRefit, Base):
    """The forecast as it was last had, hour by hour, and the climate."""

    __tablename__ = "weather"

    source: Mapped[str]
    fetched_at: Mapped[datetime | None]
    start: Mapped[datetime | None]
    temperature: Mapped[Numbers]
    humidity: Mapped[Numbers]
    rain: Mapped[Numbers]
    wind: Mapped[Numbers]
    climate: Mapped[JsonList]


class PlaceRow(ManyOfRefit, Base):
    """A part of the boat."""

    __tablename__ = "place"

    name: Mapped[str]
    spot: Mapped[Spot | None]
    capacity: Mapped[int]
    outdoors: Mapped[bool] = mapped_column(server_default=false())
    opens_onto: Mapped[Words] = mapped_column(server_default="{}")

    __table_args__ = (CheckConstraint("capacity >= 0", name="capacity"),)


class PersonRow(ManyOfRefit, Base):
    """Somebody who works on the boat."""

    __tablename__ = "person"

    name: Mapped[str]
    role: Mapped[Role]
    skills: Mapped[Words]
    hours: Mapped[JsonList]
    arrives: Mapped[date | None]
    leaves: Mapped[date | None]
    absences: Mapped[JsonList]
    rate: Mapped[int] = mapped_column(BigInteger)
    call_out_hours: Mapped[float]
    longest_run: Mapped[int] = mapped_column(server_default="9")

    __table_args__ = (CheckConstraint("rate >= 0", name="rate"),)


class PartRow(ManyOfRefit, Base):
    """Something to buy."""

    __tablename__ = "part"

    name: Mapped[str]
    quantity: Mapped[float]
    unit: Mapped[str]
    supplier: Mapped[str]
    price: Mapped[int] = mapped_column(BigInteger)
    lead_days: Mapped[int]
    status: Mapped[PartStatus]
    arrives: Mapped[datetime | None]
    stowed: Mapped[str]

    __table_args__ = (
        CheckConstraint("price >= 0", name="price"),
        CheckConstraint("status <> 'ordered' or arrives is not null", name="ordered_has_a_date"),
    )


class GearRow(ManyOfRefit, Base):
    """Equipment there is one or two of."""

    __tablename__ = "gear"

    name: Mapped[str]
    count: Mapped[int]

    __table_args__ = (CheckConstraint("count >= 0", name="count"),)


class JobRow(ManyOfRefit, Base):
    """A job."""

    __tablename__ = "job"

    title: Mapped[str]
    need: Mapped[Need]
    owner: Mapped[str | None]
    recipe: Mapped[str | None]
    chosen: Mapped[JsonList] = mapped_column(server_default="[]")
    reason: Mapped[str] = mapped_column(server_default="")
    note: Mapped[str]

    __table_args__ = (within("person", "owner"),)


class TaskRow(ManyOfRefit, Base):
    """One step of a job."""

    __tablename__ = "task"

    job: Mapped[str]
    title: Mapped[str]
    place: Mapped[str]
    state: Mapped[State]
    work_least: Mapped[float]
    work_likely: Mapped[float]
    work_most: Mapped[float]
    units: Mapped[int] = mapped_column(server_default="1")
    units_done: Mapped[int] = mapped_column(server_default="0")
    hands: Mapped[int]
    skill: Mapped[str | None]
    skilled: Mapped[Words] = mapped_column(server_default="{}")
    unbroken: Mapped[bool]
    people: Mapped[Words]
    parts: Mapped[Words]
    gear: Mapped[Words] = mapped_column(server_default="{}")
    weather: Mapped[Json | None]
    emits: Mapped[Words] = mapped_column(server_default="{}")
    shuns: Mapped[Words] = mapped_column(server_default="{}")
    tender: Mapped[float] = mapped_column(server_default="0")
    contained_by: Mapped[str | None]
    takes_out: Mapped[Words] = mapped_column(server_default="{}")
    until: Mapped[str | None]
    pin: Mapped[datetime | None]
    caution: Mapped[str]
    check: Mapped[str] = mapped_column(server_default="")
    note: Mapped[str]
    begun_at: Mapped[datetime | None]
    done_at: Mapped[datetime | None]
    crew: Mapped[Words]
    remaining: Mapped[float | None]

    __table_args__ = (
        within("job", "job"),
        within("place", "place"),
        within("task", "contained_by"),
        within("task", "until"),
        CheckConstraint("work_least <= work_likely and work_likely <= work_most", name="work_in_order"),
        CheckConstraint("work_likely > 0", name="work_positive"),
        CheckConstraint("hands between 1 and 8", name="hands"),
        CheckConstraint("units >= 1 and units_done between 0 and units", name="units"),
        CheckConstraint("done_at is null or done_at >= begun_at", name="done_after_begun"),
        Index(None, "refit_id", "job"),
    )


class LinkRow(ManyOfRefit, Base):
    """A tie. ``first`` and ``then`` are tasks, or the words haul and launch."""

    __tablename__ = "link"

    first: Mapped[str]
    then: Mapped[str]
    kind: Mapped[LinkKind]
    min_lag: Mapped[float]
    max_lag: Mapped[float | None]
    reason: Mapped[str]
    cures: Mapped[bool] = mapped_column(server_default=false())
    make_good_hours: Mapped[float | None]
    make_good: Mapped[str] = mapped_column(server_default="")

    __table_args__ = (
        CheckConstraint('first <> "then"', name="two_ends"),
        CheckConstraint("max_lag is null or max_lag >= min_lag", name="lags"),
        UniqueConstraint("refit_id", "first", "then", "kind", deferrable=True, initially="DEFERRED"),
    )


class AppointmentRow(ManyOfRefit, Base):
    """A fixed time."""

    __tablename__ = "appointment"

    title: Mapped[str]
    at: Mapped[datetime]
    hours: Mapped[float]
    people: Mapped[Words]


class HoursRow(ManyOfRefit, Base):
    """Hours somebody logged on a task."""

    __tablename__ = "hours_entry"

    task: Mapped[str]
    person: Mapped[str]
    at: Mapped[datetime]
    hours: Mapped[float]
    note: Mapped[str]

    __table_args__ = (
        within("task", "task"),
        within("person", "person"),
        CheckConstraint("hours > 0 and hours <= 24", name="hours"),
    )


class AccountRow(Base):
    """Somebody who may sign in. No password yet: only a one-time link lets them in."""

    __tablename__ = "account"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    created_at: Mapped[datetime]
    failures: Mapped[int] = mapped_column(default=0)
    locked_until: Mapped[datetime | None]


class SignInLinkRow(Base):
    """A link that signs in once. Only the hash of its token is kept."""

    __tablename__ = "sign_in_link"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class SessionRow(Base):
    """A browser that is signed in. Only the hash of its cookie is kept."""

    __tablename__ = "session"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    csrf: Mapped[str]
    created_at: Mapped[datetime]
    expires_at: Mapped[datetime]
    seen_change: Mapped[int] = mapped_column(BigInteger, default=0)


class RecipeRow(Base):
    """A recipe somebody brought in, as the text of its file; for every refit here."""

    __tablename__ = "recipe"

    id: Mapped[str] = mapped_column(primary_key=True)
    text: Mapped[str]
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="SET NULL"))
    at: Mapped[datetime]


class ChangeRow(Base):
    """One change of one refit: who, when, what, and the records before and after."""

    __tablename__ = "change"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"))
    revision: Mapped[int]
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="SET NULL"))
    at: Mapped[datetime]
    what: Mapped[str]
    before: Mapped[Json]
    after: Mapped[Json]
    undoes: Mapped[int | None] = mapped_column(ForeignKey("change.pk", ondelete="CASCADE"), unique=True)
    verdict_before: Mapped[Json | None]
    verdict_after: Mapped[Json | None]

    __table_args__ = (UniqueConstraint("refit_id", "revision"),)


class PlanRow(Base):
    """The plan of a refit as it stood at one revision, verified before it was kept.

    serial: which of this revision's plans it is; a better one takes the place of the one before.
    previous: the plan it took the place of, with its verdict; proposal: a better one that waits to be adopted.
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


class SearchRow(Base):
    """The latest search for a better plan of a refit: how far it is, and whether it should stop.

    seconds: how long it may look; values are the planner's (core.plan.value), None while nothing is known.
    seen_at: when the worker last said it is alive.
    """

    __tablename__ = "search"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int]
    state: Mapped[SearchState]
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
