"""A copy of everything: one archive of database and photos, restored into an empty place, or beside, to be compared."""
