"""The log: words for people, or JSON lines for machines, with the number of the request a line belongs to."""

from __future__ import annotations

import logging
import sys
from typing import Literal

from pythonjsonlogger.json import JsonFormatter

from rovask.store.request_number import number

FIELDS = "%(asctime)s %(levelname)s %(name)s %(message)s"
QUIET = (
    "httpx2",
    "httpcore",
    "procrastinate",
    "alembic",
    "uvicorn.access",
)  # each of their lines is told by ours, or by nobody


class _Numbered(logging.Filter):
    def filter(self, record: logging.LogRecord) -> bool:
        """Every line passes; one that belongs to a request says to which."""
        if not getattr(record, "request", ""):
            record.request = number()
        return True


def begin_log(how: Literal["words", "json"]) -> None:
    """Have everything that is logged told on standard error. In words only what went wrong; as JSON each answer and each task too."""
    handler = logging.StreamHandler(sys.stderr)
    handler.addFilter(_Numbered())
    if how == "json":
        names = {"asctime": "time", "levelname": "level", "name": "from"}
        handler.setFormatter(JsonFormatter(f"{FIELDS} %(request)s", rename_fields=names, datefmt="%Y-%m-%dT%H:%M:%S%z"))
    else:
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(request)s %(message)s"))
    root = logging.getLogger()
    root.handlers[:] = [handler]
    root.setLevel(logging.WARNING)
    logging.getLogger("rovask").setLevel(logging.INFO if how == "json" else logging.WARNING)
    for name in QUIET:
        logging.getLogger(name).setLevel(logging.WARNING)
