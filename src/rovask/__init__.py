"""Rovask plans a haul-out refit and says whether the launch date holds."""

__version__ = "0.4.0"
