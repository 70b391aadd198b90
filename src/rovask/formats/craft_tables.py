"""The tables of what hands meet, as shipped beside the recipes: means, remedies, candidates, metals, coats."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any

from rovask.core.craft.coats import CoatTables
from rovask.core.craft.contacts import ContactTables
from rovask.core.craft.fits import FitTables
from rovask.core.craft.means import SeizedTables
from rovask.core.craft.whence import WhenceTables


def _shipped(name: str) -> dict[str, Any]:
    return tomllib.loads((resources.files("rovask.recipes") / f"{name}.toml").read_text(encoding="utf-8"))


@cache
def seized_tables() -> SeizedTables:
    """The ladder of means for what will not come off."""
    return SeizedTables.model_validate(_shipped("_seized"))


@cache
def fit_tables() -> FitTables:
    """What is made or moved where a new thing does not fit."""
    return FitTables.model_validate(_shipped("_fits"))


@cache
def whence_tables() -> WhenceTables:
    """Where water, fumes, smells, flat batteries and heat may come from."""
    return WhenceTables.model_validate(_shipped("_whence"))


@cache
def contact_tables() -> ContactTables:
    """Where unlike metals usually meet, and what never lies beside what."""
    return ContactTables.model_validate(_shipped("_contacts"))


@cache
def coat_tables() -> CoatTables:
    """Which kind of coating may lie on which."""
    return CoatTables.model_validate(_shipped("_coats"))
