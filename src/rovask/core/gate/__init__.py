"""The launch: what was touched, what must be looked at and by when, what speaks against letting her float."""
