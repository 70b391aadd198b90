"""Files that are made from code and committed: the JSON Schema, the demo refit, part of a page. ``--check`` compares only."""

from __future__ import annotations

import runpy
import sys
from pathlib import Path

from rovask.core.refit.whole import Whole
from rovask.formats.refit_file import json_schema, write_refit
from rovask.start.recipe_pages import with_figures

ROOT = Path(__file__).parents[3]
RECIPES = ROOT / "docs/recipes.md"


def files() -> dict[Path, bytes]:
    """Every generated file with its content."""
    demo = runpy.run_path(str(ROOT / "demo/build_demo.py"))
    return {
        ROOT / "docs/refit-file.schema.json": json_schema().encode(),
        RECIPES: with_figures(RECIPES.read_text(encoding="utf-8")).encode(),
        ROOT / "src/rovask/start/demo.refit.json": write_refit(
            Whole(demo["on_day_9"](demo["refit"]()), demo["aside"]())
        ),
    }


def main() -> int:
    """Write the files, or say which are stale."""
    stale = 0
    for path, content in files().items():
        if "--check" in sys.argv:
            if not path.exists() or path.read_bytes() != content:
                print(f"{path.relative_to(ROOT)} is not what the code makes; run ./rovask assets and commit it")
                stale = 1
        else:
            path.write_bytes(content)
    return stale


if __name__ == "__main__":
    sys.exit(main())
