"""What all tables share: names of constraints, and which PostgreSQL type a Python type is kept as.

Amounts are bigint in minor units, moments are timestamptz, choices are enums, constraints are named.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Any, ClassVar

from sqlalchemy import DateTime, Enum, Float, LargeBinary, MetaData, Text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase

Json = dict[str, Any]
JsonList = list[Json]
Words = list[str]


def choice_type(choice: type[StrEnum]) -> Enum:
    """The enum type of a choice, kept by its values."""
    return Enum(choice, name=choice.__name__.lower(), values_callable=lambda kind: [item.value for item in kind])


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
        bytes: LargeBinary,
    }
