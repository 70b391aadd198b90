"""How the planner's inner loops are compiled: kept on disk between runs, and without the interpreter's lock.

Where they are kept: rovask/compiled_cache.py.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from numba import njit

_CACHED: dict[str, Any] = {"cache": True, "nogil": True}
# numba counts the references to every array it hands on; a function that makes no array need not take part, and
# leaving it out makes the first plan more than twice as fast (docs/planner.md). The option is numba's own.
_NO_COUNTING: dict[str, Any] = {"cache": True, "nogil": True, "_nrt": False}


def compiled(function: Callable[..., Any]) -> Any:
    """Compile a function that makes arrays."""
    return njit(**_CACHED)(function)


def compiled_lean(function: Callable[..., Any]) -> Any:
    """Compile a function that makes no array of its own, neither new ones nor slices; numba refuses others."""
    return njit(**_NO_COUNTING)(function)


def compiled_into(function: Callable[..., Any]) -> Any:
    """Compile a function into those that call it: for small ones that take many arrays, which cost more to hand over than to use."""
    return njit(**_NO_COUNTING, forceinline=True)(function)
