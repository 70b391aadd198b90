"""Open formats: read and write, no database, no web."""
