"""Static files with their content's hash in the address, so that browsers may keep them for good."""

from __future__ import annotations

import hashlib
import re
from functools import lru_cache
from pathlib import Path

STATIC = Path(__file__).parent / "static"


@lru_cache(maxsize=64)
def asset(name: str) -> str:
    """Address of a static file. Raises FileNotFoundError for one that isn't shipped."""
    mark = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={mark}"


@lru_cache(maxsize=1)
def chart_style() -> str:
    """The colours of the day light and the rules of the Slip, off the built style sheet, for a chart as a file."""
    css = (STATIC / "rovask.css").read_text(encoding="utf-8")
    colours = re.search(r":root\{(--ground:[^}]*)\}", css)
    rules = re.findall(r"(?:^|[}])((?:\.slip[^{}]*)\{[^{}]*\})", css)
    return f":root{{{colours.group(1) if colours else ''};font-family:sans-serif}}" + "".join(rules)
