"""A refit compiled to arrays: calendars, crews, ties, windows, and what a schedule costs."""
