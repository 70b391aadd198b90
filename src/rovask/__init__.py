"""Rovask plans a haul-out refit and says whether the launch date holds."""

from rovask.compiled_cache import keep_by_text

__version__ = "0.17.0"

keep_by_text()
