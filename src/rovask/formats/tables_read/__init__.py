"""Tables row by row: one reader a file."""
