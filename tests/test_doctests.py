"""The examples in the docstrings of the core: they are right, and there are many."""

import doctest
import importlib
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src"
AT_LEAST = 60  # examples; fewer were not looked for where they stand


def test_the_examples_in_docstrings_are_right() -> None:
    tried = 0
    for path in sorted((SOURCE / "rovask/core").rglob("*.py")):
        name = ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__")
        found = doctest.testmod(importlib.import_module(name))
        assert not found.failed, f"{name}: {found.failed} of its examples"
        tried += found.attempted
    assert tried >= AT_LEAST
