"""The layers, the words of the manual, and the promises of the repository, checked where they could drift."""

import ast
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

import rovask
from rovask.core.plan.verify.check import Rule
from rovask.start.cli import app

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/rovask"
# Who may import whom: only downward.
MAY_IMPORT = {
    "core": {"core"},
    "formats": {"core", "formats", "own_process"},
    "store": {"core", "formats", "store"},
    "desk": {"core", "formats", "store", "desk", "settings", "own_process"},
    "work": {"core", "formats", "store", "desk", "work", "settings", "own_process"},
    "web": {"core", "formats", "store", "desk", "web", "settings"},
    "standins": {"core", "standins"},
    "start": {"core", "formats", "store", "desk", "work", "web", "standins", "start", "settings", "compiled_cache"},
}
CORE_PACKAGES = {"babel", "pydantic", "pydantic_core", "numpy", "numba", "ortools", "simpleeval"}
LONGEST, WIDEST = 400, 120  # lines of a file, columns of a template
STANDARD_IO = {
    "os",
    "io",
    "socket",
    "subprocess",
    "random",
    "secrets",
    "time",
    "pathlib",
    "urllib",
    "sqlite3",
    "shutil",
    "tempfile",
}


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


@pytest.mark.parametrize("layer", MAY_IMPORT)
def test_imports_go_only_downward(layer: str) -> None:
    for path in (SOURCE / layer).rglob("*.py"):
        for name in imports(path):
            if name.startswith("rovask."):
                assert name.split(".")[1] in MAY_IMPORT[layer], f"{path.name} imports {name}"


def floors() -> dict[str, int]:
    """The floor of every module of the core, as CONTRIBUTING lists them."""
    found: dict[str, int] = {}
    rows = re.findall(r"^\| (\d+) \| `([a-z_.]+)` \| ([a-z_, ]+) \|", (ROOT / "CONTRIBUTING.md").read_text(), re.M)
    for floor, room, files in rows:
        for name in files.split(", "):
            module = f"rovask.core.{room}.{name}"
            assert module not in found, f"{module} is listed twice"
            found[module] = int(floor)
    return found


def imported(path: Path, known: dict[str, int]) -> set[str]:
    """The modules of the core a file imports from, also where it takes a module itself."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("rovask.core"):
            for alias in node.names:
                whole = f"{node.module}.{alias.name}"
                found.add(whole if whole in known else node.module)
    return found


def test_inside_the_core_imports_go_only_downward_too() -> None:
    known = floors()
    there = {
        ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts): path
        for path in (SOURCE / "core").rglob("*.py")
        if path.name != "__init__.py"
    }
    assert there.keys() == known.keys(), "each file of the core stands in one row of CONTRIBUTING's table"
    for module, path in there.items():
        for name in imported(path, known):
            assert known[name] <= known[module], (
                f"{module} (floor {known[module]}) imports {name} (floor {known[name]})"
            )


def test_the_core_does_no_input_or_output_and_asks_no_clock() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        for name in imports(path):
            top = name.split(".")[0]
            assert top not in STANDARD_IO, f"{path.name} imports {name}"
            if top not in ("rovask", "__future__"):
                assert top in CORE_PACKAGES or top in sys.stdlib_module_names, f"{path.name} imports {name}"
        text = path.read_text()
        assert not re.search(r"\.(now|today|utcnow)\(", text), path
        assert not re.search(r"(?<![\w.])eval\(", text), path  # simpleeval's own method is another thing


def test_the_verifier_shares_no_code_with_the_planner() -> None:
    used = {
        name
        for path in (SOURCE / "core/plan/verify").glob("*.py")
        for name in imports(path)
        if name.startswith("rovask") and not name.startswith("rovask.core.plan.verify.")
    }
    # facts (what a dew point is, where half-hours of a clock begin, what lies in the stores, when a shop is shut, what somebody has accepted) are shared, and how to remember; how a plan
    # is made is not
    assert used == {
        "rovask.core.plain.half_hours",
        "rovask.core.plain.derived",
        "rovask.core.plan.result",
        "rovask.core.readings.acceptance",
        "rovask.core.readings.ashore",
        "rovask.core.readings.closes",
        "rovask.core.readings.curing",
        "rovask.core.readings.kept_away",
        "rovask.core.readings.open_days",
        "rovask.core.readings.stock",
        "rovask.core.readings.trade_order",
        "rovask.core.refit.givens.choices",
        "rovask.core.refit.givens.slot",
        "rovask.core.refit.givens.weather",
        "rovask.core.refit.model",
        "rovask.core.refit.work.choices",
        "rovask.core.refit.work.make_good",
    }


def test_the_gates_look_at_every_file_of_ours() -> None:
    """An exclusion that matches too much would make the linter and the formatter pass over the application."""
    command = [sys.executable, "-m", "ruff", "check", "--show-files", str(ROOT)]
    looked_at = set(subprocess.run(command, capture_output=True, text=True, check=True, cwd=ROOT).stdout.split())
    for folder in ("src", "tests", "demo", "assets"):
        ours = {str(path) for path in (ROOT / folder).rglob("*.py") if "node_modules" not in path.parts}
        assert ours
        assert ours <= looked_at


def test_no_file_of_ours_is_longer_or_wider_than_one_can_read() -> None:
    sources = [*SOURCE.rglob("*.py"), *(ROOT / "benches").rglob("*.py")]
    long = {path.name: lines for path in sources if (lines := len(path.read_text().splitlines())) > LONGEST}
    assert long == {}
    wide = [
        f"{path.name}:{number}"
        for path in (SOURCE / "web/templates").glob("*.html")
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > WIDEST
    ]
    assert wide == []


def test_versions_agree() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    newest = re.search(r"^## (\S+)", (ROOT / "CHANGELOG.md").read_text(), re.M)
    assert newest is not None
    assert rovask.__version__ == project == newest.group(1)


def test_every_command_setting_and_rule_is_documented() -> None:
    manual = (ROOT / "README.md").read_text() + "".join(path.read_text() for path in (ROOT / "docs").glob("*.md"))
    commands = [command.name or command.callback.__name__ for command in app.registered_commands if command.callback]
    for name in commands:
        assert f"./rovask {name}" in manual, name
    from rovask.settings import Settings

    for name in Settings.model_fields:
        assert f"ROVASK_{name.upper()}" in manual, name
    for rule in Rule:
        assert f"*{rule.value}*" in manual, rule


def test_pictures_are_linked_and_few() -> None:
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text()
    assert 0 < len(pictures) < 20
    assert all(f"docs/screenshots/{picture.name}" in readme for picture in pictures)
