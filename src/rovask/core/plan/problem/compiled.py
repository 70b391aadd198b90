"""How the planner's inner loops are compiled: kept on disk between runs, and without the interpreter's lock.

numba looks only at the file a function stands in to see whether what it kept is still true, not at what that function
calls or which constants it took from elsewhere. So what is kept lies in a folder named by the text of the whole planner.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from numba import config as numba_config
from numba import njit

_CACHED: dict[str, Any] = {"cache": True, "nogil": True}
# numba counts the references to every array it hands on; a function that makes no array need not take part, and
# leaving it out makes the first plan more than twice as fast (docs/planner.md). The option is numba's own.
_NO_COUNTING: dict[str, Any] = {"cache": True, "nogil": True, "_nrt": False}


def _text_of_the_planner() -> str:
    found = hashlib.sha256()
    for path in sorted(Path(__file__).parents[1].rglob("*.py")):
        found.update(path.read_bytes())
    return found.hexdigest()[:16]


_settings: Any = numba_config
if _settings.CACHE_DIR:
    _settings.CACHE_DIR = str(Path(_settings.CACHE_DIR) / _text_of_the_planner())


def compiled(function: Callable[..., Any]) -> Any:
    """Compile a function that makes arrays."""
    return njit(**_CACHED)(function)


def compiled_lean(function: Callable[..., Any]) -> Any:
    """Compile a function that makes no array of its own, neither new ones nor slices; numba refuses others."""
    return njit(**_NO_COUNTING)(function)
