"""Judging what hands meet: what will not come off, and how to get it off."""
