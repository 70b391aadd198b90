"""Where numba keeps what it compiled of the planner: a folder named by the text of all that is compiled.

numba looks only at the file a function stands in to see whether what it kept is still true, not at what that function
calls or which constants it took from elsewhere. After an update that touches one file of the planner it would go on
with the old meaning in the others, and plans would be wrong. Without NUMBA_CACHE_DIR numba keeps it beside the files of
an installed package, which are all new after an update.
"""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

PLANNER, ODDS = (Path(__file__).parent / "core" / room for room in ("plan", "odds"))
NUMBERS = ("arrays.py", "net.py")  # what is compiled has these built in


def text_of_the_compiled() -> str:
    """A short mark of all that is compiled: sixteen hexadecimal figures."""
    text = hashlib.sha256()
    for path in (*sorted(PLANNER.rglob("*.py")), *sorted(ODDS.rglob("*.py"))):
        source = path.read_bytes()
        if b"compiled" in source or path.name in NUMBERS:
            text.update(source)
    return text.hexdigest()[:16]


def keep_by_text() -> None:
    """Point NUMBA_CACHE_DIR at the folder of this very planner, before numba is imported; a child process finds it as it is."""
    base = os.environ.get("NUMBA_CACHE_DIR")
    mark = text_of_the_compiled() if base else ""
    if base and Path(base).name != mark:
        os.environ["NUMBA_CACHE_DIR"] = str(Path(base) / mark)
