"""Every table together: importing this is what makes the metadata whole."""

from rovask.store import (
    account_tables,
    history_tables,
    plan_tables,
    post_tables,
    recipe_tables,
    record_tables,
    safety_tables,
    sending_tables,
    upload_tables,
)
from rovask.store.base import Base

__all__ = [
    "Base",
    "account_tables",
    "history_tables",
    "plan_tables",
    "post_tables",
    "recipe_tables",
    "record_tables",
    "safety_tables",
    "sending_tables",
    "upload_tables",
]
