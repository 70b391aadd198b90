"""Static files with their content's hash in the address, so that browsers may keep them for good."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from pathlib import Path

STATIC = Path(__file__).parent / "static"


@lru_cache(maxsize=64)
def asset(name: str) -> str:
    """Address of a static file. Raises FileNotFoundError for one that isn't shipped."""
    mark = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={mark}"
