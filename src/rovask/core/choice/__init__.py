"""Whole ways compared under the same luck: the desk of choices, make the date, and seasons."""
